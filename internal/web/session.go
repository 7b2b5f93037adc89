package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/app"
	"gavrik/internal/core/turn"
	"gavrik/internal/people"
	"gavrik/internal/pgreader"
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
	Changing      bool       `json:"changing,omitempty" doc:"Somebody else has set it: she must change it before anything else"`
	Second        bool       `json:"second" doc:"A code is asked for beside the password"`
	SecondDue     bool       `json:"secondDue,omitempty" doc:"She must set one up before anything else"`
}

type meOutput struct{ Body Me }

type signInInput struct {
	Body struct {
		Email    string `json:"email" maxLength:"200" doc:"E-mail address"`
		Password string `json:"password" maxLength:"1000" doc:"Password"`
		Code     string `json:"code,omitempty" maxLength:"40" doc:"Of whoever has a second factor: the code of the app, or a spare one"`
	}
	caller
}

type passwordInput struct {
	Body struct {
		Old string `json:"old" maxLength:"1000" doc:"The password one has"`
		New string `json:"new" maxLength:"1000" doc:"The one to have from now on"`
		// Tokens are for programs, which do not notice.
		Tokens bool `json:"tokens,omitempty" doc:"End one's tokens, too"`
	}
	caller
}

type waysOutput struct {
	Body struct {
		Provider string `json:"provider" doc:"Name of the identity provider; empty for none"`
		Address  string `json:"address" doc:"Where signing in with it begins"`
	}
}

// Who may use an operation, if not everybody who is signed in.
var (
	open           = map[string]any{"open": true} // needs no sign-in
	analysts       = map[string]any{"needs": store.Analyst}
	administrators = map[string]any{"needs": store.Administrator}
	// byToken is for programs, too, that have a personal token.
	byToken = map[string]any{"token": true}
	// whileChanging is for those, too, who must change their password first.
	whileChanging = map[string]any{"changing": true}
)

// begin opens a session of a person's, under a fresh secret, so that one planted before
// is worth nothing; her browser is known from now on.
func (s *entrance) begin(ctx context.Context, id int64, way, address string) error {
	h := cookiesOf(ctx)
	fresh, device := secret(), h.device
	if device == "" {
		device = secret()
	}
	err := s.Store.BeginSignIn(ctx, id, hashed(fresh), store.SignIn{Way: way, Address: address, Agent: h.agent})
	if err == nil {
		err = s.Store.KnowDevice(ctx, id, hashed(device))
	}
	if err != nil {
		return s.failed(ctx, "sign-in", err)
	}
	http.SetCookie(h.w, s.cookie(sessionCookie, fresh, sessionLasts))
	http.SetCookie(h.w, s.cookie(deviceCookie, device, deviceLasts))
	return nil
}

// from is where somebody tries to sign in from.
func from(ctx context.Context, c caller) people.From {
	out := people.From{Address: c.address}
	if device := cookiesOf(ctx).device; device != "" {
		out.Device = hashed(device)
	}
	return out
}

type personKey struct{}

// who is the person that the middleware found.
func who(ctx context.Context) store.Person { return ctx.Value(personKey{}).(store.Person) }

// signedIn refuses operations to strangers and puts the person into the context.
func (s *entrance) signedIn(api huma.API) func(huma.Context, func(huma.Context)) {
	return func(ctx huma.Context, next func(huma.Context)) {
		if ctx.Operation().Metadata["open"] == true {
			next(ctx)
			return
		}
		token, bearer := tokenOf(ctx)
		p, session, err := s.authenticate(ctx.Context(), token)
		if err != nil {
			detail, code := "Sign in to go on. What you have typed is kept.", http.StatusUnauthorized
			if bearer {
				detail = "This token is not known, has ended or was revoked. Make a new one under your name in Gavrik."
			}
			if !errors.Is(err, store.ErrNotFound) {
				s.Log.Error("session", "id", requestNumber(ctx.Context()), "error", err)
				detail, code = databaseSilent, http.StatusServiceUnavailable
			}
			_ = huma.WriteErr(api, ctx, code, detail) // the caller may have gone
			return
		}
		if needs, ok := ctx.Operation().Metadata["needs"].(store.Role); ok && !has(p.Role, needs) {
			s.noteRefusal(ctx, p, "lacks the role of "+string(needs))
			_ = huma.WriteErr(api, ctx, http.StatusForbidden, missingRole[needs]) // the caller may have gone
			return
		}
		if !bearer && ctx.Operation().Metadata["changing"] != true {
			if code, detail := s.first(ctx.Context(), p); code != 0 {
				_ = huma.WriteErr(api, ctx, code, detail) // the caller may have gone
				return
			}
		}
		job := s.Scheduler.Enter(strconv.FormatInt(p.ID, 10))
		defer job.Leave()
		inner := context.WithValue(context.WithValue(ctx.Context(), personKey{}, p), signInKey{}, session)
		inner = pgreader.By(inner, strconv.FormatInt(p.ID, 10))
		mine := huma.WithContext(ctx, turn.With(inner, job))
		next(mine)
		if mine.Status() == http.StatusForbidden {
			s.noteRefusal(ctx, p, "may not do this")
		}
	}
}

// shownToken is a token that came with a request for a view.
type shownToken struct {
	text, view string
	// inAddress says that it stood in the address, where others may read it: only a token
	// that runs this view alone may.
	inAddress bool
}

// tokenOf is the token of a request of which one may do in place of a session.
func tokenOf(ctx huma.Context) (shownToken, bool) {
	if ctx.Operation().Metadata["token"] != true {
		return shownToken{}, false
	}
	out := shownToken{view: ctx.Param("key")}
	var bearer bool
	if out.text, bearer = strings.CutPrefix(ctx.Header("Authorization"), "Bearer "); !bearer {
		out.text, out.inAddress = ctx.Query("token"), true
	}
	return out, out.text != ""
}

// first is what somebody must do before anything else, as a refusal; 0 for nothing.
func (s *entrance) first(ctx context.Context, p store.Person) (code int, detail string) {
	if p.Changing {
		return http.StatusForbidden, "Somebody else has set your password. Choose one of your own first; then go on."
	}
	due, err := s.secondDue(ctx, p)
	switch {
	case err != nil:
		return http.StatusServiceUnavailable, databaseSilent
	case due:
		return http.StatusForbidden,
			"Everybody who signs in with a password needs a second factor here. Set yours up first; then go on."
	}
	return 0, ""
}

// noteRefusal notes in the trail what somebody tried and may not do.
func (s *entrance) noteRefusal(ctx huma.Context, p store.Person, why string) {
	about := fmt.Sprintf("%s (%s %s)", why, ctx.Method(), ctx.Operation().Path)
	s.note(ctx.Context(), store.Event{
		Who: named(p), What: store.Refused, About: about, Address: hostOf(ctx.RemoteAddr()),
	})
}

// missingRole says what to do without a role.
var missingRole = map[store.Role]string{
	store.Analyst:       "Readers look at views and try them out; to save and share needs the role of an analyst. Ask an administrator for it.",
	store.Administrator: "Only an administrator can do this.",
}

// has says whether a role includes another.
func has(role, needs store.Role) bool {
	return role == store.Administrator || role == needs || needs == store.Reader
}

type signInKey struct{}

// signInOf is the number of the session that a request came with; 0 for a token.
func signInOf(ctx context.Context) int64 { return ctx.Value(signInKey{}).(int64) }

// authenticate is the person of a token or of the session; ErrNotFound if it is nobody. While
// the database is silent, a session that was known a moment ago is honoured.
func (s *entrance) authenticate(ctx context.Context, token shownToken) (store.Person, int64, error) {
	if token.text != "" {
		p, err := s.Store.PersonByToken(ctx, hashed(token.text), token.view, token.inAddress)
		return p, 0, err
	}
	session := cookiesOf(ctx).session
	if session == "" {
		return store.Person{}, 0, store.ErrNotFound
	}
	hash := hashed(session)
	p, id, err := s.Store.PersonBySignIn(ctx, hash)
	switch {
	case err == nil:
		s.remembered.Add(string(hash), remembered{p, id, time.Now()})
	case errors.Is(err, store.ErrNotFound):
		s.remembered.Remove(string(hash))
	case store.TroubleOf(err) == store.Silent && ctx.Err() == nil:
		if r, ok := s.remembered.Get(string(hash)); ok && time.Since(r.at) < app.RememberedFor {
			return r.person, r.signIn, nil
		}
	}
	return p, id, err
}

// remembered is whose session it was when the database last said so.
type remembered struct {
	person store.Person
	signIn int64
	at     time.Time
}

const mostRemembered = 10_000

func (s *entrance) registerSession(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "sign-in", Method: http.MethodPost, Path: "/api/session", Summary: "Sign in", Metadata: open,
		Errors: []int{401, 429},
	},
		func(ctx context.Context, in *signInInput) (*meOutput, error) {
			p, err := s.desk.SignIn(ctx, in.Body.Email, in.Body.Password, in.Body.Code, from(ctx, in.caller))
			// Those beyond the limit are not told one by one: whoever guesses on would fill
			// the trail.
			if errors.Is(err, people.ErrCodeWanted) {
				return nil, huma.Error401Unauthorized(sentence(err.Error()), &huma.ErrorDetail{
					Location: "body.code", Message: err.Error(),
				})
			}
			if errors.Is(err, people.ErrWrong) {
				s.note(ctx, store.Event{
					Who: in.Body.Email, What: store.NotSigned, About: err.Error(), Address: in.address,
				})
				return nil, huma.Error401Unauthorized(wrongSignIn(in.Body.Code))
			}
			if err != nil {
				return nil, s.signInProblem(ctx, err)
			}
			if err := s.begin(ctx, p.ID, "with a password", in.address); err != nil {
				return nil, err
			}
			s.note(ctx, store.Event{
				Who: named(p), What: store.SignedIn, About: "with a password", Address: in.address,
			})
			return s.me(ctx, p)
		})
	huma.Register(api, huma.Operation{
		OperationID: "sign-out", Method: http.MethodDelete, Path: "/api/session", Summary: "Sign out",
		Metadata: open,
	},
		func(ctx context.Context, _ *struct{}) (*struct{}, error) {
			h := cookiesOf(ctx)
			if p, id, err := s.authenticate(ctx, shownToken{}); err == nil {
				if err := s.Store.EndSignIn(ctx, p.ID, id); err != nil && !errors.Is(err, store.ErrNotFound) {
					return nil, s.failed(ctx, "sign-out", err)
				}
				s.remembered.Remove(string(hashed(h.session)))
			}
			http.SetCookie(h.w, s.cookie(sessionCookie, "", 0))
			return nil, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "sign-out-everywhere", Method: http.MethodDelete, Path: "/api/sessions",
		Summary: "Sign out on every machine, and end one's tokens", Errors: []int{401},
	},
		func(ctx context.Context, in *callerInput) (*struct{}, error) {
			if err := s.Store.EndSignIns(ctx, who(ctx).ID, true); err != nil {
				return nil, s.failed(ctx, "sign-out", err)
			}
			s.remembered.Purge()
			s.noted(ctx, in.caller, store.SignedOut, "all sessions and tokens")
			return nil, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "change-password", Method: http.MethodPut, Path: "/api/password", Metadata: whileChanging,
		Summary: "Change one's own password, which signs out everywhere else", Errors: []int{401, 403, 422, 429},
	},
		func(ctx context.Context, in *passwordInput) (*struct{}, error) {
			err := s.desk.ChangePassword(ctx, who(ctx), in.Body.Old, in.Body.New, from(ctx, in.caller), in.Body.Tokens)
			var weak *people.WeakError
			switch {
			case errors.As(err, &weak):
				return nil, huma.Error422UnprocessableEntity(sentence(weak.Error()), &huma.ErrorDetail{
					Location: "body.new", Message: weak.Error(),
				})
			case errors.Is(err, people.ErrWrong):
				return nil, huma.Error403Forbidden("The password you have now is not right. Nothing was changed.")
			case err != nil:
				return nil, s.signInProblem(ctx, err)
			}
			s.remembered.Purge()
			s.noted(ctx, in.caller, store.Password, "changed her own")
			return nil, s.begin(ctx, who(ctx).ID, "with a new password", in.address)
		})
	huma.Register(api, huma.Operation{
		OperationID: "ways", Method: http.MethodGet, Path: "/api/session/ways", Summary: "How one can sign in",
		Metadata: open,
	},
		func(context.Context, *struct{}) (*waysOutput, error) {
			out := &waysOutput{}
			if s.provider != nil {
				out.Body.Provider, out.Body.Address = s.provider.Name(), providerSignIn
			}
			return out, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "me", Method: http.MethodGet, Path: "/api/session", Metadata: whileChanging,
		Summary: "Who is signed in", Errors: []int{401},
	},
		func(ctx context.Context, _ *struct{}) (*meOutput, error) { return s.me(ctx, who(ctx)) })
}

// me is who is signed in, and what she must do before anything else.
func (s *entrance) me(ctx context.Context, p store.Person) (*meOutput, error) {
	due, err := s.secondDue(ctx, p)
	if err != nil {
		return nil, err
	}
	return &meOutput{Me{
		ID: p.ID, Name: p.Name, Email: p.Email, Role: p.Role, Administrator: p.Administrator(),
		Saves:    p.Role != store.Reader,
		Password: p.PasswordHash != "", Changing: p.Changing, Second: p.SecondOn, SecondDue: due,
	}}, nil
}

func wrongSignIn(code string) string {
	if code != "" {
		return "The e-mail address, the password or the code is not right. A code is taken once; wait for the next one."
	}
	return "The e-mail address or the password is not right."
}

// signInProblem is the problem with a try to sign in, other than a wrong password.
func (s *entrance) signInProblem(ctx context.Context, err error) error {
	var many *people.TooManyError
	switch {
	case errors.As(err, &many):
		return retryAfter(huma.Error429TooManyRequests(sentence(many.Error())), int(many.Wait.Seconds()))
	case errors.Is(err, people.ErrCrowded):
		return retryAfter(huma.Error503ServiceUnavailable(sentence(err.Error())), 3)
	}
	return s.failed(ctx, "sign-in", err)
}
