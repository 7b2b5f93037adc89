// Package standin is a small identity provider for tests: OpenID Connect's
// authorization code flow, without any page. Whoever comes is signed in as Person.
package standin

import (
	"crypto/rand"
	"crypto/rsa"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"net/url"
	"sync"
	"testing"
	"time"

	"github.com/go-jose/go-jose/v4"
	"github.com/go-jose/go-jose/v4/jwt"
	"github.com/stretchr/testify/require"
)

// What Gavrik is known by.
const Client, Secret = "gavrik", "a secret between the two"

// Person is what the provider says of whoever comes.
type Person struct {
	Subject, Email, Name string
	Unverified           bool
}

// Provider is a running one. Its fields may be changed between sign-ins.
type Provider struct {
	*httptest.Server
	Person Person
	// Refuse sends people back without signing them in.
	Refuse bool
	// Spoil changes the claims before they are signed.
	Spoil func(claims map[string]any)
	// Forge signs with a key that is not the provider's.
	Forge bool

	key    *rsa.PrivateKey
	mu     sync.Mutex // protects issued
	issued map[string]url.Values
}

// Start runs a provider until the test ends.
func Start(t *testing.T) *Provider {
	key, err := rsa.GenerateKey(rand.Reader, 2048)
	require.NoError(t, err)
	p := &Provider{key: key, issued: map[string]url.Values{}}
	mux := http.NewServeMux()
	mux.HandleFunc("/.well-known/openid-configuration", p.describe)
	mux.HandleFunc("/keys", p.keys)
	mux.HandleFunc("/authorize", p.authorize)
	mux.HandleFunc("/token", p.token)
	p.Server = httptest.NewServer(mux)
	t.Cleanup(p.Close)
	return p
}

func answer(w http.ResponseWriter, v any) {
	w.Header().Set("Content-Type", "application/json")
	_ = json.NewEncoder(w).Encode(v) // the caller may have gone
}

func (p *Provider) describe(w http.ResponseWriter, _ *http.Request) {
	answer(w, map[string]any{
		"issuer": p.URL, "authorization_endpoint": p.URL + "/authorize", "token_endpoint": p.URL + "/token",
		"jwks_uri":                 p.URL + "/keys",
		"response_types_supported": []string{"code"}, "subject_types_supported": []string{"public"},
		"id_token_signing_alg_values_supported": []string{"RS256"},
	})
}

func (p *Provider) keys(w http.ResponseWriter, _ *http.Request) {
	answer(w, jose.JSONWebKeySet{
		Keys: []jose.JSONWebKey{{Key: p.key.Public(), KeyID: "1", Algorithm: "RS256", Use: "sig"}},
	})
}

func (p *Provider) authorize(w http.ResponseWriter, r *http.Request) {
	q := r.URL.Query()
	back := url.Values{"state": {q.Get("state")}}
	if p.Refuse {
		back.Set("error", "access_denied")
	} else {
		code := rand.Text()
		p.mu.Lock()
		p.issued[code] = q
		p.mu.Unlock()
		back.Set("code", code)
	}
	http.Redirect(w, r, q.Get("redirect_uri")+"?"+back.Encode(), http.StatusFound)
}

// token gives a code's worth once, to who holds the secret and the proof key.
func (p *Provider) token(w http.ResponseWriter, r *http.Request) {
	id, secret, ok := r.BasicAuth()
	p.mu.Lock()
	asked := p.issued[r.PostFormValue("code")]
	delete(p.issued, r.PostFormValue("code"))
	p.mu.Unlock()
	proof := sha256.Sum256([]byte(r.PostFormValue("code_verifier")))
	secret, _ = url.QueryUnescape(secret)
	if !ok || id != Client || secret != Secret || asked == nil ||
		base64.RawURLEncoding.EncodeToString(proof[:]) != asked.Get("code_challenge") {
		w.WriteHeader(http.StatusBadRequest)
		answer(w, map[string]any{"error": "invalid_grant"})
		return
	}
	now := time.Now()
	claims := map[string]any{
		"iss": p.URL, "aud": Client, "sub": p.Person.Subject, "iat": now.Unix(), "exp": now.Add(time.Minute).Unix(),
		"nonce": asked.Get("nonce"),
		"email": p.Person.Email, "email_verified": !p.Person.Unverified, "name": p.Person.Name,
	}
	if p.Spoil != nil {
		p.Spoil(claims)
	}
	key := p.key
	if p.Forge {
		key, _ = rsa.GenerateKey(rand.Reader, 2048) // rand.Reader never fails
	}
	signer, err := jose.NewSigner(jose.SigningKey{
		Algorithm: jose.RS256, Key: jose.JSONWebKey{Key: key, KeyID: "1"},
	}, nil)
	if err == nil {
		var raw string
		if raw, err = jwt.Signed(signer).Claims(claims).Serialize(); err == nil {
			answer(w, map[string]any{"access_token": "unused", "token_type": "Bearer", "id_token": raw})
			return
		}
	}
	http.Error(w, err.Error(), http.StatusInternalServerError)
}
