package people

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"sync/atomic"
	"time"

	"github.com/coreos/go-oidc/v3/oidc"
	"golang.org/x/oauth2"
	"golang.org/x/sync/singleflight"

	"gavrik/internal/core/fault"
	"gavrik/internal/store"
)

// Provider signs people in with OpenID Connect: the authorization code flow of OpenID
// Connect Core 1.0, section 3.1, with proof keys (RFC 7636). Any goroutine may use it.
type Provider struct {
	options ProviderOptions

	finding singleflight.Group
	found   atomic.Pointer[found]
}

// ProviderOptions say who vouches for people.
type ProviderOptions struct {
	// Name is what the sign-in page calls it.
	Name string
	// Issuer is its address, ClientID and ClientSecret what it knows Gavrik by.
	Issuer, ClientID, ClientSecret string
	// Redirect is the address of Gavrik that it sends people back to.
	Redirect string
	// Join, if set, lets people in whom nobody has added, with this role.
	Join store.Role
}

// found is what the issuer says of itself.
type found struct {
	oauth    oauth2.Config
	verifier *oidc.IDTokenVerifier
}

// Errors of a sign-in by way of a provider.
var (
	ErrSilent   = errors.New("the identity provider does not answer; try again in a moment")
	ErrDeclined = errors.New("the identity provider did not sign you in")
	ErrUnknown  = errors.New("nobody with your e-mail address may use Gavrik; ask an administrator to add you")
	ErrUnproven = errors.New("the identity provider has not confirmed your e-mail address")
)

// NewProvider returns a provider, which is first asked when somebody signs in.
func NewProvider(o ProviderOptions) *Provider { return &Provider{options: o} }

// Name is what the sign-in page calls it.
func (p *Provider) Name() string { return p.options.Name }

// asking is how long an answer of the provider is waited for.
const asking = 10 * time.Second

// find asks the provider who it is, once for all who wait: one that is silent holds up
// nobody who does not need it, and those who do for no longer than one answer may take.
func (p *Provider) find(ctx context.Context) (*found, error) {
	if f := p.found.Load(); f != nil {
		return f, nil
	}
	finding := p.finding.DoChan("", func() (any, error) {
		var f *found
		err := fault.Caught(func() (err error) { f, err = p.ask(ctx); return err })
		return f, err
	})
	select {
	case <-ctx.Done():
		return nil, fmt.Errorf("%w: %w", ErrSilent, ctx.Err())
	case r := <-finding:
		if r.Err != nil {
			return nil, r.Err
		}
		return r.Val.(*found), nil
	}
}

func (p *Provider) ask(ctx context.Context) (*found, error) {
	// The provider goes on to fetch keys with this context, long after the request.
	ctx = oidc.ClientContext(context.WithoutCancel(ctx), &http.Client{Timeout: asking})
	provider, err := oidc.NewProvider(ctx, p.options.Issuer)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrSilent, err)
	}
	o := p.options
	f := &found{
		oauth: oauth2.Config{
			ClientID: o.ClientID, ClientSecret: o.ClientSecret, Endpoint: provider.Endpoint(), RedirectURL: o.Redirect,
			Scopes: []string{oidc.ScopeOpenID, "email", "profile"},
		},
		verifier: provider.Verifier(&oidc.Config{ClientID: o.ClientID}),
	}
	p.found.Store(f)
	return f, nil
}

// Flow is what a browser's session holds while its person is at the provider.
type Flow struct{ State, Nonce, Verifier string }

// Begin returns where to send the person, and what to keep until she comes back.
func (p *Provider) Begin(ctx context.Context) (address string, flow Flow, err error) {
	f, err := p.find(ctx)
	if err != nil {
		return "", Flow{}, err
	}
	flow = Flow{State: rand.Text(), Nonce: rand.Text(), Verifier: oauth2.GenerateVerifier()}
	return f.oauth.AuthCodeURL(
		flow.State, oidc.Nonce(flow.Nonce), oauth2.S256ChallengeOption(flow.Verifier),
	), flow, nil
}

// Finish checks what a person came back with, and returns who she is. The error wraps
// one of the errors above.
func (d *Desk) Finish(ctx context.Context, p *Provider, flow Flow, came url.Values) (store.Person, error) {
	if flow.State == "" || subtle.ConstantTimeCompare([]byte(flow.State), []byte(came.Get("state"))) != 1 {
		return store.Person{}, fmt.Errorf(
			"%w: it was not asked from this browser, or too long ago; try again", ErrDeclined,
		)
	}
	if refusal := came.Get("error"); refusal != "" {
		return store.Person{}, fmt.Errorf("%w: %s", ErrDeclined, refusal)
	}
	f, err := p.find(ctx)
	if err != nil {
		return store.Person{}, err
	}
	ctx, cancel := context.WithTimeout(ctx, asking)
	defer cancel()
	token, err := f.oauth.Exchange(ctx, came.Get("code"), oauth2.VerifierOption(flow.Verifier))
	if err != nil {
		return store.Person{}, fmt.Errorf("%w: %w", ErrDeclined, err)
	}
	raw, _ := token.Extra("id_token").(string)
	id, err := f.verifier.Verify(ctx, raw)
	if err != nil {
		return store.Person{}, fmt.Errorf("%w: %w", ErrDeclined, err)
	}
	var claims struct {
		Email    string `json:"email"`
		Verified bool   `json:"email_verified"`
		Name     string `json:"name"`
	}
	if err := id.Claims(&claims); err != nil || id.Nonce != flow.Nonce {
		return store.Person{}, fmt.Errorf("%w: its answer belongs to another sign-in", ErrDeclined)
	}
	if !claims.Verified || claims.Email == "" {
		return store.Person{}, ErrUnproven
	}
	return d.vouched(ctx, p, id.Issuer+" "+id.Subject, claims.Email, claims.Name)
}

// vouched is the person whom a provider vouches for. Once known by its number for her,
// she stays the same, should her address change or be given to somebody else; by her
// address she is known the first time only.
func (d *Desk) vouched(ctx context.Context, p *Provider, subject, email, name string) (store.Person, error) {
	person, err := d.store.PersonBySubject(ctx, subject)
	if err == nil && person.LeftAt == nil {
		return person, nil
	}
	if errors.Is(err, store.ErrNotFound) {
		person, err = d.store.PersonByEmail(ctx, email)
	}
	if errors.Is(err, store.ErrNotFound) && p.options.Join != "" {
		if strings.TrimSpace(name) == "" {
			name, _, _ = strings.Cut(email, "@")
		}
		var id int64
		if id, err = d.Add(ctx, email, name, "", p.options.Join); err == nil {
			person, err = d.store.Person(ctx, id)
		}
	}
	switch {
	case errors.Is(err, store.ErrNotFound), err == nil && person.LeftAt != nil:
		return store.Person{}, ErrUnknown
	case err != nil:
		return store.Person{}, err
	}
	if err := d.store.BindSubject(ctx, person.ID, subject); err != nil {
		if errors.Is(err, store.ErrTaken) {
			return store.Person{}, ErrUnknown
		}
		return store.Person{}, err
	}
	return person, nil
}
