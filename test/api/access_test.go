package api

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/formula"
	"gavrik/internal/demo"
	"gavrik/internal/web"
	"gavrik/test/harness"
)

// Every operation with every kind of person: what each may do. An operation that
// is missing here fails the test.
func TestWhoMayDoWhat(t *testing.T) {
	g := harness.Start(t)
	owner, other, nobody := person(t, g, 0), person(t, g, 1), stranger(t, g)
	private := owner.save("Mine alone", false).body["key"].(string)
	shared := owner.save("For all", true).body["key"].(string)
	require.Equal(t, 201, owner.do("POST", "/api/definitions", map[string]any{"records": "claims", "calculated": calculated("owned", "1")}).code)
	run := map[string]any{"view": claims(nil), "depth": 0, "limit": 5}
	put := func(base int) map[string]any {
		return map[string]any{"name": "For all", "document": claims(nil), "shared": true, "base": base}
	}
	type line struct {
		op, path             string
		send                 any
		nobody, other, owner int
	}
	table := []line{
		{"GET /api/session", "/api/session", nil, 401, 200, 200},
		{"GET /api/catalog", "/api/catalog", nil, 401, 200, 200},
		{"GET /api/catalog/{set}/fields", "/api/catalog/claims/fields", nil, 401, 200, 200},
		{"POST /api/refresh", "/api/refresh", nil, 401, 403, 204},
		{"POST /api/run", "/api/run", run, 401, 200, 200},
		{"POST /api/distribution", "/api/distribution", map[string]any{"view": claims(nil), "field": "claimed", "bins": 20}, 401, 200, 200},
		{"POST /api/explain", "/api/explain", map[string]any{"view": claims(nil), "column": 0}, 401, 200, 200},
		{"POST /api/values", "/api/values", map[string]any{"view": claims(nil), "field": "status", "limit": 5}, 401, 200, 200},
		{"GET /api/functions", "/api/functions", nil, 401, 200, 200},
		{"POST /api/formula", "/api/formula", map[string]any{"view": owing(claims(nil)), "key": "owing"}, 401, 200, 200},
		{"POST /api/bucket", "/api/bucket", map[string]any{"view": owing(claims(nil)), "key": "size"}, 401, 200, 200},
		{"POST /api/split", "/api/split", map[string]any{"view": claims(nil), "field": "claimed", "kind": "counts", "parts": 4}, 401, 200, 200},
		{"GET /api/definitions", "/api/definitions", nil, 401, 200, 200},
		{"POST /api/definitions", "/api/definitions", map[string]any{"records": "claims", "calculated": calculated("others", "1")}, 401, 201, 409},
		{"POST /api/definitions/{set}/{key}/effects", "/api/definitions/claims/owned/effects", map[string]any{"calculated": calculated("owned", "2"), "base": 1}, 401, 200, 200},
		{"PUT /api/definitions/{set}/{key}", "/api/definitions/claims/owned", map[string]any{"calculated": calculated("owned", "2"), "base": 1}, 401, 403, 200},
		{"DELETE /api/definitions/{set}/{key}", "/api/definitions/claims/owned", nil, 401, 403, 204},
		{"POST /api/behind", "/api/behind", map[string]any{"view": claims(nil), "column": -1}, 401, 200, 200},
		{"POST /api/changes", "/api/changes", map[string]any{"from": claims(nil), "to": claims(nil)}, 401, 200, 200},
		{"GET /api/catalog/{set}/holding", "/api/catalog/claims/holding?text=quay", nil, 401, 200, 200},
		{"GET /api/drafts", "/api/drafts", nil, 401, 200, 200},
		{"PUT /api/drafts/{id}", "/api/drafts/drafted1", drafted("statestate01", 0), 401, 200, 200},
		{"GET /api/states/{key}", "/api/states/statestate01", nil, 401, 200, 200},
		{"PUT /api/drafts/{id}", "/api/drafts/drafted1", drafted("statestate02", 0), 401, 409, 409},
		{"DELETE /api/drafts/{id}", "/api/drafts/drafted1", nil, 401, 204, 204},
		{"GET /api/views", "/api/views", nil, 401, 200, 200},
		{"GET /api/favorites", "/api/favorites", nil, 401, 200, 200},
		{"POST /api/views", "/api/views", map[string]any{"name": "x", "document": claims(nil)}, 401, 201, 201},
		{"GET /api/views/{key}", "/api/views/" + private, nil, 401, 404, 200},
		{"GET /api/views/{key}", "/api/views/" + shared, nil, 401, 200, 200},
		{"PUT /api/views/{key}", "/api/views/" + private, put(9), 401, 404, 409},
		{"PUT /api/views/{key}", "/api/views/" + shared, put(1), 401, 403, 200},
		{"GET /api/views/{key}/versions", "/api/views/" + private + "/versions", nil, 401, 404, 200},
		{"GET /api/views/{key}/versions/{version}", "/api/views/" + private + "/versions/1", nil, 401, 404, 200},
		{"GET /api/views/{key}/versions/{version}", "/api/views/" + shared + "/versions/9", nil, 401, 404, 404},
		{"PUT /api/views/{key}/mark", "/api/views/" + private + "/mark", map[string]any{"label": "mine"}, 401, 404, 200},
		{"PUT /api/views/{key}/mark", "/api/views/" + shared + "/mark", map[string]any{"label": "mine"}, 401, 403, 200},
		{"PUT /api/views/{key}/favorite", "/api/views/" + private + "/favorite", map[string]any{"on": true}, 401, 404, 200},
		{"PUT /api/views/{key}/favorite", "/api/views/" + private + "/favorite", map[string]any{"on": true, "everyone": true}, 401, 404, 422},
		{"PUT /api/views/{key}/favorite", "/api/views/" + shared + "/favorite", map[string]any{"on": true}, 401, 200, 200},
		{"PUT /api/views/{key}/favorite", "/api/views/" + shared + "/favorite", map[string]any{"on": true, "everyone": true}, 401, 403, 200},
		{"DELETE /api/views/{key}", "/api/views/" + private, nil, 401, 404, 204},
		{"DELETE /api/views/{key}", "/api/views/" + shared, nil, 401, 403, 204},
		{"GET /api/bin", "/api/bin", nil, 401, 200, 200},
		{"POST /api/bin/{key}", "/api/bin/" + shared, nil, 401, 404, 200},
		{"DELETE /api/bin/{key}", "/api/bin/" + private, nil, 401, 404, 204},
		{"PUT /api/password", "/api/password", map[string]any{"old": "not the one", "new": "a long enough one"}, 401, 403, 403},
		{"DELETE /api/sessions", "/api/sessions", nil, 401, 204, 204},
		{"POST /api/session", "/api/session", map[string]any{"email": demo.People[0].Email, "password": demo.Password}, 200, 200, 200},
		{"DELETE /api/session", "/api/session", nil, 204, 204, 204},
	}
	walked := map[string]bool{}
	for _, l := range table {
		walked[l.op] = true
		method, _, _ := strings.Cut(l.op, " ")
		for i, who := range []*client{nobody, other, owner} {
			want := []int{l.nobody, l.other, l.owner}[i]
			a := who.do(method, l.path, l.send)
			require.Equal(t, want, a.code, "%s %s by %s: %s", method, l.path, []string{"nobody", "another", "the owner"}[i], a.text)
			if want >= 400 {
				a.refused(t, want, "detail")
			}
		}
		if l.path == "/api/session" && method == "POST" {
			nobody = stranger(t, g) // signed in by the walk
		}
	}
	for path, item := range operations(t) {
		for method := range item {
			require.True(t, walked[strings.ToUpper(method)+" "+path], "%s %s is not in the table", method, path)
		}
	}
}

// drafted is unsaved work as the bench sends it.
func drafted(state string, revision int) map[string]any {
	return map[string]any{"place": "/new/claims", "title": "New view of claims", "base": 0, "state": state, "revision": revision, "document": claims(nil)}
}

func reference() ([]byte, error) {
	text, err := formula.Reference()
	return []byte(text), err
}

// operations lists the interface's methods by path.
func operations(t *testing.T) map[string]map[string]any {
	text, err := web.OpenAPI()
	require.NoError(t, err)
	var doc struct {
		Paths map[string]map[string]any `json:"paths"`
	}
	decode(t, text, &doc)
	return doc.Paths
}

func TestDescriptionsAreCurrent(t *testing.T) {
	for file, write := range map[string]func() ([]byte, error){"openapi.json": web.OpenAPI, "view.schema.json": web.ViewSchema, "formulas.md": reference} {
		want, err := write()
		require.NoError(t, err)
		got, err := os.ReadFile("../../docs/" + file)
		require.NoError(t, err)
		require.Equal(t, string(want), string(got), "docs/%s is old; run: make openapi", file)
	}
}

func TestGuessingPasswordsIsStopped(t *testing.T) {
	g := harness.Start(t)
	c := stranger(t, g)
	try := func(email, password string) answer {
		return c.do("POST", "/api/session", map[string]any{"email": email, "password": password})
	}
	victim := strings.ToUpper(demo.People[0].Email[:1]) + demo.People[0].Email[1:]
	for i := range 10 {
		try(victim, fmt.Sprint("guess ", i)).refused(t, 401, "The e-mail address or the password is not right.")
	}
	try(victim, demo.Password).refused(t, 429, "Wait a quarter of an hour")
	// An unknown address is answered in the same words, and other people go on.
	try("nobody@marrowby.example", "x").refused(t, 401, "The e-mail address or the password is not right.")
	require.Equal(t, 200, try(demo.People[1].Email, demo.Password).code)
	// Failures are forgotten in time.
	_, err := g.DB.Exec(t.Context(), "UPDATE gavrik.signin_failures SET at = at - interval '16 minutes'")
	require.NoError(t, err)
	require.Equal(t, 200, try(victim, demo.Password).code)
}

func TestSessions(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	a := c.do("POST", "/api/session", map[string]any{"email": demo.People[0].Email, "password": demo.Password})
	cookie := a.head.Get("Set-Cookie")
	require.Contains(t, cookie, "HttpOnly")
	require.Contains(t, cookie, "SameSite=Lax")
	token, _, _ := strings.Cut(strings.TrimPrefix(cookie, "gavrik="), ";")
	require.Zero(t, g.Ask(t, "SELECT count(*)::text FROM gavrik.sessions WHERE token = $1", token)[0]-'0', "tokens are stored hashed")
	require.NotEqual(t, "0", g.Ask(t, "SELECT count(*)::text FROM gavrik.sessions"))
	// Signing out ends the session itself, not only the cookie.
	thief := stranger(t, g)
	thief.header["Cookie"] = "gavrik=" + token
	require.Equal(t, 200, thief.do("GET", "/api/session", nil).code)
	require.Equal(t, 204, c.do("DELETE", "/api/session", nil).code)
	thief.do("GET", "/api/session", nil).refused(t, 401, "Sign in to go on. What you have typed is kept.")
	// A session that ran out is no session.
	d := person(t, g, 1)
	_, err := g.DB.Exec(t.Context(), "UPDATE gavrik.sessions SET expiry = now() - interval '1 minute'")
	require.NoError(t, err)
	d.do("POST", "/api/run", map[string]any{"view": claims(nil), "depth": 0, "limit": 1}).refused(t, 401, "Sign in")
}

func TestWritesFromOtherSitesAreRefused(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	for name, header := range map[string]map[string]string{
		"by the browser's word": {"Sec-Fetch-Site": "cross-site"}, "by origin": {"Origin": "https://elsewhere.example"},
	} {
		c.header = header
		c.save("Forged "+name, true).refused(t, 403, "came from another site and was refused")
	}
	c.header = map[string]string{}
	require.NotContains(t, c.do("GET", "/api/views", nil).text, "Forged")
}
