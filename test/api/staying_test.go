package api

import (
	"encoding/json"
	"fmt"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/test/harness"
)

// saidBy is what an answer says, but for when and how it was worked out.
func saidBy(a answer) string {
	var tidy func(any) any
	tidy = func(v any) any {
		switch v := v.(type) {
		case map[string]any:
			for _, key := range []string{"micros", "asOf", "asOfText", "result", "version", "asked", "instance"} {
				delete(v, key)
			}
			for key, one := range v {
				v[key] = tidy(one)
			}
		case []any:
			for i, one := range v {
				v[i] = tidy(one)
			}
		}
		return v
	}
	text, err := json.MarshalIndent(tidy(any(a.body)), "", " ")
	if err != nil {
		return err.Error()
	}
	return fmt.Sprintln(a.code) + string(text)
}

// pathsOf are the fields that are listed.
func pathsOf(a answer) (out []any) {
	fields, _ := a.body["fields"].([]any)
	for _, f := range fields {
		out = append(out, f.(object)["path"])
	}
	return out
}

// questionsOf are questions of every kind about the records of a set: the fields, a text of it and an amount,
// others of linked records.
func questionsOf(set, text, amount, moment, linked string) map[string]object {
	over := document(set, field(text), summed(amount), field(linked))
	over["filter"] = object{"all": []any{object{"field": amount, "op": "over", "value": "20"}}}
	over["groups"] = []any{object{"field": linked}, object{"field": moment, "unit": "month"}}
	narrow := document(set, field(text), field(amount), field(moment), field(linked))
	if path := madeOf[set]; path != "" { // a definition, of its own or of the records that it links to
		narrow["columns"] = append(narrow["columns"].([]any), summed(path))
		over["columns"] = append(
			over["columns"].([]any), object{"field": path, "totals": []any{object{"fn": "largest"}}},
		)
	}
	narrow["sort"] = []any{object{"field": amount, "desc": true}, object{"field": text}}
	median := document(
		set, object{"field": amount, "totals": []any{object{"fn": "median"}, object{"fn": "distinct"}}},
	)
	median["groups"] = []any{object{"field": linked, "keep": object{"top": 3, "by": object{"fn": "records"}}}}
	out := map[string]object{}
	for name, doc := range map[string]object{"groups": over, "records": narrow, "medians": median} {
		out["POST /api/run "+name] = object{"view": doc, "depth": 2, "limit": 60, "plain": true}
	}
	for _, f := range []string{text, amount, moment, linked} {
		out["POST /api/values "+f] = object{"view": over, "field": f, "search": "", "limit": 20}
		out["POST /api/distribution "+f] = object{"view": over, "field": f, "bins": 12}
	}
	out["POST /api/overview"] = object{"view": over, "fields": []string{text, amount, moment}}
	out["POST /api/explain"] = object{"view": over, "column": 1}
	return out
}

// madeOf are the paths of a definition on bookings, by the sets that it is used from.
var madeOf = map[string]string{
	"bookings": "fare_each", "claims": "booking.fare_each", "payments": "booking.fare_each",
}

// Whoever asks, and whatever, is told the same of records that stay in their database as of records in
// memory, and nothing else: an administrator, an analyst, and a reader with limits that reach through links.
func TestRecordsThatStaySayWhatTheySayInMemory(t *testing.T) {
	g := harness.Start(t)
	for _, stays := range [][]string{
		{"claims"}, {"bookings"}, {"customers"}, {"sailings"}, {"claims", "bookings", "customers"},
	} {
		other := harness.StartStaying(t, g, stays...)
		for i := range 3 {
			here, there := person(t, g, i), person(t, other, i)
			refused := 0
			for _, set := range []string{"claims", "bookings", "payments", "customers"} {
				path := "/api/catalog/" + set + "/fields"
				want, got := here.do("GET", path, nil), there.do("GET", path, nil)
				if want.code == 200 && got.code == 404 {
					refused++
					continue
				}
				require.Equal(t, pathsOf(want), pathsOf(got), "%v stay, person %d: the fields of %s", stays, i, set)
			}
			for _, q := range []map[string]object{
				questionsOf("claims", "status", "claimed", "opened_at", "booking.customer.country"),
				questionsOf("bookings", "ref", "fare", "booked_at", "sailing.route.name"),
				questionsOf("payments", "method", "amount", "paid_at", "booking.channel"),
				questionsOf("sailings", "route.name", "passengers", "departs_at", "vessel.name"),
			} {
				for name, send := range q {
					method, rest, _ := strings.Cut(name, " ")
					path, _, _ := strings.Cut(rest, " ")
					want, got := here.do(method, path, send), there.do(method, path, send)
					if got.code == 422 && want.code == 200 { // what it cannot tell, it says so
						require.Regexp(t, "is kept from you|stay in the database", got.text, name)
						refused++
						continue
					}
					require.Equal(t, saidBy(want), saidBy(got), "%v stay, person %d: %s %v", stays, i, name, send)
				}
			}
			require.Zero(t, refused, "%v stay, person %d", stays, i)
		}
	}
}

// What a reader may not see of records that stay is in no answer either: not in counts, samples, searches,
// spreads, files, orders or errors, and no view of hers reaches it by way of what links there.
func TestNothingOfRecordsThatStayReachesWhoMayNotSeeThem(t *testing.T) {
	g := harness.Start(t)
	other := harness.StartStaying(t, g, "bookings")
	wen := person(t, other, 2)
	hers := g.Ask(t, "SELECT b.ref FROM "+own+" ORDER BY 1 LIMIT 1")
	hidden := g.Ask(t, "SELECT ref FROM bookings EXCEPT SELECT b.ref FROM "+own+" ORDER BY 1 LIMIT 1")
	most := g.Ask(t, "SELECT max(fare)::text FROM bookings")
	require.NotEqual(t, most, g.Ask(t, "SELECT max(b.fare)::text FROM "+own))

	all := document("bookings", field("ref"), summed("fare"), field("customer.name"))
	a := wen.do("POST", "/api/run", object{"view": all, "depth": 1, "limit": 1000, "plain": true})
	require.Equal(t, 200, a.code, a.text)
	tally := a.body["tally"].(object)
	require.Equal(t, g.Ask(t, "SELECT count(*)::text FROM "+own), fmt.Sprint(tally["all"]))
	require.Equal(t, true, tally["fewer"])
	require.Contains(t, a.text, hers)
	require.NotContains(t, a.text, hidden)

	attacks := map[string]object{}
	look := func(name, path string, send object) { attacks["POST "+path+" "+name] = send }
	conditions := map[string]any{
		"by name":         object{"field": "ref", "op": "starts", "value": hidden[:len(hidden)-1]},
		"by its opposite": object{"none": []any{object{"field": "ref", "op": "is", "value": hers}}},
		"or anything": object{"any": []any{
			object{"field": "ref", "op": "filled"}, object{"field": "ref", "op": "blank"},
		}},
		"by a quote":    object{"field": "ref", "op": "contains", "value": "') OR true --"},
		"by a formula":  object{"field": "made", "op": "filled"},
		"by the amount": object{"field": "fare", "op": "over", "value": g.Ask(t, "SELECT max(b.fare)::text FROM "+own)},
	}
	for name, c := range conditions {
		doc := document("bookings", field("ref"), summed("fare"))
		doc["filter"] = object{"all": []any{c}}
		doc["calculated"] = []any{calculated("made", "UPPER(Ref)")}
		look(name, "/api/run", object{"view": doc, "depth": 1, "limit": 1000, "plain": true})
		look(name, "/api/values", object{"view": doc, "field": "ref", "search": "", "limit": 1000})
		look(name+", made", "/api/values", object{"view": doc, "field": "made", "search": hidden, "limit": 1000})
		look(name, "/api/distribution", object{"view": doc, "field": "fare", "bins": 50})
		look(name, "/api/overview", object{"view": doc, "fields": []string{"ref", "fare"}})
	}
	for _, set := range []string{"customers", "sailings", "routes"} { // what draws from them draws from hers
		doc := document(set, field("n"), field("most"))
		doc["linked"] = []any{
			object{"key": "n", "label": "N", "records": "bookings", "by": by[set], "take": "count"},
			object{"key": "most", "label": "Most", "records": "bookings", "by": by[set], "take": "largest", "field": "fare"},
		}
		look(set, "/api/run", object{"view": doc, "depth": 1, "limit": 1000, "plain": true})
	}
	answered := 0
	for name, send := range attacks {
		method, rest, _ := strings.Cut(name, " ")
		path, _, _ := strings.Cut(rest, " ")
		a := wen.do(method, path, send)
		require.NotContains(t, a.text, hidden, name)
		require.NotContains(t, a.text, most, name)
		require.Less(t, a.code, 500, "%s: %s", name, a.text)
		if a.code == 200 {
			answered++
		} else {
			t.Log(name, a.text)
		}
	}
	require.Greater(t, answered, 30)
	held := wen.do("GET", "/api/catalog/bookings/holding?text="+url.QueryEscape(hidden), nil)
	require.Empty(t, held.body["fields"])
	require.NotContains(t, wen.do("GET", "/api/catalog/bookings/fields", nil).text, hidden)
	counts := wen.do("GET", "/api/catalog", nil)
	require.NotContains(t, counts.text, "16000", "how many there are is not hers to know")
	// Nor does what belongs to hidden ones.
	for _, set := range []string{"claims", "payments", "booking_lines"} {
		a := wen.do("POST", "/api/run", object{"view": document(set), "depth": 0, "limit": 5})
		seen := "booking_id IS NULL OR booking_id IN (SELECT b.id FROM " + own + ")"
		require.Equal(t, g.Ask(t, "SELECT count(*)::text FROM "+set+" WHERE "+seen), allOf(a), set)
	}
	claims := object{"view": document("claims"), "depth": 0, "limit": 5}
	both := person(t, harness.StartStaying(t, g, "bookings", "claims"), 2)
	require.Equal(t, allOf(wen.do("POST", "/api/run", claims)), allOf(both.do("POST", "/api/run", claims)))
}

// allOf is how many records an answer says there are.
func allOf(a answer) string { return fmt.Sprint(a.body["tally"].(object)["all"]) }

// by are the links from bookings to a set.
var by = map[string]string{"customers": "customer", "sailings": "sailing", "routes": "sailing.route"}

// An administrator has records stay, and has them in memory again. What they say is the same; how they are
// described, and what is filled in, is told where it cannot be.
func TestAnAdministratorLetsRecordsStay(t *testing.T) {
	g := harness.Start(t)
	_, err := g.DB.Exec(t.Context(), `CREATE TABLE ferry.teams (category text PRIMARY KEY, team text NOT NULL);
		INSERT INTO ferry.teams SELECT category, CASE WHEN category < 'L' THEN 'Early' ELSE 'Late' END
		FROM ferry.claims WHERE category IS NOT NULL GROUP BY category`)
	require.NoError(t, err)
	d := describing{t, person(t, g, 0)}
	require.Equal(t, 204, d.do("POST", "/api/refresh", nil).code)
	set := func() object {
		for _, one := range d.do("GET", "/api/catalog", nil).body["sets"].([]any) {
			if one := one.(object); one["key"] == "claims" {
				return one
			}
		}
		return nil
	}
	link := object{"links": object{"team_of": object{"label": "Team", "leads": object{
		"to": "teams", "by": []string{"category"}, "into": []string{"category"},
	}}}}
	require.Equal(t, 200, d.say("claims", link).code)
	doc := document(
		"claims", summed("claimed"), object{"field": "paid", "totals": []any{object{"fn": "average"}}},
	)
	doc["groups"] = []any{object{"field": "team_of.team"}, object{"field": "handler.name"}}
	before := d.run(doc)
	require.NotContains(t, set(), "stays")

	require.Equal(t, 204, d.do("PUT", "/api/staying/claims", object{"stays": true}).code)
	require.Equal(t, []any{true, true, "here"}, []any{set()["stays"], set()["about"], set()["settled"]})
	after := d.run(doc)
	require.Equal(t, true, after.body["tally"].(object)["asked"])
	require.Equal(t, saidBy(before), saidBy(after))

	// Another way of showing the same asks nobody; what changes is told when somebody asks again.
	_, err = g.DB.Exec(
		t.Context(), "UPDATE claims SET claimed = claimed + 1000 WHERE id = (SELECT min(id) FROM claims)",
	)
	require.NoError(t, err)
	turned := document("claims", summed("claimed"))
	turned["groups"] = doc["groups"]
	turned["columns"] = append(
		doc["columns"].([]any), object{"field": "claimed", "totals": []any{object{"fn": "average"}}},
	)
	require.Equal(t, grandOf(before)[0], grandOf(d.run(turned))[0])
	a := d.do("POST", "/api/run", object{"view": doc, "depth": 1, "limit": 100, "plain": true, "anew": true})
	require.Equal(t, g.Ask(t, "SELECT sum(claimed)::text FROM claims"), grandOf(a)[0])
	require.Equal(t, grandOf(a)[0], grandOf(d.run(doc))[0])

	// What cannot be where they stay is told, and nothing else is lost.
	d.do("POST", "/api/facts/claims", object{
		"label": "Berthed", "type": "yesno", "fill": object{"role": "analyst"},
	}).refused(t, 422, "stay in their database")
	link["fields"] = object{"status": object{"type": "whole"}}
	said := d.say("claims", link)
	require.Contains(t, said.text, "stay in their database, where every field has its own type")
	require.Equal(t, grandOf(a), grandOf(d.run(doc)))

	_, err = g.DB.Exec(t.Context(), "ALTER TABLE claims RENAME note TO remark")
	require.NoError(t, err)
	d.do("POST", "/api/run", object{"view": document("claims", field("note")), "depth": 0, "limit": 5}).
		refused(t, 502, "others than when the records were loaded")
	require.Empty(t, d.do("GET", "/api/asking", nil).body["asking"])

	require.Equal(t, 204, d.do("PUT", "/api/staying/claims", object{"stays": false}).code)
	require.NotContains(t, set(), "stays")
	require.Equal(t, grandOf(a), grandOf(d.run(doc)))
	require.NotContains(t, d.run(doc).body["tally"], "asked")
	d.do("PUT", "/api/staying/list_prices", object{"stays": true}).refused(t, 409, "came in a file")
}

// A table of which the database does not say how its records are told apart, as it cannot of one that is
// spread over servers: people say so, the database is asked once whether it holds, and what needs single
// records is there.
func TestPeopleSayWhatTellsRecordsApartThatStay(t *testing.T) {
	g := harness.Start(t)
	_, err := g.DB.Exec(t.Context(), `
		CREATE TABLE ferry.scans (ticket int NOT NULL, gate text, fare numeric(8,2));
		INSERT INTO ferry.scans SELECT 1000 - n, 'Gate ' || n % 3, n FROM generate_series(1, 400) n`)
	require.NoError(t, err)
	d := describing{t, person(t, g, 0)}
	require.Equal(t, 204, d.do("POST", "/api/refresh", nil).code)
	require.Equal(t, 204, d.do("PUT", "/api/staying/scans", object{"stays": true}).code)
	doc := document("scans", field("ticket"), object{
		"field": "fare", "totals": []any{object{"fn": "last", "by": "ticket"}, object{"fn": "sum"}},
	})
	doc["groups"] = []any{object{"field": "gate"}}
	ask := object{"view": doc, "depth": 1, "limit": 500, "plain": true, "anew": true}
	d.do("POST", "/api/run", ask).refused(t, 422, "no primary key")
	d.say("scans", object{"key": "gate"}).refused(t, 422, "Gate does not tell scans apart")
	require.Equal(t, 200, d.say("scans", object{"key": "ticket"}).code)
	a := d.do("POST", "/api/run", ask)
	require.Equal(t, 200, a.code, a.text)
	require.Equal(t, []string{"1.00", "80200.00"}, grandOf(a)[1:])
	var shown []string
	for _, line := range a.body["lines"].([]any) {
		if line := line.(object); line["record"] != nil {
			shown = append(shown, line["cells"].([]any)[0].(string))
		}
	}
	require.Len(t, shown, 400)
	inOrder := g.Ask(t, "SELECT string_agg(ticket::text, ',' ORDER BY gate, ticket) FROM ferry.scans")
	require.Equal(t, inOrder, strings.Join(shown, ","))

	_, err = g.DB.Exec(t.Context(), "INSERT INTO ferry.scans VALUES (700, 'Gate 0', 1)")
	require.NoError(t, err)
	d.do("POST", "/api/run", ask).refused(t, 422, "several of which have one key")
}
