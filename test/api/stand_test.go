package api

import (
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/internal/scheduler"
	"gavrik/test/harness"
)

// A text with the character of the code 0, wherever it is sent, is refused in words.
func TestNoTextWithACodeOfZero(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	nul := "a\x00b"
	doc := claims(map[string]any{"columns": []any{map[string]any{"field": "ref", "heading": nul}}})
	for path, send := range map[string]any{
		"POST /api/views":          map[string]any{"name": nul, "document": claims(nil)},
		"POST /api/run":            map[string]any{"view": doc, "depth": 0, "limit": 1},
		"PUT /api/drafts/drafted1": drafted("statestate01"+nul, 0),
		"POST /api/people":         map[string]any{"email": "n@marrowby.example", "name": nul, "role": "reader"},
		"POST /api/groups":         map[string]any{"name": nul},
		"POST /api/tokens":         map[string]any{"name": nul, "days": 1},
		"POST /api/session":        map[string]any{"email": nul, "password": nul},
		"PUT /api/password":        map[string]any{"old": nul, "new": nul},
		"POST /api/definitions":    map[string]any{"records": nul, "calculated": calculated("k", "1")},
		"POST /api/values": map[string]any{
			"view": claims(nil), "field": "status", "search": nul, "limit": 5,
		},
		"PUT /api/catalog/claims/standard": map[string]any{"columns": []string{nul}},
		"PUT /api/favorites":               map[string]any{"keys": []string{nul}},
	} {
		method, at, _ := strings.Cut(path, " ")
		c.do(method, at, send).refused(t, 400, "character with the code 0")
	}
	for _, at := range []string{
		"/api/find?words=a%00b", "/api/views/a%00b", "/api/audit?words=%00", "/api/states/%00",
		"/api/find?words=%ff", "/api/catalog/%00/fields", "/api/catalog/claims/holding?text=%00",
	} {
		c.do("GET", at, nil).refused(t, 400, "characters that are no text")
	}
	// A backslash before it makes it plain text.
	a := c.do(
		"POST", "/api/views",
		`{"name":"six characters \\u0000","document":{"gavrik":1,"records":"claims","columns":[]}}`,
	)
	require.Equal(t, 201, a.code, a.text)
	require.Equal(t, `six characters \u0000`, a.body["name"])
}

// What is taken to be kept can be read again, and found; what could not is refused.
func TestWhatIsKeptCanBeReadAgain(t *testing.T) {
	g := harness.Start(t)
	c, other := person(t, g, 0), person(t, g, 1)
	listed := func(bytes int, text string) map[string]any {
		values := []string{}
		for i := 0; i*(len(text)+10) < bytes; i++ {
			values = append(values, fmt.Sprintf("%s%06d", text, i))
		}
		return claims(map[string]any{
			"filter": map[string]any{"all": []any{map[string]any{"field": "ref", "op": "one_of", "values": values}}},
		})
	}
	for name, doc := range map[string]map[string]any{
		"just small enough": listed(3_900_000, "<&>"),
		"one long text": claims(map[string]any{
			"columns": []any{map[string]any{"field": "ref", "heading": strings.Repeat("quay ", 300_000)}},
		}),
	} {
		a := c.do("POST", "/api/views", map[string]any{"name": name, "document": doc, "shares": everyone})
		require.Equal(t, 201, a.code, "%.300s", a.text)
		require.Equal(t, 200, c.do("GET", "/api/views/"+a.body["key"].(string), nil).code)
		draft := map[string]any{
			"place": "/new/claims", "title": name, "base": 0, "state": "large" + strings.ReplaceAll(name, " ", ""),
			"revision": 0, "document": doc,
		}
		require.Equal(t, 200, c.do("PUT", "/api/drafts/"+draft["state"].(string), draft).code)
		require.Equal(t, 200, c.do("GET", "/api/states/"+draft["state"].(string), nil).code)
	}
	found := other.do("GET", "/api/find?words=small+enough", nil)
	require.Equal(t, 200, found.code, "%.300s", found.text)
	require.Contains(t, found.text, "just small enough", "a large view of somebody is no reason to find nothing")
	tooLarge := listed(5_000_000, "long reference")
	c.do("POST", "/api/views", map[string]any{
		"name": "x", "document": tooLarge,
	}).refused(t, 413, "This view is too large to be kept")
	c.do("PUT", "/api/drafts/toolarge1", map[string]any{
		"place": "/new/claims", "title": "x", "base": 0, "state": "toolargestate", "revision": 0,
		"document": tooLarge,
	}).refused(t, 413, "too large to be kept")
	require.Equal(
		t, 200, c.do("POST", "/api/run", map[string]any{"view": tooLarge, "depth": 0, "limit": 1}).code,
		"it can be run all the same",
	)
}

// One person has a bound, which is said when it is met; nobody else notices.
func TestOnePersonsShare(t *testing.T) {
	shared := scheduler.New(scheduler.Options{PerPerson: 2})
	g := harness.StartWith(t, func(_ string, p *harness.Parts) { p.App.Scheduler = shared })
	c, other := person(t, g, 0), person(t, g, 1)
	run := map[string]any{"view": claims(nil), "depth": 0, "limit": 1}
	hers := g.Ask(t, "SELECT id::text FROM gavrik.people WHERE email = $1", demo.People[0].Email)
	first, second := shared.Enter(hers), shared.Enter(hers)
	for _, j := range []*scheduler.Job{first, second} {
		require.NoError(t, j.Wait(t.Context()))
		j.Rest()
	}
	a := c.do("POST", "/api/run", run)
	a.refused(
		t, 429,
		"2 of your questions are being worked on already; wait for one of them to end, or close what you do not need.",
	)
	require.Equal(t, "2", a.head.Get("Retry-After"))
	require.Equal(t, 200, other.do("POST", "/api/run", run).code)
	first.Leave()
	require.Equal(t, 200, c.do("POST", "/api/run", run).code)
	second.Leave()
	require.Zero(t, shared.Stats().Bytes, "what runs booked is given back")
}

// What people make up is no label of a metric.
func TestMetricsHaveFixedLabels(t *testing.T) {
	g := harness.Start(t)
	c := stranger(t, g)
	for i := range 20 {
		c.do(fmt.Sprintf("X%d", i), "/api/session", nil)
	}
	a := c.do("GET", "/metrics", nil)
	require.Equal(t, http.StatusOK, a.code)
	require.Contains(t, a.text, `method="other"`)
	require.NotContains(t, a.text, "X7")
}

// What is opened as a file by people holds no formula that a spreadsheet would carry out.
func TestExportsForPeopleAreGuarded(t *testing.T) {
	g := harness.Start(t)
	_, err := g.DB.Exec(
		t.Context(),
		`UPDATE claims SET note = '=HYPERLINK("http://evil.example")' WHERE id = (SELECT min(id) FROM claims)`,
	)
	require.NoError(t, err)
	c := person(t, g, 0)
	require.Equal(t, 204, c.do("POST", "/api/refresh", nil).code)
	doc := claims(map[string]any{
		"columns": []any{field("note"), field("claimed")},
		"filter":  map[string]any{"all": []any{map[string]any{"field": "note", "op": "starts", "value": "=HYPER"}}},
	})
	key := c.do("POST", "/api/views", map[string]any{"name": "Notes", "document": doc}).body["key"].(string)
	plain := c.do("GET", "/api/views/"+key+"/result", nil)
	require.Contains(t, plain.text, "\n\"=HYPERLINK(", "a program gets the text as it is")
	guarded := c.do("GET", "/api/views/"+key+"/result?people=true", nil)
	require.Contains(t, guarded.text, "\n\"'=HYPERLINK(")
	require.Equal(t, strings.Count(plain.text, "\n"), strings.Count(guarded.text, "\n"))
}
