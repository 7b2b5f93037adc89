package api

import (
	"fmt"
	"os"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/code"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/program"
	"gavrik/internal/core/view"
	"gavrik/internal/demo"
	"gavrik/internal/web"
	"gavrik/test/harness"
)

// Every operation with every kind of person: what each may do. An operation that
// is missing here fails the test. Each line is carried out by nobody, a reader, an
// analyst, an analyst who owns what it is about, and an administrator, in this order.
func TestWhoMayDoWhat(t *testing.T) {
	g := harness.Start(t)
	admin, analyst, reader, nobody := person(t, g, 0), person(t, g, 1), person(t, g, 2), stranger(t, g)
	owner := added(t, g, admin, "analyst")
	private := owner.save("Mine alone", false).body["key"].(string)
	shared := owner.save("For all", true).body["key"].(string)
	require.Equal(
		t, 201,
		owner.do("POST", "/api/definitions", map[string]any{
			"records": "claims", "calculated": calculated("owned", "1"),
		}).code,
	)
	run := map[string]any{"view": claims(nil), "depth": 0, "limit": 5}
	put := func(base int) map[string]any {
		return map[string]any{"name": "For all", "document": claims(nil), "base": base}
	}
	id := func(text string) string { return g.Ask(t, "SELECT id::text FROM gavrik.people WHERE email = $1", text) }
	wen, jory := id(demo.People[2].Email), id(demo.People[1].Email)
	joryNumber, err := strconv.Atoi(jory)
	require.NoError(t, err)
	group := g.Ask(t, "SELECT id::text FROM gavrik.groups WHERE name = 'Claims desk'")
	change := map[string]any{
		"name": "Wen Aske", "role": "reader", "groups": []int{}, "traits": map[string]string{},
	}
	type line struct {
		op, path string
		send     any
		codes    string
	}
	taking := map[string]any{"view": claims(nil), "options": map[string]any{"format": "csv"}}
	toJory := map[string]any{"people": []int{joryNumber}}
	const all, signed, gone = "401 200 200 200 200", "401 204 204 204 204", "401 404 404 404 404"
	const bosses = "401 403 403 403 200"
	table := []line{
		{"GET /api/session", "/api/session", nil, all},
		{"GET /api/session/ways", "/api/session/ways", nil, "200 200 200 200 200"},
		{"GET /api/catalog", "/api/catalog", nil, all},
		{"GET /api/catalog/{set}/fields", "/api/catalog/claims/fields", nil, all},
		{"GET /api/facts/{set}", "/api/facts/vessels", nil, all},
		{
			"POST /api/facts/{set}", "/api/facts/vessels", map[string]any{
				"label": "Berthed", "type": "yesno", "fill": map[string]any{"role": "analyst"},
			}, "401 403 403 403 201",
		},
		{
			"PUT /api/facts/{set}/{key}", "/api/facts/vessels/nothing", map[string]any{
				"base": 1, "fact": map[string]any{"label": "X", "type": "yesno", "fill": map[string]any{"role": "analyst"}},
			}, "401 403 404 404 404",
		},
		{"DELETE /api/facts/{set}/{key}", "/api/facts/vessels/nothing", nil, "401 403 403 403 404"},
		{"POST /api/facts/{set}/{key}/restore", "/api/facts/vessels/nothing/restore", nil, "401 403 403 403 404"},
		{
			"POST /api/facts/{set}/{key}/values", "/api/facts/vessels/nothing/values",
			map[string]any{"values": []any{map[string]any{"record": "x", "value": "yes"}}}, gone,
		},
		{"POST /api/facts/{set}/{key}/undo", "/api/facts/vessels/nothing/undo", map[string]any{"batch": 1}, gone},
		{"GET /api/facts/{set}/{key}/history", "/api/facts/vessels/nothing/history?record=x", nil, gone},
		{"GET /api/asking", "/api/asking", nil, all},
		{"PUT /api/staying/{set}", "/api/staying/nothing", map[string]any{"stays": true}, "401 403 403 403 404"},
		{"GET /api/fact-adding", "/api/fact-adding", nil, bosses},
		{"PUT /api/fact-adding", "/api/fact-adding", map[string]any{"analysts": false}, "401 403 403 403 204"},
		{
			"POST /api/overview", "/api/overview",
			map[string]any{"view": claims(nil), "fields": []string{"status"}}, all,
		},
		{"GET /api/catalog/{set}/description", "/api/catalog/claims/description", nil, bosses},
		{"GET /api/uploads", "/api/uploads", nil, "401 403 200 200 200"},
		{"POST /api/uploads", "/api/uploads", map[string]any{"file": "a.csv", "size": 4}, "401 403 201 201 201"},
		{"GET /api/uploads/{id}", "/api/uploads/none", nil, "401 403 404 404 404"},
		{"DELETE /api/uploads/{id}", "/api/uploads/none", nil, "401 403 404 404 404"},
		{"PUT /api/uploads/{id}/parts", "/api/uploads/none/parts?at=0", "x", "401 403 404 404 404"},
		{
			"POST /api/uploads/{id}/look", "/api/uploads/none/look", map[string]any{"settings": map[string]any{}},
			"401 403 404 404 404",
		},
		{
			"POST /api/uploads/{id}/read", "/api/uploads/none/read",
			map[string]any{"recipe": map[string]any{"settings": map[string]any{}, "fields": []any{}}}, "401 403 404 404 404",
		},
		{"POST /api/uploads/{id}/stop", "/api/uploads/none/stop", nil, "401 403 404 404 404"},
		{"POST /api/uploads/{id}/bring-in", "/api/uploads/none/bring-in", map[string]any{}, "401 403 404 404 404"},
		{"GET /api/brought-in", "/api/brought-in", nil, all},
		{
			"PUT /api/brought-in/{set}/shares", "/api/brought-in/list_prices/shares", map[string]any{"shares": everyone},
			"401 403 403 403 204",
		},
		{"PUT /api/brought-in/{set}/owner", "/api/brought-in/list_prices/owner", map[string]any{"to": joryNumber}, "401 403 403 403 204"},
		{"GET /api/brought-in/{set}/aside", "/api/brought-in/list_prices/aside", nil, "401 403 200 403 200"},
		{"GET /api/brought-in/{set}/aside.csv", "/api/brought-in/list_prices/aside.csv", nil, "401 403 200 403 200"},
		{
			"POST /api/brought-in/{set}/aside", "/api/brought-in/list_prices/aside",
			map[string]any{"rows": []any{map[string]any{"id": 0, "line": 1, "content": "x"}}}, "401 403 200 403 200",
		},
		{"DELETE /api/brought-in/{set}", "/api/brought-in/nothing", nil, "401 403 404 404 404"},
		{
			"PUT /api/catalog/{set}/description", "/api/catalog/claims/description",
			map[string]any{"version": 0, "said": map[string]any{}}, bosses,
		},
		{
			"POST /api/catalog/{set}/read-as", "/api/catalog/ports/read-as",
			map[string]any{"field": "berths", "type": "text"}, bosses,
		},
		{"GET /api/catalog/{set}/linked-values", "/api/catalog/bookings/linked-values", nil, all},
		{"POST /api/linked-value", "/api/linked-value", map[string]any{"view": drawing("bookings"), "key": "drawn"}, all},
		{"GET /api/records/arrivals", "/api/records/arrivals?once=true", nil, all},
		{"POST /api/refresh", "/api/refresh", nil, "401 403 403 403 204"},
		{"POST /api/run", "/api/run", run, all},
		{
			"POST /api/lines", "/api/lines", map[string]any{"result": "of long ago", "depth": 0, "limit": 5},
			"401 410 410 410 410",
		},
		{
			"POST /api/distribution", "/api/distribution",
			map[string]any{"view": claims(nil), "field": "claimed", "bins": 20}, all,
		},
		{"POST /api/explain", "/api/explain", map[string]any{"view": claims(nil), "column": 0}, all},
		{
			"POST /api/values", "/api/values", map[string]any{"view": claims(nil), "field": "status", "limit": 5}, all,
		},
		{"GET /api/functions", "/api/functions", nil, all},
		{"POST /api/formula", "/api/formula", map[string]any{"view": costing(claims(nil)), "key": "costing"}, all},
		{"POST /api/bucket", "/api/bucket", map[string]any{"view": costing(claims(nil)), "key": "size"}, all},
		{
			"POST /api/split", "/api/split",
			map[string]any{"view": claims(nil), "field": "claimed", "kind": "counts", "parts": 4}, all,
		},
		{"POST /api/units", "/api/units", map[string]any{"view": claims(nil), "field": "opened_at"}, all},
		{"GET /api/definitions", "/api/definitions", nil, all},
		{
			"POST /api/definitions", "/api/definitions",
			map[string]any{"records": "claims", "calculated": calculated("others", "1")}, "401 403 201 409 409",
		},
		{
			"POST /api/definitions/{set}/{key}/effects", "/api/definitions/claims/owned/effects",
			map[string]any{"calculated": calculated("owned", "2"), "base": 1}, all,
		},
		{
			"PUT /api/definitions/{set}/{key}", "/api/definitions/claims/owned",
			map[string]any{"calculated": calculated("owned", "2"), "base": 1}, "401 403 403 200 409",
		},
		{"DELETE /api/definitions/{set}/{key}", "/api/definitions/claims/owned", nil, "401 403 403 204 404"},
		{"POST /api/behind", "/api/behind", map[string]any{"view": claims(nil), "column": -1}, all},
		{"POST /api/boards/look", "/api/boards/look", map[string]any{"board": boardOf(part("a", shared, "figure", nil))}, all},
		{"POST /api/boards/part", "/api/boards/part", map[string]any{"part": part("a", shared, "figure", nil)}, all},
		{"POST /api/boards/pages", "/api/boards/pages", map[string]any{"board": boardOf(part("a", shared, "figure", nil))}, all},
		{
			"POST /api/boards/paper", "/api/boards/paper",
			map[string]any{"board": boardOf(part("a", shared, "figure", nil))}, "401 201 201 201 201",
		},
		{"POST /api/changes", "/api/changes", map[string]any{"from": claims(nil), "to": claims(nil)}, all},
		{"GET /api/catalog/{set}/holding", "/api/catalog/claims/holding?text=quay", nil, all},
		{
			"PUT /api/catalog/{set}/standard", "/api/catalog/ports/standard",
			map[string]any{"columns": []string{"name"}}, "401 403 403 403 204",
		},
		{
			"PUT /api/catalog/{set}/fields/{field}/sensitive", "/api/catalog/ports/fields/code/sensitive",
			map[string]any{"sensitive": false}, "401 403 403 403 204",
		},
		{
			"POST /api/catalog/{set}/shown", "/api/catalog/ports/shown", map[string]any{"field": "code"},
			"401 403 403 403 204",
		},
		{"GET /api/find", "/api/find?words=claims+by+route", nil, all},
		{"GET /api/drafts", "/api/drafts", nil, all},
		{"PUT /api/drafts/{id}", "/api/drafts/drafted1", drafted("statestate01", 0), all},
		{"GET /api/states/{key}", "/api/states/statestate01", nil, all},
		{"PUT /api/states/{key}/lasting", "/api/states/statestate01/lasting", nil, signed},
		{"PUT /api/drafts/{id}", "/api/drafts/drafted1", drafted("statestate02", 0), "401 409 409 409 409"},
		{"DELETE /api/drafts/{id}", "/api/drafts/drafted1", nil, signed},
		{"GET /api/views", "/api/views", nil, all},
		{"GET /api/favorites", "/api/favorites", nil, all},
		{"PUT /api/favorites", "/api/favorites", map[string]any{"keys": []string{shared, private}}, signed},
		{
			"PUT /api/favorites/{key}", "/api/favorites/" + private, map[string]any{"away": true},
			"401 404 404 204 404",
		},
		{
			"POST /api/views", "/api/views", map[string]any{"name": "x", "document": claims(nil)},
			"401 403 201 201 201",
		},
		{"GET /api/views/{key}", "/api/views/" + private, nil, "401 404 404 200 404"},
		{"GET /api/views/{key}", "/api/views/" + shared, nil, all},
		{"GET /api/views/{key}/result", "/api/views/" + private + "/result", nil, "401 404 404 200 404"},
		{"GET /api/views/{key}/result", "/api/views/" + shared + "/result", nil, all},
		{
			"POST /api/recurrence", "/api/recurrence",
			map[string]any{"when": map[string]any{"every": "day", "at": "07:30"}}, all,
		},
		{"GET /api/views/{key}/recurring", "/api/views/" + private + "/recurring", nil, "401 404 404 200 404"},
		{"GET /api/rounds", "/api/rounds", nil, all},
		{"POST /api/rounds", "/api/rounds", looked(private, joryNumber), "401 403 404 422 404"},
		{"PUT /api/rounds/{key}", "/api/rounds/nobodys", looked("", joryNumber), gone},
		{"DELETE /api/rounds/{key}", "/api/rounds/nobodys", nil, gone},
		{"POST /api/rounds/{key}/looks", "/api/rounds/nobodys/looks", map[string]any{}, gone},
		{"GET /api/rounds/{key}/looks", "/api/rounds/nobodys/looks", nil, gone},
		{"PUT /api/rounds/{key}/note", "/api/rounds/nobodys/note", map[string]any{"note": "x"}, gone},
		{"POST /api/calendar", "/api/calendar", nil, all},
		{"GET /api/calendar", "/api/calendar", nil, all},
		{"GET /api/calendar/{secret}", "/api/calendar/nobodys.ics", nil, "404 404 404 404 404"},
		{"DELETE /api/calendar", "/api/calendar", nil, signed},
		{"POST /api/views/{key}/kept", "/api/views/" + private + "/kept", map[string]any{"view": claims(nil)}, "401 403 404 201 404"},
		{"GET /api/views/{key}/kept", "/api/views/" + private + "/kept", nil, "401 404 404 200 404"},
		{"GET /api/views/{key}/keeping", "/api/views/" + private + "/keeping", nil, "401 403 404 200 404"},
		{
			"PUT /api/views/{key}/keeping", "/api/views/" + private + "/keeping",
			map[string]any{"when": map[string]any{"every": "day", "at": "07:30"}, "hold": 3}, "401 403 404 200 404",
		},
		{"DELETE /api/views/{key}/keeping", "/api/views/" + private + "/keeping", nil, "401 403 404 204 404"},
		{"GET /api/kept/{key}", "/api/kept/nobodys", nil, gone},
		{"GET /api/kept/{key}/differences", "/api/kept/nobodys/differences", nil, gone},
		{"DELETE /api/kept/{key}", "/api/kept/nobodys", nil, gone},
		{"GET /api/deliveries", "/api/deliveries", nil, "401 403 200 200 200"},
		{"POST /api/deliveries", "/api/deliveries", delivered(private, toJory), "401 403 404 422 404"},
		{"POST /api/deliveries/preview", "/api/deliveries/preview", delivered(shared, toJory), "401 403 422 422 422"},
		{"PUT /api/deliveries/{key}", "/api/deliveries/nobodys", changedDelivery(toJory), "401 403 404 404 404"},
		{"DELETE /api/deliveries/{key}", "/api/deliveries/nobodys", nil, "401 403 404 404 404"},
		{"PUT /api/deliveries/{key}/paused", "/api/deliveries/nobodys/paused", map[string]any{"paused": true}, "401 403 404 404 404"},
		{"PUT /api/deliveries/{key}/owner", "/api/deliveries/nobodys/owner", map[string]any{"to": joryNumber}, "401 403 404 404 404"},
		{"POST /api/deliveries/{key}/send", "/api/deliveries/nobodys/send", map[string]any{}, "401 403 404 404 404"},
		{"GET /api/deliveries/{key}/letters", "/api/deliveries/nobodys/letters", nil, "401 403 404 404 404"},
		{"POST /api/deliveries/{key}/letters/{letter}/retry", "/api/deliveries/nobodys/letters/1/retry", nil, "401 403 404 404 404"},
		{"PUT /api/deliveries/{key}/sensitive", "/api/deliveries/nobodys/sensitive", map[string]any{"allowed": true}, "401 403 403 403 404"},
		{"PUT /api/outside-addresses", "/api/outside-addresses", map[string]any{"outside": ""}, "401 403 403 403 204"},
		{"GET /api/letterhead", "/api/letterhead", nil, all},
		{
			"PUT /api/letterhead", "/api/letterhead", map[string]any{"name": "Marrowby Sound Ferries", "address": "The Quay"},
			"401 403 403 403 200",
		},
		{"GET /api/view-files", "/api/view-files?keys=" + private, nil, "401 404 404 200 404"},
		{"POST /api/exports/preview", "/api/exports/preview", taking, all},
		{
			"POST /api/exports/pages", "/api/exports/pages",
			map[string]any{"view": claims(nil), "options": map[string]any{"format": "pdf"}, "from": 1, "count": 1}, all,
		},
		{"POST /api/exports", "/api/exports", taking, "401 201 201 201 201"},
		{
			"POST /api/exports", "/api/exports", map[string]any{"views": []string{private}, "options": taking["options"]},
			"401 404 404 201 404",
		},
		{"GET /api/exports/{id}/progress", "/api/exports/nobodys/progress", nil, all},
		{"GET /api/exports/{id}/file", "/api/exports/nobodys/file", nil, gone},
		{"DELETE /api/exports/{id}", "/api/exports/nobodys", nil, gone},
		{"GET /api/views/{key}/answers", "/api/views/" + private + "/answers", nil, all},
		{
			"PUT /api/views/{key}/answers", "/api/views/" + private + "/answers",
			map[string]any{"answers": map[string]any{}}, "401 404 404 204 404",
		},
		{"PUT /api/views/{key}", "/api/views/" + private, put(9), "401 403 404 409 404"},
		{"PUT /api/views/{key}", "/api/views/" + shared, put(1), "401 403 403 200 403"},
		{"GET /api/views/{key}/versions", "/api/views/" + private + "/versions", nil, "401 404 404 200 404"},
		{
			"GET /api/views/{key}/versions/{version}", "/api/views/" + private + "/versions/1", nil,
			"401 404 404 200 404",
		},
		{"GET /api/views/{key}/versions/{version}", "/api/views/" + shared + "/versions/9", nil, gone},
		{
			"PUT /api/views/{key}/mark", "/api/views/" + private + "/mark", map[string]any{"label": "mine"},
			"401 403 404 200 404",
		},
		{
			"PUT /api/views/{key}/mark", "/api/views/" + shared + "/mark", map[string]any{"label": "mine"},
			"401 403 403 200 403",
		},
		{
			"PUT /api/views/{key}/favorite", "/api/views/" + private + "/favorite", map[string]any{"on": true},
			"401 404 404 200 404",
		},
		{
			"PUT /api/views/{key}/favorite", "/api/views/" + private + "/favorite",
			map[string]any{"on": true, "everyone": true}, "401 404 404 422 404",
		},
		{"PUT /api/views/{key}/favorite", "/api/views/" + shared + "/favorite", map[string]any{"on": true}, all},
		{
			"PUT /api/views/{key}/favorite", "/api/views/" + shared + "/favorite",
			map[string]any{"on": true, "everyone": true}, "401 403 403 200 403",
		},
		{"GET /api/names", "/api/names", nil, "401 403 200 200 200"},
		{
			"PUT /api/views/{key}/shares", "/api/views/" + private + "/shares",
			map[string]any{"shares": []any{map[string]any{"role": "administrator"}}}, "401 403 404 200 403",
		},
		{
			"PUT /api/views/{key}/shares", "/api/views/" + private + "/shares",
			map[string]any{"shares": []any{map[string]any{"group": 999}}}, "401 403 404 422 403",
		},
		{"DELETE /api/views/{key}", "/api/views/" + private, nil, "401 403 404 204 404"},
		{
			"PUT /api/views/{key}/owner", "/api/views/" + shared + "/owner", map[string]any{"to": 999},
			"401 403 403 422 403",
		},
		{"DELETE /api/views/{key}", "/api/views/" + shared, nil, "401 403 403 204 404"},
		{"GET /api/bin", "/api/bin", nil, all},
		{"POST /api/bin/{key}", "/api/bin/" + shared, nil, "401 403 404 200 404"},
		{"DELETE /api/bin/{key}", "/api/bin/" + private, nil, "401 403 404 204 404"},
		{"GET /api/people", "/api/people", nil, bosses},
		{
			"POST /api/people", "/api/people",
			map[string]any{"email": "new@marrowby.example", "name": "New", "role": "analyst"}, "401 403 403 403 201",
		},
		{"PUT /api/people/{id}", "/api/people/" + wen, change, bosses},
		{"POST /api/people/{id}/views", "/api/people/" + wen + "/views", map[string]any{"to": joryNumber}, bosses},
		{"GET /api/people/{id}/sees", "/api/people/" + jory + "/sees", nil, bosses},
		{"GET /api/groups", "/api/groups", nil, bosses},
		{"POST /api/groups", "/api/groups", map[string]any{"name": "Deck crew"}, "401 403 403 403 201"},
		{"PUT /api/groups/{id}", "/api/groups/" + group, map[string]any{"name": "Claims desk", "base": 1}, bosses},
		{"DELETE /api/groups/{id}", "/api/groups/" + group, nil, "401 403 403 403 204"},
		{"GET /api/audit", "/api/audit", nil, bosses},
		{"GET /api/tokens", "/api/tokens", nil, all},
		{"POST /api/tokens", "/api/tokens", map[string]any{"name": "nightly", "days": 30}, "401 201 201 201 201"},
		{"DELETE /api/tokens/{id}", "/api/tokens/999", nil, gone},
		{"POST /api/people/{id}/password", "/api/people/999/password", nil, "401 403 403 403 404"},
		{
			"PUT /api/password", "/api/password", map[string]any{"old": "not the one", "new": "a long enough one"},
			"401 403 403 403 403",
		},
		{"POST /api/second-factor", "/api/second-factor", nil, all},
		{"PUT /api/second-factor", "/api/second-factor", map[string]any{"code": "000"}, "401 403 403 403 403"},
		{
			"POST /api/second-factor/off", "/api/second-factor/off", map[string]any{"code": "000"},
			"401 403 403 403 403",
		},
		{"GET /api/second-factor/required", "/api/second-factor/required", nil, all},
		{
			"PUT /api/second-factor/required", "/api/second-factor/required", map[string]any{"required": false},
			"401 403 403 403 204",
		},
		{
			"DELETE /api/people/{id}/second-factor", "/api/people/" + wen + "/second-factor", nil,
			"401 403 403 403 204",
		},
		{"GET /api/sessions", "/api/sessions", nil, all},
		{"DELETE /api/sessions/{id}", "/api/sessions/999", nil, gone},
		{"DELETE /api/sessions", "/api/sessions", nil, signed},
		{
			"POST /api/session", "/api/session",
			map[string]any{"email": demo.People[0].Email, "password": demo.Password}, "200 200 200 200 200",
		},
		{"DELETE /api/session", "/api/session", nil, "204 204 204 204 204"},
	}
	walked, forbidden := map[string]bool{}, 0
	for _, l := range table {
		walked[l.op] = true
		method, _, _ := strings.Cut(l.op, " ")
		for i, who := range []*client{nobody, reader, analyst, owner, admin} {
			want, err := strconv.Atoi(strings.Fields(l.codes)[i])
			require.NoError(t, err)
			a := who.do(method, l.path, l.send)
			require.Equal(
				t, want, a.code, "%s %s by %s: %s", method, l.path,
				[]string{"nobody", "a reader", "an analyst", "the owner", "an administrator"}[i], a.text,
			)
			if want == 403 {
				forbidden++
			}
			if want >= 400 {
				a.refused(t, want, "detail")
			}
		}
		if l.path == "/api/session" && method == "POST" {
			nobody = stranger(t, g) // signed in by the walk
		}
	}
	require.Equal(
		t, fmt.Sprint(forbidden), g.Ask(t, "SELECT count(*)::text FROM gavrik.audit WHERE what = 'refused'"),
		"who tried what she may not stands in the trail",
	)
	for path, item := range operations(t) {
		for method := range item {
			require.True(t, walked[strings.ToUpper(method)+" "+path], "%s %s is not in the table", method, path)
		}
	}
}

// costing gives a document a calculated field and a bucket of nothing that is kept from
// anybody.
func costing(doc map[string]any) map[string]any {
	doc["calculated"] = []any{map[string]any{"key": "costing", "label": "Costing", "formula": "Claimed * 2"}}
	doc["buckets"] = []any{
		map[string]any{
			"key": "size", "label": "Size", "of": "claimed",
			"bands": []any{map[string]any{"label": "small", "below": "50"}},
		},
	}
	return doc
}

// drawing is a document that draws a value from the claims that link to a record.
func drawing(records string) map[string]any {
	return map[string]any{"gavrik": 1, "records": records, "columns": []any{}, "linked": []any{map[string]any{
		"key": "drawn", "label": "Drawn", "records": "claims", "by": "booking", "take": "sum", "field": "claimed",
	}}}
}

// added is somebody new whom an administrator lets in, signed in.
func added(t *testing.T, g *harness.Gavrik, admin *client, role string) *client {
	email := role + "@marrowby.example"
	a := admin.do("POST", "/api/people", map[string]any{
		"email": email, "name": "Olan Reed", "role": role, "password": true,
	})
	require.Equal(t, 201, a.code, a.text)
	c := stranger(t, g)
	in := c.do("POST", "/api/session", map[string]any{"email": email, "password": a.body["fresh"]})
	require.Equal(t, 200, in.code, in.text)
	require.Equal(
		t, 204,
		c.do("PUT", "/api/password", map[string]any{"old": a.body["fresh"], "new": "tide and lantern"}).code,
	)
	return c
}

// drafted is unsaved work as the bench sends it.
func drafted(state string, revision int) map[string]any {
	return map[string]any{
		"place": "/new/claims", "title": "New view of claims", "base": 0, "state": state, "revision": revision,
		"document": claims(nil),
	}
}

func reference() ([]byte, error) {
	text, err := formula.Reference(program.Sample)
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
	text := func(of string) func() ([]byte, error) { return func() ([]byte, error) { return []byte(of), nil } }
	for file, write := range map[string]func() ([]byte, error){
		"docs/openapi.json": web.OpenAPI, "docs/view.schema.json": web.ViewSchema, "docs/formulas.md": reference,
		"docs/errors.md": text(code.Reference()), "docs/totals.md": text(view.Reference()),
		"web/src/api/operators.ts": text(string(web.Operators())),
	} {
		want, err := write()
		require.NoError(t, err)
		got, err := os.ReadFile("../../" + file)
		require.NoError(t, err)
		require.Equal(t, string(want), string(got), "%s is old; run: make openapi", file)
	}
}

func TestGuessingPasswordsIsStopped(t *testing.T) {
	g := harness.Start(t)
	c := stranger(t, g)
	try := func(email, password string) answer {
		return c.do("POST", "/api/session", map[string]any{"email": email, "password": password})
	}
	victim := strings.ToUpper(demo.People[0].Email[:1]) + demo.People[0].Email[1:]
	for i := range 5 {
		try(victim, fmt.Sprint("guess ", i)).refused(t, 401, "The e-mail address or the password is not right.")
	}
	a := try(victim, demo.Password)
	a.refused(t, 429, "Too many failed attempts; wait")
	require.NotEmpty(t, a.head.Get("Retry-After"))
	// An unknown address is answered in the same words, and other people go on.
	try("nobody@marrowby.example", "x").refused(t, 401, "The e-mail address or the password is not right.")
	require.Equal(t, 200, try(demo.People[1].Email, demo.Password).code)
	// Failures are forgotten in time.
	_, err := g.DB.Exec(t.Context(), "UPDATE gavrik.attempts SET until = until - interval '16 minutes'")
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
	require.NotContains(
		t, g.Ask(t, "SELECT string_agg(s::text, ' ') FROM gavrik.sign_ins s"), token,
		"what the cookie holds is stored hashed",
	)
	require.Equal(t, "2", g.Ask(t, "SELECT count(*)::text FROM gavrik.sign_ins"))
	for range 30 { // whoever does not sign in leaves nothing behind
		stranger(t, g).do("GET", "/api/session", nil)
	}
	require.Equal(t, "2", g.Ask(t, "SELECT count(*)::text FROM gavrik.sign_ins"))
	written := g.Ask(t, "SELECT xmin::text || ctid::text FROM gavrik.sign_ins ORDER BY id LIMIT 1")
	c.do("GET", "/api/views", nil)
	require.Equal(
		t, written, g.Ask(t, "SELECT xmin::text || ctid::text FROM gavrik.sign_ins ORDER BY id LIMIT 1"),
		"looking writes nothing",
	)
	// One sees where one is signed in, and ends one of them.
	list := c.do("GET", "/api/sessions", nil).body["signIns"].([]any)
	require.Len(t, list, 2)
	for _, one := range list {
		if s := one.(map[string]any); s["this"] == false {
			require.Equal(t, 204, c.do("DELETE", fmt.Sprintf("/api/sessions/%v", s["id"]), nil).code)
			c.do("DELETE", fmt.Sprintf("/api/sessions/%v", s["id"]), nil).refused(t, 404, "ended already")
		}
	}
	require.Equal(t, 200, c.do("GET", "/api/session", nil).code)
	// Signing out ends the session itself, not only the cookie.
	thief := stranger(t, g)
	thief.header["Cookie"] = "gavrik=" + token
	require.Equal(t, 200, thief.do("GET", "/api/session", nil).code)
	require.Equal(t, 204, c.do("DELETE", "/api/session", nil).code)
	thief.do("GET", "/api/session", nil).refused(t, 401, "Sign in to go on. What you have typed is kept.")
	// A session that ran out is no session.
	d := person(t, g, 1)
	_, err := g.DB.Exec(t.Context(), "UPDATE gavrik.sign_ins SET seen_at = now() - interval '8 days'")
	require.NoError(t, err)
	d.do("POST", "/api/run", map[string]any{
		"view": claims(nil), "depth": 0, "limit": 1,
	}).refused(t, 401, "Sign in")
}

func TestWritesFromOtherSitesAreRefused(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	for name, header := range map[string]map[string]string{
		"by the browser's word": {"Sec-Fetch-Site": "cross-site"},
		"by origin":             {"Origin": "https://elsewhere.example"},
	} {
		c.header = header
		c.save("Forged "+name, true).refused(t, 403, "came from another site and was refused")
	}
	c.header = map[string]string{}
	require.NotContains(t, c.do("GET", "/api/views", nil).text, "Forged")
}
