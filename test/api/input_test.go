package api

import (
	"encoding/json"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/view"
	"gavrik/test/harness"
)

func decode(t *testing.T, text []byte, into any) {
	t.Helper()
	require.NoError(t, json.Unmarshal(text, into))
}

func TestBadInputIsRefusedInWords(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	run := func(doc any) any { return map[string]any{"view": doc, "depth": 0, "limit": 5} }
	where := func(condition map[string]any) any { return run(claims(map[string]any{"filter": condition})) }
	many := make([]any, 60)
	for i := range many {
		many[i] = map[string]any{"field": "nothing"}
	}
	for _, l := range []struct {
		path  string
		send  any
		code  int
		words string
	}{
		{"/api/run", `{"view":`, 400, "unexpected end of JSON"},
		{
			"/api/run", run(map[string]any{"gavrik": 1, "records": "claims", "columns": []any{}, "colour": "red"}),
			422, "body.view.colour",
		},
		{
			"/api/run", `{"view":{"gavrik":1,"records":"claims","columns":{}},"depth":0,"limit":5}`, 422,
			`"code":"value-kind"`,
		},
		{
			"/api/run", `{"view":{"gavrik":1,"gavrik":1,"records":"claims","columns":[]},"depth":0,"limit":5}`, 422,
			`the key \"gavrik\" stands twice`,
		},
		{
			"/api/run", `{"view":{"gavrik":1,"records":"claims","columns":[null]},"depth":0,"limit":5}`, 422,
			"body.view.columns[0]",
		},
		{
			"/api/run", run(map[string]any{"gavrik": 3, "records": "claims", "columns": []any{}}), 422,
			"this program reads up to 1",
		},
		{
			"/api/run", run(map[string]any{"gavrik": 1, "records": "clams", "columns": []any{}}), 422,
			`did you mean \"claims\"?`,
		},
		{"/api/run", run(claims(map[string]any{"columns": many})), 422, "body.view.columns[59].field"},
		{
			"/api/run", where(map[string]any{"field": "claimed", "op": "starts", "value": "1"}), 422,
			"body.view.filter.op",
		},
		{
			"/api/run", where(map[string]any{"field": "status'; DROP TABLE claims; --", "op": "is", "value": "x"}),
			422, "Claims have no field",
		},
		{
			"/api/run", where(map[string]any{"field": "status", "op": "is", "other": "claimed"}), 422,
			"cannot be compared",
		},
		{"/api/run", map[string]any{"view": claims(nil), "depth": 99, "limit": 5}, 422, "body.depth"},
		{"/api/run", map[string]any{"view": claims(nil), "depth": 0, "limit": 1_000_000}, 422, "body.limit"},
		{
			"/api/run", `{"view":{"gavrik":1,"records":"` + strings.Repeat("x", 9<<20) + `"}}`, 413,
			"body is too large",
		},
		{
			"/api/values", map[string]any{"view": claims(nil), "field": "stats", "limit": 5}, 422,
			`did you mean \"status\"?`,
		},
		{
			"/api/distribution", map[string]any{"view": claims(nil), "field": "stats", "bins": 20}, 422,
			`did you mean \"status\"?`,
		},
		{"/api/distribution", map[string]any{"view": claims(nil), "field": "status", "bins": 2}, 422, "body.bins"},
		{
			"/api/explain", map[string]any{"view": claims(nil), "column": 7}, 404,
			"There is no total to explain in column 7.",
		},
		{
			"/api/explain", map[string]any{"view": claims(nil), "column": 0, "group": "Gone"}, 404,
			"There is no group",
		},
		{
			"/api/run", run(claims(map[string]any{"across": []any{map[string]any{"field": "ref"}}})), 422,
			"Ref across makes",
		},
		{
			"/api/run",
			run(claims(
				map[string]any{
					"calculated": []any{map[string]any{"key": "net", "label": "Net", "formula": "claimd * 2"}},
				},
			)),
			422, "body.view.calculated[0].formula",
		},
		{"/api/views", map[string]any{"name": "  ", "document": claims(nil)}, 422, "A view needs a name."},
		{"/api/views", map[string]any{"name": strings.Repeat("n", 121), "document": claims(nil)}, 422, "body.name"},
		{
			"/api/views",
			map[string]any{
				"name": "broken", "document": claims(map[string]any{"groups": []any{map[string]any{"field": "moon"}}}),
			},
			422, "groups[0].field",
		},
	} {
		c.do("POST", l.path, l.send).refused(t, l.code, l.words)
	}
	// What the schema takes is taken: 100.0 is a whole number.
	require.Equal(
		t, 200,
		c.do(
			"POST", "/api/run",
			`{"view":{"gavrik":1,"records":"claims","columns":[{"field":"ref","width":100.0}]},"depth":0,"limit":5}`,
		).code,
	)
	c.do("GET", "/api/catalog/nothing/fields", nil).refused(t, 404, `There is no record set`)
	c.do("GET", "/api/nothing", nil).refused(t, 404, "There is nothing at this address.")
	require.Equal(t, "2000", g.Ask(t, "SELECT count(*)::text FROM claims"))
}

func TestScriptInNamesAndValuesStaysText(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	const script = `<script>alert("x")</script>`
	a := c.save(script, true)
	require.Equal(t, 201, a.code, a.text)
	require.Equal(t, script, c.do("GET", "/api/views/"+a.body["key"].(string), nil).body["name"])
	page := c.do("GET", "/v/"+a.body["key"].(string), nil)
	require.Equal(t, 200, page.code)
	require.NotContains(t, page.text, "alert")
	require.Contains(t, page.head.Get("Content-Security-Policy"), "default-src 'self'")
	require.Equal(t, "nosniff", page.head.Get("X-Content-Type-Options"))
}

func TestSavedDocumentsComeBackAsTheyWere(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	doc := `{"gavrik":1,"records":"claims","columns":[{"field":"ref","heading":"№","width":90}],"filter":{"all":[{"any":[]},{"field":"ref","op":"one_of","values":["",
		"Zoë"]},{"field":"opened_at","op":"in","period":{"which":"this","unit":"week"}}]},"groups":[{"field":"status","order":{"by":"count","desc":true}}],"sort":[{"field":"claimed"}]}`
	a := c.do("POST", "/api/views", `{"name":"As it was","description":"d","document":`+doc+`}`)
	require.Equal(t, 201, a.code, a.text)
	text, err := json.Marshal(a.body["document"])
	require.NoError(t, err)
	require.JSONEq(t, doc, string(text))
	_, err = view.Parse(text)
	require.NoError(t, err)
}

func TestTwoSavers(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	key := c.save("Both", true).body["key"].(string)
	put := func(name string, base int) answer {
		return c.do("PUT", "/api/views/"+key, map[string]any{"name": name, "document": claims(nil), "base": base})
	}
	require.Equal(t, 200, put("First", 1).code)
	put("Second", 1).refused(t, 409, "was saved elsewhere while you worked, so nothing was written")
	require.Equal(t, "First", c.do("GET", "/api/views/"+key, nil).body["name"])
	require.Equal(t, float64(3), put("Second", 2).body["version"])
	require.Equal(
		t, "3",
		g.Ask(
			t,
			"SELECT count(*)::text FROM gavrik.view_versions n JOIN gavrik.views v ON v.id = n.view_id WHERE key = $1",
			key,
		),
		"every version is kept",
	)
	// Of many at once from one version, exactly one is written.
	var wg sync.WaitGroup
	codes := make([]int, 8)
	for i := range codes {
		wg.Go(func() { codes[i] = put("Race", 3).code })
	}
	wg.Wait()
	won := 0
	for _, code := range codes {
		require.Contains(t, []int{200, 409}, code)
		won += map[int]int{200: 1}[code]
	}
	require.Equal(t, 1, won)
}

func TestUnsharingTakesAFavoriteAway(t *testing.T) {
	g := harness.Start(t)
	owner, other := person(t, g, 0), person(t, g, 1)
	key := owner.save("Watched", true).body["key"].(string)
	require.Equal(
		t, 200, owner.do("PUT", "/api/views/"+key+"/favorite", map[string]any{"on": true, "everyone": true}).code,
	)
	require.Equal(t, 200, other.do("PUT", "/api/views/"+key+"/favorite", map[string]any{"on": true}).code)
	require.Contains(t, other.do("GET", "/api/favorites", nil).text, "Watched")
	a := owner.do("PUT", "/api/views/"+key+"/shares", map[string]any{"shares": []any{}})
	require.Equal(t, 200, a.code, a.text)
	require.Equal(t, false, a.body["everyones"])
	require.NotContains(t, other.do("GET", "/api/favorites", nil).text, "Watched")
}

func TestAViewOutlivesItsField(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	a := c.do("POST", "/api/views", map[string]any{
		"name":     "With a note",
		"document": claims(map[string]any{"columns": []any{map[string]any{"field": "note"}}}),
	})
	require.Equal(t, 201, a.code, a.text)
	_, err := g.DB.Exec(t.Context(), "ALTER TABLE claims RENAME COLUMN note TO remark")
	require.NoError(t, err)
	require.Equal(t, 204, c.do("POST", "/api/refresh", nil).code)
	list := c.do("GET", "/api/views", nil)
	require.Equal(t, 200, list.code)
	require.Contains(t, list.text, `Columns[0].field: Claims have no field \"note\"`)
	key := a.body["key"].(string)
	require.Equal(t, 200, c.do("GET", "/api/views/"+key, nil).code, "it still opens, to be mended")
}

func TestHealthAndMetrics(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	c.do("POST", "/api/run", map[string]any{"view": claims(nil), "depth": 0, "limit": 1})
	require.Equal(t, "ok\n", c.do("GET", "/healthz", nil).text)
	metrics := c.do("GET", "/metrics", nil).text
	require.Contains(t, metrics, "gavrik_run_seconds_count 1")
	require.Contains(t, metrics, `gavrik_http_request_seconds_count{method="POST",status="200"} 2`)
	g.Store.Close()
	require.Equal(t, 503, c.do("GET", "/healthz", nil).code)
	c.do("GET", "/api/session", nil).refused(t, 503, "The database does not answer.")
}

// The front end's own addresses answer with its page; its files may be kept for
// ever, since their names change with their content; all else is not found.
func TestFrontEndFiles(t *testing.T) {
	g := harness.Start(t)
	c := stranger(t, g)
	page := c.do("GET", "/new/claims", nil)
	require.Equal(t, 200, page.code)
	require.Equal(t, "no-cache", page.head.Get("Cache-Control"))
	_, rest, found := strings.Cut(page.text, `src="/assets/`)
	require.True(t, found, "the front end is built: make build")
	script, _, _ := strings.Cut(rest, `"`)
	file := c.do("GET", "/assets/"+script, nil)
	require.Equal(t, 200, file.code)
	require.Contains(t, file.head.Get("Cache-Control"), "immutable")
	require.Contains(t, file.head.Get("Content-Type"), "javascript")
	c.do("GET", "/api/", nil).refused(t, 404, "There is nothing at this address.")
	require.Equal(t, 404, c.do("GET", "/assets/../../etc/passwd", nil).code, "no way leads out of the files")
}

// Favorites of one's own come and go without touching others'.
func TestFavoritesOfOnesOwn(t *testing.T) {
	g := harness.Start(t)
	owner, other := person(t, g, 0), person(t, g, 1)
	key := owner.save("Kept at hand", true).body["key"].(string)
	set := func(c *client, on bool) answer {
		return c.do("PUT", "/api/views/"+key+"/favorite", map[string]any{"on": on})
	}
	for range 2 { // doing it twice is doing it once
		require.Equal(t, true, set(other, true).body["mine"])
	}
	require.NotContains(t, owner.do("GET", "/api/favorites", nil).text, "Kept at hand")
	require.Contains(t, other.do("GET", "/api/favorites", nil).text, "Kept at hand")
	require.Equal(t, false, set(owner, false).body["mine"])
	require.Contains(t, other.do("GET", "/api/favorites", nil).text, "Kept at hand")
	require.Equal(t, false, set(other, false).body["mine"])
	require.NotContains(t, other.do("GET", "/api/favorites", nil).text, "Kept at hand")
}
