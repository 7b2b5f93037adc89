package api

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/test/harness"
)

// describing says things about the record sets of one application.
type describing struct {
	*testing.T
	*client
}

func (d describing) now(set string) (said map[string]any, version int) {
	a := d.do("GET", "/api/catalog/"+set+"/description", nil)
	require.Equal(d, 200, a.code, a.text)
	return a.body["said"].(map[string]any), int(a.body["version"].(float64))
}

func (d describing) say(set string, said map[string]any) answer {
	_, version := d.now(set)
	return d.do("PUT", "/api/catalog/"+set+"/description", map[string]any{"version": version, "said": said})
}

func fieldWords(key string, words map[string]any) map[string]any {
	return map[string]any{"fields": map[string]any{key: words}}
}

func (d describing) run(doc map[string]any) answer {
	a := d.do("POST", "/api/run", map[string]any{"view": doc, "depth": 1, "limit": 100, "plain": true})
	require.Equal(d, 200, a.code, a.text)
	return a
}

func grandOf(a answer) []string {
	var out []string
	for _, c := range a.body["grand"].(map[string]any)["cells"].([]any) {
		out = append(out, c.(string))
	}
	return out
}

// What is said about records is so at once and for everybody, is kept with who said it, and can be
// set back; PostgreSQL says what other types and added links come to.
func TestDescribedRecordsAreSoForEverybody(t *testing.T) {
	g := harness.Start(t)
	d, jory, wen := describing{t, person(t, g, 0)}, person(t, g, 1), person(t, g, 2)
	_, err := g.DB.Exec(t.Context(), "UPDATE ferry.customers SET email = (SELECT max(email) FROM ferry.staff) WHERE id % 7 = 0")
	require.NoError(t, err)
	require.Equal(t, 204, d.do("POST", "/api/refresh", nil).code)

	a := d.say("ports", fieldWords("code", map[string]any{"label": " Harbour  code ", "meaning": "As on the signs."}))
	require.Equal(t, 200, a.code, a.text)
	by := a.body["by"].(map[string]any)
	require.Equal(t, "Tamsin Marlow", by["fields.code.label"].(map[string]any)["who"])
	labels := func() string {
		a := jory.do("GET", "/api/catalog/sailings/fields", nil)
		return a.text
	}
	require.Contains(t, labels(), "harbour code", "through links, too")
	doc := document("ports")
	doc["calculated"] = []any{map[string]any{"key": "c", "label": "C", "formula": "UPPER('Harbour code') & Code"}}
	doc["columns"] = []any{field("c")}
	d.run(doc) // formulas name it so at once
	require.Equal(t, 200, d.say("ports", map[string]any{}).code)
	require.NotContains(t, strings.ToLower(labels()), "harbour code")

	// Other types: a count of metres that is a duration in minutes, a whole number of cents.
	a = d.do("POST", "/api/catalog/vessels/read-as", map[string]any{"field": "car_deck_m", "type": "duration"})
	require.Equal(t, float64(0), a.body["lost"], a.text)
	require.Equal(t, 200, d.say("vessels", map[string]any{"fields": map[string]any{
		"car_deck_m": map[string]any{"type": "duration", "read": "minutes", "format": map[string]any{"duration": "hours", "decimals": 2}},
		"passengers": map[string]any{"type": "money", "read": "cents", "currency": "EUR"},
	}}).code)
	got := grandOf(d.run(document("vessels", summed("car_deck_m"), summed("passengers"))))
	require.Equal(t, g.Ask(t, "SELECT (sum(car_deck_m) / 60) || ':' || to_char(sum(car_deck_m) % 60, 'FM00') || ':00' FROM vessels"), got[0])
	require.Equal(t, g.Ask(t, "SELECT (sum(passengers) / 100.0)::numeric(12,2)::text FROM vessels"), got[1])

	// What views would not bear is told first, and said only if she says so.
	a = d.say("claims", fieldWords("status", map[string]any{"type": "yesno"}))
	a.refused(t, 409, "“Open claims by route”")
	require.Contains(t, a.text, `"location":"body.anyway"`)
	_, version := d.now("claims")
	require.Equal(t, 200, d.do("PUT", "/api/catalog/claims/description", map[string]any{
		"version": version, "anyway": true, "said": fieldWords("status", map[string]any{"type": "yesno"}),
	}).code)
	require.Equal(t, 200, d.say("claims", map[string]any{}).code)

	// A link that no key declares, with its name from the other side.
	require.Equal(t, 200, d.say("customers", map[string]any{"links": map[string]any{"colleague": map[string]any{
		"label": "Colleague", "back": "Journeys under their own name",
		"leads": map[string]any{"to": "staff", "by": []string{"email"}, "into": []string{"email"}},
	}}}).code)
	linked := document("customers", field("colleague.name"))
	linked["filter"] = map[string]any{"all": []any{map[string]any{"field": "colleague.name", "op": "filled"}}}
	require.Equal(t, g.Ask(t, "SELECT count(*)::text FROM customers c JOIN staff s ON s.email = c.email"),
		fmt.Sprint(d.run(linked).body["tally"].(map[string]any)["kept"]))
	require.Contains(t, jory.do("GET", "/api/catalog", nil).text, "Journeys under their own name")

	// Whoever may not see what a link goes by does not follow it.
	require.Equal(t, 204, d.do("PUT", "/api/catalog/customers/fields/email/sensitive", map[string]any{"sensitive": true}).code)
	refused := wen.do("POST", "/api/run", map[string]any{"view": linked, "depth": 0, "limit": 1})
	refused.refused(t, 422, "")
	require.Contains(t, refused.text, "is kept from you")

	// Hidden is not offered; what uses it goes on.
	require.Equal(t, 200, d.say("ports", map[string]any{
		"hidden": true, "order": []string{"name", "country"}, "fields": map[string]any{"berths": map[string]any{"hidden": true}},
	}).code)
	require.Equal(t, g.Ask(t, "SELECT sum(berths)::text FROM ports"), grandOf(d.run(document("ports", summed("berths"))))[0])
	fields := d.do("GET", "/api/catalog/ports/fields", nil).body["fields"].([]any)
	require.Equal(t, "name", fields[0].(map[string]any)["path"])
	for _, f := range fields {
		f := f.(map[string]any)
		require.Equal(t, f["path"] == "berths", f["hidden"] == true, f["path"])
	}
	require.Contains(t, g.Ask(t, "SELECT string_agg(about, ' ') FROM gavrik.audit WHERE what = 'description'"), `fields.berths.hidden is true`)
}

// A statement that cannot hold is refused in its place, and nothing is lost.
func TestStatementsThatCannotHoldAreRefused(t *testing.T) {
	g := harness.Start(t)
	d := describing{t, person(t, g, 0)}
	require.Equal(t, 200, d.say("ports", map[string]any{"label": "Harbours"}).code)
	leads := func(to, by, into string) map[string]any {
		return map[string]any{"links": map[string]any{"x": map[string]any{
			"leads": map[string]any{"to": to, "by": strings.Split(by, ","), "into": strings.Split(into, ",")},
		}}}
	}
	for _, c := range []struct {
		said       map[string]any
		place, why string
	}{
		{fieldWords("code", map[string]any{"label": "name"}), "body.said.fields.code.label", "would be called “name”"},
		{fieldWords("gone", map[string]any{"label": "X"}), "body.said.fields.gone", `no field "gone"`},
		{fieldWords("opened_on", map[string]any{"type": "money"}), "body.said.fields.opened_on.type", "cannot be read as an amount of money"},
		{fieldWords("berths", map[string]any{"type": "duration", "read": "moons"}), "body.said.fields.berths.type", `in the way "moons"`},
		{fieldWords("berths", map[string]any{"currency": "EUR"}), "body.said.fields.berths.currency", "has no currency"},
		{fieldWords("berths", map[string]any{"type": "money", "currency": "eur"}), "body.said.fields.berths.currency", "three capitals"},
		{fieldWords("name", map[string]any{"format": map[string]any{"decimals": 2}}), "body.said.fields.name.format", "no decimals"},
		{map[string]any{"key": "country"}, "body.said.key", "does not tell ports apart"},
		{map[string]any{"name": "nothing"}, "body.said.name", `no field "nothing"`},
		{leads("nowhere", "code", "code"), "body.said.links.x.leads", `"nowhere"`},
		{leads("customers", "name", "name"), "body.said.links.x.leads", "Two customers share name “"},
		{leads("vessels", "code", "built_on"), "body.said.links.x.leads", "a link goes by fields of one type"},
		{leads("vessels", "code,name", "name"), "body.said.links.x.leads", "as many fields here as there"},
		{map[string]any{"links": map[string]any{"gone": map[string]any{"label": "X"}}}, "body.said.links.gone", `no link "gone"`},
	} {
		a := d.say("ports", c.said)
		require.Equal(t, 422, a.code, a.text)
		first := a.body["errors"].([]any)[0].(map[string]any)
		require.Equal(t, c.place, first["location"])
		require.Contains(t, first["message"], c.why)
	}
	// A record set that another's link leads to may not lose what it goes by.
	require.Equal(t, 200, d.say("staff", leads("vessels", "name", "name")).code)
	d.say("vessels", fieldWords("name", map[string]any{"type": "date"})).refused(t, 422, "a link goes by fields of one type")

	said, version := d.now("ports")
	require.Equal(t, map[string]any{"label": "Harbours"}, said)
	d.do("PUT", "/api/catalog/ports/description", map[string]any{"version": version - 1, "said": map[string]any{}}).
		refused(t, 409, "Somebody else has described ports meanwhile")
	d.do("PUT", "/api/catalog/nothing/description", map[string]any{"version": 0, "said": map[string]any{}}).
		refused(t, 404, "no record set")

	// The database goes on: what is said about what is gone waits, and is told.
	require.Equal(t, 200, d.say("ports", fieldWords("country", map[string]any{"label": "Land"})).code)
	_, err := g.DB.Exec(t.Context(), "ALTER TABLE ferry.ports RENAME country TO land")
	require.NoError(t, err)
	require.Equal(t, 204, d.do("POST", "/api/refresh", nil).code)
	a := d.do("GET", "/api/catalog/ports/description", nil)
	problem := a.body["problems"].([]any)[0].(map[string]any)
	require.Equal(t, "fields.country", problem["path"])
	require.Contains(t, problem["message"], "waits for it to come back")
	require.Equal(t, 200, d.say("ports", fieldWords("country", map[string]any{"label": "Coast"})).code,
		"what does not hold for another reason does not stop other words")
	_, err = g.DB.Exec(t.Context(), "ALTER TABLE ferry.ports RENAME land TO country")
	require.NoError(t, err)
	require.Equal(t, 204, d.do("POST", "/api/refresh", nil).code)
	require.Contains(t, d.do("GET", "/api/catalog/ports/fields", nil).text, `"Coast"`)
}
