package web

import (
	"context"
	"errors"
	"net"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/turn"
	"gavrik/internal/people"
	"gavrik/internal/store"
)

// Me is who is signed in.
type Me struct {
	ID            int64      `json:"id"`
	Name          string     `json:"name"`
	Email         string     `json:"email"`
	Role          store.Role `json:"role" enum:"reader,analyst,administrator"`
	Administrator bool       `json:"administrator"`
	Saves         bool       `json:"saves" doc:"She may save views, not only try them out"`
	Password      bool       `json:"password" doc:"She has a password to sign in with"`
}

type meOutput struct{ Body Me }

type signInInput struct {
	Body struct {
		Email    string `json:"email" maxLength:"200" doc:"E-mail address"`
		Password string `json:"password" maxLength:"1000" doc:"Password"`
	}
	caller
}

type passwordInput struct {
	Body struct {
		Old string `json:"old" maxLength:"1000" doc:"The password one has"`
		New string `json:"new" maxLength:"1000" doc:"The one to have from now on"`
	}
	caller
}

type waysOutput struct {
	Body struct {
		Provider string `json:"provider" doc:"Name of the identity provider; empty for none"`
		Address  string `json:"address" doc:"Where signing in with it begins"`
	}
}

// caller notes where an attempt comes from.
type caller struct{ address string }

type callerInput struct{ caller }

// Resolve reads the address.
func (c *caller) Resolve(ctx huma.Context) []error {
	c.address = ctx.RemoteAddr()
	if host, _, err := net.SplitHostPort(c.address); err == nil {
		c.address = host
	}
	return nil
}

// Who may use an operation, if not everybody who is signed in.
var (
	open           = map[string]any{"open": true} // needs no sign-in
	analysts       = map[string]any{"needs": store.Analyst}
	administrators = map[string]any{"needs": store.Administrator}
	// byToken is for programs, too, that have a personal token.
	byToken = map[string]any{"token": true}
)

// What a session holds: whose it is, and when it was begun, in microseconds.
const (
	sessionPerson = "person"
	sessionBegun  = "begun"
)

// begin makes the session a person's.
func (s *server) begin(ctx context.Context, id int64) error {
	// A fresh token, so that one planted before is worth nothing.
	if err := s.sessions.RenewToken(ctx); err != nil {
		return s.failed(ctx, "sign-in", err)
	}
	s.sessions.Put(ctx, sessionPerson, id)
	s.sessions.Put(ctx, sessionBegun, time.Now().UnixMicro())
	return nil
}

type personKey struct{}

// who is the person that the middleware found.
func who(ctx context.Context) store.Person { return ctx.Value(personKey{}).(store.Person) }

// signedIn refuses operations to strangers and puts the person into the context.
func (s *server) signedIn(api huma.API) func(huma.Context, func(huma.Context)) {
	return func(ctx huma.Context, next func(huma.Context)) {
		if ctx.Operation().Metadata["open"] == true {
			next(ctx)
			return
		}
		token, bearer := strings.CutPrefix(ctx.Header("Authorization"), "Bearer ")
		bearer = bearer && ctx.Operation().Metadata["token"] == true
		p, err := s.asking(ctx.Context(), token, bearer)
		if err != nil {
			detail, code := "Sign in to go on. What you have typed is kept.", http.StatusUnauthorized
			if bearer {
				detail = "This token is not known, has ended or was revoked. Make a new one under your name in Gavrik."
			}
			if !errors.Is(err, store.ErrNotFound) {
				s.Log.Error("session", "error", err)
				detail, code = databaseSilent, http.StatusServiceUnavailable
			}
			_ = huma.WriteErr(api, ctx, code, detail) // the caller may have gone
			return
		}
		if needs, ok := ctx.Operation().Metadata["needs"].(store.Role); ok && !has(p.Role, needs) {
			_ = huma.WriteErr(api, ctx, http.StatusForbidden, lacking[needs]) // the caller may have gone
			return
		}
		job := s.Scheduler.Enter(strconv.FormatInt(p.ID, 10))
		defer job.Leave()
		next(huma.WithContext(ctx, turn.With(context.WithValue(ctx.Context(), personKey{}, p), job)))
	}
}

// lacking says what to do without a role.
var lacking = map[store.Role]string{
	store.Analyst:       "Readers look at views and try them out; to save and share needs the role of an analyst. Ask an administrator for it.",
	store.Administrator: "Only an administrator can do this.",
}

// has says whether a role includes another.
func has(role, needs store.Role) bool {
	return role == store.Administrator || role == needs || needs == store.Reader
}

// asking is the person of a token or of the session; ErrNotFound if it is nobody.
func (s *server) asking(ctx context.Context, token string, bearer bool) (store.Person, error) {
	if bearer {
		return s.Store.PersonByToken(ctx, hashed(token))
	}
	p, err := s.Store.Person(ctx, s.sessions.GetInt64(ctx, sessionPerson))
	if err == nil && (p.LeftAt != nil || s.sessions.GetInt64(ctx, sessionBegun) <= p.SignedOutAt.UnixMicro()) {
		err = store.ErrNotFound // she has signed out everywhere since, or has left
	}
	return p, err
}

func (s *server) registerSession(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "sign-in", Method: http.MethodPost, Path: "/api/session", Summary: "Sign in", Metadata: open, Errors: []int{401, 429}},
		func(ctx context.Context, in *signInInput) (*meOutput, error) {
			p, err := s.desk.SignIn(ctx, in.Body.Email, in.Body.Password, in.address)
			// Those beyond the limit are not told one by one: whoever guesses on would fill
			// the trail.
			if errors.Is(err, people.ErrWrong) {
				s.note(ctx, store.Event{Who: in.Body.Email, What: store.NotSigned, About: err.Error(), Address: in.address})
			}
			switch {
			case errors.Is(err, people.ErrWrong):
				return nil, huma.Error401Unauthorized("The e-mail address or the password is not right.")
			case errors.Is(err, people.ErrTooMany):
				return nil, huma.Error429TooManyRequests("Too many failed attempts. Wait a quarter of an hour and try again.")
			case err != nil:
				return nil, s.failed(ctx, "sign-in", err)
			}
			if err := s.begin(ctx, p.ID); err != nil {
				return nil, err
			}
			s.note(ctx, store.Event{Who: named(p), What: store.SignedIn, About: "with a password", Address: in.address})
			return &meOutput{me(p)}, nil
		})
	huma.Register(api, huma.Operation{OperationID: "sign-out", Method: http.MethodDelete, Path: "/api/session", Summary: "Sign out", Metadata: open},
		func(ctx context.Context, _ *struct{}) (*struct{}, error) {
			if err := s.sessions.Destroy(ctx); err != nil {
				return nil, s.failed(ctx, "sign-out", err)
			}
			return nil, nil
		})
	huma.Register(api, huma.Operation{OperationID: "sign-out-everywhere", Method: http.MethodDelete, Path: "/api/sessions", Summary: "Sign out on every machine", Errors: []int{401}},
		func(ctx context.Context, in *callerInput) (*struct{}, error) {
			if err := s.Store.SignOutEverywhere(ctx, who(ctx).ID); err != nil {
				return nil, s.failed(ctx, "sign-out", err)
			}
			s.noted(ctx, in.caller, store.SignedOut, "all sessions")
			return nil, nil
		})
	huma.Register(api, huma.Operation{OperationID: "change-password", Method: http.MethodPut, Path: "/api/password", Summary: "Change one's own password, which signs out everywhere else", Errors: []int{401, 403, 422, 429}},
		func(ctx context.Context, in *passwordInput) (*struct{}, error) {
			err := s.desk.ChangePassword(ctx, who(ctx), in.Body.Old, in.Body.New, in.address)
			var weak *people.WeakError
			switch {
			case errors.As(err, &weak):
				return nil, huma.Error422UnprocessableEntity(sentence(weak.Error()), &huma.ErrorDetail{Location: "body.new", Message: weak.Error()})
			case errors.Is(err, people.ErrWrong):
				return nil, huma.Error403Forbidden("The password you have now is not right. Nothing was changed.")
			case errors.Is(err, people.ErrTooMany):
				return nil, huma.Error429TooManyRequests("Too many failed attempts. Wait a quarter of an hour and try again.")
			case err != nil:
				return nil, s.failed(ctx, "password", err)
			}
			s.noted(ctx, in.caller, store.Password, "changed her own")
			return nil, s.begin(ctx, who(ctx).ID)
		})
	huma.Register(api, huma.Operation{OperationID: "ways", Method: http.MethodGet, Path: "/api/session/ways", Summary: "How one can sign in", Metadata: open},
		func(context.Context, *struct{}) (*waysOutput, error) {
			out := &waysOutput{}
			if s.Provider != nil {
				out.Body.Provider, out.Body.Address = s.Provider.Name(), elsewhere
			}
			return out, nil
		})
	huma.Register(api, huma.Operation{OperationID: "me", Method: http.MethodGet, Path: "/api/session", Summary: "Who is signed in", Errors: []int{401}},
		func(ctx context.Context, _ *struct{}) (*meOutput, error) { return &meOutput{me(who(ctx))}, nil })
}

func me(p store.Person) Me {
	return Me{ID: p.ID, Name: p.Name, Email: p.Email, Role: p.Role, Administrator: p.Administrator(), Saves: p.Role != store.Reader, Password: p.PasswordHash != ""}
}
