package engine

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// drawLinkedValue draws what is taken of the crossings that link to a record.
func drawLinkedValue(t *rapid.T, w *world, by string, takes ...view.Take) view.LinkedValue {
	v := view.LinkedValue{Key: "drawn", Label: "Drawn", Records: "crossings", By: by,
		Take: rapid.SampledFrom(takes).Draw(t, "take")}
	if rapid.Bool().Draw(t, "some of them") {
		where := drawCondition(t, w, 1)
		v.Where = &where
	}
	if !v.Take.OfField() {
		return v
	}
	paths := slices.DeleteFunc(slices.Clone(worldPaths), func(p string) bool {
		return !slices.Contains(view.TakesFor(w.field(p).Type), v.Take) ||
			w.field(p).Approx && v.Take == view.TakeJoined
	})
	v.Field = rapid.SampledFrom(paths).Draw(t, "taken")
	if v.Take.ByDate() {
		v.Date = rapid.SampledFrom([]string{"day", "at", "back.day"}).Draw(t, "by date")
	}
	return v
}

// taken is what a linked value takes of some crossings, in their order.
func (w *world) taken(v view.LinkedValue, f catalog.Field, rows []int) any {
	switch v.Take {
	case view.TakeCount:
		return int64(len(rows))
	case view.TakeAny:
		return int64(min(len(rows), 1))
	case view.TakeLatest:
		return w.endOf(v.Field, view.Total{Fn: view.Last, By: v.Date}, w.onLast(v, rows))
	case view.TakeEarliest:
		return w.endOf(v.Field, view.Total{Fn: view.First, By: v.Date}, w.onLast(v, rows))
	case view.TakeJoined:
		return w.joinedBy(v.Field, rows)
	}
	if v.Take == view.TakeSum && len(rows) == 0 {
		if f.Approx {
			return 0.0
		}
		return int64(0)
	}
	if by := w.field(v.Field).CurrencyBy; by != "" && v.Take != view.TakeDistinct &&
		len(w.coins(w.coinOf(v.Field), rows, v.Field)) > 1 {
		return nil
	}
	value, _ := w.alone(v.Field, view.Total{Fn: v.Take.Fn()}, rows)
	return value
}

// onLast are the rows of the latest or earliest date; one of them is taken, whatever it holds.
func (w *world) onLast(v view.LinkedValue, rows []int) []int {
	rows = slices.DeleteFunc(slices.Clone(rows), func(i int) bool { return w.rows[i][v.Date] == nil })
	if len(rows) == 0 {
		return nil
	}
	best := rows[0]
	for _, i := range rows[1:] {
		c := compareBlankLast(w.rows[i][v.Date], w.rows[best][v.Date], w.field(v.Date), false)
		if v.Take == view.TakeLatest && c >= 0 || v.Take == view.TakeEarliest && c < 0 {
			best = i
		}
	}
	return []int{best}
}

func (w *world) joinedBy(path string, rows []int) any {
	f := w.field(path)
	var values []any
	for _, i := range rows {
		if v := w.rows[i][path]; v != nil && !slices.Contains(values, v) {
			values = append(values, v)
		}
	}
	if len(values) == 0 {
		return nil
	}
	slices.SortFunc(values, func(a, b any) int { return compareBlankLast(a, b, f, false) })
	texts := make([]string, 0, len(values))
	writer := format.NewWriter(format.People, w.cal)
	for _, v := range values[:min(len(values), view.MostJoined)] {
		if n, ok := v.(int64); ok {
			texts = append(texts, writer.Number(n, f))
		} else {
			texts = append(texts, v.(string))
		}
	}
	if more := len(values) - view.MostJoined; more > 0 {
		texts = append(texts, fmt.Sprintf("and %d more", more))
	}
	return strings.Join(texts, ", ")
}

// linkers are the crossings that link to each record, by a link's rows, and count.
func (w *world) linkers(v view.LinkedValue, to []int, n int) [][]int {
	out := make([][]int, n)
	for i, target := range to {
		if target >= 0 && (v.Where == nil || w.meets(v.Where, w.rows[i])) {
			out[target] = append(out[target], i)
		}
	}
	return out
}

// addDrawn puts a linked value of the crossings that go back to each into the world.
func (w *world) addDrawn(v view.LinkedValue, f catalog.Field) {
	w.derived["drawn"] = f
	for i, rows := range w.linkers(v, w.back, len(w.rows)) {
		w.rows[i]["drawn"] = w.taken(v, f, rows)
		if f.CurrencyBy == "" {
			continue
		}
		if v.Take.ByDate() {
			rows = w.onLast(v, rows)
		}
		w.rows[i][f.CurrencyBy] = nil
		by := w.coinOf(v.Field)
		if coins := w.coins(by, rows, v.Field); len(coins) == 1 && coins[0] != "" {
			w.rows[i][f.CurrencyBy] = coins[0]
		}
	}
}

// Values drawn through a link of another set, as its own columns and conditions.
func TestLinkedValuesOfAnotherSetEqualReference(t *testing.T) {
	for _, take := range view.Takes() {
		t.Run(string(take), func(t *testing.T) {
			rapid.Check(t, func(t *rapid.T) { drawnEqualsReference(t, take) })
		})
	}
}

func drawnEqualsReference(t *rapid.T, take view.Take) {
	w := drawWorld(t)
	by := rapid.SampledFrom([]string{"pier", "back.pier"}).Draw(t, "by") // children, and theirs
	v := drawLinkedValue(t, w, by, take)
	to := make([]int, len(w.rows))
	for i := range to {
		to[i] = w.holder(by, i)
	}
	d := &view.Document{
		Gavrik: 1, Records: "piers", Linked: []view.LinkedValue{v},
		Columns: []view.Column{{Field: "name"}, {Field: "drawn"}},
	}
	res := runWorld(t, w, w.engine(rapid.IntRange(1, 3).Draw(t, "workers")), d)
	var want []string
	for p, rows := range w.linkers(v, to, len(w.piers)) {
		f := res.Plan.Derived["drawn"].Ref.Field
		cell := w.cell(w.taken(v, f, rows), f)
		want = append(want, fmt.Sprint("1||0|", w.cell(w.piers[p]["name"], catalog.Field{}), "|", cell))
	}
	got := written(whole(t, res).Lines)
	require.Equal(t, want, got, described(d))
}

// A cycle of linked values is told as one; a tie is decided by the order of the records, and
// counted.
func TestLinkedValuesOfLinkedValues(t *testing.T) {
	w := &world{catalog: worldCatalog, cal: worldCalendar}
	w.piers = []map[string]any{{"name": "North"}, {"name": "South"}}
	for i, seats := range []any{int64(1), int64(2), nil, int64(9)} {
		w.rows = append(w.rows, map[string]any{"ref": fmt.Sprint("C-", i), "seats": seats, "day": int64(100)})
		w.pier, w.back = append(w.pier, 0), append(w.back, 0)
	}
	w.build()
	run := func(take view.Take, field string, defs plan.Definitions) (*result.Summary, string, error) {
		d := &view.Document{
			Gavrik: 1, Records: "piers", Columns: []view.Column{{Field: "drawn"}},
			Linked: []view.LinkedValue{{
				Key: "drawn", Label: "Drawn", Records: "crossings", By: "pier", Take: take, Field: field, Date: "day",
			}},
		}
		p, err := plan.CheckWith(d, w.catalog, defs, w.cal)
		if err != nil {
			return nil, "", err
		}
		res, err := w.engine(1).Run(context.Background(), p)
		require.NoError(t, err)
		return &res.Summary, strings.Join(written(whole(t, res).Lines), " "), nil
	}
	sum, lines, err := run(view.TakeLatest, "seats", nil)
	require.NoError(t, err)
	require.Equal(t, "1||0|9 1||0|", lines)
	require.Equal(t, []result.Tie{{Label: "Drawn", By: "day", Count: 1}}, sum.Ties)

	// A definition of the linking records, itself drawn, goes in as a field does.
	defs := plan.Definitions{"crossings": plan.DefinedBy(view.Document{Linked: []view.LinkedValue{
		{Key: "returns", Label: "Returns", Records: "crossings", By: "back", Take: view.TakeCount}}})}
	_, lines, err = run(view.TakeSum, "returns", defs)
	require.NoError(t, err)
	require.Equal(t, "1||0|4 1||0|0", lines, "no crossings is no returns")

	defs.Add("crossings", plan.Definition{Calculated: &view.Calculated{
		Key: "share", Label: "Share", Formula: "Seats + 'Pier traffic'"}})
	defs.Add("piers", plan.Definition{Linked: &view.LinkedValue{
		Key: "traffic", Label: "Traffic", Records: "crossings", By: "pier", Take: view.TakeSum, Field: "share"}})
	_, _, err = run(view.TakeSum, "share", defs)
	require.ErrorContains(t, err, `"share" is made of itself: share uses traffic uses share`)
}
