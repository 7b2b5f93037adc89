package api

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/deliver"
	"gavrik/test/harness"
)

// asked asks with the header of a kept result.
func (c *client) asked(kept, path string, send any) answer {
	c.t.Helper()
	c.header["Gavrik-Kept"] = kept
	defer delete(c.header, "Gavrik-Kept")
	return c.do("POST", path, send)
}

// said is what a run says, without how long it took and what it is called.
func said(t *testing.T, a answer) map[string]any {
	t.Helper()
	require.Equal(t, 200, a.code, a.text)
	out := map[string]any{}
	for _, key := range []string{"brief", "sentence", "columns", "levels", "lines", "total", "grand"} {
		out[key] = a.body[key]
	}
	return out
}

// fetch makes a file, of a kept result if one is named, and returns it.
func (c *client) fetch(kept string, send map[string]any) string {
	c.t.Helper()
	a := c.asked(kept, "/api/exports", send)
	require.Equal(c.t, 201, a.code, a.text)
	id := a.body["id"].(string)
	c.do("GET", "/api/exports/"+id+"/progress", nil) // it ends with the file
	res, err := c.http.Get(c.base + "/api/exports/" + id + "/file")
	require.NoError(c.t, err)
	defer res.Body.Close()
	require.Equal(c.t, http.StatusOK, res.StatusCode)
	text, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	return string(text)
}

// What was kept says the same whatever becomes of the records; what became of them is said by
// PostgreSQL, and by a comparison.
func TestAKeptResultStays(t *testing.T) {
	g := harness.Start(t)
	admin := person(t, g, 0)
	doc := claims(map[string]any{
		"columns": []any{field("ref"), summed("claimed"), field("note"), field("booking.channel")},
		"groups":  []any{map[string]any{"field": "category"}},
		"filter":  map[string]any{"field": "claimed", "op": "at_least", "value": "20"},
	})
	view := admin.saveAs("Claims to keep", doc)
	run := map[string]any{"view": doc, "depth": 1, "limit": 500}
	taking := map[string]any{"view": doc, "options": map[string]any{"format": "csv"}}
	was, file := said(t, admin.do("POST", "/api/run", run)), admin.fetch("", taking)
	sum := func() string {
		return g.Ask(t, "SELECT to_char(sum(claimed), 'FM999,999,999.00') FROM claims WHERE claimed >= 20")
	}
	before := sum()
	a := admin.do("POST", "/api/views/"+view+"/kept", map[string]any{"view": doc, "name": "Before the audit"})
	require.Equal(t, 201, a.code, a.text)
	key := a.body["key"].(string)
	require.Equal(t, g.Ask(t, "SELECT count(*)::text FROM claims WHERE claimed >= 20"), fmt.Sprint(a.body["records"]))
	require.Equal(t, before, a.body["totals"].([]any)[1].(map[string]any)["text"])

	one := func(n string) string {
		return g.Ask(t, "SELECT ref FROM claims WHERE claimed >= 20 ORDER BY ref OFFSET "+n+" LIMIT 1")
	}
	changed, went, came := one("3"), one("5"), "CL-NEW"
	from := g.Ask(t, "SELECT to_char(claimed, 'FM999,999.00') FROM claims WHERE ref = $1", changed)
	for _, sql := range []string{
		"UPDATE claims SET claimed = claimed + 1000 WHERE ref = '" + changed + "'", "DELETE FROM claims WHERE ref = '" + went + "'",
		"INSERT INTO claims (id, ref, booking_id, category, opened_at, claimed) SELECT max(id) + 1, '" + came + "', min(booking_id), 'Refund', now(), 77.25 FROM claims",
	} {
		_, err := g.DB.Exec(t.Context(), sql)
		require.NoError(t, err)
	}
	require.NoError(t, g.Workspace.Refresh(t.Context()))
	now := said(t, admin.do("POST", "/api/run", run))
	require.NotEqual(t, was["grand"], now["grand"])
	require.Equal(t, was, said(t, admin.asked(key, "/api/run", run)), "whatever is sent along")
	require.Equal(t, file, admin.fetch(key, taking))
	admin.asked(key, "/api/values", map[string]any{"view": doc, "field": "status", "limit": 5}).refused(t, 422, "says what it said, and nothing more")
	admin.asked("nothing", "/api/run", run).refused(t, 404, "no such kept result")

	d := admin.do("GET", "/api/kept/"+key+"/differences", nil)
	require.Equal(t, 200, d.code, d.text)
	require.Equal(t, []any{1.0, 1.0, 1.0}, []any{d.body["came"], d.body["went"], d.body["changed"]})
	first := func(list string) map[string]any { return d.body[list].([]any)[0].(map[string]any) }
	require.Equal(t, []any{came, went, changed}, []any{
		first("listedCame")["record"], first("listedWent")["record"], first("listedChanged")["record"],
	})
	change := first("listedChanged")["changes"].([]any)
	require.Len(t, change, 1)
	require.Equal(t, from, change[0].(map[string]any)["from"])
	require.Equal(t, g.Ask(t, "SELECT to_char(claimed, 'FM999,999.00') FROM claims WHERE ref = $1", changed), change[0].(map[string]any)["to"])
	total := d.body["totals"].([]any)[1].(map[string]any)
	require.Equal(t, []any{before, sum()}, []any{total["before"], total["now"]})

	// Two kept ones, in whatever order; a field that is gone is still in what was kept.
	later := admin.do("POST", "/api/views/"+view+"/kept", map[string]any{"view": doc}).body["key"].(string)
	d = admin.do("GET", "/api/kept/"+later+"/differences?with="+key, nil)
	require.Equal(t, []any{1.0, 1.0, 1.0}, []any{d.body["came"], d.body["went"], d.body["changed"]})
	_, err := g.DB.Exec(t.Context(), "ALTER TABLE claims DROP COLUMN note")
	require.NoError(t, err)
	require.NoError(t, g.Workspace.Refresh(t.Context()))
	require.Equal(t, 422, admin.do("POST", "/api/run", run).code)
	require.Equal(t, was, said(t, admin.asked(key, "/api/run", run)))
	admin.do("GET", "/api/kept/"+key+"/differences", nil).refused(t, 422, "note")
	require.Equal(t, 204, admin.do("DELETE", "/api/kept/"+key, nil).code)
	admin.do("GET", "/api/kept/"+key, nil).refused(t, 404, "no such kept result")
}

// Nobody is shown in a kept result what is kept from her, also where the limit is newer; what was kept
// by somebody who saw no more is shown.
func TestKeptResultsAndLimits(t *testing.T) {
	g := harness.Start(t)
	admin, jory, wen := person(t, g, 0), person(t, g, 1), person(t, g, 2)
	paid := jory.saveAs("Paid on claims", claims(map[string]any{"columns": []any{summed("paid")}}))
	claimed := jory.saveAs("Claimed", claims(nil))
	sailings := jory.saveAs("Sailings", document("sailings", summed("passengers")))
	keep := func(c *client, view string) string {
		doc := c.do("GET", "/api/views/"+view, nil).body["document"]
		a := c.do("POST", "/api/views/"+view+"/kept", map[string]any{"view": doc})
		require.Equal(t, 201, a.code, a.text)
		return a.body["key"].(string)
	}
	secret := g.Ask(t, "SELECT to_char(sum(paid), 'FM999,999,999.00') FROM claims")
	tried := func(c *client, view, kept string) (shown bool) {
		doc := c.do("GET", "/api/views/"+view, nil).body["document"]
		list := c.do("GET", "/api/views/"+view+"/kept", nil)
		require.Equal(t, 200, list.code)
		opened := c.do("GET", "/api/kept/"+kept, nil)
		run := c.asked(kept, "/api/run", map[string]any{"view": doc, "depth": 0, "limit": 5})
		preview := c.asked(kept, "/api/exports/preview", map[string]any{"view": doc, "options": map[string]any{"format": "csv"}})
		pages := c.asked(kept, "/api/exports/pages", map[string]any{"view": doc, "options": map[string]any{"format": "pdf"}, "from": 1, "count": 1})
		file := c.asked(kept, "/api/exports", map[string]any{"view": doc, "options": map[string]any{"format": "csv"}})
		differences := c.do("GET", "/api/kept/"+kept+"/differences", nil)
		codes := map[int]bool{}
		for _, a := range []answer{opened, run, preview, pages, differences} {
			codes[a.code] = true
		}
		if run.code == 200 {
			require.Equal(t, map[int]bool{200: true}, codes)
			return true
		}
		require.Equal(t, map[int]bool{422: true}, codes)
		require.Equal(t, 422, file.code)
		for _, a := range []answer{list, opened, run, preview, pages, file, differences} {
			require.NotContains(t, a.text, secret)
		}
		require.Contains(t, run.text, "saw more than you may see")
		return false
	}
	all, mine := keep(admin, paid), keep(jory, paid)
	require.True(t, tried(admin, paid, all))
	require.True(t, tried(jory, paid, all))
	require.False(t, tried(wen, paid, all), "what is paid on claims is kept from agents")
	require.False(t, tried(wen, paid, mine))
	require.False(t, tried(wen, claimed, keep(jory, claimed)), "of claims she sees those of her own port")
	require.False(t, tried(wen, sailings, keep(jory, sailings)), "a rule may reach any records, and she has one")
	wen.do("POST", "/api/views/"+claimed+"/kept", map[string]any{"view": claims(nil)}).refused(t, 403, "analyst")

	// A limit that is made later holds for what was kept before, and one kept under it is shown.
	group := g.Ask(t, "SELECT id::text FROM gavrik.groups WHERE name = 'Claims desk'")
	a := admin.do("PUT", "/api/groups/"+group, map[string]any{
		"name": "Claims desk", "sensitive": true, "base": 1,
		"limits": []any{map[string]any{"set": "claims", "fields": []string{"paid"}}},
	})
	require.Equal(t, 200, a.code, a.text)
	require.False(t, tried(jory, paid, all))
	require.False(t, tried(jory, paid, mine))
	require.True(t, tried(jory, paid, keep(jory, paid)))
	require.True(t, tried(jory, claimed, keep(admin, claimed)))
}

// A plan keeps a result in its time, once although two servers look, and lets go of the oldest that it
// kept; what was kept by hand stays.
func TestResultsAreKeptByAPlan(t *testing.T) {
	p := posting(t, nil)
	second, err := deliver.New(t.Context(), p.App, deliver.Options{})
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, second.Stop(context.Background())) })
	admin, wen := person(t, p.Gavrik, 0), person(t, p.Gavrik, 2)
	view := admin.saveAs("Month ends", claims(nil))
	plan := map[string]any{"when": map[string]any{"every": "month", "date": -1, "at": "23:00"}, "hold": 2}
	path := "/api/views/" + view + "/keeping"
	wen.do("PUT", path, plan).refused(t, 403, "analyst")
	admin.do("PUT", path, with(plan, map[string]any{"hold": 0})).refused(t, 422, "hold")
	a := admin.do("PUT", path, plan)
	require.Equal(t, 200, a.code, a.text)
	require.Equal(t, []any{"the last day of the month at 23:00", "next Mon 30 Nov, 23:00"}, []any{a.body["words"], a.body["stand"]})
	require.Equal(t, 201, admin.do("POST", "/api/views/"+view+"/kept", map[string]any{"view": claims(nil)}).code)
	kept := func() (byPlan, byHand int) {
		for _, one := range admin.do("GET", "/api/views/"+view+"/kept", nil).body["kept"].([]any) {
			if one.(map[string]any)["byPlan"] == true {
				byPlan++
			} else {
				byHand++
			}
		}
		return byPlan, byHand
	}
	tick := func() {
		var both sync.WaitGroup
		for _, server := range []*deliver.Service{p.Deliver, second, p.Deliver} {
			both.Go(func() { _ = server.Tick(t.Context()) }) // one of them finds it
		}
		both.Wait()
	}
	tick()
	for i, end := range []time.Time{
		time.Date(2026, 11, 30, 23, 0, 0, 0, time.UTC), time.Date(2026, 12, 31, 23, 0, 0, 0, time.UTC),
		time.Date(2027, 2, 1, 9, 0, 0, 0, time.UTC), time.Date(2027, 2, 28, 23, 30, 0, 0, time.UTC),
	} {
		p.Clock.Turn(end)
		tick()
		byPlan, byHand := kept()
		require.Equal(t, []int{min(i+1, 2), 1}, []int{byPlan, byHand})
	}
	require.Equal(t, "next Wed 31 Mar, 23:00", admin.do("GET", path, nil).body["stand"])
	require.Equal(t, 204, admin.do("DELETE", "/api/views/"+view, nil).code)
	p.Clock.Turn(time.Date(2027, 3, 31, 23, 0, 0, 0, time.UTC))
	tick()
	require.Equal(t, "its view is in the bin, or not shared with its owner any more",
		p.Ask(t, "SELECT paused_why FROM gavrik.keepings"))
}
