package api

import (
	"fmt"
	"net/url"
	"strconv"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/test/harness"
)

func dock(more map[string]any) map[string]any {
	out := map[string]any{"label": "Refit from", "meaning": "First day.", "type": "date", "fill": map[string]any{"role": "analyst"}}
	for k, v := range more {
		out[k] = v
	}
	return out
}

// A fact is a field like any other from the moment it is filled in, for everybody, and through
// loading again; who filled in what is kept; nobody writes over another unseen.
func TestAFactIsAFieldLikeAnyOther(t *testing.T) {
	g := harness.Start(t)
	tamsin, jory, wen := person(t, g, 0), person(t, g, 1), person(t, g, 2)
	made := tamsin.do("POST", "/api/facts/vessels", dock(nil))
	require.Equal(t, 201, made.code, made.text)
	require.Equal(t, "refit_from", made.body["key"])
	require.Equal(t, "name", made.body["by"], "the vessel is known by it")
	at := "/api/facts/vessels/refit_from"
	value := func(record, value string, was ...string) map[string]any {
		out := map[string]any{"record": record, "value": value}
		if len(was) > 0 {
			out["was"] = was[0]
		}
		return out
	}
	fill := func(c *client, values ...any) answer {
		return c.do("POST", at+"/values", map[string]any{"values": values})
	}
	first, second := g.Ask(t, "SELECT name FROM vessels ORDER BY id LIMIT 1"), g.Ask(t, "SELECT name FROM vessels ORDER BY id OFFSET 1 LIMIT 1")
	a := fill(jory, value(first, "2026-12-01", ""), value(second, "14 Jan 2027", ""), value("Nobody’s", "2026-12-01"), value(first, "2027-01-01"))
	require.Equal(t, 200, a.code, a.text)
	require.Equal(t, [3]any{2.0, 2.0, 2.0}, [3]any{a.body["written"], a.body["new"], a.body["unreads"]})
	batch := a.body["batch"]

	// A field of every kind: column, condition, group, formula, through links, of a limited reader.
	doc := document("sailings", map[string]any{"field": "days"})
	doc["calculated"] = []any{map[string]any{"key": "days", "label": "Days", "formula": "DAYS('Vessel refit from'; DATE(2026; 12; 31))"}}
	doc["groups"] = []any{map[string]any{"field": "vessel.refit_from", "unit": "month"}}
	doc["filter"] = map[string]any{"all": []any{map[string]any{"field": "vessel.refit_from", "op": "filled"}}}
	kept := g.Ask(t, "SELECT count(*)::text FROM sailings s JOIN vessels v ON v.id = s.vessel_id WHERE v.name IN ($1, $2)", first, second)
	for _, c := range []*client{tamsin, jory, wen} {
		run := c.do("POST", "/api/run", map[string]any{"view": doc, "depth": 1, "limit": 10, "plain": true})
		require.Equal(t, 200, run.code, run.text)
		require.Equal(t, kept, fmt.Sprint(run.body["tally"].(map[string]any)["kept"]))
		require.Contains(t, run.text, `"label":"2026-12-01"`)
	}
	require.Equal(t, 204, tamsin.do("POST", "/api/refresh", nil).code)
	now := func(record string) string {
		a := jory.do("GET", at+"/history?record="+url.QueryEscape(record), nil)
		require.Equal(t, 200, a.code, a.text)
		return a.body["now"].(string)
	}
	require.Equal(t, "2026-12-01", now(first), "loading again loses nothing")

	// Two at once: the later is told, and nothing of hers is written over it.
	require.Equal(t, 200, fill(tamsin, value(first, "2026-12-05", "2026-12-01")).code)
	a = fill(jory, value(first, "2026-12-24", "2026-12-01"))
	require.Equal(t, 0.0, a.body["written"])
	held := a.body["held"].([]any)[0].(map[string]any)
	require.Equal(t, [2]any{"2026-12-05", "Tamsin Marlow"}, [2]any{held["value"], held["by"]})
	// Undoing puts back what nobody has touched since.
	a = jory.do("POST", at+"/undo", map[string]any{"batch": batch})
	require.Equal(t, 1.0, a.body["written"], a.text)
	require.Equal(t, [2]string{"2026-12-05", ""}, [2]string{now(first), now(second)})
	tamsin.do("POST", at+"/undo", map[string]any{"batch": batch}).refused(t, 404, "not yours")
	history := jory.do("GET", at+"/history?record="+url.QueryEscape(second), nil).body["changes"].([]any)
	require.Len(t, history, 2)
	require.Equal(t, "14 Jan 2027", history[0].(map[string]any)["before"])

	// Who may.
	fill(wen, value(first, "2026-12-01")).refused(t, 403, "not yours to fill in. Ask Tamsin Marlow")
	jory.do("POST", "/api/facts/ports", dock(nil)).refused(t, 403, "Only administrators add facts here")
	require.Equal(t, 204, tamsin.do("PUT", "/api/fact-adding", map[string]any{"analysts": true}).code)
	require.Equal(t, 201, jory.do("POST", "/api/facts/ports", dock(map[string]any{"label": "Pilot", "type": "text", "choices": []string{"yes", "on call"}})).code)

	// Words that cannot be read are told, each in its place; the others are looked at.
	a = tamsin.do("POST", at+"/values", map[string]any{"check": true, "values": []any{
		value(first, "3/4/2027"), value(second, "2027-02-30"), value(g.Ask(t, "SELECT name FROM vessels ORDER BY id OFFSET 2 LIMIT 1"), "5.6.2027"),
	}})
	require.Equal(t, 1.0, a.body["new"], a.text)
	require.Contains(t, a.text, "may be two days; write it as 2026-11-23")
	require.Equal(t, "0", g.Ask(t, "SELECT count(*)::text FROM gavrik.fact_values v JOIN gavrik.facts f ON f.id = v.fact_id WHERE f.key = 'refit_from' AND value LIKE '2027%'"))

	// Many at once by another key, found by itself.
	many := []any{}
	for i := range 9 {
		many = append(many, value(strconv.Itoa(i+1), "2027-03-0"+strconv.Itoa(i+1)))
	}
	a = tamsin.do("POST", at+"/values", map[string]any{"values": many})
	require.Equal(t, [2]any{9.0, "ID"}, [2]any{a.body["written"], a.body["by"]}, a.text)

	// A record that goes takes its value out of sight, and brings it back.
	_, err := g.DB.Exec(t.Context(), "UPDATE ferry.vessels SET name = name || ' II' WHERE id = 1")
	require.NoError(t, err)
	require.Equal(t, 204, tamsin.do("POST", "/api/refresh", nil).code)
	filled := func() any {
		doc := document("vessels", field("refit_from"))
		doc["filter"] = map[string]any{"all": []any{map[string]any{"field": "refit_from", "op": "filled"}}}
		return tamsin.do("POST", "/api/run", map[string]any{"view": doc, "depth": 0, "limit": 1}).body["tally"].(map[string]any)["kept"]
	}
	require.Equal(t, 8.0, filled())
	_, err = g.DB.Exec(t.Context(), "UPDATE ferry.vessels SET name = replace(name, ' II', '') WHERE id = 1")
	require.NoError(t, err)
	require.Equal(t, 204, tamsin.do("POST", "/api/refresh", nil).code)
	require.Equal(t, 9.0, filled())

	// Taken away and brought back whole; a limited reader sees nothing that is kept from her.
	require.Equal(t, 204, tamsin.do("DELETE", at, nil).code)
	tamsin.do("GET", at+"/history?record="+url.QueryEscape(first), nil).refused(t, 404, "no such fact")
	require.Equal(t, 204, tamsin.do("POST", at+"/restore", nil).code)
	require.Equal(t, 9.0, filled())
	require.Equal(t, 204, tamsin.do("PUT", "/api/catalog/vessels/fields/refit_from/sensitive", map[string]any{"sensitive": true}).code)
	wen.do("GET", at+"/history?record="+url.QueryEscape(first), nil).refused(t, 404, "no such fact")
	require.NotContains(t, wen.do("GET", "/api/facts/vessels", nil).text, "refit_from")
}

// A fact that cannot be is refused in its place.
func TestFactsThatCannotBeAreRefused(t *testing.T) {
	g := harness.Start(t)
	tamsin := person(t, g, 0)
	for _, c := range []struct {
		fact       map[string]any
		place, why string
	}{
		{map[string]any{"label": "name"}, "body.label", "Vessels have a field “Name” already"},
		{map[string]any{"label": "…"}, "body.label", "No key can be made of the label"},
		{map[string]any{"choices": []string{"a", "b"}}, "body.choices", "Only a text is one of a list."},
		{map[string]any{"type": "text", "choices": []string{"a", "A"}}, "body.choices[1]", "is there twice"},
		{map[string]any{"type": "money", "currency": "euro"}, "body.currency", ""},
		{map[string]any{"decimals": 2}, "body.decimals", "Only numbers and money have decimals."},
	} {
		a := tamsin.do("POST", "/api/facts/vessels", dock(c.fact))
		require.Equal(t, 422, a.code, a.text)
		first := a.body["errors"].([]any)[0].(map[string]any)
		require.Equal(t, c.place, first["location"])
		require.Contains(t, first["message"], c.why)
	}
	require.Equal(t, 201, tamsin.do("POST", "/api/facts/vessels", dock(nil)).code)
	again := tamsin.do("POST", "/api/facts/vessels", dock(map[string]any{"label": "Refit: from"}))
	require.Equal(t, "refit_from_2", again.body["key"], again.text)
	change := map[string]any{"base": 1, "fact": dock(map[string]any{"label": "In dock from", "type": "text"})}
	a := tamsin.do("PUT", "/api/facts/vessels/refit_from", change)
	require.Equal(t, [2]any{"In dock from", "date"}, [2]any{a.body["label"], a.body["type"]}, a.text)
	tamsin.do("PUT", "/api/facts/vessels/refit_from", change).refused(t, 409, "Somebody else has changed this fact meanwhile")
	tamsin.do("PUT", "/api/facts/vessels/nothing", change).refused(t, 404, "no such fact")
	tamsin.do("POST", "/api/facts/nothing", dock(nil)).refused(t, 404, "no record set")
}
