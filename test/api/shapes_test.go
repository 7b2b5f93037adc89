package api

import (
	"fmt"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/test/harness"
)

// list reads a list out of an answer, each item by one key as text.
func (a answer) list(t *testing.T, name, key string) (out []string) {
	t.Helper()
	for _, item := range a.body[name].([]any) {
		switch v := item.(map[string]any)[key].(type) {
		case string:
			out = append(out, v)
		case float64:
			out = append(out, strconv.Itoa(int(v)))
		default:
			out = append(out, "")
		}
	}
	return out
}

// A crosstab's columns say which group across they belong to; the last is of all.
func TestCrosstabOverHTTP(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	view := claims(map[string]any{
		"groups": []any{map[string]any{"field": "category"}}, "across": []any{map[string]any{"field": "status"}},
	})
	a := c.do("POST", "/api/run", map[string]any{"view": view, "depth": 5, "limit": 100})
	require.Equal(t, 200, a.code, a.text)
	columns := a.body["columns"].([]any)
	last := columns[len(columns)-1].(map[string]any)
	require.Equal(t, []any{}, last["across"])
	require.Equal(t, true, last["whole"])
	for i, line := range a.body["lines"].([]any) {
		require.EqualValues(t, 1, line.(map[string]any)["level"], "line %d", i)
		require.Len(t, line.(map[string]any)["cells"], len(columns))
	}
	grand := a.body["grand"].(map[string]any)["cells"].([]any)
	require.Equal(
		t, g.Ask(t, `SELECT to_char(sum(claimed), 'FM999,999,990.00') FROM claims`), grand[len(grand)-1],
	)
	for i, column := range columns[:len(columns)-1] {
		status := column.(map[string]any)["across"].([]any)[0].(string)
		want := g.Ask(
			t,
			`SELECT coalesce(to_char(sum(claimed), 'FM999,999,990.00'), '') FROM claims WHERE coalesce(status, '') = $1`,
			status,
		)
		require.Equal(t, want, grand[i], status)
		x := c.do("POST", "/api/explain", map[string]any{"view": view, "column": i})
		require.Equal(
			t, g.Ask(t, `SELECT count(*)::text FROM claims WHERE coalesce(status, '') = $1`, status),
			strconv.Itoa(int(x.body["records"].(float64))),
		)
		require.Equal(t, []any{status}, x.body["groups"])
	}
}

// Both sides of a comparison, with what each is called.
func TestComparisonOverHTTP(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	view := claims(map[string]any{
		"filter": map[string]any{
			"field": "opened_at", "op": "in", "period": map[string]any{"which": "last", "unit": "month"},
		},
		"compare": map[string]any{"with": "before"}, "groups": []any{map[string]any{"field": "category"}},
	})
	a := c.do("POST", "/api/run", map[string]any{"view": view, "depth": 0, "limit": 100})
	require.Equal(t, 200, a.code, a.text)
	require.Equal(t, []string{"", "other", "change", "percent"}, a.list(t, "columns", "part"))
	require.Equal(t, []string{"", "period before", "change", "change in percent"}, a.list(t, "columns", "side"))
	month := func(back string) string {
		return ` FROM claims WHERE opened_at >= date_trunc('month', now()) - interval '` + back + ` months' AND opened_at < date_trunc('month', now()) - interval '` + back + ` months' + interval '1 month'`
	}
	tally := a.body["tally"].(map[string]any)
	require.Equal(t, g.Ask(t, `SELECT count(*)::text`+month("1")), strconv.Itoa(int(tally["kept"].(float64))))
	require.Equal(t, g.Ask(t, `SELECT count(*)::text`+month("2")), strconv.Itoa(int(tally["others"].(float64))))
	cells := a.body["grand"].(map[string]any)["cells"].([]any)
	require.Equal(t, g.Ask(t, `SELECT to_char(sum(claimed), 'FM999,999,990.00')`+month("2")), cells[1])
	x := c.do("POST", "/api/explain", map[string]any{"view": view, "column": 1})
	require.Equal(t, 200, x.code, x.text)
	require.Contains(t, x.body["sentence"], "Total claimed, period before of ")
	require.Equal(t, cells[1], x.body["value"])
}

// A total's explanation counts what went in and what was passed over; its spread
// counts every record.
func TestExplanationAndSpreadOverHTTP(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	view := claims(map[string]any{
		"columns": []any{
			map[string]any{"field": "paid", "totals": []any{map[string]any{"fn": "average"}}},
			map[string]any{"field": "share"},
		},
		"calculated": []any{
			map[string]any{"key": "share", "label": "Share paid", "formula": "SUM(Paid) / SUM(Claimed)"},
			map[string]any{"key": "odd", "label": "Odd", "formula": "Paid / (Claimed - Claimed)"},
		},
		"groups": []any{map[string]any{"field": "category"}},
	})
	run := c.do("POST", "/api/run", map[string]any{"view": view, "depth": 0, "limit": 10})
	require.Equal(t, 200, run.code, run.text)
	problems := run.body["tally"].(map[string]any)["problems"].([]any)
	failed := g.Ask(t, `SELECT count(paid)::text FROM claims`)
	problem := problems[0].(map[string]any)
	require.Equal(
		t, failed+" records have no Odd because they divide by zero", problem["text"],
		"calculated, though no column shows it",
	)
	// The problem leads to its records.
	view["filter"] = map[string]any{"all": []any{problem["condition"]}}
	led := c.do("POST", "/api/run", map[string]any{"view": view, "depth": 0, "limit": 0})
	require.Equal(t, failed, fmt.Sprint(led.body["tally"].(map[string]any)["kept"]))
	require.Contains(t, led.text, "odd could not be worked out")
	delete(view, "filter")
	first := run.body["lines"].([]any)[0].(map[string]any)
	label, group := first["label"].(string), first["group"].(string)
	x := c.do("POST", "/api/explain", map[string]any{"view": view, "column": 0, "group": group})
	require.Equal(t, 200, x.code, x.text)
	counted := g.Ask(t, `SELECT count(paid)::text FROM claims WHERE category = $1`, label)
	blanks := g.Ask(t, `SELECT (count(*) - count(paid))::text FROM claims WHERE category = $1`, label)
	require.Equal(
		t, counted+" "+blanks,
		strconv.Itoa(int(x.body["counted"].(float64)))+" "+strconv.Itoa(int(x.body["blanks"].(float64))),
	)
	require.Equal(t, []any{label}, x.body["groups"])
	require.Contains(
		t, x.body["sentence"],
		"Average paid of "+g.Ask(
			t, `SELECT count(*)::text FROM claims WHERE category = $1`, label,
		)+" claims in "+label+".",
	)
	x = c.do("POST", "/api/explain", map[string]any{"view": view, "column": 1})
	require.Equal(t, "SUM(Paid) / SUM(Claimed)", x.body["formula"])
	require.Contains(t, x.body["sentence"], "Calculated as SUM(Paid) / SUM(Claimed).")

	for _, field := range []string{"paid", "opened_at", "status", "odd"} {
		d := c.do("POST", "/api/distribution", map[string]any{"view": view, "field": field, "bins": 20})
		require.Equal(t, 200, d.code, d.text)
		total := int(d.body["blankAll"].(float64))
		for _, n := range d.list(t, "bins", "all") {
			all, err := strconv.Atoi(n)
			require.NoError(t, err)
			total += all
		}
		require.Equal(t, g.Ask(t, `SELECT count(*)::text FROM claims`), strconv.Itoa(total), field)
	}
	share := c.do("POST", "/api/distribution", map[string]any{"view": view, "field": "share", "bins": 20})
	share.refused(t, 422, "is calculated from totals; single records have no value of it")
	require.False(t, strings.Contains(share.text, "goroutine"))
}

// A line of a record says what opens it; a group's and a total's do not. The catalog
// says which records lead to which.
func TestRecordsHaveAddresses(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	lines := func(doc map[string]any, depth int) []any {
		a := c.do("POST", "/api/run", map[string]any{"view": doc, "depth": depth, "limit": 40})
		require.Equal(t, 200, a.code, a.text)
		return a.body["lines"].([]any)
	}
	of := func(records string, fields ...string) map[string]any {
		columns := []any{}
		for _, f := range fields {
			columns = append(columns, map[string]any{"field": f})
		}
		return map[string]any{"gavrik": 1, "records": records, "columns": columns}
	}
	for records, field := range map[string]string{
		"bookings": "ref", "booking_lines": "id", "vessels": "name", "staff": "name",
	} {
		for _, l := range lines(of(records, field, "id"), 0) {
			line := l.(map[string]any)
			require.Equal(t, strings.ReplaceAll(line["cells"].([]any)[0].(string), ",", ""), line["record"], records)
		}
	}
	grouped := of("claims", "ref")
	grouped["groups"] = []any{map[string]any{"field": "category"}}
	seen := map[bool]int{}
	for _, l := range lines(grouped, 1) {
		line := l.(map[string]any)
		require.Equal(t, line["group"] == nil, line["record"] != nil, "a group is no record")
		seen[line["record"] != nil]++
	}
	require.Positive(t, seen[true])
	require.Positive(t, seen[false])

	ways := map[string]bool{}
	for _, s := range c.do("GET", "/api/catalog", nil).body["sets"].([]any) {
		set := s.(map[string]any)
		for _, l := range set["linkedBy"].([]any) {
			link := l.(map[string]any)
			ways[fmt.Sprint(set["key"], " < ", link["records"], " by ", link["by"])] = true
		}
	}
	for _, way := range []string{
		"vessels < inspections by vessel", "bookings < claims by booking", "sailings < claims by booking.sailing",
	} {
		require.True(t, ways[way], way)
	}
	require.False(t, ways["vessels < claims by booking.sailing.vessel"], "three links are too far to offer")
}

// The lines of prices carry the range that PostgreSQL finds.
func TestMixesOverHTTP(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	a := c.do("POST", "/api/run", map[string]any{"depth": 0, "limit": 50, "view": map[string]any{
		"gavrik": 1, "records": "booking_lines", "groups": []any{map[string]any{"field": "item"}},
		"columns": []any{
			map[string]any{"field": "unit_price", "totals": []any{map[string]any{"fn": "average"}}},
			map[string]any{"field": "quantity", "totals": []any{map[string]any{"fn": "average"}}},
		},
	}})
	require.Equal(t, 200, a.code, a.text)
	for _, l := range a.body["lines"].([]any) {
		line := l.(map[string]any)
		want := g.Ask(
			t,
			`SELECT CASE WHEN min(unit_price) < max(unit_price) THEN min(unit_price) || ' ' || max(unit_price) ELSE '' END FROM booking_lines WHERE item = $1`,
			line["label"],
		)
		got := ""
		if mixes, ok := line["mixes"].([]any); ok {
			require.Len(t, mixes, 1, "an average quantity is no price")
			mix := mixes[0].(map[string]any)
			require.Zero(t, mix["cell"])
			got = fmt.Sprint(mix["low"], " ", mix["high"])
		}
		require.Equal(t, want, got, line["label"])
	}
}
