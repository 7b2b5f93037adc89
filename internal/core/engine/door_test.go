package engine

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// A record is found by its key, whatever the filter says, and no other is.
func TestLookupFindsRecordsByKey(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		byText := rapid.Bool().Draw(t, "by text")
		fields := []catalog.Field{
			{Key: "ref", Label: "Ref", Type: catalog.Text, Unique: byText},
			{Key: "number", Label: "Number", Type: catalog.Whole, Unique: !byText},
			{Key: "fare", Label: "Fare", Type: catalog.Money, Scale: 2},
		}
		w := &world{cal: worldCalendar, catalog: &catalog.Catalog{Sets: []*catalog.RecordSet{
			{Key: "tickets", Label: "Tickets", One: "ticket", Many: "tickets", Fields: fields},
		}}}
		numbers := rapid.SliceOfNDistinct(rapid.Int64Range(-9, 60), 0, 40, rapid.ID[int64]).Draw(t, "numbers")
		ref := func(n int64) string { // some differ in case alone
			if n < 0 {
				return strings.ToUpper(fmt.Sprint("été ", -n))
			}
			return fmt.Sprint("été ", n)
		}
		for i, n := range numbers {
			w.rows = append(w.rows, map[string]any{"ref": ref(n), "number": n, "fare": int64(i * 100)})
		}
		w.buildAs("tickets")
		e := w.engine(1)
		p := e.plan(t, &view.Document{
			Gavrik: 1, Records: "tickets", Filter: &view.Condition{Field: "fare", Op: view.Under, Value: "0"},
			Columns:    []view.Column{{Field: "twice"}, {Field: "fare"}},
			Calculated: []view.Calculated{{Key: "twice", Label: "Twice", Formula: "number * 2"}},
		})
		asked := rapid.SliceOf(rapid.Int64Range(-12, 62)).Draw(t, "asked")
		keys := []cell.Cell{{}}
		for _, n := range asked {
			if byText {
				keys = append(keys, cell.OfText(ref(n), fields[0]))
			} else {
				keys = append(keys, cell.OfInt(n, fields[1]))
			}
		}
		found, err := e.Lookup(t.Context(), p, keys)
		require.NoError(t, err)
		require.Len(t, found, len(keys))
		require.Nil(t, found[0], "no record has a blank for a key")
		for i, n := range asked {
			at := slices.Index(numbers, n)
			if at < 0 {
				require.Nil(t, found[i+1])
				continue
			}
			require.Equal(t, []int64{2 * n, int64(at * 100)}, []int64{found[i+1][0].Int, found[i+1][1].Int})
		}
	})
}

// What is asked for of the groups is a part of all there is, and no less.
func TestGroupsAreReadInPart(t *testing.T) {
	parts := 0
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		d := drawDocument(t, w)
		d.Groups = append(d.Groups, drawGroup(t, w))
		if rapid.Bool().Draw(t, "across") {
			d.Across = []view.Group{{Field: rapid.SampledFrom([]string{"state", "late"}).Draw(t, "columns")}}
		}
		res := runWorld(t, w, w.engine(2), d)
		var all []result.GroupLine
		read := func(of result.Groups) (out []result.GroupLine) {
			require.NoError(t, res.EachGroup(t.Context(), of, func(g result.GroupLine) error {
				g.Keys, g.Cells, g.Counts = slices.Clone(g.Keys), slices.Clone(g.Cells), slices.Clone(g.Counts)
				out = append(out, g)
				return nil
			}))
			return out
		}
		all = read(result.Groups{})
		require.Equal(t, res.GrandTotal, all[len(all)-1].Line)
		within := rapid.SampledFrom(all).Draw(t, "within")
		levels := rapid.IntRange(within.Level, len(d.Groups)).Draw(t, "levels")
		var want []result.GroupLine
		for _, g := range all {
			mine := within.Group == "" || strings.HasPrefix(g.Group, within.Group+result.PathSeparator)
			if mine && g.Level > within.Level && (levels == 0 || g.Level <= levels) {
				want = append(want, g)
			}
		}
		parts += len(want)
		require.Equal(t, append(want, within), read(result.Groups{Within: within.Group, Levels: levels}))
		one, err := res.Group(within.Group, nil)
		require.NoError(t, err)
		require.Equal(t, within, one)
		for level, key := range within.Keys[:within.Level] {
			parent, err := res.Group(result.AncestorOf(within.Group, level+1), nil)
			require.NoError(t, err)
			require.Equal(t, key, parent.Key)
		}
		if len(res.Heads) == 0 {
			return
		}
		head := rapid.IntRange(0, len(res.Heads)-1).Draw(t, "head")
		few := read(result.Groups{Heads: []int{head}})
		for i, g := range all {
			c := few[i].Cells[head]
			if res.Plan.Columns[res.Heads[head].Column].Shows(g.Level) {
				require.Equal(t, g.Cells[head], c)
			}
			few[i].Cells[head] = cell.Cell{}
			require.Equal(t, make([]cell.Cell, len(res.Heads)), few[i].Cells, "the others are left out")
		}
	})
	require.Greater(t, parts, 10)
}
