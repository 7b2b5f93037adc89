package api

import (
	"fmt"
	"net/url"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/test/harness"
)

// From any group, of a crosstab too, the conditions lead to exactly its records, as
// PostgreSQL counts them.
func TestBehindAFigureOverHTTP(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	view := claims(map[string]any{
		"groups": []any{
			map[string]any{"field": "category"}, map[string]any{"field": "opened_at", "unit": "weekday"},
		},
		"across": []any{map[string]any{"field": "status"}},
	})
	run := c.do("POST", "/api/run", map[string]any{"view": view, "depth": 1, "limit": 20})
	require.Equal(t, 200, run.code, run.text)
	line := run.body["lines"].([]any)[3].(map[string]any) // a weekday of the first category
	columns := run.body["columns"].([]any)
	at := len(columns) - 3 // the last one but one across; behind them all records
	column := columns[at].(map[string]any)
	a := c.do("POST", "/api/behind", map[string]any{"view": view, "group": line["group"], "column": at})
	require.Equal(t, 200, a.code, a.text)
	labels := a.body["labels"].([]any)
	require.Equal(t, []any{line["label"], column["across"].([]any)[0]}, labels[1:])
	bare := claims(map[string]any{"filter": map[string]any{"all": a.body["conditions"]}})
	kept := c.do("POST", "/api/run", map[string]any{
		"view": bare, "depth": 0, "limit": 0,
	}).body["tally"].(map[string]any)["kept"]
	want := g.Ask(
		t,
		`SELECT count(*)::text FROM claims WHERE category = $1 AND to_char(opened_at, 'FMDay') = $2 AND status = $3`,
		labels[0], labels[1], labels[2],
	)
	require.Equal(t, want, fmt.Sprint(kept))
	require.NotEqual(t, "0", want)
	c.do("POST", "/api/behind", map[string]any{
		"view": view, "group": "\x1fno such group", "column": -1,
	}).refused(t, 404, "There is no group")
	c.do("POST", "/api/behind", map[string]any{
		"view": view, "column": 4000,
	}).refused(t, 404, "There is no column 4000")
}

// A chart's marks are the ledger's figures, and together what PostgreSQL adds up.
func TestChartOverHTTP(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	view := claims(map[string]any{
		"groups": []any{map[string]any{"field": "category"}, map[string]any{"field": "opened_at", "unit": "month"}},
		"chart":  map[string]any{"field": "claimed"},
	})
	a := c.do("POST", "/api/run", map[string]any{"view": view, "depth": 0, "limit": 20})
	require.Equal(t, 200, a.code, a.text)
	chart := a.body["chart"].(map[string]any)
	require.Equal(t, "stacked", chart["kind"])
	require.Equal(t, []any{"Month opened", "Category"}, []any{chart["axis"], chart["by"]})
	sum := 0.0
	for _, s := range chart["series"].([]any) {
		for _, m := range s.(map[string]any)["marks"].([]any) {
			if v, ok := m.(map[string]any)["value"].(float64); ok {
				sum += v
			}
		}
	}
	require.Equal(t, g.Ask(t, `SELECT sum(claimed)::text FROM claims`), fmt.Sprintf("%.2f", sum))
	require.Nil(
		t,
		c.do("POST", "/api/run", map[string]any{"view": view, "depth": 0, "limit": 5, "offset": 5}).body["chart"],
		"once is enough",
	)
	view["chart"] = map[string]any{"kind": "cake"}
	require.Equal(t, 422, c.do("POST", "/api/run", map[string]any{"view": view, "depth": 0, "limit": 5}).code)
}

// A field is found by what it holds: a port by its name, through every way to it.
func TestFieldsAreFoundByTheirValues(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	port := g.Ask(t, `SELECT name FROM ports ORDER BY name LIMIT 1`)
	a := c.do("GET", "/api/catalog/claims/holding?text="+url.QueryEscape(port[:len(port)-1]), nil)
	require.Equal(t, 200, a.code, a.text)
	require.Contains(t, a.list(t, "fields", "path"), "booking.sailing.route.from_port.name")
	require.Contains(t, a.text, port)
	require.Empty(t, c.do("GET", "/api/catalog/claims/holding?text=nothing%20holds%20this", nil).body["fields"])
	c.do("GET", "/api/catalog/nowhere/holding?text=x", nil).refused(t, 404, "There is no record set")
}

// Two tabs do not overwrite each other's draft, and a link to a state leads others to
// it, for ever the same.
func TestDraftsAndStates(t *testing.T) {
	g := harness.Start(t)
	tamsin, jory := person(t, g, 0), person(t, g, 1)
	put := func(c *client, id, state string, revision int, label string) answer {
		d := drafted(state, revision)
		d["document"] = claims(map[string]any{"columns": []any{map[string]any{"field": "ref", "heading": label}}})
		return c.do("PUT", "/api/drafts/"+id, d)
	}
	require.EqualValues(t, 1, put(tamsin, "draftone1", "stateonestateone", 0, "one").body["revision"])
	require.EqualValues(t, 2, put(tamsin, "draftone1", "statetwostatetwo", 1, "two").body["revision"])
	put(tamsin, "draftone1", "statethreestate3", 1, "of another tab").refused(t, 409, "Another tab has gone on")
	put(tamsin, "draftone1", "statethreestate3", 0, "of another tab").refused(t, 409, "Another tab has gone on")
	require.EqualValues(t, 1, put(tamsin, "drafttwo2", "statethreestate3", 0, "of another tab").body["revision"])
	put(tamsin, "drafttwo2", "statetwostatetwo", 1, "forged").refused(t, 409, "stands for another state")

	mine := tamsin.do("GET", "/api/drafts?place=/new/claims", nil)
	require.Equal(t, []string{"drafttwo2", "draftone1"}, mine.list(t, "drafts", "id"))
	require.Contains(t, mine.text, `"two"`)
	require.Empty(t, jory.do("GET", "/api/drafts", nil).body["drafts"], "drafts are their author's")
	require.Equal(t, 204, jory.do("DELETE", "/api/drafts/draftone1", nil).code)
	require.Len(t, tamsin.do("GET", "/api/drafts", nil).body["drafts"], 2)
	require.Equal(t, 204, tamsin.do("DELETE", "/api/drafts/draftone1", nil).code)

	// The link outlives the draft.
	st := jory.do("GET", "/api/states/stateonestateone", nil)
	require.Contains(t, st.text, `"one"`)
	require.Equal(t, "Tamsin Marlow", st.body["by"])
	jory.do("GET", "/api/states/nosuchstatehere", nil).refused(t, 404, "This link leads nowhere")
	require.Equal(t, 422, put(tamsin, "Bad'id", "stateonestateone", 0, "x").code)
}

func TestChangesOverHTTP(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	filtered := func(amount string) map[string]any {
		return claims(map[string]any{
			"filter": map[string]any{"all": []any{map[string]any{"field": "claimed", "op": "over", "value": amount}}},
		})
	}
	a := c.do("POST", "/api/changes", map[string]any{"from": filtered("25"), "to": filtered("50")})
	require.Equal(t, []any{"claimed is over 25.00 became claimed is over 50.00"}, a.body["changes"])
	c.do("POST", "/api/changes", map[string]any{
		"from": filtered("25"), "to": filtered("much"),
	}).refused(t, 422, "filter.all[0].value")
}
