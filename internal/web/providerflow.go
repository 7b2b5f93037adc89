package web

import (
	"encoding/base64"
	"encoding/json"
	"errors"
	"net/http"
	"net/url"
	"strings"

	"gavrik/internal/people"
	"gavrik/internal/store"
)

// Where signing in with an identity provider begins, and where it comes back to. These
// are pages that a browser goes to, not operations of the interface.
const (
	providerSignIn = "/api/session/elsewhere"
	ProviderReturn = "/api/session/back"
)

// flow is what a browser keeps, for minutes, while its person is at the provider.
type flow struct {
	people.Flow
	To string
}

func (s *entrance) toProvider(w http.ResponseWriter, r *http.Request) {
	address, begun, err := s.provider.Begin(r.Context())
	if err != nil {
		s.refusedByProvider(w, r, err)
		return
	}
	text, err := json.Marshal(flow{begun, within(r.URL.Query().Get("to"))})
	if err != nil {
		s.refusedByProvider(w, r, err)
		return
	}
	http.SetCookie(w, s.cookie(flowCookie, base64.RawURLEncoding.EncodeToString(text), flowLasts))
	http.Redirect(w, r, address, http.StatusFound)
}

// within keeps an address within Gavrik: a path, not another site.
func within(to string) string {
	u, err := url.Parse(to)
	if err != nil || u.IsAbs() || u.Host != "" || !strings.HasPrefix(to, "/") || strings.HasPrefix(to, "//") ||
		strings.Contains(to, `\`) {
		return "/"
	}
	return to
}

func (s *entrance) fromProvider(w http.ResponseWriter, r *http.Request) {
	ctx := r.Context()
	var begun flow // without its cookie, it was not asked from this browser
	if c, err := r.Cookie(s.cookieName(flowCookie)); err == nil {
		if text, err := base64.RawURLEncoding.DecodeString(c.Value); err == nil &&
			json.Unmarshal(text, &begun) != nil {
			begun = flow{}
		}
	}
	http.SetCookie(w, s.cookie(flowCookie, "", 0))
	to := within(begun.To)
	p, err := s.desk.Finish(ctx, s.provider, begun.Flow, r.URL.Query())
	if err == nil {
		err = s.begin(ctx, p.ID, "with "+s.provider.Name(), hostOf(r.RemoteAddr))
	}
	if err != nil {
		s.refusedByProvider(w, r, err)
		return
	}
	s.note(ctx, store.Event{
		Who: named(p), What: store.SignedIn, About: "with " + s.provider.Name(), Address: hostOf(r.RemoteAddr),
	})
	http.Redirect(w, r, to, http.StatusFound)
}

// refusedByProvider goes back to the sign-in page, which says why in the provider's stead.
func (s *entrance) refusedByProvider(w http.ResponseWriter, r *http.Request, err error) {
	s.note(r.Context(), store.Event{
		Who: "somebody", What: store.NotSigned, About: "with " + s.provider.Name() + ": " + err.Error(),
		Address: hostOf(r.RemoteAddr),
	})
	why := "failed"
	for word, known := range map[string]error{
		"silent": people.ErrSilent, "declined": people.ErrDeclined, "unknown": people.ErrUnknown,
		"unproven": people.ErrUnproven,
	} {
		if errors.Is(err, known) {
			why = word
		}
	}
	http.Redirect(w, r, "/?refused="+why, http.StatusFound)
}
