package engine

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine/windows"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// written writes a window as the reference writes its lines.
func written(lines []textLine) []string {
	var out []string
	for _, l := range lines {
		out = append(out, writeLine(l.Level, l.Label, l.Count, l.Cells))
	}
	return out
}

// runWorld runs a document, or ends the case if the document has a fault that a
// draw can have: a range the wrong way round.
func runWorld(t *rapid.T, w *world, e *Engine, d *view.Document) *windows.Result {
	spanned(d)
	p, err := plan.Check(d, w.catalog, w.cal)
	if err != nil {
		for _, f := range err.(plan.Faults) {
			require.Contains(t, f.Message, "the range ends before it begins")
		}
		t.Skip("a range the wrong way round")
	}
	if rapid.Bool().Draw(t, "written down") {
		p = readBack(t, p)
	}
	res, err := e.Run(context.Background(), p)
	var limit *result.LimitError
	if errors.As(err, &limit) {
		t.Skip("every day of many years, in every group")
	}
	require.NoError(t, err)
	return res
}

// spanned takes units without records out of documents that leave groups out: these run from the first
// to the last of the records that are left, which the reference does not know while it divides them.
func spanned(d *view.Document) {
	all := slices.Concat(d.Groups, d.Across)
	if !slices.ContainsFunc(all, func(g view.Group) bool { return g.Keep != nil && g.Keep.Others != view.OthersRest }) {
		return
	}
	for _, groups := range [][]view.Group{d.Groups, d.Across} {
		for i := range groups {
			groups[i].Empty = groups[i].Empty && groups[i].Unit == ""
		}
	}
}

// readBack is a plan that was written down as JSON, as a reader elsewhere gets it. It is the
// same, so that no part of it lives in this process only.
func readBack(t require.TestingT, p *plan.Plan) *plan.Plan {
	text, err := json.Marshal(p)
	require.NoError(t, err)
	read := &plan.Plan{}
	require.NoError(t, json.Unmarshal(text, read))
	again, err := json.Marshal(read)
	require.NoError(t, err)
	require.Equal(t, string(text), string(again))
	return read
}

func whole(t require.TestingT, r *windows.Result) textWindow {
	return window(t, r, result.Open{Depth: len(r.Plan.Groups)}, 0, 1<<20, format.Plain)
}

func TestEngineEqualsReference(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawAnyWorld(t)
		d := drawDocument(t, w)
		res := runWorld(t, w, w.engine(2), d)
		want, steps := w.answer(d)
		got := written(append(whole(t, res).Lines, grand(res, format.Plain)))
		require.Equal(t, want, got, described(d))
		require.Equal(t, len(w.rows), res.All)
		for _, s := range res.Steps {
			require.Equal(t, steps[s.Path], s.Left, "records left after %s", s.Path)
		}
		require.Empty(t, res.Check.Wrong)
	})
}

func TestDigitsDoNotDependOnWorkers(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawAnyWorld(t)
		d := drawDocument(t, w)
		one := runWorld(t, w, w.engine(1), d)
		for _, workers := range []int{2, 7} {
			many := runWorld(t, w, w.engine(workers), d)
			require.Equal(t, whole(t, one), whole(t, many))
			require.Equal(t, grand(one, format.Plain), grand(many, format.Plain))
			require.Equal(t, one.Steps, many.Steps)
		}
	})
}

func TestWindowIsASliceOfTheWhole(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		res := runWorld(t, w, w.engine(2), drawDocument(t, w))
		open := result.Open{Depth: rapid.IntRange(-1, 3).Draw(t, "depth")}
		for _, l := range whole(t, res).Lines {
			if l.Group != "" && rapid.IntRange(0, 3).Draw(t, "toggle") == 0 {
				open.Toggled = append(open.Toggled, l.Group)
			}
		}
		all := window(t, res, open, 0, 1<<20, format.People)
		require.Len(t, all.Lines, all.Total)
		offset, limit := rapid.IntRange(0, 200).Draw(t, "offset"), rapid.IntRange(0, 50).Draw(t, "limit")
		part := window(t, res, open, offset, limit, format.People)
		from := min(offset, all.Total)
		require.Equal(t, all.Total, part.Total)
		require.Equal(t, all.Lines[from:min(from+limit, all.Total)], part.Lines)
		// The lines above are the nearest ones before it of every outer level.
		var above []textLine
		if len(part.Lines) > 0 && len(res.Plan.Groups) > 0 {
			level := part.Lines[0].Level
			for i := from - 1; i >= 0 && level > 1; i-- {
				if all.Lines[i].Level < level {
					above = append([]textLine{all.Lines[i]}, above...)
					level = all.Lines[i].Level
				}
			}
			require.Len(t, part.Above, len(above))
			for i := range above {
				require.Equal(t, above[i], part.Above[i])
			}
		}
	})
}

func TestUndoOfAFilterGivesTheSameSelection(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		e := w.engine(2)
		d := drawDocument(t, w)
		before := whole(t, runWorld(t, w, e, d))
		narrowed := *d
		extra := drawCondition(t, w, 2)
		narrowed.Filter = &view.Condition{All: []view.Condition{extra}}
		if d.Filter != nil {
			narrowed.Filter.All = append(narrowed.Filter.All, *d.Filter)
		}
		runWorld(t, w, e, &narrowed) // fills the cache with other selections
		require.Equal(t, before, whole(t, runWorld(t, w, e, d)))
	})
}

func TestValuesCountWhatTheFilterKeeps(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		d := &view.Document{Gavrik: 1, Records: "crossings"}
		c := drawCondition(t, w, 2)
		d.Filter = &c
		path := rapid.SampledFrom(worldPaths).Draw(t, "path")
		res := runWorld(t, w, w.engine(2), d)
		ref, err := w.catalog.Resolve("crossings", path)
		require.NoError(t, err)
		got, err := w.engine(2).Values(context.Background(), res.Plan, ref, "", 1000)
		require.NoError(t, err)
		all, kept := map[string]int{}, map[string]int{}
		for _, row := range w.rows {
			cell := w.cell(row[path], ref.Field)
			all[cell]++
			if w.meets(&c, row) {
				kept[cell]++
			}
		}
		require.Equal(t, all[""], got.BlankAll)
		require.Equal(t, kept[""], got.BlankKept)
		delete(all, "")
		require.Equal(t, len(all), got.Distinct)
		last := 1 << 30
		for _, v := range got.List {
			cell := result.Operand(w.cal, v.Value, ref.Field)
			if ref.Field.Type == catalog.YesNo {
				cell = map[string]string{"yes": "true", "no": "false"}[cell]
			}
			require.Equal(t, all[cell], v.All, "%q", v.Value)
			require.Equal(t, kept[cell], v.Kept, "%q", v.Value)
			require.LessOrEqual(t, v.Kept, last)
			last = v.Kept
		}
	})
}

// described is a document for the message of a failed test.
func described(d *view.Document) string {
	text, err := json.Marshal(d)
	return fmt.Sprint(string(text), err)
}
