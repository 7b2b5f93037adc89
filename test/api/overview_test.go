package api

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/test/harness"
)

// Looking a record set over says what PostgreSQL counts, under the filter, and what is out of the
// ordinary; a reader is told nothing of what she does not see.
func TestLookingOverCountsAndRemarks(t *testing.T) {
	g := harness.Start(t)
	admin, wen := person(t, g, 0), person(t, g, 2)
	_, err := g.DB.Exec(t.Context(), `SET search_path = ferry;
		ALTER TABLE customers ADD COLUMN since text, ADD COLUMN level int DEFAULT 3, ADD COLUMN points int, ADD COLUMN empty text;
		UPDATE customers SET since = (2000 + id % 20)::text || '-0' || (1 + id % 9)::text || '-11',
			points = CASE WHEN id % 500 = 0 THEN -1 ELSE id % 40 END, empty = NULL,
			country = CASE WHEN id % 100 = 0 THEN 'n/a' WHEN id % 100 = 1 THEN ' ENGLAND ' WHEN id % 100 = 2 THEN 'England' ELSE country END,
			joined_on = CASE WHEN id % 1000 = 0 THEN DATE '2062-01-01' ELSE joined_on END,
			name = CASE WHEN id % 800 = 0 THEN '' ELSE name END`)
	require.NoError(t, err)
	require.Equal(t, 204, admin.do("POST", "/api/refresh", nil).code)
	require.Equal(t, 200, describing{t, admin}.say("customers", map[string]any{"name": "name"}).code)
	doc := document("customers")
	doc["filter"] = map[string]any{"all": []any{map[string]any{"field": "newsletter", "op": "is", "value": "yes"}}}
	look := func(c *client, fields ...string) map[string]map[string]any {
		a := c.do("POST", "/api/overview", map[string]any{"view": doc, "fields": fields})
		require.Equal(t, 200, a.code, a.text)
		out := map[string]map[string]any{}
		for _, f := range a.body["fields"].([]any) {
			f := f.(map[string]any)
			out[f["path"].(string)] = f
		}
		return out
	}
	paths := []string{"ref", "name", "country", "joined_on", "since", "level", "points", "empty"}
	got := look(admin, paths...)
	for _, path := range paths {
		require.Equal(t, g.Ask(t, fmt.Sprintf(
			"SELECT concat_ws(' ', count(*), count(nullif(%[1]s::text, '')), count(DISTINCT nullif(%[1]s::text, ''))) FROM customers WHERE newsletter", path)),
			fmt.Sprint(got[path]["records"], " ", got[path]["filled"], " ", got[path]["distinct"]), path)
	}
	remarks := func(path string) map[string]string {
		out := map[string]string{}
		for _, r := range got[path]["remarks"].([]any) {
			r := r.(map[string]any)
			out[r["kind"].(string)] = r["words"].(string)
		}
		return out
	}
	require.Empty(t, remarks("ref"))
	require.Contains(t, remarks("name"), "name-blank")
	require.Equal(t, "“ ENGLAND ” and “England” differ in capitals, accents or spaces alone.", remarks("country")["alike"])
	require.Contains(t, remarks("country")["placeholder"], "have “n/a”, which may stand for nothing")
	require.Equal(t, g.Ask(t, "SELECT count(*) || ' customers have a date more than ten years ahead.' FROM customers WHERE newsletter AND joined_on > '2037-01-01'"),
		remarks("joined_on")["far-date"])
	require.Contains(t, remarks("since")["looser"], "could be read as a date")
	require.Contains(t, remarks("level"), "one-value")
	require.Contains(t, remarks("points"), "negative")
	require.Contains(t, remarks("empty"), "empty")
	require.Equal(t, g.Ask(t, "SELECT country FROM customers WHERE newsletter GROUP BY 1 ORDER BY count(*) DESC, 1 LIMIT 1"),
		got["country"]["commonest"].([]any)[0].(map[string]any)["label"])

	require.Equal(t, 204, admin.do("PUT", "/api/catalog/customers/fields/country/sensitive", map[string]any{"sensitive": true}).code)
	wen.do("POST", "/api/overview", map[string]any{"view": doc, "fields": []string{"country"}}).refused(t, 422, "is kept from you")
	admin.do("POST", "/api/overview", map[string]any{"view": doc, "fields": []string{"nothing"}}).refused(t, 422, "no field")
}
