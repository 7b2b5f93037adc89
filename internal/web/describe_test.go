package web

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/require"

	"gavrik/internal/core/view"
)

// schemas are the published ones of a view document, by name.
type schemas struct {
	Defs map[string]*schema `json:"$defs"`
}

type schema struct {
	Ref        string             `json:"$ref"`
	Type       string             `json:"type"`
	Properties map[string]*schema `json:"properties"`
	Required   []string           `json:"required"`
	Items      *schema            `json:"items"`
	Enum       []any              `json:"enum"`
	Minimum    *float64           `json:"minimum"`
	Maximum    *float64           `json:"maximum"`
	MaxLength  *int               `json:"maxLength"`
	Pattern    string             `json:"pattern"`
}

func (s *schemas) of(x *schema) *schema {
	if name, ok := strings.CutPrefix(x.Ref, "#/$defs/"); ok {
		return s.Defs[name]
	}
	return x
}

// draw makes a value that a schema takes; breaking, if it is not nil, is asked at every value
// for one that takes its place.
func (s *schemas) draw(r *rand.Rand, x *schema, depth int, breaking func(x *schema, v any) any) any {
	x = s.of(x)
	var out any
	switch x.Type {
	case "object":
		object := map[string]any{}
		for _, name := range slices.Sorted(maps.Keys(x.Properties)) {
			if slices.Contains(x.Required, name) || depth > 0 && r.IntN(4) == 0 {
				object[name] = s.draw(r, x.Properties[name], depth-1, breaking)
			}
		}
		out = object
	case "array":
		list := []any{}
		for range r.IntN(3) * min(1, max(0, depth)) {
			list = append(list, s.draw(r, x.Items, depth-1, breaking))
		}
		out = list
	case "integer":
		lo, hi := -5.0, 5.0
		if x.Minimum != nil {
			lo, hi = *x.Minimum, *x.Minimum+9
		}
		if x.Maximum != nil {
			hi = *x.Maximum
		}
		out = lo + float64(r.IntN(int(hi-lo)+1))
	case "boolean":
		out = r.IntN(2) == 0
	case "string":
		switch {
		case len(x.Enum) > 0:
			out = x.Enum[r.IntN(len(x.Enum))]
		case x.Pattern != "":
			out = []string{"a", "b_2", "route"}[r.IntN(3)]
		default:
			out = []string{"", "a", "é ☂", "status", "2026-11-23"}[r.IntN(5)]
		}
	}
	if breaking != nil {
		out = breaking(x, out)
	}
	return out
}

// broken puts something in a value's place that its schema may not take.
func broken(r *rand.Rand, x *schema, v any) any {
	switch r.IntN(6) {
	case 0:
		return []any{nil, 1.0, 1.5, "x", true, []any{}, map[string]any{}}[r.IntN(7)]
	case 1:
		if object, ok := v.(map[string]any); ok && len(object) > 0 {
			keys := slices.Sorted(maps.Keys(object))
			delete(object, keys[r.IntN(len(keys))])
		}
	case 2:
		if object, ok := v.(map[string]any); ok {
			object[[]string{"x", "Field", "value ", "gavrik"}[r.IntN(4)]] = "x"
		}
	case 3:
		if list, ok := v.([]any); ok {
			return append(list, []any{nil, 1.0, "x", map[string]any{}}[r.IntN(4)])
		}
	case 4:
		if n, ok := v.(float64); ok {
			return n + []float64{-1, 1, 0.5, -100, 1e5, 1e19}[r.IntN(6)]
		}
	case 5:
		if text, ok := v.(string); ok {
			return []string{text + "x", strings.ToUpper(text), strings.Repeat("é", 121), text + " ", ""}[r.IntN(5)]
		}
	}
	return v
}

// The strict reader takes exactly the documents that the published schema takes, as another
// program reads it: documents made of the schema, and such as are broken in one place.
func TestTheReaderTakesWhatTheSchemaTakes(t *testing.T) {
	text, err := ViewSchema()
	require.NoError(t, err)
	var published schemas
	require.NoError(t, json.Unmarshal(text, &published))
	compiler := jsonschema.NewCompiler()
	described, err := jsonschema.UnmarshalJSON(bytes.NewReader(text))
	require.NoError(t, err)
	require.NoError(t, compiler.AddResource("view.schema.json", described))
	judge, err := compiler.Compile("view.schema.json")
	require.NoError(t, err)
	taken, refused := 0, 0
	for seed := range uint64(3000) { // the same documents every time
		r := rand.New(rand.NewPCG(seed, 7))
		breakAt, at := -1, 0
		if r.IntN(2) == 0 {
			breakAt = r.IntN(20)
		}
		doc := published.draw(r, &schema{Ref: "#/$defs/Document"}, 1+r.IntN(5), func(x *schema, v any) any {
			if at++; at-1 == breakAt {
				return broken(r, x, v)
			}
			return v
		})
		text, err := json.Marshal(doc)
		require.NoError(t, err)
		again, err := jsonschema.UnmarshalJSON(bytes.NewReader(text))
		require.NoError(t, err)
		against := judge.Validate(again)
		_, err = view.Parse(text)
		if err == nil {
			taken++
		} else {
			refused++
		}
		require.Equal(t, against == nil, err == nil, "%s\nschema: %v\nreader: %v", text, against, err)
	}
	require.Greater(t, taken, 500)
	require.Greater(t, refused, 200)
}

// Faults of documents over HTTP are those of the reader, with their codes.
func TestWrongDocumentsInABody(t *testing.T) {
	for body, want := range map[string]string{
		`{"view":{"gavrik":1,"records":"claims","columns":{}}}`:                  "body.view.columns value-kind",
		`{"document":{"gavrik":1,"records":"claims","columns":[],"columns":[]}}`: "body.document.columns key-twice",
		`{"limits":[{"rule":{"gavrik":1,"records":"claims"}}]}`:                  "body.limits[0].rule.columns key-missing",
		`{"from":"2026-01-01","view":{"gavrik":1,"records":"c","columns":[]}}`:   "",
		`[]`: "", `{"view":7}`: "",
	} {
		got := ""
		for _, err := range wrongDocuments([]byte(body)) {
			d := err.(*placed)
			got += fmt.Sprint(d.Location, " ", d.Code)
		}
		require.Equal(t, want, got, body)
	}
}
