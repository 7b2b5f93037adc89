package engine

import (
	"context"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/engine/windows"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// weighted draws how many records each crossing stands for that none leads back to. It returns the
// crossings with those weights, and with as many rows of each in their place, one behind the other.
func weighted(t *rapid.T, w *world) (weighted, repeated *world) {
	of := w.snap.Tables["crossings"]
	weights := make([]int64, of.Rows)
	var rows, first []int32
	for row := range weights {
		weights[row] = rapid.Int64Range(1, 4).Draw(t, "weight")
		if slices.Contains(of.Link("back").Rows, int32(row)) {
			weights[row] = 1
		}
		first = append(first, int32(len(rows)))
		for range weights[row] {
			rows = append(rows, int32(row))
		}
	}
	more := table.New("crossings", len(rows))
	for _, key := range of.Fields() {
		more.Add(key, of.Column(key).Gather(rows))
	}
	for _, key := range of.Ways() {
		link := of.Link(key)
		to := make([]int32, len(rows))
		for i, row := range rows {
			if to[i] = link.Rows[row]; to[i] >= 0 && link.To == "crossings" {
				to[i] = first[to[i]]
			}
		}
		more.AddLink(key, &table.Links{To: link.To, Rows: to})
	}
	with := func(t *table.Table) *world {
		out := *w
		out.snap = &table.Snapshot{Tables: map[string]*table.Table{"crossings": t, "piers": w.snap.Tables["piers"]}}
		return &out
	}
	few := *of
	few.Weights = weights
	return with(&few), with(more)
}

// groups are all lines but those of single records. Places are numbers that order them, and any do.
func groups(t *rapid.T, r *windows.Result) []textLine {
	out := window(t, r, result.Open{Depth: len(r.Plan.Groups) - 1}, 0, 1<<20, format.Plain).Lines
	for i := range out {
		out[i].Key.Place = 0
	}
	return out
}

func TestARowStandsForManyRecords(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		few, many := weighted(t, w)
		d := drawDocument(t, w)
		a, b := runWorld(t, few, few.engine(2), d), runWorld(t, many, many.engine(2), d)
		if a.Plan.SingleRecords() {
			t.Skip("records one by one")
		}
		require.Equal(t, groups(t, b), groups(t, a), described(d))
		require.Equal(t, grand(b, format.Plain), grand(a, format.Plain), described(d))
		require.Equal(t, b.Steps, a.Steps)
		require.Equal(t, []int{b.All, b.Kept, b.Others}, []int{a.All, a.Kept, a.Others})
		require.Equal(t, b.LeftOut, a.LeftOut)
		require.Equal(t, b.Problems, a.Problems)
		require.Equal(t, b.Check, a.Check)
	})
}

func TestFieldsOfRowsThatStandForManyRecords(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		few, many := weighted(t, w)
		c := drawCondition(t, w, 2)
		d := &view.Document{Gavrik: 1, Records: "crossings", Filter: &c}
		p := runWorld(t, few, few.engine(2), d).Plan
		ref, err := w.catalog.Resolve("crossings", rapid.SampledFrom(worldPaths).Draw(t, "path"))
		require.NoError(t, err)
		looked := func(w *world) []any {
			e, ctx := w.engine(2), context.Background()
			values, err := e.Values(ctx, p, ref, "", 5)
			require.NoError(t, err)
			spread, err := e.Distribution(ctx, p, ref, 8)
			require.NoError(t, err)
			profile, err := e.Profile(ctx, p, ref, 3, 8)
			require.NoError(t, err)
			return []any{values, spread, profile}
		}
		require.Equal(t, looked(many), looked(few))
	})
}

func TestWhatIsDrawnOfRowsThatStandForManyRecords(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		few, many := weighted(t, w)
		v := drawLinkedValue(t, w, "pier",
			view.TakeCount, view.TakeAny, view.TakeSum, view.TakeAverage, view.TakeSmallest, view.TakeLargest,
			view.TakeDistinct, view.TakeJoined, view.TakeLatest, view.TakeEarliest)
		d := &view.Document{Gavrik: 1, Records: "piers", Linked: []view.LinkedValue{v}, Columns: []view.Column{
			{Field: "code"}, {Field: "drawn"},
		}}
		p, err := plan.Check(d, w.catalog, w.cal)
		if err != nil {
			t.Skip("a range the wrong way round")
		}
		drawn := func(w *world) (textWindow, []result.Tie, []result.Problem) {
			res, err := w.engine(2).Run(context.Background(), p)
			require.NoError(t, err)
			return whole(t, res), res.Ties, res.Problems
		}
		linesB, tiesB, problemsB := drawn(many)
		linesA, tiesA, problemsA := drawn(few)
		require.Equal(t, linesB, linesA, described(d))
		require.Equal(t, tiesB, tiesA)
		require.Equal(t, problemsB, problemsA)
	})
}
