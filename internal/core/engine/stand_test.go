package engine

import (
	"context"
	"errors"
	"fmt"
	"math"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/chart"
	"gavrik/internal/core/engine/windows"
	"gavrik/internal/core/explain"
	"gavrik/internal/core/fault"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/turn"
	"gavrik/internal/core/view"
)

// edges is a world of the values at which arithmetic breaks.
var edges = func() *world {
	w := &world{catalog: worldCatalog, cal: worldCalendar}
	ints := []any{
		int64(math.MaxInt64), int64(math.MinInt64 + 1), int64(0), int64(1), int64(-1), nil, int64(1) << 53,
		int64(-1) << 62,
	}
	floats := []any{math.MaxFloat64, -math.MaxFloat64, math.SmallestNonzeroFloat64, 0.0, nil, -0.5, 1e15, 9.3e18}
	days := []any{
		calendar.FromDate(1, 1, 1), calendar.FromDate(9999, 12, 31), int64(0), nil, int64(-1), int64(20_000),
		calendar.FromDate(1582, 10, 15), calendar.FromDate(2026, 11, 23),
	}
	texts := []any{
		nil, "a", strings.Repeat("x", formula.MaxText), strings.Repeat("é", formula.MaxText), "İ\u0301",
		"\U0010FFFF", "0", " ",
	}
	for i := range 8 * 4096 {
		pick := func(list []any, step int) any { return list[(i/step+i)%len(list)] }
		row := map[string]any{
			"ref": fmt.Sprintf("C-%d", i%5000), "seats": pick(ints, 1), "fare": pick(ints, 3), "rebate": pick(ints, 5),
			"wind": pick(floats, 2), "day": pick(days, 1), "delay": pick(ints, 7), "late": int64(i % 2),
		}
		if d, ok := row["day"].(int64); ok {
			row["at"] = d * calendar.DayLen
		}
		if i < 64 {
			row["state"] = pick(texts, 1)
		}
		w.rows, w.pier = append(w.rows, row), append(w.pier, i%3-1)
	}
	w.piers = []map[string]any{{"name": "Quay", "toll": int64(math.MaxInt64)}, {"name": nil, "toll": nil}}
	w.build()
	return w
}()

// stands runs a formula over the edges in every way that a screen can ask for it. It may
// be refused in words; it may not fault, nor hold more than a run may.
func stands(t require.TestingT, source string) (ran bool) {
	e := New(edges.snap, edges.catalog, Options{Workers: 2, RunBytes: 256 << 20, MaxGroups: 4000, CacheBytes: 1})
	doc := &view.Document{
		Gavrik: 1, Records: "crossings",
		Calculated: []view.Calculated{{Key: "made", Label: "Made", Formula: source}},
		Columns:    []view.Column{{Field: "made"}, {Field: "seats", Totals: []view.Total{{Fn: view.Sum}}}},
		Sort:       []view.Sort{{Field: "made"}},
	}
	p, err := plan.Check(doc, edges.catalog, edges.cal)
	if err != nil {
		doc.Sort = nil // a formula of totals orders no records
		if p, err = plan.Check(doc, edges.catalog, edges.cal); err != nil {
			return false
		}
	}
	mine := &counted{}
	ctx := turn.With(context.Background(), mine)
	fine := func(err error) bool {
		var caught *fault.Error
		require.False(t, errors.As(err, &caught), "%s: %v", source, err)
		var limit *result.LimitError
		require.True(t, err == nil || errors.As(err, &limit), "%s: %v", source, err)
		require.Zero(t, mine.bytes.Load(), "%s: all that was booked is given back", source)
		return err == nil
	}
	show := func(res *windows.Result) {
		_, err := res.Window(ctx, result.Open{Depth: 1, Toggled: []string{"\x1fa", "\x1f"}}, 0, 50)
		fine(err)
		_, err = chart.Draw(ctx, res)
		fine(err)
		n := 0
		err = res.EachRecord(ctx, func([]result.Key, []cell.Cell) error {
			if n++; n > 100 {
				return context.Canceled
			}
			return nil
		})
		require.True(t, err == nil || errors.Is(err, context.Canceled), "%s: %v", source, err)
	}
	if res, err := e.Run(ctx, p); fine(err) {
		show(res)
	}
	ref, err := p.Field(edges.catalog, "made")
	if err != nil {
		return true // of totals
	}
	_, err = e.Distribution(ctx, p, ref, 20)
	fine(err)
	_, err = e.Values(ctx, p, ref, "a", 50)
	fine(err)
	doc.Columns[0].Totals = []view.Total{}
	for _, fn := range view.FnsFor(ref.Field.Type) {
		doc.Columns[0].Totals = append(doc.Columns[0].Totals, view.Total{Fn: fn})
	}
	doc.Groups, doc.Chart = []view.Group{
		{Field: "made"}, {Field: "seats"},
	}, &view.Chart{Order: view.LargestFirst}
	if p, err = plan.Check(doc, edges.catalog, edges.cal); err != nil {
		return true // pictures have no groups
	}
	if res, err := e.Run(ctx, p); fine(err) {
		show(res)
		_, err = explain.Figure(ctx, res, "", 1)
		require.NoError(t, err, source)
	}
	doc.Groups, doc.Across, doc.Columns = doc.Groups[1:], []view.Group{{Field: "made"}}, doc.Columns[1:]
	if p, err = plan.Check(doc, edges.catalog, edges.cal); err == nil {
		if res, err := e.Run(ctx, p); fine(err) {
			show(res)
		}
	}
	return true
}

// counted is a turn that keeps the books of one run.
type counted struct{ bytes, waits atomic.Int64 }

func (c *counted) Wait(ctx context.Context) error { c.waits.Add(1); return ctx.Err() }
func (c *counted) Rest()                          {}
func (c *counted) Book(ctx context.Context, n int64) error {
	c.bytes.Add(n)
	if n < 0 {
		return nil
	}
	return ctx.Err()
}

// What ended the process, or filled it, once.
var broke = []string{
	`'Ref' & ROUND('Fare'; -2)`, `ROUND(Wind; -15)`, `ROUNDUP(Fare; -15)`, `9223372036854775807`,
	`-9223372036854775807`, `Seats`, `Fare`, `Wind`, `Wind * 0`,
	`State & State`, `SUBSTITUTE(SUBSTITUTE(SUBSTITUTE(State; "x"; State); "x"; State); "x"; State)`,
	`UPPER(State) & UPPER(State) & LOWER(State)`,
	`SEARCH("é"; State & State)`, `FIND(State; State; 30000)`, `REPLACE(State; 1; 1; State)`,
	`TEXT(Fare; "#,##0.000000000000")`, `TEXT(Delay; "[h]:mm:ss")`,
	`CEILING(Fare; Rebate)`, `MOD(Fare; Rebate)`, `EDATE(Day; Seats)`, `'Left at' + Delay`,
	`DATEDIF(Day; 'Left at'; "d")`, `SUM(Fare) / COUNT(Fare)`, `PERCENTILE(Wind; 0.5)`, `Wind / Wind`, `Delay`,
	strings.Repeat("COALESCE(", 60) + "Seats" + strings.Repeat("; Fare)", 60),
	strings.Repeat("SWITCH(", 40) + "Seats" + strings.Repeat("; 1; 2; 3)", 40),
}

func TestWhatOnceBrokeStands(t *testing.T) {
	for _, source := range broke {
		t.Run(source[:min(len(source), 40)], func(t *testing.T) {
			require.True(t, stands(t, source), "it is taken")
		})
	}
}

// Whatever formula is put together of all functions runs over the edges or is refused.
func TestAnyFormulaStands(t *testing.T) {
	ran := 0
	rapid.Check(t, func(t *rapid.T) {
		// Many are refused: of a few tries, one runs. A round that has none is no fault, all of them are.
		for range 10 {
			if stands(t, anyFormula(t, 3)) {
				ran++
				return
			}
		}
	})
	require.Positive(t, ran)
}

// FuzzFormulas is TestAnyFormulaStands with what a fuzzer makes of formulas.
func FuzzFormulas(f *testing.F) {
	for _, source := range broke {
		f.Add(source)
	}
	f.Fuzz(func(t *testing.T, source string) { stands(t, source) })
}

// anyFormula calls functions with what may fit.
func anyFormula(t *rapid.T, depth int) string {
	leaf := rapid.SampledFrom([]string{
		"Ref", "State", "Seats", "Fare", "Rebate", "Wind", "Day", "'Left at'", "Delay", "Late", "'Pier name'",
		"Toll", "9223372036854775807", "0", "-15", "0.5", "1000000", `""`, `"x"`, `"0.00"`, `"d"`, "TRUE",
	})
	if depth == 0 || rapid.IntRange(0, 3).Draw(t, "end") == 0 {
		return leaf.Draw(t, "leaf")
	}
	part := func() string { return anyFormula(t, depth-1) }
	if rapid.Bool().Draw(t, "sign") {
		return "(" + part() + " " + rapid.SampledFrom([]string{
			"+", "-", "*", "/", "^", "&", "=", "<",
		}).Draw(t, "operator") + " " + part() + ")"
	}
	var all []formula.Function
	for _, c := range formula.Chapters() {
		all = append(all, c.Functions...)
	}
	fn := rapid.SampledFrom(all).Draw(t, "function")
	var args []string
	for range strings.Count(fn.Arguments, ";") + 1 {
		args = append(args, part())
	}
	return fn.Name + "(" + strings.Join(args, "; ") + ")"
}

// A run that is stopped ends soon, whatever formula it is in.
func TestStopsWithinAFormula(t *testing.T) {
	e := New(edges.snap, edges.catalog, Options{Workers: 2, RunBytes: 1 << 40})
	p, err := plan.Check(&view.Document{
		Gavrik: 1, Records: "crossings",
		Calculated: []view.Calculated{
			{Key: "made", Label: "Made", Formula: `SEARCH("zz"; UPPER('Ref' & "` + strings.Repeat("x", 9000) + `"))`},
		},
		Columns: []view.Column{{Field: "made"}},
	}, edges.catalog, edges.cal)
	require.NoError(t, err)
	ctx, cancel := context.WithCancel(t.Context())
	mine := &counted{}
	done := make(chan error)
	go func() {
		_, err := e.Run(turn.With(ctx, mine), p)
		done <- err
	}()
	require.Eventually(t, func() bool { return mine.bytes.Load() > 1<<20 }, 10*time.Second, time.Millisecond)
	cancel()
	require.ErrorIs(t, <-done, context.Canceled)
}

// A text has a longest length; what must be longer is refused, what may be is blank and
// counted, and what a run may hold is not passed on the way there.
func TestTextsAreBounded(t *testing.T) {
	var doubling []view.Calculated
	for i := range 23 {
		before := "Ref"
		if i > 0 {
			before = fmt.Sprintf("a%d", i-1)
		}
		doubling = append(doubling, view.Calculated{
			Key: fmt.Sprintf("a%d", i), Label: fmt.Sprintf("a%d", i), Formula: before + " & " + before,
		})
	}
	doc := &view.Document{
		Gavrik: 1, Records: "crossings", Calculated: doubling, Columns: []view.Column{{Field: "a13"}},
	}
	run := func(bytes int64) (*windows.Result, error) {
		p, err := plan.Check(doc, edges.catalog, edges.cal)
		require.NoError(t, err)
		return New(edges.snap, edges.catalog, Options{Workers: 2, RunBytes: bytes}).Run(t.Context(), p)
	}
	_, err := run(128 << 20)
	var limit *result.LimitError
	require.ErrorAs(t, err, &limit)
	require.Contains(t, limit.Error(), "a run may use 128 MB")
	doc.Columns[0].Field = "a22"
	edgesFew := *edges
	edgesFew.rows, edgesFew.pier = edges.rows[:200], edges.pier[:200]
	edgesFew.build()
	p, err := plan.Check(doc, edges.catalog, edges.cal)
	require.NoError(t, err)
	res, err := edgesFew.engine(2).Run(t.Context(), p)
	require.NoError(t, err)
	require.Contains(
		t, fmt.Sprint(res.Problems), "have no a13 because the text would have more than 32767 characters",
	)

	doc.Calculated[0].Formula = `"` + strings.Repeat("x", 9000) + `"`
	_, err = plan.Check(doc, edges.catalog, edges.cal)
	require.ErrorContains(t, err, "this text would have at least 36000 characters; a text has 32767 at most")
}

// Fields made of two others each keep short names for what they are made of.
func TestManyFieldsOfEachOtherAreChecked(t *testing.T) {
	doc := &view.Document{Gavrik: 1, Records: "crossings", Columns: []view.Column{{Field: "f150"}}}
	for i := range 151 {
		made := "Seats"
		if i > 1 {
			made = fmt.Sprintf("f%d - f%d", i-1, i-2)
		}
		doc.Calculated = append(doc.Calculated, view.Calculated{
			Key: fmt.Sprintf("f%d", i), Label: fmt.Sprintf("f%d", i), Formula: made,
		})
	}
	p, err := plan.Check(doc, edges.catalog, edges.cal)
	require.NoError(t, err)
	require.Less(t, len(p.Derived["f150"].Identity), 100)
}

// A fault in the work of one run ends that run, whichever goroutine it is on.
func TestAFaultEndsItsRunOnly(t *testing.T) {
	var caught *fault.Error
	for _, workers := range []int{1, 2} {
		err := kernel.EachBlock(t.Context(), 4*kernel.BlockRows, workers, func(lo, _ int) { _ = edges.rows[lo-1] })
		require.ErrorAs(t, err, &caught)
		require.Contains(t, caught.Stack, "stand_test.go")
	}
	err := kernel.EachShare(t.Context(), 10, 5, func(lo, _ int, halted func() bool) {
		for lo > 0 && !halted() {
		}
		panic("broken")
	})
	require.ErrorAs(t, err, &caught)
	e := New(edges.snap, edges.catalog, Options{})
	p, err := plan.Check(&view.Document{
		Gavrik: 1, Records: "crossings", Columns: []view.Column{{Field: "ref"}},
	}, edges.catalog, edges.cal)
	require.NoError(t, err)
	p.Columns[0].Ref.Links = []string{}
	p.Sort = []plan.Sort{{}} // of no field: nothing that a check lets through
	p.Columns[0].Measure = 7
	mine := &counted{}
	_, err = e.Run(turn.With(t.Context(), mine), p)
	require.Error(t, err)
	require.Zero(t, mine.bytes.Load())
}
