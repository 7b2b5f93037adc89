package engine

import (
	"context"
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// large is a table of many rows with one text and one amount.
func large(rows, texts int) *Engine {
	c := &catalog.Catalog{Sets: []*catalog.RecordSet{{
		Key: "fares", Label: "Fares", One: "fare", Many: "fares",
		Fields: []catalog.Field{
			{Key: "who", Label: "Who", Type: catalog.Text},
			{Key: "paid", Label: "Paid", Type: catalog.Money, Scale: 2},
		},
	}}}
	dict, codes, paid := table.NewDictBuilder(), make([]uint32, rows), make([]int64, rows)
	names := make([]uint32, texts)
	for i := range names {
		names[i] = dict.Code([]byte(time.Duration(i).String()))
	}
	for i := range rows {
		codes[i], paid[i] = names[(i*7919)%texts], int64(i%100_003)-50_000
	}
	tb := table.New("fares", rows)
	tb.Add("who", dict.Build(codes))
	tb.Add("paid", table.NewNumbers(paid))
	return New(&table.Snapshot{Tables: map[string]*table.Table{"fares": tb}}, c, Options{MaxGroups: 1000})
}

func (e *Engine) plan(t require.TestingT, doc *view.Document) *plan.Plan {
	p, err := plan.Check(doc, e.catalog, worldCalendar)
	require.NoError(t, err)
	return p
}

var grouped = &view.Document{
	Gavrik: 1, Records: "fares",
	Columns: []view.Column{{Field: "paid", Totals: []view.Total{{Fn: view.Sum}, {Fn: view.Median}}}},
	Groups:  []view.Group{{Field: "who"}}, Sort: []view.Sort{{Field: "paid"}},
}

func TestTooManyGroupsNamesTheStepAndTheMend(t *testing.T) {
	_, err := large(5000, 2000).Run(t.Context(), large(10, 10).plan(t, grouped))
	var limit *result.LimitError
	require.ErrorAs(t, err, &limit)
	require.EqualError(
		t, err, "grouping by Who makes more than 1000 groups; group by something coarser, or filter first",
	)
}

func TestACancelledRunStops(t *testing.T) {
	e := large(200_000, 100)
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, err := e.Run(ctx, e.plan(t, grouped))
	require.ErrorIs(t, err, context.Canceled)
	_, err = e.Run(t.Context(), e.plan(t, grouped))
	require.NoError(t, err, "what was stopped left nothing wrong behind")
}

// A run ends soon after it is cancelled, whichever step it is at.
func TestARunIsStoppedAtAnyStep(t *testing.T) {
	e := large(300_000, 900)
	docs := []view.Document{*grouped, setBeside(view.GroupRank), setBeside(view.PreviousChange)}
	for _, doc := range docs {
		doc.Gavrik, doc.Records = 1, "fares"
		asks := 0
		for limit := 1; ; limit = limit*3/2 + 1 {
			ctx := &countedContext{Context: t.Context(), left: limit}
			fresh := New(e.Snapshot(), e.catalog, Options{Workers: 1})
			res, err := fresh.Run(ctx, fresh.plan(t, &doc))
			if err == nil {
				_, err = res.Window(ctx, result.Open{Depth: 1}, 1000, 10)
			}
			if err == nil {
				asks = limit
				break
			}
			require.ErrorIs(t, err, context.Canceled)
		}
		require.Greater(t, asks, 40, "a run of 300,000 rows looks up often")
	}
}

// countedContext is cancelled once it was asked so many times.
type countedContext struct {
	context.Context
	left int
}

func (c *countedContext) Err() error {
	if c.left--; c.left < 0 {
		return context.Canceled
	}
	return nil
}

func TestARunPastItsBudgetNamesTheStep(t *testing.T) {
	e := large(200_000, 100)
	e.opts.RunBytes = 2 << 20
	_, err := e.Run(t.Context(), e.plan(t, grouped))
	var limit *result.LimitError
	require.ErrorAs(t, err, &limit)
	require.Regexp(
		t,
		"^.+ needs 2 MB of memory; a run may use 2 MB; filter first, group by something coarser, or take a column away$",
		err.Error(),
	)
	wide := *grouped
	wide.Groups, wide.Across = nil, grouped.Groups
	e = large(2000, 500)
	_, err = e.Run(t.Context(), e.plan(t, &wide))
	require.EqualError(
		t, err,
		"Who across makes 1002 columns; at most 400 can be shown; choose something coarser across, keep only the top groups, or put it down the side",
	)
}

// A sum beyond 64 bits is blank and told, its neighbours are exact.
func TestOverflowIsToldNotWrapped(t *testing.T) {
	c := large(1, 1).catalog
	tb := table.New("fares", 4)
	dict := table.NewDictBuilder()
	a, b := dict.Code([]byte("a")), dict.Code([]byte("b"))
	tb.Add("who", dict.Build([]uint32{a, a, b, b}))
	tb.Add("paid", table.NewNumbers([]int64{math.MaxInt64, math.MaxInt64, math.MaxInt64, -5}))
	e := New(&table.Snapshot{Tables: map[string]*table.Table{"fares": tb}}, c, Options{})
	doc := *grouped
	doc.Columns = []view.Column{{Field: "paid", Totals: []view.Total{{Fn: view.Sum}, {Fn: view.Average}}}}
	res, err := e.Run(t.Context(), e.plan(t, &doc))
	require.NoError(t, err)
	lines := window(t, res, result.Open{}, 0, 10, format.Plain).Lines
	require.Equal(t, []string{"", "92233720368547758.07"}, lines[0].Cells)
	require.Equal(t, "92233720368547758.02", lines[1].Cells[0])
	require.Len(t, res.Problems, 1)
	require.Equal(t, "2 lines have no total paid because the result is too large", res.Problems[0].String())
	require.Empty(t, res.Check.Wrong, "the check adds in 128 bits too")
}

func TestUnmatchedValuesAndKeptBlanksAreTold(t *testing.T) {
	w := &world{
		catalog: worldCatalog, cal: worldCalendar,
		rows: []map[string]any{{"ref": "C-1", "state": nil}, {"ref": "C-2", "state": "Quay"}}, pier: []int{-1, -1},
	}
	w.build()
	p, err := plan.Check(&view.Document{Gavrik: 1, Records: "crossings", Filter: &view.Condition{All: []view.Condition{
		{Field: "ref", Op: view.OneOf, Values: []string{"c-1", "C-2", "C-9", "X"}},
		{Field: "state", Op: view.IsNot, Value: "open"},
	}}}, w.catalog, w.cal)
	require.NoError(t, err)
	res, err := w.engine(2).Run(t.Context(), p)
	require.NoError(t, err)
	require.Equal(t, 2, res.Kept)
	require.Equal(t, []string{"C-9", "X"}, res.Steps[1].Unmatched)
	require.Equal(t, 2, res.Steps[1].UnmatchedCount)
	require.Equal(t, 1, res.Steps[2].BlanksKept)
}
