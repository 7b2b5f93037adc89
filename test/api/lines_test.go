package api

import (
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/test/harness"
)

// Further lines of a result are those that running the view again would give, and nobody who
// sees other records is given them.
func TestFurtherLinesByTheNameOfAResult(t *testing.T) {
	g := harness.Start(t)
	admin, wen := person(t, g, 0), person(t, g, 2) // whose bookings are restricted
	doc := document("bookings", field("ref"), summed("fare"))
	doc["groups"] = []any{map[string]any{"field": "channel"}}
	doc["sort"] = []any{map[string]any{"field": "fare", "desc": true}}
	asked := func(limit int, more map[string]any) map[string]any {
		out := map[string]any{"depth": 1, "limit": limit, "toggled": []any{}}
		for key, v := range more {
			out[key] = v
		}
		return out
	}
	first := admin.do("POST", "/api/run", asked(10, map[string]any{"view": doc}))
	require.Equal(t, 200, first.code, first.text)
	name := first.body["result"].(string)
	require.NotEmpty(t, name)
	group := first.body["lines"].([]any)[0].(map[string]any)["group"]
	for _, more := range []map[string]any{
		{"offset": 10}, {"offset": 700, "plain": true}, {"offset": 1, "toggled": []any{group}}, {"offset": 1 << 30},
		{"depth": -1},
	} {
		more["result"] = name
		lines := admin.do("POST", "/api/lines", asked(50, more))
		require.Equal(t, 200, lines.code, lines.text)
		delete(more, "result")
		more["view"] = doc
		again := admin.do("POST", "/api/run", asked(50, more))
		for _, part := range []string{"lines", "above", "total", "offset"} {
			require.Equal(t, again.body[part], lines.body[part], "%s of %v", part, more)
		}
	}
	const words = "run the view again"
	wen.do("POST", "/api/lines", asked(10, map[string]any{"result": name})).refused(t, 410, words)
	admin.do("POST", "/api/lines", asked(10, map[string]any{"result": "nothing"})).refused(t, 410, words)
	// What she sees has a result of its own; the administrator does not see by her name.
	hers := wen.do("POST", "/api/run", asked(10, map[string]any{"view": doc}))
	require.Equal(t, 200, hers.code, hers.text)
	require.NotEqual(t, first.body["total"], hers.body["total"])
	own := wen.do("POST", "/api/lines", asked(10, map[string]any{"result": hers.body["result"]}))
	require.Equal(t, hers.body["lines"], own.body["lines"])
	admins := admin.do("POST", "/api/lines", asked(10, map[string]any{"result": hers.body["result"]}))
	require.NotEqual(t, own.body["lines"], admins.body["lines"])
}
