package engine

import (
	"context"
	"fmt"
	"math/big"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// Conditions on the records that link to one, against a count of them by hand.
func TestLinkedConditionsEqualReference(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		where := drawCondition(t, w, 1)
		meets := drawCondition(t, w, 0)
		c := &view.Linked{
			Records: "crossings", By: "pier", Where: &where,
			Test: rapid.SampledFrom(view.LinkedTests()).Draw(t, "test"),
		}
		switch c.Test {
		case view.AtLeastLinked, view.AtMostLinked:
			c.N = rapid.IntRange(1, 4).Draw(t, "n")
		case view.LatestLinked, view.EarliestLinked:
			c.Date, c.Meets = rapid.SampledFrom([]string{"day", "at"}).Draw(t, "date"), &meets
		case view.SumLinked, view.AverageLinked:
			c.Field = rapid.SampledFrom([]string{"seats", "fare", "wind", "delay"}).Draw(t, "of")
			if c.Field == "delay" && c.Test == view.AverageLinked {
				c.Field = "seats"
			}
			c.Op, c.Value = rapid.SampledFrom([]view.Op{
				view.Over, view.AtMost, view.Under,
			}).Draw(t, "op"), drawOperand(t, w, w.field(c.Field))
		}
		d := &view.Document{
			Gavrik: 1, Records: "piers", Columns: []view.Column{{Field: "name"}}, Filter: &view.Condition{Linked: c},
		}
		res := runWorld(t, w, w.engine(2), d)
		var want []string
		for p := range w.piers {
			var mine []int
			for i, at := range w.pier {
				if at == p && w.meets(&where, w.rows[i]) {
					mine = append(mine, i)
				}
			}
			if w.meetsLinked(c, mine) {
				want = append(want, fmt.Sprint("1||0|", w.cell(w.piers[p]["name"], catalog.Field{})))
			}
		}
		require.Equal(t, want, written(whole(t, res).Lines), described(d))
	})
}

func (w *world) meetsLinked(c *view.Linked, mine []int) bool {
	switch c.Test {
	case view.AnyLinked:
		return len(mine) > 0
	case view.NoneLinked:
		return len(mine) == 0
	case view.AtLeastLinked:
		return len(mine) >= c.N
	case view.AtMostLinked:
		return len(mine) <= c.N
	case view.LatestLinked, view.EarliestLinked:
		mine = slices.DeleteFunc(mine, func(i int) bool { return w.rows[i][c.Date] == nil })
		slices.SortStableFunc(mine, func(a, b int) int {
			return compareBlankLast(w.rows[a][c.Date], w.rows[b][c.Date], w.field(c.Date), false)
		})
		if len(mine) == 0 {
			return false
		}
		at := mine[0]
		if c.Test == view.LatestLinked {
			at = mine[len(mine)-1]
		}
		return w.meets(c.Meets, w.rows[at])
	}
	sum, n, f := new(big.Rat), int64(0), w.field(c.Field)
	for _, i := range mine {
		if v := w.rows[i][c.Field]; v != nil {
			sum.Add(sum, rational(v, f))
			n++
		}
	}
	if n == 0 && (len(mine) > 0 || c.Test == view.AverageLinked) {
		return false // but the sum of none is 0
	}
	if c.Test == view.AverageLinked {
		// Tested as it is shown: an average is rounded to what its field keeps.
		sum.Quo(sum, new(big.Rat).SetInt64(n))
		if !f.Approx {
			unit := new(big.Rat).SetInt64(table.Pow10(max(f.Scale, 2)))
			sum.Quo(new(big.Rat).SetInt(roundRat(new(big.Rat).Mul(sum, unit))), unit)
		}
	}
	if !f.Approx && c.Test == view.SumLinked && stored(sum, f) == nil {
		return false // it is too large to be tested, which the step says
	}
	lo, hi := w.operand(c.Value, f)
	switch c.Op {
	case view.Over:
		return sum.Cmp(hi) > 0
	case view.Under:
		return sum.Cmp(lo) < 0
	}
	return sum.Cmp(hi) <= 0
}

// Every cell of a crosstab is the total of the records in both of its groups.
func TestCrosstabEqualsReference(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		d := &view.Document{Gavrik: 1, Records: "crossings"}
		c := drawCondition(t, w, 1)
		d.Filter = &c
		for range rapid.IntRange(0, 2).Draw(t, "down") {
			d.Groups = append(d.Groups, drawGroup(t, w))
		}
		for range rapid.IntRange(1, 2).Draw(t, "across") {
			d.Across = append(d.Across, drawGroup(t, w))
		}
		path := rapid.SampledFrom(worldPaths).Draw(t, "path")
		total := drawTotal(t, w, path)
		d.Columns = []view.Column{{Field: path, Totals: []view.Total{total}}}
		e := w.engine(2)
		e.opts.MaxColumns = 1 << 20
		res := runWorld(t, w, e, d)

		// The reference's groups down and across, each with its records.
		down, across := &refGroup{}, &refGroup{}
		for i, row := range w.rows {
			if w.meets(&c, row) {
				down.rows = append(down.rows, i)
			}
		}
		w.split(down, d, 0)
		w.settle(down, d, 0)
		across.rows = down.rows
		turned := *d
		turned.Groups = d.Across
		w.split(across, &turned, 0)
		w.settle(across, &turned, 0)
		if len(across.rows) < len(down.rows) {
			w.narrow(down, d, 0, across.rows)
		}
		var columns []*refGroup
		var list func(g *refGroup)
		list = func(g *refGroup) {
			for _, part := range g.groups {
				list(part)
			}
			columns = append(columns, g)
		}
		list(across)
		var want []string
		var write func(g *refGroup)
		line := func(g *refGroup) {
			var cells []string
			for _, col := range columns {
				both := slices.DeleteFunc(slices.Clone(g.rows), func(i int) bool { return !slices.Contains(col.rows, i) })
				cell := ""
				if len(both) > 0 || g.level == 0 || col.level == 0 { // where none is, no cell is
					cell = joinedAs(total.Fn, w.cell(w.total(path, total, both)))
				}
				cells = append(cells, cell)
			}
			label := g.label
			if g.level == 0 {
				label = "All crossings"
			}
			want = append(want, writeLine(g.level, label, len(g.rows), cells))
		}
		write = func(g *refGroup) {
			for _, part := range g.groups {
				line(part)
				write(part)
			}
		}
		write(down)
		line(down)
		got := written(append(whole(t, res).Lines, grand(res, format.Plain)))
		require.Equal(t, want, got, described(d))
		require.Len(t, res.Heads, len(columns))
	})
}

// A comparison is two views side by side: each side's figures are those of a view
// with that side's filter, by the labels of the groups.
func TestComparisonEqualsTwoViews(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		d := &view.Document{Gavrik: 1, Records: "crossings"}
		mine, other := drawCondition(t, w, 1), drawCondition(t, w, 1)
		path := rapid.SampledFrom(worldPaths).Draw(t, "path")
		total := drawTotal(t, w, path)
		d.Filter, d.Columns = &mine, []view.Column{{Field: path, Totals: []view.Total{total}}}
		for range rapid.IntRange(0, 2).Draw(t, "levels") {
			g := drawGroup(t, w)
			g.Top, g.Order, g.Empty, g.Keep = 0, nil, false, nil
			d.Groups = append(d.Groups, g)
		}
		alone := *d
		alone.Filter = &other
		compared := *d
		compared.Compare = &view.Compare{With: view.OtherFilter, Filter: &other}
		e := w.engine(2)
		cells := func(d *view.Document) map[string][]string {
			out := map[string][]string{}
			res := runWorld(t, w, e, d)
			require.NoError(t, eachGroup(t.Context(), res, format.Plain, func(g textGroup) error {
				out[strings.Join(g.Labels, "/")+fmt.Sprint(g.Level)] = append([]string{
					fmt.Sprint(g.Count), fmt.Sprint(g.Others),
				}, g.Cells...)
				return nil
			}))
			return out
		}
		left, right, both := cells(d), cells(&alone), cells(&compared)
		none := func(side map[string][]string, group string) []string {
			if c, ok := side[group]; ok {
				return []string{c[0], c[2]}
			}
			return []string{"0", w.cell(w.total(path, total, nil))}
		}
		for group, got := range both {
			l, r := none(left, group), none(right, group)
			require.Equal(t, []string{l[0], r[0], l[1], r[1]}, got[:4], "%s %s", group, described(&compared))
			delete(left, group)
			delete(right, group)
		}
		require.Empty(t, left)
		require.Empty(t, right)
	})
}

// A crosstab that is compared is two crosstabs side by side, cell by cell.
func TestComparedCrosstabEqualsTwoCrosstabs(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		d := &view.Document{Gavrik: 1, Records: "crossings"}
		mine, other := drawCondition(t, w, 1), drawCondition(t, w, 1)
		path := rapid.SampledFrom(worldPaths).Draw(t, "path")
		total := drawTotal(t, w, path)
		d.Filter, d.Columns = &mine, []view.Column{{Field: path, Totals: []view.Total{total}}}
		plain := func(name string) []view.Group {
			g := drawGroup(t, w)
			g.Top, g.Order, g.Empty, g.Keep = 0, nil, false, nil
			return []view.Group{g}
		}
		d.Groups, d.Across = plain("down"), plain("across")
		alone, compared := *d, *d
		alone.Filter = &other
		compared.Compare = &view.Compare{With: view.OtherFilter, Filter: &other}
		e := w.engine(2)
		e.opts.MaxColumns = 1 << 20
		cells := func(d *view.Document) map[string]string {
			out := map[string]string{}
			res := runWorld(t, w, e, d)
			require.NoError(t, eachGroup(t.Context(), res, format.Plain, func(g textGroup) error {
				for i, h := range res.Heads {
					if cell := g.Cells[i]; cell != "" && (h.Part == result.Own || h.Part == result.Other) {
						out[fmt.Sprint(strings.Join(g.Labels, "/"), g.Level, h.AcrossPath, "/", h.Part)] = cell
					}
				}
				return nil
			}))
			return out
		}
		want := cells(d)
		for at, cell := range cells(&alone) {
			want[at+string(result.Other)] = cell
		}
		// A count of nothing is 0 where the other side has a line for it, and no cell where it has not.
		for at, got := range cells(&compared) {
			if want[at] == "" && got == "0" {
				continue
			}
			require.Equal(t, want[at], got, "%s %s", at, described(&compared))
			delete(want, at)
		}
		require.Empty(t, want, described(&compared))
	})
}

// moved runs a document that compares one stretch of time with another, and lists
// the labels and counts of its outermost groups.
func moved(
	t *testing.T, w *world, filter view.Condition, c view.Compare, groups ...view.Group,
) (lines []string, dates string) {
	t.Helper()
	d := &view.Document{
		Gavrik: 1, Records: "crossings", Filter: &filter, Compare: &c, Groups: groups,
		Columns: []view.Column{{Field: "seats", Totals: []view.Total{{Fn: view.Sum}}}},
	}
	p, err := plan.Check(d, w.catalog, w.cal)
	require.NoError(t, err)
	res, err := w.engine(2).Run(t.Context(), p)
	require.NoError(t, err)
	for _, l := range window(t, res, result.Open{}, 0, 100, format.Plain).Lines {
		lines = append(lines, fmt.Sprintf("%s %d %d %s", l.Label, l.Count, l.Others, strings.Join(l.Cells, " ")))
	}
	return lines, p.Compare.Dates
}

func TestTheOtherStretchIsAlignedByGroup(t *testing.T) {
	day := calendar.FromDate
	w := &world{catalog: worldCatalog, cal: worldCalendar, pier: []int{-1, -1, -1, -1, -1, -1}}
	for i, d := range []int64{
		day(2026, 10, 3), day(2026, 10, 20), day(2026, 9, 3), day(2025, 10, 3), day(2025, 10, 4), day(2026, 11, 5),
	} {
		w.rows = append(w.rows, map[string]any{"day": d, "seats": int64(10 + i)})
	}
	w.build()
	last := view.Condition{
		Field: "day", Op: view.In, Period: &calendar.Period{Which: calendar.Last, Unit: calendar.ByMonth},
	}
	byDay := view.Group{Field: "day", Unit: calendar.ByDay}
	lines, dates := moved(t, w, last, view.Compare{With: view.PeriodBefore}, byDay)
	require.Equal(t, []string{"2026-10-03 1 1 10 12 -2 -16.67", "2026-10-20 1 0 11   "}, lines)
	require.Equal(t, "1 Sep 2026 to 30 Sep 2026", dates)
	lines, dates = moved(t, w, last, view.Compare{With: view.YearAgo}, byDay)
	require.Equal(t, []string{
		"2026-10-03 1 1 10 13 -3 -23.08", "2026-10-04 0 1  14  ", "2026-10-20 1 0 11   ",
	}, lines)
	require.Equal(t, "1 Oct 2025 to 31 Oct 2025", dates)
	lines, _ = moved(
		t, w, last, view.Compare{With: view.OtherPeriod, From: "2026-11-01", To: "2026-11-30"},
		view.Group{Field: "day", Unit: calendar.ByMonth},
	)
	require.Equal(t, []string{"2026-10-01 2 1 21 15 6 40.00"}, lines)
	toDate := view.Condition{
		Field: "day", Op: view.In, Period: &calendar.Period{Which: calendar.ToDate, Unit: calendar.ByMonth},
	}
	_, dates = moved(t, w, toDate, view.Compare{With: view.PeriodBefore})
	require.Equal(t, "1 Oct 2026 to 23 Oct 2026", dates, "up to today: the same part of the month before")
	_, err := plan.Check(&view.Document{
		Gavrik: 1, Records: "crossings", Compare: &view.Compare{With: view.YearAgo},
	}, w.catalog, w.cal)
	require.ErrorContains(t, err, "the filter bounds no stretch of whole days")
}

// What is shown in place of a total, by its definition over the lines themselves.
func TestShownFiguresFollowTheirDefinition(t *testing.T) {
	w := &world{catalog: worldCatalog, cal: worldCalendar}
	for i, s := range []string{"a", "a", "b", "c", "d"} {
		w.rows = append(w.rows, map[string]any{
			"state": s, "seats": []any{int64(30), int64(10), int64(20), nil, int64(40)}[i], "late": int64(i % 2),
		})
		w.pier = append(w.pier, -1)
	}
	w.build()
	d := &view.Document{Gavrik: 1, Records: "crossings", Groups: []view.Group{{Field: "state"}}}
	for _, s := range view.Shows() {
		if s != view.ShareRow && s != view.ShareColumn {
			d.Columns = append(d.Columns, view.Column{Field: "seats", Totals: []view.Total{{Fn: view.Sum, Show: s}}})
		}
	}
	lines := func() []string {
		p, err := plan.Check(d, w.catalog, w.cal)
		require.NoError(t, err)
		res, err := w.engine(2).Run(t.Context(), p)
		require.NoError(t, err)
		return written(append(window(t, res, result.Open{}, 0, 100, format.Plain).Lines, grand(res, format.Plain)))
	}
	//       sum  of all  of group  running  rank  difference  change
	require.Equal(t, []string{
		"1|a|2|40|40.00|40.00|40|1||",
		"1|b|1|20|20.00|20.00|60|3|-20|-50.00",
		"1|c|1||||60|||",
		"1|d|1|40|40.00|40.00|100|1||",
		"0|All crossings|5|100|100.00|100.00|100|||",
	}, lines())
	d.Across = []view.Group{{Field: "late"}}
	d.Columns = []view.Column{
		{
			Field: "seats",
			Totals: []view.Total{
				{Fn: view.Sum}, {Fn: view.Sum, Show: view.ShareRow}, {Fn: view.Sum, Show: view.ShareColumn},
				{Fn: view.Sum, Show: view.ShareAll},
			},
		},
	}
	require.Equal(t, []string{ // no, yes and all, each with its shares
		"1|a|2|30|75.00|33.33|30.00|10|25.00|100.00|10.00|40|100.00|40.00|40.00",
		"1|b|1|20|100.00|22.22|20.00|||||20|100.00|20.00|20.00",
		"1|c|1||||||||||||",
		"1|d|1|40|100.00|44.44|40.00|||||40|100.00|40.00|40.00",
		"0|All crossings|5|90|90.00|100.00|90.00|10|10.00|100.00|10.00|100|100.00|100.00|100.00",
	}, lines())
}

// Amounts of several currencies are never added up.
func TestCurrenciesStayApart(t *testing.T) {
	cat := &catalog.Catalog{Sets: []*catalog.RecordSet{{
		Key: "tips", Label: "Tips", One: "tip", Many: "tips",
		Fields: []catalog.Field{
			{Key: "who", Label: "Who", Type: catalog.Text}, {Key: "coin", Label: "Coin", Type: catalog.Text},
			{Key: "paid", Label: "Paid", Type: catalog.Money, Scale: 2, CurrencyBy: "coin"},
		},
	}}}
	w := &world{catalog: cat, cal: worldCalendar}
	for _, r := range [][3]any{
		{"a", "EUR", int64(150)}, {"a", "GBP", int64(250)}, {"a", "EUR", int64(50)}, {"b", "GBP", int64(300)},
		{"c", "SEK", nil},
	} {
		w.rows = append(w.rows, map[string]any{"who": r[0], "coin": r[1], "paid": r[2]})
	}
	w.buildAs("tips")
	total := []view.Column{{Field: "paid", Totals: []view.Total{{Fn: view.Sum}}}}
	d := &view.Document{
		Gavrik: 1, Records: "tips",
		Groups:  []view.Group{{Field: "who", Order: &view.Order{By: view.ByTotal, Field: "paid", Fn: view.Sum}}},
		Columns: total,
	}
	p, err := plan.Check(d, cat, w.cal)
	require.NoError(t, err)
	res, err := w.engine(2).Run(context.Background(), p)
	require.NoError(t, err)
	require.Equal(t, []string{
		"1|b|1|3.00 GBP", "1|a|3|2.00 EUR + 2.50 GBP", "1|c|1|", "0|All tips|5|2.00 EUR + 5.50 GBP",
	},
		written(append(window(t, res, result.Open{}, 0, 10, format.Plain).Lines, grand(res, format.Plain))))
}

// Beside the commonest value of a group people read how many of its records have it.
func TestTheCommonestValueSaysHowOften(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		const field = "state"
		d := &view.Document{Gavrik: 1, Records: "crossings", Columns: []view.Column{
			{Field: field, Totals: []view.Total{{Fn: view.Mode}}},
		}}
		most := map[string]int{}
		for _, row := range w.rows {
			if text, ok := row[field].(string); ok {
				most[text]++
			}
		}
		want := ""
		if res := runWorld(t, w, w.engine(2), d); len(most) > 0 {
			value := grand(res, format.Plain).Cells[0]
			want = fmt.Sprintf("%s, %d times", value, most[value])
			if most[value] == 1 {
				want = value + ", once"
			}
			require.Equal(t, want, grand(res, format.People).Cells[0])
		}
	})
}
