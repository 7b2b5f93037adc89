package api

import (
	"fmt"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/test/harness"
)

// own is what a port agent sees of bookings, in SQL.
const own = `bookings b JOIN sailings s ON s.id = b.sailing_id JOIN routes r ON r.id = s.route_id JOIN ports p ON p.id = r.from_port_id AND p.name = 'Harrow Strand'`

func document(records string, columns ...any) map[string]any {
	return map[string]any{"gavrik": 1, "records": records, "columns": append([]any{}, columns...)}
}

func summed(field string) map[string]any {
	return map[string]any{"field": field, "totals": []any{map[string]any{"fn": "sum"}}}
}

func field(path string) map[string]any { return map[string]any{"field": path} }

// What is kept from a reader is in no answer of any kind; PostgreSQL says what is left.
func TestAReaderSeesNothingThatIsKeptFromHer(t *testing.T) {
	g := harness.Start(t)
	admin, wen := person(t, g, 0), person(t, g, 2)
	run := func(c *client, doc map[string]any) answer {
		t.Helper()
		a := c.do("POST", "/api/run", map[string]any{"view": doc, "depth": 0, "limit": 1000, "plain": true})
		require.Equal(t, 200, a.code, a.text)
		return a
	}
	tally := func(a answer) map[string]any { return a.body["tally"].(map[string]any) }
	grand := func(a answer) string {
		return a.body["grand"].(map[string]any)["cells"].([]any)[0].(string)
	}
	// Counts and sums, of the set with the rule and of all that belong to it.
	for set, c := range map[string]struct{ amount, sql string }{
		"bookings":      {"fare", "FROM " + own},
		"booking_lines": {"amount", "FROM booking_lines x JOIN " + own + " ON x.booking_id = b.id"},
		"payments":      {"amount", "FROM payments x JOIN " + own + " ON x.booking_id = b.id"},
		"claims":        {"claimed", "FROM claims x JOIN " + own + " ON x.booking_id = b.id"},
		"sailings":      {"passengers", "FROM sailings x"},
	} {
		a := run(wen, document(set, summed(c.amount)))
		amount := "x." + c.amount
		if set == "bookings" {
			amount = "b.fare"
		}
		require.Equal(t, g.Ask(t, "SELECT count(*)::text "+c.sql), fmt.Sprint(tally(a)["all"]), set)
		require.Equal(t, g.Ask(t, "SELECT coalesce(sum("+amount+"), 0)::text "+c.sql), grand(a), set)
		require.Less(
			t, tally(a)["all"].(float64), tally(run(admin, document(set, summed(c.amount))))["all"].(float64)+1,
		)
	}
	hers := g.Ask(t, "SELECT b.ref FROM "+own+" ORDER BY 1 LIMIT 1")
	other := g.Ask(t, "SELECT ref FROM bookings EXCEPT SELECT b.ref FROM "+own+" ORDER BY 1 LIMIT 1")
	email := g.Ask(t, "SELECT email FROM customers WHERE email IS NOT NULL ORDER BY 1 LIMIT 1")
	paid := g.Ask(t, "SELECT max(paid)::text FROM claims")
	claimsOf := func(ref string) map[string]any {
		doc := document("bookings", field("ref"), field("fare"))
		doc["filter"] = map[string]any{
			"all": []any{map[string]any{"field": "ref", "op": "one_of", "values": []string{ref}}},
		}
		return doc
	}
	require.Equal(t, float64(1), tally(run(wen, claimsOf(hers)))["kept"])
	require.Equal(t, float64(0), tally(run(wen, claimsOf(other)))["kept"])
	require.Equal(t, float64(1), tally(run(admin, claimsOf(other)))["kept"])
	// Look-ups, searches, spreads.
	values := func(set, path, search string) answer {
		return wen.do("POST", "/api/values", map[string]any{
			"view": document(set), "field": path, "search": search, "limit": 1000,
		})
	}
	require.Equal(t, float64(0), values("bookings", "ref", other).body["found"])
	require.Equal(t, float64(1), values("bookings", "ref", hers).body["found"])
	require.Equal(t, float64(0), values("claims", "booking.ref", other).body["found"])
	for set, text := range map[string]string{
		"bookings": other, "claims": other, "payments": other, "customers": email,
	} {
		a := wen.do("GET", "/api/catalog/"+set+"/holding?text="+url.QueryEscape(text), nil)
		require.Equal(t, 200, a.code, a.text)
		require.Empty(t, a.body["fields"], "%s in %s", text, set)
	}
	spread := wen.do("POST", "/api/distribution", map[string]any{
		"view": document("bookings"), "field": "fare", "bins": 20,
	})
	require.Equal(t, g.Ask(t, "SELECT to_char(max(b.fare), 'FM999,999.00') FROM "+own), spread.body["largest"])
	wen.do("POST", "/api/distribution", map[string]any{
		"view": document("claims"), "field": "paid", "bins": 20,
	}).refused(t, 422, "“Paid” is kept from you")
	// What others count by way of her records: customers by their bookings.
	linked := document("customers", field("ref"))
	linked["filter"] = map[string]any{
		"all": []any{
			map[string]any{"linked": map[string]any{"records": "bookings", "by": "customer", "test": "any"}},
		},
	}
	require.Equal(
		t, g.Ask(t, "SELECT count(DISTINCT b.customer_id)::text FROM "+own),
		fmt.Sprint(tally(run(wen, linked))["kept"]),
	)
	// Fields and record sets: named, and nowhere else.
	cat := wen.do("GET", "/api/catalog", nil)
	require.Equal(t, []any{"Staff"}, cat.body["withheld"])
	fields := wen.do("GET", "/api/catalog/claims/fields", nil)
	require.NotContains(t, fields.text, `"paid"`)
	require.NotContains(t, fields.text, "handler")
	wen.do("GET", "/api/catalog/staff/fields", nil).refused(t, 404, "staff")
	wen.do("POST", "/api/run", map[string]any{
		"view": document("staff"), "depth": 0, "limit": 5,
	}).refused(t, 422, "“Staff” is kept from you; ask an administrator")
	left := run(wen, document("claims", field("ref"), summed("paid"), field("handler.name")))
	require.Contains(t, left.text, "kept from you, and left out: Paid, Handler")
	require.NotContains(t, left.text, paid)
	require.Len(t, left.body["columns"], 1)
	for what, doc := range map[string]map[string]any{
		"filter": {
			"filter": map[string]any{"all": []any{map[string]any{"field": "paid", "op": "over", "value": "10"}}},
		},
		"group": {"groups": []any{map[string]any{"field": "handler.name"}}},
		"order": {
			"groups": []any{
				map[string]any{"field": "category", "order": map[string]any{"by": "total", "field": "paid", "fn": "sum"}},
			},
		},
		"linked": {
			"filter": map[string]any{"all": []any{map[string]any{"field": "booking.customer.email", "op": "filled"}}},
		},
		"made": {
			"calculated": []any{calculated("owing", "Claimed - Paid")},
			"groups":     []any{map[string]any{"field": "owing"}},
		},
	} {
		full := document("claims", field("ref"))
		for k, v := range doc {
			full[k] = v
		}
		a := wen.do("POST", "/api/run", map[string]any{"view": full, "depth": 0, "limit": 5})
		a.refused(t, 422, "is kept from you")
		require.NotContains(t, a.text, email, what)
	}
	// Favorites, lists and exports are hers.
	for _, v := range wen.do("GET", "/api/favorites", nil).body["views"].([]any) {
		if f := v.(map[string]any); f["name"] == "Open claims by route" {
			require.Equal(t, g.Ask(t, "SELECT to_char(sum(x.claimed), 'FM999,999,999.00') FROM claims x JOIN "+own+` ON x.booking_id = b.id
				WHERE coalesce(x.status, '') NOT IN ('Settled', 'Refused', 'Withdrawn') AND x.claimed > 25`), f["figure"])
		}
	}
	key := admin.do("POST", "/api/views", map[string]any{
		"name": "All bookings", "document": document("bookings", field("ref"), field("fare")), "shares": everyone,
	}).body["key"].(string)
	export := wen.do("GET", "/api/views/"+key+"/result?format=csv", nil)
	require.Equal(t, 200, export.code, export.text)
	require.Equal(
		t, g.Ask(t, "SELECT (count(*) + 1)::text FROM "+own), fmt.Sprint(strings.Count(export.text, "\n")),
	)
	require.NotContains(t, export.text, other)
	// An administrator sees what she sees, and a change holds from the next request on.
	wenID := g.Ask(t, "SELECT id::text FROM gavrik.people WHERE email = $1", demo.People[2].Email)
	seen := admin.do("GET", "/api/people/"+wenID+"/sees", nil)
	require.Contains(
		t, seen.text,
		fmt.Sprintf(
			`"label":"Bookings","hidden":false,"seen":%v,"all":%d`, g.Ask(t, "SELECT count(*)::text FROM "+own),
			harness.Size.Bookings,
		),
	)
	change := func(traits map[string]string, groups ...int) {
		require.Equal(
			t, 200,
			admin.do("PUT", "/api/people/"+wenID, map[string]any{
				"name": "Wen Aske", "role": "reader", "groups": append([]int{}, groups...), "traits": traits,
			}).code,
		)
	}
	var agents int
	_, err := fmt.Sscan(g.Ask(t, "SELECT id::text FROM gavrik.groups WHERE name = 'Port agents'"), &agents)
	require.NoError(t, err)
	change(map[string]string{"port": "Oxley, Mulberry Quay"}, agents)
	two := strings.ReplaceAll(own, "= 'Harrow Strand'", "IN ('Oxley', 'Mulberry Quay')")
	require.Equal(
		t, g.Ask(t, "SELECT count(*)::text FROM "+two),
		fmt.Sprint(tally(run(wen, document("bookings", field("ref"))))["all"]),
	)
	change(map[string]string{}, agents)
	require.Equal(
		t, float64(0), tally(run(wen, document("bookings", field("ref"))))["all"], "without a port she sees none",
	)
	change(map[string]string{})
	require.Equal(t, float64(harness.Size.Bookings), tally(run(wen, document("bookings", field("ref"))))["all"])
	require.Contains(
		t, run(wen, document("customers", field("ref"), field("email"))).text, "left out: Email", "sensitive",
	)
}
