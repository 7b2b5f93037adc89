package api

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/test/harness"
)

func calculated(key, formula string) map[string]any {
	return map[string]any{"key": key, "label": "L" + key, "formula": formula}
}

// owing adds a calculated field and a bucket of it to a view.
func owing(doc map[string]any) map[string]any {
	doc["calculated"] = []any{
		map[string]any{"key": "owing", "label": "Owing", "formula": "Claimed - COALESCE(Paid; 0)"},
	}
	doc["buckets"] = []any{map[string]any{"key": "size", "label": "Size", "of": "owing", "bands": []any{
		map[string]any{"below": "100"}, map[string]any{"from": "150", "below": "300"},
		map[string]any{"label": "large", "from": "250"},
	}}}
	return doc
}

// One person defines a field; another uses it in a view, through a link as well; the
// first sees what a change would do before she makes it, and the second is told.
func TestADefinitionFromItsMakingToItsChange(t *testing.T) {
	g := harness.Start(t)
	owner, other := person(t, g, 0), person(t, g, 1)
	defined := map[string]any{
		"key": "party", "label": "Large party", "formula": `IF(Passengers > 4; "large"; "small")`,
	}
	require.Equal(
		t, 201,
		owner.do("POST", "/api/definitions", map[string]any{"records": "bookings", "calculated": defined}).code,
	)
	owner.do("POST", "/api/definitions", map[string]any{
		"records": "bookings", "calculated": defined,
	}).refused(t, 409, "detail")
	broken := map[string]any{"key": "bad", "label": "Bad", "formula": "'Fares' * 2"}
	a := owner.do("POST", "/api/definitions", map[string]any{"records": "bookings", "calculated": broken})
	a.refused(t, 422, "detail")
	require.Contains(t, a.text, `did you mean \"Fare\"`)

	// Claims reach it through their booking.
	fields := other.do("GET", "/api/catalog/claims/fields", nil)
	require.Contains(t, fields.text, `"path":"booking.party"`)
	doc := map[string]any{"gavrik": 1, "records": "claims", "columns": []any{
		map[string]any{"field": "claimed", "totals": []any{map[string]any{"fn": "sum"}}},
	},
		"filter": map[string]any{
			"all": []any{map[string]any{"field": "booking.party", "op": "is", "value": "large"}},
		},
		"groups": []any{map[string]any{"field": "booking.party"}}}
	saved := other.do("POST", "/api/views", map[string]any{"name": "Large parties", "document": doc})
	require.Equal(t, 201, saved.code, saved.text)
	run := map[string]any{"view": doc, "depth": 0, "limit": 5}
	before := other.do("POST", "/api/run", run)
	require.Equal(t, 200, before.code, before.text)
	require.Contains(t, before.text, "Large party is IF(Passengers")

	// The owner may not see that view; she is told that there is one.
	changed := map[string]any{
		"key": "party", "label": "Large party", "formula": `IF(Passengers > 3; "large"; "small")`,
	}
	effects := owner.do("POST", "/api/definitions/bookings/party/effects", map[string]any{
		"calculated": changed, "base": 1,
	})
	require.Equal(t, 200, effects.code, effects.text)
	require.Empty(t, effects.body["effects"])
	require.EqualValues(t, 1, effects.body["hidden"])
	mine := other.do("POST", "/api/definitions/bookings/party/effects", map[string]any{
		"calculated": changed, "base": 1,
	})
	effect := mine.body["effects"].([]any)[0].(map[string]any)
	require.Equal(t, false, effect["same"])
	records := effect["totals"].([]any)[0].(map[string]any)
	require.NotEqual(t, records["before"], records["after"])

	put := map[string]any{"calculated": changed, "base": 1}
	require.Equal(t, 200, owner.do("PUT", "/api/definitions/bookings/party", put).code)
	owner.do("PUT", "/api/definitions/bookings/party", put).refused(t, 409, "detail")
	after := other.do("POST", "/api/run", run)
	kept := func(a answer) any { return a.body["tally"].(map[string]any)["kept"] }
	require.NotEqual(t, kept(before), kept(after), "no result of the old definition is kept")
	require.Equal(t, records["after"], fmt.Sprint(kept(after)))
	since := other.do("GET", "/api/views/"+saved.body["key"].(string), nil).body["since"].([]any)
	require.Len(t, since, 1)
	require.Contains(t, since[0], "Large party was changed by")
	owner.do("DELETE", "/api/definitions/bookings/party", nil).refused(
		t, 409, "This definition is used by 1 view of others, which would not run any more.",
	)
	require.Equal(t, 204, owner.do("DELETE", "/api/definitions/bookings/party?anyway=true", nil).code)
	other.do("POST", "/api/run", run).refused(t, 422, "party")
}

// A formula is tried on real records as it is typed; a fault comes with its place.
func TestAFormulaAndABucketAreTried(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	look := c.do("POST", "/api/formula", map[string]any{"view": owing(claims(nil)), "key": "owing"}).body
	require.Empty(t, look["faults"])
	require.Equal(t, []any{"Claimed", "Paid", "Owing"}, look["heads"])
	require.Len(t, look["rows"], 10)
	require.Equal(t, "an amount of money", look["word"])

	doc := claims(nil)
	doc["calculated"] = []any{map[string]any{"key": "x", "label": "X", "formula": "1 + 'Claimd' * Paied"}}
	faults := c.do("POST", "/api/formula", map[string]any{"view": doc, "key": "x"}).body["faults"]
	require.Equal(t, []any{
		map[string]any{
			"from": 4.0, "to": 12.0, "code": "formula-name",
			"message": `There is no field 'Claimd'; did you mean "Claimed"?`,
		},
		map[string]any{
			"from": 15.0, "to": 20.0, "code": "formula-name",
			"message": `There is no field 'Paied'; did you mean "Paid"?`,
		},
	}, faults)

	doc["calculated"] = []any{
		map[string]any{
			"key": "x", "label": "X", "formula": "SUM(Paid) / SUM(Claimed)", "unit": "percent", "decimals": 1,
		},
	}
	doc["groups"] = []any{map[string]any{"field": "category"}}
	look = c.do("POST", "/api/formula", map[string]any{"view": doc, "key": "x"}).body
	require.Equal(t, true, look["perTotal"])
	rows := look["rows"].([]any)
	require.Regexp(t, `^\d+\.\d %$`, rows[len(rows)-1].([]any)[2])

	bucket := c.do("POST", "/api/bucket", map[string]any{"view": owing(claims(nil)), "key": "size"}).body
	bands := bucket["bands"].([]any)
	require.Len(t, bands, 3)
	require.Equal(t, "under 100.00", bands[0].(map[string]any)["label"])
	require.Equal(t, "150.00 to under 300.00", bands[1].(map[string]any)["label"])
	seams := bucket["seams"].([]any)
	require.Equal(t, "100.00 to 149.99", seams[0].(map[string]any)["words"])
	require.Equal(t, true, seams[0].(map[string]any)["gap"])
	require.Equal(t, "250.00 to 299.99", seams[1].(map[string]any)["words"])
	total := bucket["rest"].(map[string]any)["all"].(float64) + bucket["blank"].(map[string]any)["all"].(float64)
	for _, b := range bands {
		total += b.(map[string]any)["all"].(float64)
	}
	run := c.do("POST", "/api/run", map[string]any{"view": claims(nil), "depth": 0, "limit": 0}).body
	require.Equal(
		t, run["tally"].(map[string]any)["all"], total,
		"every record lies in one band, in the rest or in the blanks",
	)

	for _, start := range [][2]string{
		{"round", "claimed"}, {"round", "opened_at"}, {"widths", "claimed"}, {"counts", "opened_at"},
		{"ageing", "booking.passengers"},
	} {
		kind, field := start[0], start[1]
		split := c.do("POST", "/api/split", map[string]any{
			"view": claims(nil), "field": field, "kind": kind, "parts": 4,
		}).body["bands"].([]any)
		require.GreaterOrEqual(t, len(split), 2, kind)
		doc := claims(nil)
		doc["buckets"] = []any{map[string]any{"key": "b", "label": "B", "of": field, "bands": split}}
		made := c.do("POST", "/api/bucket", map[string]any{"view": doc, "key": "b"}).body
		require.Empty(t, made["faults"], kind)
		require.Empty(t, made["seams"], "proposed bands meet")
		require.Zero(t, made["rest"].(map[string]any)["all"], kind)
		if kind != "round" {
			continue
		}
		// Bounds that people would have chosen: whole amounts of money, the first days of months or years.
		for _, b := range split[1:] {
			require.Regexp(t, `^(\d+\.00|\d{4}-\d{2}-01( 00:00)?)$`, b.(map[string]any)["from"])
		}
	}
}

// The unit of time that is proposed makes as many groups as can be read, and each unit as many as
// PostgreSQL makes.
func TestUnitsOfTime(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	view := claims(nil)
	view["filter"] = map[string]any{"field": "opened_at", "op": "between", "value": "2026-09-10", "to": "2026-10-20"}
	got := c.do("POST", "/api/units", map[string]any{"view": view, "field": "opened_at"})
	require.Equal(t, 200, got.code, got.text)
	require.Equal(t, "week", got.body["proposed"], "two months and one quarter are too few")
	for _, u := range got.body["units"].([]any) {
		unit := u.(map[string]any)["unit"].(string)
		want := g.Ask(t, `SELECT count(DISTINCT date_trunc($1, opened_at))::text FROM claims
			WHERE opened_at >= '2026-09-10' AND opened_at < '2026-10-21'`, unit)
		require.Equal(t, want, fmt.Sprint(u.(map[string]any)["groups"]), unit)
	}
	c.do("POST", "/api/units", map[string]any{"view": view, "field": "claimed"}).refused(t, 422, "has no units of time")
}

// Formulas that were never meant well get a clear answer, soon, and the next request
// is served.
func TestFormulasOfBadWill(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	for source, want := range map[string]string{
		strings.Repeat("1+", 50_000) + "1":                          "The formula has 100001 characters; at most 10000 are read.",
		strings.Repeat("(", 1000) + "1" + strings.Repeat(")", 1000): "nested more than 1000 deep",
		strings.Repeat("-", 9000) + "1":                             "nested more than 1000 deep",
		"'Claimed' / 0":                                             "",
		"9999999999 * 9999999999 * 'Claimed'":                       "",
		"DATE(2026; 2; 30) + DATEVALUE(\"2026-02-30\") - TODAY()":   "A date and a date cannot be put together with +.",
		"\u202e'Claimed'":                                           "has no meaning here",
		"“Claimed”":                                                 "has no meaning here",
		"SUM('Claimed') OVER ()":                                    "An operator such as + or & is wanted before",
		"'; DROP TABLE claims; --'":                                 "There is no field",
		"IF(IF(IF(1;2;3);2;3);2;3)":                                 "IF wants a condition",
	} {
		doc := claims(nil)
		doc["calculated"] = []any{map[string]any{"key": "x", "label": "X", "formula": source}}
		a := c.do("POST", "/api/formula", map[string]any{"view": doc, "key": "x"})
		require.Equal(t, 200, a.code, "%.60q: %s", source, a.text)
		if want == "" {
			require.Empty(t, a.body["faults"], "%.60q", source)
			require.NotEmpty(t, a.body["problems"], "what fails is counted: %.60q", source)
			require.Positive(t, a.body["blanks"])
			continue
		}
		faults := a.body["faults"].([]any)
		require.NotEmpty(t, faults, "%.60q", source)
		require.Contains(t, faults[0].(map[string]any)["message"], want)
	}
	// Bounds of a bucket, too.
	for _, bands := range [][]any{
		{}, {map[string]any{"label": "x"}}, {map[string]any{"from": "1e999"}},
		{map[string]any{"from": "10", "below": "1"}},
		{map[string]any{"label": "a", "below": "1"}, map[string]any{"label": "a", "from": "1"}},
	} {
		doc := claims(nil)
		doc["buckets"] = []any{map[string]any{"key": "b", "label": "B", "of": "claimed", "bands": bands}}
		a := c.do("POST", "/api/bucket", map[string]any{"view": doc, "key": "b"})
		require.Equal(t, 200, a.code, a.text)
		require.NotEmpty(t, a.body["faults"], "%v", bands)
	}
	c.do("POST", "/api/split", map[string]any{
		"view": claims(nil), "field": "status", "kind": "counts", "parts": 4,
	}).refused(t, 422, "collect its values from the list")
	c.do("POST", "/api/split", map[string]any{
		"view": claims(nil), "field": "opened_at", "kind": "ageing",
	}).refused(t, 422, "calculate its age first")
	c.do("POST", "/api/formula", map[string]any{
		"view": claims(nil), "key": "none",
	}).refused(t, 422, "no calculated field")
	c.do("POST", "/api/definitions", map[string]any{"records": "claims"}).refused(t, 422, "give one of them")
	c.do("POST", "/api/definitions", map[string]any{
		"records": "nowhere", "calculated": calculated("k", "1"),
	}).refused(t, 422, "no record set")
	c.do("POST", "/api/definitions", map[string]any{
		"records": "claims", "calculated": calculated("claimed", "1"),
	}).refused(t, 422, "already a field")
}

// A field that another goes by keeps its name, or the fault says whose it is.
func TestAFaultElsewhereSaysWhose(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	doc := claims(nil)
	doc["calculated"] = []any{
		map[string]any{"key": "owing", "label": "Renamed", "formula": "Claimed - Paid"},
		map[string]any{"key": "twice", "label": "Twice", "formula": "'Owing now' * 2"},
	}
	faults := c.do("POST", "/api/formula", map[string]any{"view": doc, "key": "owing"}).body["faults"]
	require.Equal(t, []any{map[string]any{
		"from": 0.0, "to": 0.0, "code": "formula-name",
		"message": "Twice: at character 1: there is no field 'Owing now'.",
	}}, faults)
}
