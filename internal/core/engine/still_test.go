package engine

import (
	"context"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/cache"
	"gavrik/internal/core/engine/windows"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
)

// changed is the world's snapshot with some of its columns and links, or all of one set, as others.
func (w *world) changed(t *rapid.T) *table.Snapshot {
	out := &table.Snapshot{Tables: map[string]*table.Table{}}
	for name, was := range w.snap.Tables {
		out.Tables[name] = was
	}
	shuffled := func(n int) []int32 {
		order := make([]int32, n)
		for i := range order {
			order[i] = rapid.Int32Range(0, int32(n-1)).Draw(t, "row")
		}
		return order
	}
	for range rapid.IntRange(0, 2).Draw(t, "changes") {
		set := rapid.SampledFrom([]string{"crossings", "piers"}).Draw(t, "set")
		is := out.Tables[set]
		if is == nil || is.Rows == 0 {
			continue
		}
		fields := w.catalog.Set(set).Fields
		links := w.catalog.Set(set).Links
		if len(links) == 0 || rapid.Bool().Draw(t, "a field") {
			key := rapid.SampledFrom(fields).Draw(t, "field").Key
			out.Tables[set] = is.With(key, is.Column(key).Gather(shuffled(is.Rows)))
			continue
		}
		key := rapid.SampledFrom(links).Draw(t, "link").Key
		l := is.Link(key)
		rows := slices.Clone(l.Rows)
		for i, from := range shuffled(is.Rows) {
			rows[i] = l.Rows[from]
		}
		out.Tables[set] = is.WithLink(key, &table.Links{To: l.To, Rows: rows})
	}
	return out
}

// What was worked out of records that are the same holds over other ones, and nothing else does.
func TestAnswersHoldOverTheSameRecords(t *testing.T) {
	held, given := 0, 0
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		first := New(w.snap, w.catalog, Options{Name: "one", Cache: cache.New(1 << 28)})
		d := drawDocument(t, w)
		before := runWorld(t, w, first, d)
		p := before.Plan

		after := w.changed(t)
		second := New(after, w.catalog, Options{Name: "one", Cache: cache.New(1 << 28)})
		second.Carry(first.source.Cache)
		other := New(after, w.catalog, Options{}) // as of another server
		anew, err := other.Run(context.Background(), p)
		require.NoError(t, err)
		said := described(d)
		given++
		if still, ok := second.Still(before); ok {
			held++
			same(t, p, anew, still.(*windows.Result), said)
			require.True(t, other.Holds(first.Version(before)), said)
		}
		if other.Holds(first.Version(before)) {
			same(t, p, anew, before, said)
		}
		carried, err := second.Run(context.Background(), p)
		require.NoError(t, err)
		same(t, p, anew, carried, said)
		require.Equal(t, other.Version(anew), second.Version(carried), "whatever was worked out before: %s", said)
	})
	require.Positive(t, held, "some answers hold")
	require.Less(t, held, given, "and some do not")
}

func same(t *rapid.T, p *plan.Plan, want, got *windows.Result, said string) {
	require.Equal(t, whole(t, want), whole(t, got), said)
	require.Equal(t, grand(want, format.Plain), grand(got, format.Plain), said)
	require.Equal(t, want.Steps, got.Steps, said)
	require.Equal(t, want.Problems, got.Problems, said)
	require.Equal(t, [2]int{want.All, want.Kept}, [2]int{got.All, got.Kept}, said)
	require.Equal(t, len(p.Columns), len(got.Columns))
}
