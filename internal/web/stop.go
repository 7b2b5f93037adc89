package web

import (
	"html/template"
	"net/http"

	"github.com/go-chi/chi/v5"

	"gavrik/internal/deliver"
)

// stopPage asks whoever follows the link of a letter whether to stop it. Programs that look at every
// link of a letter send no forms, so looking at it stops nothing.
var stopPage = template.Must(template.New("stop").Parse(`<!doctype html>
<html lang="en">
<head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><meta name="robots" content="noindex">
<title>{{if .View}}{{.View}}{{else}}Gavrik{{end}}</title>
<style>
body { margin: 0; background: #f6f2e9; color: #23201b; font: 16px/1.5 system-ui, sans-serif; }
main { max-width: 34rem; margin: 12vh auto 0; padding: 1.5rem 2rem; background: #fffdf8; border: 1px solid #e3dccd; border-top: 3px solid #7a2e4d; }
h1 { margin: 0 0 .6rem; font: 600 1.4rem/1.3 Georgia, serif; }
button { font: inherit; padding: .4rem 1rem; border: 0; background: #7a2e4d; color: #fff; cursor: pointer; }
.quiet { color: #6a6459; }
@media (prefers-color-scheme: dark) {
  body { background: #1b1916; color: #e9e3d6; } main { background: #23201c; border-color: #3a352d; border-top-color: #d68fa8; }
  button { background: #d68fa8; color: #23201b; } .quiet { color: #a89f8f; }
}
</style></head>
<body><main>
{{if not .View}}<h1>This link leads nowhere</h1><p>The delivery may have been ended, or the link was cut short. Nothing is sent by it any more, or the letter has another link that is whole.</p>
{{else if .Stopped}}<h1>“{{.View}}” does not come to you any more</h1>
<p class="quiet">Nothing of it is sent to {{.Address}} from now on.</p>
<form method="post"><input type="hidden" name="again" value="yes"><button>Send it again after all</button></form>
{{else}}<h1>Stop “{{.View}}”?</h1>
<p>It is sent to {{.Address}} {{.When}}.</p>
<form method="post"><button>Do not send it to me any more</button></form>
{{end}}</main></body></html>
`))

// stop shows and carries out what a letter's link for it asks. A form sent without more, as mail
// programs do with one act (RFC 8058), stops.
func (s *server) stop(w http.ResponseWriter, r *http.Request) {
	token := chi.URLParam(r, "token")
	of, ok, err := s.Deliver.StopOf(r.Context(), token)
	if err == nil && ok && r.Method == http.MethodPost {
		r.Body = http.MaxBytesReader(w, r.Body, 1<<10)
		of.Stopped = r.FormValue("again") == ""
		err = s.Store.StopDelivery(r.Context(), of.Delivery, of.Address, of.Stopped)
	}
	code := http.StatusOK
	switch {
	case err != nil:
		s.Log.Error("stop", "id", requestNumber(r.Context()), "error", err)
		http.Error(w, "Something went wrong in the server. Try again in a moment.", http.StatusInternalServerError)
		return
	case !ok:
		of, code = deliver.Stop{}, http.StatusNotFound
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(code)
	_ = stopPage.Execute(w, of) // the caller may have gone
}
