package web

import (
	"errors"
	"net"
	"net/http"
	"net/url"
	"strings"

	"gavrik/internal/people"
	"gavrik/internal/store"
)

// Where signing in with an identity provider begins, and where it comes back to. These
// are pages that a browser goes to, not operations of the interface.
const (
	elsewhere = "/api/session/elsewhere"
	Back      = "/api/session/back"
)

// What a session holds meanwhile.
const (
	flowState    = "flow.state"
	flowNonce    = "flow.nonce"
	flowVerifier = "flow.verifier"
	flowTo       = "flow.to"
)

func (s *server) goElsewhere(w http.ResponseWriter, r *http.Request) {
	address, flow, err := s.Provider.Begin(r.Context())
	if err != nil {
		s.turnedAway(w, r, err)
		return
	}
	ctx := r.Context()
	s.sessions.Put(ctx, flowState, flow.State)
	s.sessions.Put(ctx, flowNonce, flow.Nonce)
	s.sessions.Put(ctx, flowVerifier, flow.Verifier)
	s.sessions.Put(ctx, flowTo, within(r.URL.Query().Get("to")))
	http.Redirect(w, r, address, http.StatusFound)
}

// within keeps an address within Gavrik: a path, not another site.
func within(to string) string {
	u, err := url.Parse(to)
	if err != nil || u.IsAbs() || u.Host != "" || !strings.HasPrefix(to, "/") || strings.HasPrefix(to, "//") || strings.Contains(to, `\`) {
		return "/"
	}
	return to
}

func (s *server) comeBack(w http.ResponseWriter, r *http.Request) {
	ctx := r.Context()
	flow := people.Flow{State: s.sessions.PopString(ctx, flowState), Nonce: s.sessions.PopString(ctx, flowNonce), Verifier: s.sessions.PopString(ctx, flowVerifier)}
	to := within(s.sessions.PopString(ctx, flowTo))
	p, err := s.desk.Finish(ctx, s.Provider, flow, r.URL.Query())
	if err == nil {
		err = s.begin(ctx, p.ID)
	}
	if err != nil {
		s.turnedAway(w, r, err)
		return
	}
	s.note(ctx, store.Event{Who: named(p), What: store.SignedIn, About: "with " + s.Provider.Name(), Address: host(r)})
	http.Redirect(w, r, to, http.StatusFound)
}

// turnedAway goes back to the sign-in page, which says why in the provider's stead.
func (s *server) turnedAway(w http.ResponseWriter, r *http.Request, err error) {
	s.note(r.Context(), store.Event{Who: "somebody", What: store.NotSigned, About: "with " + s.Provider.Name() + ": " + err.Error(), Address: host(r)})
	why := "failed"
	for word, known := range map[string]error{"silent": people.ErrSilent, "declined": people.ErrDeclined, "unknown": people.ErrUnknown, "unproven": people.ErrUnproven} {
		if errors.Is(err, known) {
			why = word
		}
	}
	http.Redirect(w, r, "/?refused="+why, http.StatusFound)
}

// host is where a request comes from.
func host(r *http.Request) string {
	if h, _, err := net.SplitHostPort(r.RemoteAddr); err == nil {
		return h
	}
	return r.RemoteAddr
}
