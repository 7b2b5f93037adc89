package api

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/test/harness"
)

// A column or a table that is kept from somebody is not shown to her because it was
// renamed; an administrator is told, and decides.
func TestWhatIsRenamedStaysHidden(t *testing.T) {
	g := harness.Start(t)
	admin, wen := person(t, g, 0), person(t, g, 2)
	email := g.Ask(t, "SELECT email FROM customers WHERE email IS NOT NULL ORDER BY 1 LIMIT 1")
	staff := g.Ask(t, "SELECT name FROM staff ORDER BY 1 LIMIT 1")
	_, err := g.DB.Exec(
		t.Context(),
		`ALTER TABLE customers RENAME COLUMN email TO mail_address; ALTER TABLE staff RENAME TO crew; ALTER TABLE vessels ADD COLUMN draught numeric(4,1) DEFAULT 3.5`,
	)
	require.NoError(t, err)
	require.Equal(t, 204, admin.do("POST", "/api/refresh", nil).code)

	run := func(c *client, doc map[string]any) answer {
		return c.do("POST", "/api/run", map[string]any{"view": doc, "depth": 0, "limit": 20})
	}
	customers := document("customers", field("ref"), field("mail_address"))
	customers["sort"] = []any{field("ref")}
	left := run(wen, customers)
	require.Contains(t, left.text, "kept from you, and left out: Mail address")
	require.NotContains(t, left.text, email)
	run(wen, document("crew", field("name"))).refused(t, 422, "“Crew” is kept from you")
	for _, path := range []string{
		"/api/catalog/customers/fields", "/api/catalog/claims/fields",
		"/api/catalog/claims/holding?text=" + staff[:4],
	} {
		a := wen.do("GET", path, nil)
		require.NotContains(t, a.text, `"mail_address"`)
		require.NotContains(t, a.text, "crew")
	}
	require.NotContains(
		t, wen.do("GET", "/api/catalog/vessels/fields", nil).text, `"draught"`, "what is new, too",
	)
	require.Contains(
		t, run(admin, document("vessels", field("draught"))).text, "3.5", "administrators see everything",
	)

	// Who looks at a view that names the old column sees it without, and is told; for a
	// program it is a fault.
	old := document("customers", field("ref"), field("email"))
	old["sort"] = []any{field("ref")}
	run(admin, old).refused(t, 422, "columns[1].field")
	shown := admin.do("POST", "/api/run", map[string]any{"view": old, "depth": 0, "limit": 5, "shown": true})
	require.Equal(t, 200, shown.code, shown.text)
	require.Contains(t, shown.text, "the column “email” is not in the records any more, and is left out")
	require.Len(t, shown.body["columns"], 1)
	old["filter"] = map[string]any{"field": "email", "op": "filled"}
	again := admin.do("POST", "/api/run", map[string]any{"view": old, "depth": 0, "limit": 5, "shown": true})
	again.refused(t, 422, "body.view.filter")

	told := admin.do("GET", "/api/groups", nil)
	var news []string
	for _, n := range told.body["new"].([]any) {
		one := n.(map[string]any)
		news = append(news, fmt.Sprint(one["set"], ".", one["field"]))
	}
	require.ElementsMatch(t, []string{"crew.", "customers.mail_address", "vessels.draught"}, news)
	require.Contains(
		t, told.text, "The mark “sensitive” is on the field “email” of customers, which is not there any more.",
	)
	require.Contains(t, told.text, "limits the record set “staff”, which is not there any more.")
	require.Equal(
		t, 204, admin.do("POST", "/api/catalog/vessels/shown", map[string]any{"field": "draught"}).code,
	)
	require.Contains(t, run(wen, document("vessels", field("draught"))).text, "3.5", "from the next request on")
	require.Equal(
		t, 204,
		admin.do("PUT", "/api/catalog/customers/fields/mail_address/sensitive", map[string]any{
			"sensitive": true,
		}).code,
	)
	require.Equal(
		t, 204, admin.do("POST", "/api/catalog/customers/shown", map[string]any{"field": "mail_address"}).code,
	)
	require.Contains(t, run(wen, customers).text, "left out: Mail address", "shown, but sensitive")
	admin.do("POST", "/api/catalog/customers/shown", map[string]any{
		"field": "gone",
	}).refused(t, 404, "no such field")
}

// A definition tells nothing of what it is made of to those it is kept from, and an
// analyst who is limited keeps hold of her own.
func TestDefinitionsOverWhatIsHidden(t *testing.T) {
	g := harness.Start(t)
	admin, jory := person(t, g, 0), person(t, g, 1)
	define := func(c *client, records, key, formula string) answer {
		return c.do("POST", "/api/definitions", map[string]any{
			"records": records, "calculated": calculated(key, formula),
		})
	}
	require.Equal(t, 201, define(admin, "staff", "badge", `"badge " & 'Name'`).code)
	require.Equal(
		t, 201, define(admin, "claims", "secret", `IF('Handler' = "Ines Sable"; "the 7,300 case"; "")`).code,
	)
	require.Equal(t, 201, define(jory, "claims", "mine", "Claimed - Paid").code)
	require.Equal(t, 201, define(jory, "claims", "beside", "Claimed * 2").code)
	require.Equal(t, 201, define(jory, "claims", "from", "'beside' + 1").code)
	require.Equal(
		t, 201,
		admin.do("POST", "/api/views", map[string]any{
			"name": "Uses beside", "document": document("claims", field("handler.name"), field("beside")),
			"shares": everyone,
		}).code,
	)

	joryID, group := g.Ask(t, "SELECT id::text FROM gavrik.people WHERE email = $1", demo.People[1].Email), 0
	a := admin.do("POST", "/api/groups", map[string]any{
		"name": "Claims clerks",
		"limits": []any{
			map[string]any{"set": "staff", "hidden": true},
			map[string]any{"set": "claims", "fields": []string{"paid"}},
		},
	})
	require.Equal(t, 201, a.code, a.text)
	group = int(a.body["id"].(float64))
	require.Equal(
		t, 200,
		admin.do("PUT", "/api/people/"+joryID, map[string]any{
			"name": demo.People[1].Name, "role": "analyst", "groups": []int{group}, "traits": map[string]string{},
		}).code,
	)

	list := jory.do("GET", "/api/definitions", nil)
	require.NotContains(t, list.text, "badge", "of records that she does not see")
	require.NotContains(t, list.text, "7,300", "made of what she does not see")
	require.Contains(t, list.text, `"key":"secret"`)
	require.Contains(t, list.text, "Claimed - Paid", "her own, to mend it")
	for _, ask := range []answer{
		jory.do("POST", "/api/values", map[string]any{"view": claims(nil), "field": "secret", "limit": 10}),
		jory.do("POST", "/api/distribution", map[string]any{"view": claims(nil), "field": "secret", "bins": 10}),
		jory.do("POST", "/api/definitions/staff/badge/effects", map[string]any{
			"calculated": calculated("badge", "1"), "base": 1,
		}),
		jory.do("GET", "/api/catalog/claims/fields", nil),
	} {
		require.NotContains(t, ask.text, "7,300")
		require.NotContains(t, ask.text, "badge ")
	}
	// Her own can be changed and deleted, whatever stands in it or beside it.
	save := func(key, formula string, base int) answer {
		return jory.do("PUT", "/api/definitions/claims/"+key, map[string]any{
			"calculated": calculated(key, formula), "base": base,
		})
	}
	require.Equal(t, 200, save("mine", "Claimed - Paid + 1", 1).code, "what was in it may stay")
	save("beside", "Claimed * 2 + Paid", 1).refused(t, 422, "“Paid” is kept from you")
	require.Equal(t, 200, save("beside", "Claimed * 3", 1).code)
	jory.do("DELETE", "/api/definitions/claims/beside", nil).refused(
		t, 409, "This definition is used by “Uses beside”, the definition “Lfrom”, which would not run any more.",
	)
	require.Equal(t, 204, jory.do("DELETE", "/api/definitions/claims/mine", nil).code)
	require.Equal(t, 204, jory.do("DELETE", "/api/definitions/claims/beside?anyway=true", nil).code)

	// A view that is ordered by what is kept back does not run: its first lines would be
	// others.
	ordered := document("claims", field("ref"))
	ordered["sort"] = []any{field("paid")}
	jory.do("POST", "/api/run", map[string]any{
		"view": ordered, "depth": 0, "limit": 5,
	}).refused(t, 422, "“Paid” is kept from you")
}
