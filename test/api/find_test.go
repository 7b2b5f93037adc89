package api

import (
	"net/url"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/test/harness"
)

// A question leads to the views and record sets that its words are met in: names,
// descriptions, labels, fields, values, formulas; in other forms, and mistyped; and
// never to what the reader may not see.
func TestQuestionsFindWhatTheyMean(t *testing.T) {
	g := harness.Start(t)
	admin, jory, wen := person(t, g, 0), person(t, g, 1), person(t, g, 2)
	doc := claims(map[string]any{
		"filter": map[string]any{
			"all": []any{map[string]any{"field": "category", "op": "one_of", "values": []string{"Lost luggage"}}},
		},
		"calculated": []any{calculated("remainder", "Claimed - COALESCE(Paid; 0)")},
	})
	luggage := admin.do("POST", "/api/views", map[string]any{
		"name": "Monday round", "description": "For the harbour master", "document": doc, "shares": everyone,
	})
	require.Equal(t, 201, luggage.code, luggage.text)
	secret := admin.do("POST", "/api/views", map[string]any{
		"name": "Quarrelsome customers", "document": claims(nil),
	})
	require.Equal(t, 201, secret.code, secret.text)
	find := func(c *client, words string) (names []string, matches []any) {
		t.Helper()
		a := c.do("GET", "/api/find?words="+url.QueryEscape(words), nil)
		require.Equal(t, 200, a.code, a.text)
		for _, f := range a.body["found"].([]any) {
			one := f.(map[string]any)
			if matches == nil {
				matches = one["matches"].([]any)
			}
			if v, ok := one["view"].(map[string]any); ok {
				names = append(names, v["name"].(string))
			} else {
				names = append(names, "set "+one["set"].(string))
			}
		}
		return names, matches
	}
	for words, want := range map[string][3]string{
		"claims by route":          {"Open claims by route", "name", "Open claims by route"},
		"which sailings were late": {"Late sailings, last 30 days", "name", ""},
		"lst lugage":               {"Monday round", "value", "Lost luggage"},
		"harbour masters":          {"Monday round", "description", "For the harbour master"},
		"coalesce remainder":       {"Monday round", "formula", ""},
		"lat sailngs":              {"Late sailings, last 30 days", "name", "Late sailings, last 30 days"},
		"vessels":                  {"set vessels", "name", "Vessels"},
		"mulberry quay":            {"set ports", "value", "Name: Mulberry Quay"},
	} {
		names, matches := find(jory, words)
		require.NotEmpty(t, names, words)
		require.Equal(t, want[0], names[0], "%s: %v", words, names)
		match := matches[0].(map[string]any)
		require.Equal(t, want[1], match["part"], words)
		if want[2] != "" {
			require.Equal(t, want[2], match["text"], words)
		}
	}
	// A label is a part as soon as it is given.
	key := luggage.body["key"].(string)
	names, _ := find(jory, "pilotage")
	require.Empty(t, names)
	require.Equal(t, 200, admin.do("PUT", "/api/views/"+key+"/mark", map[string]any{"label": "Pilotage"}).code)
	names, _ = find(jory, "pilotage")
	require.Equal(t, []string{"Monday round"}, names)
	// What is private, kept back or nonsense is not found; nothing breaks the question.
	names, _ = find(jory, "quarrelsome")
	require.Empty(t, names)
	names, _ = find(wen, "handler staff master")
	require.NotContains(t, names, "set staff")
	for _, words := range []string{
		"", "by", "'; DROP TABLE gavrik.views; --", "& | ! <-> :*", `\`, "%_", "ü", "(((", "a:b'c",
	} {
		names, _ = find(jory, words)
		require.NotContains(t, names, "Quarrelsome customers", words)
	}
	names, _ = find(admin, "quarrelsom custmers")
	require.Equal(t, "Quarrelsome customers", names[0])
}
