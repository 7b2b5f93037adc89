package mailbox

import (
	"html/template"
	"mime"
	"net/http"
	"strconv"

	"github.com/go-chi/chi/v5"
)

// Path is where the letters are shown.
const Path = "/letters"

var listPage = template.Must(template.New("letters").Parse(`<!doctype html>
<html lang="en">
<head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Letters of the demo</title>
<style>
* { box-sizing: border-box; }
body { margin: 0; height: 100vh; display: grid; grid-template: auto minmax(0, 1fr) / 320px minmax(0, 1fr); background: #f6f2e9; color: #23201b; font: 14px/1.45 system-ui, sans-serif; }
header { grid-column: 1 / -1; padding: .6rem 1.2rem; background: #23201b; color: #f6f2e9; }
header h1 { display: inline; font: 600 1rem Georgia, serif; margin-right: .8rem; }
nav { overflow: auto; border-right: 1px solid #e3dccd; } ul { margin: 0; padding: 0; list-style: none; }
li a { display: block; padding: .6rem 1.2rem; border-bottom: 1px solid #e3dccd; color: inherit; text-decoration: none; }
li a[aria-current] { background: #fffdf8; border-left: 4px solid #7a2e4d; }
li b { display: block; } .quiet { color: #6a6459; }
main { display: flex; flex-direction: column; min-width: 0; background: #fffdf8; }
dl { display: grid; grid-template-columns: max-content 1fr; gap: 0 .8rem; margin: 0; padding: .7rem 1.2rem; border-bottom: 1px solid #e3dccd; } dd { margin: 0; }
iframe, pre { flex: 1; border: 0; margin: 0; width: 100%; overflow: auto; } pre { padding: 1rem 1.2rem; font: 13px/1.5 ui-monospace, monospace; }
a { color: #7a2e4d; }
@media (max-width: 700px) { body { grid-template: auto 40vh minmax(0, 1fr) / minmax(0, 1fr); } }
</style></head>
<body>
<header><h1>Letters of the demo</h1> What Gavrik mails here goes nowhere else.</header>
<nav aria-label="Letters" tabindex="0"><ul>{{range .Letters}}<li><a href="` + Path + `/{{.Number}}"{{if eq .Number $.Open.Number}} aria-current="true"{{end}}><b>{{.Subject}}</b><span class="quiet">{{.To}} · {{.At.Format "15:04:05"}}{{range .Files}} · {{.Name}}{{end}}</span></a></li>
{{else}}<li><a><span class="quiet">No letter has come yet. Open a view and choose “Deliver …”.</span></a></li>{{end}}</ul></nav>
<main>{{if .Open.Number}}<dl>
<dt class="quiet">From</dt><dd>{{.Open.Header.Get "From"}}</dd><dt class="quiet">To</dt><dd>{{.Open.To}}</dd><dt class="quiet">Subject</dt><dd><b>{{.Open.Subject}}</b></dd>
{{if .Open.Files}}<dt class="quiet">Files</dt><dd>{{range $i, $f := .Open.Files}}{{if $i}}, {{end}}<a href="` + Path + `/{{$.Open.Number}}/files/{{$i}}">{{$f.Name}}</a>{{end}}</dd>{{end}}
<dt class="quiet">Shown</dt><dd>{{if .Plain}}<a href="` + Path + `/{{.Open.Number}}">as a page</a>{{else}}as a page · <a href="` + Path + `/{{.Open.Number}}?plain=yes">as plain text</a>{{end}}</dd></dl>
{{if .Plain}}<pre tabindex="0" aria-label="The letter">{{.Open.Text}}</pre>{{else}}<iframe title="The letter" sandbox="allow-popups allow-top-navigation-by-user-activation" srcdoc="{{.Open.HTML}}"></iframe>{{end}}{{end}}</main>
</body></html>
`))

// Handler shows the letters at Path.
func (b *Box) Handler() http.Handler {
	r := chi.NewMux()
	show := func(w http.ResponseWriter, r *http.Request) {
		letters := b.Letters()
		page := struct {
			Letters []Letter
			Open    Letter
			Plain   bool
		}{letters, Letter{}, r.FormValue("plain") != ""}
		number := chi.URLParam(r, "number")
		for _, l := range letters {
			if number == "" || strconv.Itoa(l.Number) == number {
				page.Open = l
				break
			}
		}
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		w.Header().Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; img-src data:; frame-src 'self'")
		_ = listPage.Execute(w, page) // the caller may have gone
	}
	r.Get(Path, show)
	r.Get(Path+"/{number}", show)
	r.Get(Path+"/{number}/files/{at}", func(w http.ResponseWriter, r *http.Request) {
		at, err := strconv.Atoi(chi.URLParam(r, "at"))
		for _, l := range b.Letters() {
			if err != nil || strconv.Itoa(l.Number) != chi.URLParam(r, "number") || at < 0 || at >= len(l.Files) {
				continue
			}
			f := l.Files[at]
			w.Header().Set("Content-Type", "application/octet-stream")
			w.Header().Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": f.Name}))
			_, _ = w.Write(f.Content) // the caller may have gone
			return
		}
		http.NotFound(w, r)
	})
	return r
}
