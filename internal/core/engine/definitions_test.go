package engine

import (
	"context"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/engine/windows"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// A view gives the same whether it makes its calculated fields and buckets itself or
// finds them defined.
func TestDefinitionsGiveWhatTheDocumentGives(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		d := drawDocument(t, w)
		own := runWorld(t, w, w.engine(2), d)
		bare := *d
		bare.Calculated, bare.Buckets, bare.Linked = nil, nil, nil
		p, err := plan.CheckWith(&bare, w.catalog, plan.Definitions{
			"crossings": plan.DefinedBy(view.Document{Calculated: d.Calculated, Buckets: d.Buckets, Linked: d.Linked}),
		}, w.cal)
		require.NoError(t, err)
		defined, err := w.engine(3).Run(context.Background(), readBack(t, p))
		require.NoError(t, err)
		require.Equal(t, whole(t, own), whole(t, defined), described(d))
		require.Equal(t, grand(own, format.Plain), grand(defined, format.Plain))
		require.Equal(t, own.Steps, defined.Steps)
		for _, use := range p.Uses() {
			require.Equal(t, "crossings", use[0])
			require.Contains(t, []string{"made", "size", "rate", "drawn"}, use[1])
		}
	})
}

// A definition of a linked record set gives what the same formula gives when it is
// written over the linked fields: in columns, conditions, groups and sorts.
func TestDefinitionsReachThroughLinks(t *testing.T) {
	bands := []view.Band{{Label: "low", Below: "100"}, {Label: "high", From: "100"}}
	defs := plan.Definitions{"piers": plan.DefinedBy(view.Document{
		Calculated: []view.Calculated{{Key: "twice", Label: "Twice", Formula: "Toll * 2 / (Toll - Toll + 1)"}},
		Buckets:    []view.Bucket{{Key: "class", Label: "Class", Of: "toll", Bands: bands}},
	})}
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		filter := &view.Condition{
			All: []view.Condition{
				{
					Field: "twice",
					Op:    rapid.SampledFrom([]view.Op{view.Over, view.AtMost, view.IsBlank, view.Filled}).Draw(t, "op"),
					Value: "50",
				},
			},
		}
		if op := filter.All[0].Op; op == view.IsBlank || op == view.Filled {
			filter.All[0].Value = ""
		}
		doc := func(twice, class string) *view.Document {
			f := *filter
			f.All = []view.Condition{f.All[0]}
			f.All[0].Field = twice
			return &view.Document{
				Gavrik: 1, Records: "crossings", Filter: &f, Columns: []view.Column{{Field: "ref"}, {Field: twice}},
				Groups: []view.Group{{Field: class}}, Sort: []view.Sort{{Field: twice, Desc: true}},
			}
		}
		there := doc("pier.twice", "pier.class")
		p, err := plan.CheckWith(there, w.catalog, defs, w.cal)
		require.NoError(t, err)
		got, err := w.engine(2).Run(context.Background(), readBack(t, p))
		require.NoError(t, err)

		here := doc("twice", "class")
		here.Calculated = []view.Calculated{
			{Key: "twice", Label: "Twice", Formula: "'Pier toll' * 2 / ('Pier toll' - 'Pier toll' + 1)"},
		}
		here.Buckets = []view.Bucket{{Key: "class", Label: "Class", Of: "pier.toll", Bands: bands, Blank: "none"}}
		want := runWorld(t, w, w.engine(1), here)
		// A crossing without a pier has no class; one whose pier has no toll has the
		// class of blanks. Both have no toll here.
		require.Equal(t, want.Kept, got.Kept)
		require.Equal(t, want.Steps, got.Steps)
		values := func(r *windows.Result) map[string]int {
			out := map[string]int{}
			for _, l := range whole(t, r).Lines {
				if l.Group == "" {
					out[l.Cells[0]+"|"+l.Cells[1]]++
				}
			}
			return out
		}
		require.Equal(t, values(want), values(got))
		groups := func(r *windows.Result, blanks ...string) map[string]int {
			out := map[string]int{}
			for _, l := range window(t, r, result.Open{}, 0, 100, format.People).Lines {
				label := l.Label
				for _, b := range blanks {
					if label == b {
						label = "-"
					}
				}
				out[label] += l.Count
			}
			return out
		}
		require.Equal(t, groups(want, "none"), groups(got, "Blank", ""))
	})
}
