package engine

import (
	"context"
	"errors"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/cell"
	"gavrik/internal/core/disclosure"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// tallied counts, for every group of a result by its path, its records and the values that its columns have.
func tallied(t *rapid.T, r result.Result) (records map[string]int, values map[string][]int) {
	records, values = map[string]int{}, map[string][]int{}
	sum := r.Summarize()
	within := []string{""}
	values[""] = make([]int, len(sum.Heads))
	open := result.Open{Depth: len(sum.Plan.Groups)}
	require.NoError(t, r.EachLine(context.Background(), open, func(l result.Line) error {
		if !l.IsRecord {
			within = append(within[:l.Level], l.Group)
			values[l.Group] = make([]int, len(sum.Heads))
			return nil
		}
		for _, path := range within {
			records[path]++
			for i, c := range l.Cells {
				if c.Kind != cell.Blank {
					values[path][i]++
				}
			}
		}
		return nil
	}))
	return records, values
}

// What is told of a result in totals alone is what the result says; it is of no record or of enough, and so is
// whatever follows by taking the parts that are told from what is around them. No line is of a record.
func TestNothingOfTooFewRecordsIsDisclosed(t *testing.T) {
	ctx := context.Background()
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		e, d := w.engine(2), drawDocument(t, w)
		if rapid.IntRange(0, 2).Draw(t, "across") == 0 { // more often than they are drawn
			d.Across, d.Compare = []view.Group{drawGroup(t, w)}, nil
		}
		full := runWorld(t, w, e, d)
		least := rapid.IntRange(2, 8).Draw(t, "least")
		p, err := plan.Check(disclosure.Counting(d, full.Plan), w.catalog, w.cal)
		require.NoError(t, err)
		counted, err := e.Run(ctx, p)
		if limit := new(result.LimitError); errors.As(err, &limit) {
			t.Skip("the counts are columns too many")
		}
		require.NoError(t, err)
		held, err := disclosure.Hold(ctx, counted, full.Plan, least)
		few := func(n int) bool { return n > 0 && n < least }
		var refused *disclosure.Refused
		if errors.As(err, &refused) {
			require.True(t, few(full.Kept) || few(full.Others) || len(full.Plan.Across) > 1 ||
				len(full.Plan.Across) > 0 && full.Plan.Compare != nil, refused.Why)
			return
		}
		require.NoError(t, err)
		told := held.Summarize()
		for _, h := range told.Heads {
			m := full.Plan.Measures[full.Plan.Columns[h.Column].Measure]
			require.NotContains(t, []view.Fn{
				view.Smallest, view.Largest, view.First, view.Last, view.Mode, view.Median, view.Percentile,
			}, m.Fn, "one record's own value")
		}
		headOf := make([]int, len(told.Heads)) // in the full result
		for i, h := range told.Heads {
			headOf[i] = -1
			for at, other := range full.Heads {
				if other.Column == h.Column && other.Part == h.Part && other.AcrossPath == h.AcrossPath {
					headOf[i] = at
				}
			}
			require.GreaterOrEqual(t, headOf[i], 0)
		}
		all := make([]int, len(full.Heads))
		for i := range all {
			all[i] = i
		}
		parts := map[string][]string{} // those told, by what is around them
		rest := map[string]*result.GroupLine{}
		require.NoError(t, held.EachGroup(ctx, result.Groups{Heads: all[:len(told.Heads)]}, func(g result.GroupLine) error {
			path := g.Line.Group
			around := ""
			if g.Level > 0 {
				around = result.AncestorOf(path, g.Level-1)
			}
			if g.Key.Held > 0 {
				require.True(t, strings.HasSuffix(path, result.PathHeld))
				for _, c := range g.Cells {
					require.Equal(t, cell.Blank, c.Kind)
				}
				rest[around] = &result.GroupLine{Line: g.Line}
				return nil
			}
			was, err := full.Group(path, all)
			require.NoError(t, err)
			require.Equal(t, []int{was.Count, was.Others}, []int{g.Count, g.Others})
			require.False(t, few(g.Count) || few(g.Others), "%q is of %d and %d", path, g.Count, g.Others)
			for i, c := range g.Cells {
				require.Equal(t, asJSON(t, was.Cells[headOf[i]]), asJSON(t, c))
				if was.Counts != nil && len(told.Heads[i].Across) > 0 {
					require.False(t, few(was.Counts[headOf[i]]))
				}
			}
			if g.Level > 0 {
				parts[around] = append(parts[around], path)
			} else {
				parts[""] = append([]string{}, parts[""]...)
			}
			return nil
		}))
		require.NoError(t, held.EachLine(ctx, result.Open{Depth: 9}, func(l result.Line) error {
			require.False(t, l.IsRecord)
			return nil
		}))
		require.Error(t, held.EachRecord(ctx, func([]result.Key, []cell.Cell) error { return nil }))
		if len(full.Plan.Across) > 0 {
			checkAcross(t, full, told, headOf, parts, few)
			return
		}
		records, values := tallied(t, counted)
		for around, within := range parts {
			left := records[around]
			for _, path := range within {
				left -= records[path]
			}
			inner := len(full.Plan.Groups) > strings.Count(around, result.PathSeparator)
			if inner && rest[around] == nil {
				require.Zero(t, left)
			} else if rest[around] != nil {
				require.Equal(t, left, rest[around].Count)
			}
			require.False(t, inner && few(left), "%d records follow below %q", left, around)
			for i, h := range told.Heads {
				m := full.Plan.Measures[full.Plan.Columns[h.Column].Measure]
				at := valuesOf(counted.Summarize(), m.Ref.Path)
				if m.Formula != nil || m.Show != "" || m.PerLinked || at < 0 || h.Part != result.Own {
					continue
				}
				require.False(t, few(values[around][at]), "a total of %d values below %q", values[around][at], around)
				rest := values[around][at]
				for _, path := range within {
					rest -= values[path][at]
				}
				require.False(t, inner && few(rest), "%d values of column %d follow below %q", rest, i, around)
				if m.Fn != view.CountFilled && m.Fn != view.Blanks {
					continue
				}
				missing := records[around] - values[around][at]
				require.False(t, few(missing), "it is told that %d below %q have no value", missing, around)
				for _, path := range within {
					missing -= records[path] - values[path][at]
				}
				require.False(t, inner && few(missing), "it follows that %d below %q have no value", missing, around)
			}
		}
	})
}

// valuesOf is a head whose cells of records are the values of a field; -1 for none.
func valuesOf(s *result.Summary, path string) int {
	for i, h := range s.Heads {
		if c := s.Plan.Columns[h.Column]; c.Ref.Path == path && c.Values && h.Part == result.Own {
			return i
		}
	}
	return -1
}

// checkAcross holds the cells of a crosstab against its counts: down every column, and along every line.
func checkAcross(
	t *rapid.T, full result.Result, told *result.Summary, headOf []int, parts map[string][]string, few func(int) bool,
) {
	counts := func(path string) []int {
		g, err := full.Group(path, nil)
		require.NoError(t, err)
		return g.Counts
	}
	for around, within := range parts {
		inner := len(told.Plan.Groups) > strings.Count(around, result.PathSeparator)
		whole := counts(around)
		for i, h := range told.Heads {
			if len(h.Across) == 0 {
				continue
			}
			left := whole[headOf[i]]
			for _, path := range within {
				left -= counts(path)[headOf[i]]
			}
			require.False(t, inner && few(left), "%d records follow in a column below %q", left, around)
		}
		for _, path := range append([]string{around}, within...) {
			g, err := full.Group(path, nil)
			require.NoError(t, err)
			left, seen := g.Count, map[string]bool{}
			for i, h := range told.Heads {
				if len(h.Across) > 0 && !seen[h.AcrossPath] {
					seen[h.AcrossPath] = true
					left -= g.Counts[headOf[i]]
				}
			}
			if len(seen) > 0 {
				require.False(t, few(left), "%d records follow along %q", left, path)
			}
		}
	}
}
