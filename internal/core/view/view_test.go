package view

import (
	"encoding/json"
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/catalog"
)

// The words that the schema lists are those that the program knows.
func TestTagsListWhatThereIs(t *testing.T) {
	tag := func(of any, field string) []string {
		f, ok := reflect.TypeOf(of).FieldByName(field)
		require.True(t, ok)
		return strings.Split(f.Tag.Get("enum"), ",")
	}
	var shows []string
	for _, s := range Shows()[1:] {
		shows = append(shows, string(s))
	}
	require.Equal(t, shows, tag(Total{}, "Show"))
	var tests []string
	for _, l := range LinkedTests() {
		tests = append(tests, string(l))
	}
	require.Equal(t, tests, tag(Linked{}, "Test"))
}

func TestEveryTypeHasOperatorsAndTotalsWithWords(t *testing.T) {
	for _, info := range catalog.Types() {
		typ := info.Type
		seen := map[string]bool{}
		for _, op := range OpsFor(typ) {
			if op != OneOf && op != NoneOf && op != In && op != NotIn { // said by their values
				words := op.Words(typ)
				require.NotContains(t, words, "_", "%s of %s", op, typ)
				require.False(t, seen[words], "%q is said twice for %s", words, typ)
				seen[words] = true
			}
			positive, negative := op.Negative()
			if negative {
				require.Contains(t, OpsFor(typ), positive)
			}
		}
		require.NotEmpty(t, FnsFor(typ))
		for _, fn := range FnsFor(typ) {
			require.NotEmpty(t, fn.Words(typ))
			require.NotEmpty(t, fn.Heading(typ))
		}
	}
	require.NotContains(t, FnsFor(catalog.Percent), Sum, "percentages are never summed")
}

// Lists of texts are as long as a document may be, also where they are written with escapes.
func TestListsOfTextsAreNotCounted(t *testing.T) {
	list := strings.Repeat(`"\u003cé",`, 250_000) + `"\u003cé"`
	d, err := Parse([]byte(
		`{"gavrik":1,"records":"claims","columns":[],"filter":{"field":"ref","op":"one_of","values":[` + list + `]}}`,
	))
	require.NoError(t, err)
	require.Len(t, d.Filter.Values, 250_001)
	require.Equal(t, "<é", d.Filter.Values[9])
	_, err = Parse([]byte(
		`{"gavrik":1,"records":"claims","columns":[],"filter":{"field":"ref","op":"one_of","values":["\u003c",null]}}`,
	))
	require.ErrorContains(t, err, "filter.values[1]: null stands where a text in quotes is wanted")
}

// A document without columns is written as the schema has it.
func TestADocumentWithoutColumnsIsReadAgain(t *testing.T) {
	text, err := json.Marshal(&Document{Gavrik: 1, Records: "claims"})
	require.NoError(t, err)
	require.JSONEq(t, `{"gavrik":1,"records":"claims","columns":[]}`, string(text))
	_, err = Parse(text)
	require.NoError(t, err)
}

// Whatever parses is written and read again as the same document.
func FuzzParse(f *testing.F) {
	f.Add([]byte(
		`{"gavrik":1,"records":"claims","columns":[{"field":"ref","totals":[{"fn":"distinct","label":"x"}],"width":80}]}`,
	))
	f.Add([]byte(
		`{"gavrik":1,"records":"s","filter":{"none":[{"field":"at","op":"in","period":{"which":"past","unit":"day","n":30}}]},"groups":[{"field":"at","unit":"week","order":{"by":"count","desc":true}}],"sort":[{"field":"a"}]}`,
	))
	f.Add([]byte(
		`{"gavrik":1,"filter":{"any":[{"field":"a","op":"between","value":"1","to":"2"},{"field":"b","op":"is","other":"c"}]}}`,
	))
	f.Add([]byte("{\"gavrik\":1,\"records\":\"\\u0000\xff\"}"))
	f.Fuzz(func(t *testing.T, data []byte) {
		doc, err := Parse(data)
		if err != nil {
			return
		}
		text, err := json.Marshal(doc)
		require.NoError(t, err)
		again, err := Parse(text)
		require.NoError(t, err)
		// An empty list beside a missing one is the only difference writing may make,
		// and not in a condition, where the two mean different things.
		rewritten, err := json.Marshal(again)
		require.NoError(t, err)
		require.Equal(t, string(text), string(rewritten))
		require.Equal(t, shape(doc.Filter), shape(again.Filter))
	})
}

// shape is how a condition is built, without its tests.
func shape(c *Condition) string {
	if c == nil {
		return "-"
	}
	out := ""
	for name, list := range map[string][]Condition{"all": c.All, "any": c.Any, "none": c.None} {
		if list != nil {
			out += name + "("
			for i := range list {
				out += shape(&list[i])
			}
			out += ")"
		}
	}
	return out
}

// Lists read in one go are the lists that encoding/json reads.
func FuzzValues(f *testing.F) {
	for _, s := range []string{
		`[]`, `["a","b"]`, `[ "a" , "" ]`, `["\u00e9"]`, `["a",]`, `["a" "b"]`, `[1]`, `null`, `["a"`, "[\"\xff\"]",
		`["é","]"]`,
	} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		var got Values
		var want []string
		errGot, errWant := json.Unmarshal([]byte(s), &got), json.Unmarshal([]byte(s), &want)
		require.Equal(t, errWant == nil, errGot == nil)
		if errWant == nil {
			require.Equal(t, append([]string{}, want...), append([]string{}, got...))
		}
	})
}
