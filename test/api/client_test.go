// Package api walks Gavrik's HTTP interface as its clients do, and as they should
// not.
package api

import (
	"bytes"
	"encoding/json"
	"io"
	"net/http"
	"net/http/cookiejar"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/internal/localpg/pgtest"
	"gavrik/test/harness"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

// client is one person's browser.
type client struct {
	t    *testing.T
	base string
	http *http.Client
	// header is added to every request.
	header map[string]string
}

// answer is what came back.
type answer struct {
	code int
	head http.Header
	text string
	body map[string]any
}

func stranger(t *testing.T, g *harness.Gavrik) *client {
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return &client{t: t, base: g.URL, http: &http.Client{Jar: jar}, header: map[string]string{}}
}

// person signs one of the demo's people in.
func person(t *testing.T, g *harness.Gavrik, n int) *client {
	c := stranger(t, g)
	a := c.do("POST", "/api/session", map[string]any{"email": demo.People[n].Email, "password": demo.Password})
	require.Equal(t, 200, a.code, a.text)
	return c
}

// do sends a value as JSON, or a string as it is.
func (c *client) do(method, path string, send any) answer {
	c.t.Helper()
	var body io.Reader
	switch x := send.(type) {
	case nil:
	case string:
		body = bytes.NewReader([]byte(x))
	default:
		text, err := json.Marshal(x)
		require.NoError(c.t, err)
		body = bytes.NewReader(text)
	}
	r, err := http.NewRequestWithContext(c.t.Context(), method, c.base+path, body)
	require.NoError(c.t, err)
	if body != nil {
		r.Header.Set("Content-Type", "application/json")
	}
	for k, v := range c.header {
		r.Header.Set(k, v)
	}
	res, err := c.http.Do(r)
	require.NoError(c.t, err)
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	out := answer{code: res.StatusCode, head: res.Header, text: string(text)}
	if json.Unmarshal(text, &out.body) != nil {
		out.body = nil
	}
	return out
}

// refused asks for a refusal: a problem in words, without anything of the inside.
func (a answer) refused(t *testing.T, code int, words string) {
	t.Helper()
	require.Equal(t, code, a.code, a.text)
	require.Contains(t, a.head.Get("Content-Type"), "application/problem+json")
	require.Contains(t, a.text, words)
	for _, inside := range []string{".go:", "goroutine", "SQLSTATE", "pgx", "/root/"} {
		require.NotContains(t, a.text, inside)
	}
}

func claims(extra map[string]any) map[string]any {
	doc := map[string]any{
		"gavrik": 1, "records": "claims",
		"columns": []any{map[string]any{"field": "claimed", "totals": []any{map[string]any{"fn": "sum"}}}},
	}
	for k, v := range extra {
		doc[k] = v
	}
	return doc
}

// everyone is the share with everyone, to be seen.
var everyone = []any{map[string]any{}}

func (c *client) save(name string, shared bool) answer {
	c.t.Helper()
	send := map[string]any{"name": name, "document": claims(nil)}
	if shared {
		send["shares"] = everyone
	}
	return c.do("POST", "/api/views", send)
}
