package engine

import (
	"context"
	"maps"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/view"
)

// What is said of a field is what one finds by counting its values one by one.
func TestAProfileIsWhatCountingFinds(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		c := drawCondition(t, w, 1)
		d := &view.Document{Gavrik: 1, Records: "crossings", Filter: &c}
		path := rapid.SampledFrom([]string{"seats", "fare", "rebate", "day", "at", "delay", "state", "late"}).Draw(t, "path")
		common := rapid.IntRange(1, 4).Draw(t, "common")
		e := w.engine(2)
		p := runWorld(t, w, e, d).Plan
		ref, err := w.catalog.Resolve("crossings", path)
		require.NoError(t, err)
		got, err := e.Profile(context.Background(), p, ref, common, 8)
		require.NoError(t, err)

		counts, blank, kept := map[string]int{}, 0, 0
		for _, row := range w.rows {
			if !w.meets(&c, row) {
				continue
			}
			kept++
			if row[path] == nil {
				blank++
				continue
			}
			counts[w.cell(row[path], catalog.Field{})]++
		}
		once := 0
		for _, n := range counts {
			if n == 1 {
				once++
			}
		}
		require.Equal(t, [4]int{kept, blank, len(counts), once}, [4]int{got.Records, got.Blank, got.Distinct, got.Once})
		most := slices.Sorted(maps.Values(counts))
		slices.Reverse(most)
		listed := map[string]bool{}
		for i, v := range got.Commonest {
			require.Equal(t, most[i], v.Kept, "the commonest first")
			listed[w.written(v.Value, catalog.Field{Type: ref.Field.Type, Scale: 9, Approx: true})] = true
		}
		require.Len(t, got.Commonest, min(common, len(counts)))
		if ref.Field.Type == catalog.Text || ref.Field.Type == catalog.Whole {
			require.Len(t, listed, len(got.Commonest))
		}
		if ref.Field.Type != catalog.Text && ref.Field.Type != catalog.YesNo {
			sum := 0
			for _, b := range got.Spread.Bins {
				sum += b.Kept
			}
			require.Equal(t, kept-blank, sum)
		}
	})
}
