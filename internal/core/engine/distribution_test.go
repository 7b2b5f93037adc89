package engine

import (
	"context"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/explain"
	"gavrik/internal/core/view"
)

// Every bin counts the records that the condition with its bounds keeps.
func TestDistributionCountsWhatItsBoundsKeep(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		c := drawCondition(t, w, 1)
		d := &view.Document{Gavrik: 1, Records: "crossings", Filter: &c}
		path := rapid.SampledFrom([]string{
			"seats", "fare", "rebate", "day", "at", "delay", "state", "late",
		}).Draw(t, "path")
		bins := rapid.IntRange(4, 30).Draw(t, "bins")
		e := w.engine(2)
		p := runWorld(t, w, e, d).Plan
		ref, err := w.catalog.Resolve("crossings", path)
		require.NoError(t, err)
		got, err := e.Distribution(context.Background(), p, ref, bins)
		require.NoError(t, err)
		f := w.field(path)
		all, kept := 0, 0
		for i, b := range got.Bins {
			inAll, inKept := 0, 0
			from, below, value := w.written(b.From, f), w.written(b.Below, f), w.written(b.Value, f)
			for _, row := range w.rows {
				v := row[path]
				if v == nil || from != "" && !w.meetsValue(view.AtLeast, from, "", v, f) ||
					below != "" && !w.meetsValue(view.Under, below, "", v, f) ||
					value != "" && w.cell(v, catalog.Field{}) != value &&
						!(f.Type == catalog.YesNo && w.meetsValue(view.Is, value, "", v, f)) {
					continue
				}
				inAll++
				if w.meets(&c, row) {
					inKept++
				}
			}
			all, kept = all+b.All, kept+b.Kept
			if value == "" && from == "" && below == "" { // the others of texts
				require.Equal(t, len(got.Bins)-1, i)
				continue
			}
			if f.Scale == 0 && path != "delay" || path == "fare" || path == "rebate" { // written to what they keep
				require.Equal(t, [2]int{inAll, inKept}, [2]int{b.All, b.Kept}, "%+v", b)
			}
		}
		blanks, keptRows := 0, 0
		for _, row := range w.rows {
			if row[path] == nil {
				blanks++
			}
			if w.meets(&c, row) {
				keptRows++
			}
		}
		require.Equal(t, blanks, got.BlankAll)
		require.Equal(t, len(w.rows), all+blanks)
		require.Equal(t, keptRows, kept+got.BlankKept)
		require.LessOrEqual(t, len(got.Bins), bins+2)
	})
}

// An explanation accounts for every record of its group.
func TestExplanationAccountsForTheRecords(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		d := drawDocument(t, w)
		if rapid.Bool().Draw(t, "across") {
			g := drawGroup(t, w)
			g.Top, g.Empty = 0, false
			d.Across = []view.Group{g}
		}
		e := w.engine(2)
		e.opts.MaxColumns = 1 << 20
		res := runWorld(t, w, e, d)
		for head, h := range res.Heads {
			if res.Figures[head] == nil {
				continue
			}
			x, err := explain.Figure(context.Background(), res, "", head)
			require.NoError(t, err)
			if res.Plan.Columns[h.Column].Shows(0) {
				require.Equal(t, grand(res, 0).Cells[head], res.Pen(0).Figure(head, x.Value))
			}
			require.Equal(t, res.Steps, x.Steps)
			if x.Blanks >= 0 {
				require.Equal(t, x.Records, x.Counted+x.Blanks)
			}
			if len(h.Across) == 0 {
				require.Equal(t, res.Kept, x.Records)
			}
			m := res.Plan.Measures[res.Plan.Columns[h.Column].Measure]
			if x.Fn == view.CountFilled && m.Show == "" && len(h.Across) == 0 {
				require.Equal(t, res.Pen(0).Figure(head, x.Value), w.people(x.Counted))
			}
		}
	})
}
