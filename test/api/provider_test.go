package api

import (
	"net/http"
	"net/url"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/internal/people"
	"gavrik/internal/store"
	"gavrik/internal/web"
	"gavrik/test/harness"
	"gavrik/test/standin"
)

func withProvider(t *testing.T, join store.Role) (*harness.Gavrik, *standin.Provider) {
	p := standin.Start(t)
	return harness.StartWith(t, func(url string, parts *harness.Parts) {
		parts.Web.Provider = people.NewProvider(people.ProviderOptions{
			Name: "Marrowby sign-on", Issuer: p.URL, ClientID: standin.Client, ClientSecret: standin.Secret,
			Redirect: url + web.ProviderReturn, Join: join,
		})
	}), p
}

// elsewhere goes to the provider and back, and returns where that ends.
func (c *client) elsewhere(to string) (end *url.URL) {
	c.t.Helper()
	c.http.CheckRedirect = func(r *http.Request, _ []*http.Request) error {
		end = r.URL
		return nil
	}
	c.do("GET", "/api/session/elsewhere?to="+url.QueryEscape(to), nil)
	c.http.CheckRedirect = nil
	require.NotNil(c.t, end)
	return end
}

func TestSigningInElsewhere(t *testing.T) {
	g, p := withProvider(t, "")
	require.Contains(t, stranger(t, g).do("GET", "/api/session/ways", nil).text, "Marrowby sign-on")
	jory := demo.People[1]
	p.Person = standin.Person{Subject: "7", Email: "Jory@Marrowby.example", Name: "J. Hale"}
	c := stranger(t, g)
	require.Equal(t, "/views?x=1", c.elsewhere("/views?x=1").RequestURI())
	me := c.do("GET", "/api/session", nil)
	require.Equal(t, jory.Name, me.body["name"], "known by the address; the name here stays")
	require.Contains(t, person(t, g, 0).do("GET", "/api/audit?words=jory", nil).text, "with Marrowby sign-on")
	// Nobody is led out of Gavrik.
	for _, to := range []string{
		"https://elsewhere.example/", "//elsewhere.example", `/\elsewhere.example`, "javascript:alert(1)", "",
	} {
		end := stranger(t, g).elsewhere(to)
		require.Equal(t, g.URL+"/", end.String(), to)
	}
	// What is wrong is refused, and nobody is signed in.
	for name, spoil := range map[string]func(){
		"declined": func() { p.Refuse = true }, "unproven": func() { p.Person.Unverified = true },
		"unknown":           func() { p.Person.Subject, p.Person.Email = "99", "nobody@marrowby.example" },
		"unknown ":          func() { p.Person.Subject = "8" }, // another with Jory's address
		"declined, forged":  func() { p.Forge = true },
		"declined, old":     func() { p.Spoil = func(c map[string]any) { c["exp"] = time.Now().Add(-time.Hour).Unix() } },
		"declined, others":  func() { p.Spoil = func(c map[string]any) { c["aud"] = "another program" } },
		"declined, replay":  func() { p.Spoil = func(c map[string]any) { c["nonce"] = "of another sign-in" } },
		"declined, foreign": func() { p.Spoil = func(c map[string]any) { c["iss"] = "https://elsewhere.example" } },
	} {
		before := p.Person
		spoil()
		c := stranger(t, g)
		require.Contains(t, name+" ", c.elsewhere("/").Query().Get("refused"), name)
		require.NotEmpty(t, c.elsewhere("/").Query().Get("refused"), name)
		require.Equal(t, 401, c.do("GET", "/api/session", nil).code, name)
		p.Person, p.Refuse, p.Forge, p.Spoil = before, false, false, nil
	}
	// Known by the provider's number, she stays the same when her address changes; another
	// who gets the old one is nobody here.
	p.Person.Email = "j.hale@marrowby.example"
	moved := stranger(t, g)
	require.Equal(t, "/", moved.elsewhere("/").RequestURI())
	require.Equal(t, jory.Name, moved.do("GET", "/api/session", nil).body["name"])
	require.Equal(t, "3", g.Ask(t, "SELECT count(*)::text FROM gavrik.people"), "no second person was made")
	p.Person.Email = jory.Email
	// Coming back without having gone, or with another's state, is refused.
	victim := stranger(t, g)
	victim.http.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	require.Contains(
		t, victim.do("GET", "/api/session/back?state=&code=x", nil).head.Get("Location"), "refused=declined",
	)
	require.Equal(t, 401, victim.do("GET", "/api/session", nil).code)
	// Who has left stays out.
	_, err := g.DB.Exec(t.Context(), "UPDATE gavrik.people SET left_at = now() WHERE email = $1", jory.Email)
	require.NoError(t, err)
	require.Equal(t, "unknown", stranger(t, g).elsewhere("/").Query().Get("refused"))
	p.Close()
	require.NotEmpty(t, stranger(t, g).elsewhereFails())
}

// elsewhereFails goes to a provider that has gone: the browser is sent there in vain.
func (c *client) elsewhereFails() string {
	c.http.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	return c.do("GET", "/api/session/elsewhere", nil).head.Get("Location")
}

func TestJoiningByProvider(t *testing.T) {
	g, p := withProvider(t, store.Reader)
	p.Person = standin.Person{Subject: "9", Email: "ines@marrowby.example"}
	c := stranger(t, g)
	require.Equal(t, "/", c.elsewhere("/").RequestURI())
	me := c.do("GET", "/api/session", nil).body
	require.Equal(t, "ines", me["name"])
	require.Equal(t, "reader", me["role"])
	require.Equal(t, false, me["password"])
}
