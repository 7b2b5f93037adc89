package engine

import (
	"math"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/chart"
	"gavrik/internal/core/explain"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// alike says whether conditions cannot tell the values of a level apart: texts of
// different case, or moments of one minute.
func alike(w *world, g view.Group, labels []string) bool {
	f := w.field(g.Field)
	if f.Type == catalog.DateTime && g.Unit == "" || f.Approx {
		return true
	}
	seen := map[string]bool{}
	for _, l := range labels {
		if f.Type == catalog.Text && seen[table.Fold(l)] {
			return true
		}
		seen[table.Fold(l)] = true
	}
	return false
}

// The records behind a group are as many as the group says, and a filter on them keeps
// exactly these, whatever the grouping.
func TestBehindAGroupAreItsRecords(t *testing.T) {
	checked := 0
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		d := drawDocument(t, w)
		d.Groups = append(d.Groups, drawGroup(t, w))
		for i, g := range d.Groups {
			var labels []string
			for _, v := range w.values(g.Field, view.Distinct, all(w)) {
				if v != nil && w.field(g.Field).Type == catalog.Text {
					labels = append(labels, textOf(v))
				}
			}
			slices.Sort(labels)
			if alike(w, g, slices.Compact(labels)) {
				d.Groups[i] = view.Group{Field: "late"}
			}
		}
		res := runWorld(t, w, w.engine(2), d)
		lines := whole(t, res).Lines
		var groups []textLine
		for _, l := range lines {
			if l.Group != "" {
				groups = append(groups, l)
			}
		}
		if len(groups) == 0 {
			return
		}
		line := rapid.SampledFrom(groups).Draw(t, "group")
		through, err := explain.DrillThrough(t.Context(), res, line.Group, -1)
		require.NoError(t, err)
		conditions := through.Conditions
		require.GreaterOrEqual(t, len(conditions), line.Level)
		bare := *d
		bare.Groups, bare.Filter = nil, &view.Condition{All: conditions}
		if d.Filter != nil {
			bare.Filter = &view.Condition{All: append([]view.Condition{*d.Filter}, conditions...)}
		}
		for i := range bare.Columns {
			bare.Columns[i].Totals = nil
		}
		if _, err := plan.Check(&bare, w.catalog, w.cal); err != nil && strings.Contains(
			err.Error(), "too large to compare with",
		) {
			return // the very largest number is no operand
		}
		require.Equal(
			t, line.Count, runWorld(t, w, w.engine(1), &bare).Kept, "%q under %s: %+v", line.Label, described(d),
			conditions,
		)
		checked++
	})
	require.Greater(t, checked, 10)
}

// all are the places of all records.
func all(w *world) []int {
	out := make([]int, len(w.rows))
	for i := range out {
		out[i] = i
	}
	return out
}

// Every mark of a chart is a figure of the ledger, and marks that add up have the
// grand total as their sum.
func TestChartShowsTheLedgersFigures(t *testing.T) {
	drawn := 0
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		d := drawDocument(t, w)
		d.Columns = []view.Column{
			{
				Field: "seats",
				Totals: []view.Total{
					{Fn: rapid.SampledFrom([]view.Fn{view.Sum, view.Average, view.CountFilled}).Draw(t, "fn")},
				},
			},
		}
		if rapid.Bool().Draw(t, "across") {
			d.Across = []view.Group{{Field: rapid.SampledFrom([]string{"state", "late"}).Draw(t, "columns")}}
		}
		for i := range d.Groups { // a total of their own is no column here
			d.Groups[i].Order = nil
		}
		d.Chart = &view.Chart{
			Field: "seats", Kind: rapid.SampledFrom(append(view.ChartKinds(), "")).Draw(t, "kind"),
			Order: rapid.SampledFrom(view.ChartOrders()).Draw(t, "order"),
		}
		if rapid.Bool().Draw(t, "records") {
			d.Chart.Field = ""
		}
		res := runWorld(t, w, w.engine(2), d)
		drawing, err := chart.Draw(t.Context(), res)
		require.NoError(t, err)
		if drawing.Trouble != "" {
			require.True(
				t, len(d.Groups)+len(d.Across) == 0 || d.Columns[0].Totals[0].Fn == view.Average, drawing.Trouble,
			)
			return
		}
		lines := map[string]textLine{"": grand(res, format.People)}
		require.NoError(
			t,
			eachGroup(t.Context(), res, format.People, func(l textGroup) error {
				lines[l.Group] = l.textLine
				return nil
			}),
		)
		sum := 0.0
		for _, s := range drawing.Series {
			require.Len(t, s.Marks, len(drawing.Places))
			for _, m := range s.Marks {
				if m.Value == m.Value {
					sum += m.Value
				}
				switch {
				case m.Head >= 0 && d.Chart.Field != "":
					require.Equal(t, lines[m.Group].Cells[m.Head], m.Text)
				case m.Head < 0 && m.Group != "":
					require.Equal(t, w.people(lines[m.Group].Count), m.Text)
				}
			}
		}
		cut := slices.ContainsFunc(drawing.Notes, func(n string) bool { return strings.Contains(n, "are drawn.") })
		if !cut && (d.Columns[0].Totals[0].Fn != view.Average || d.Chart.Field == "") {
			want := float64(res.Kept)
			if d.Chart.Field != "" {
				want = asFloat(strings.NewReplacer(",", "", "−", "-").Replace(
					lines[""].Cells[slices.IndexFunc(res.Heads, func(h result.Head) bool { return len(h.Across) == 0 })],
				))
			}
			require.InDelta(t, want, sum, 1e-6)
			drawn++
		}
	})
	require.Greater(t, drawn, 5)
}

// Of two levels the one along time makes the axis, and the fitting kind follows.
func TestChartFitsItsGroups(t *testing.T) {
	w := &world{catalog: worldCatalog, cal: worldCalendar}
	for month := range 3 {
		for _, state := range []any{"Quay", "x y z", nil} {
			w.rows = append(w.rows, map[string]any{
				"day": int64(20600 + 31*month), "state": state, "seats": int64(month + 1), "fare": int64(250),
			})
			w.pier = append(w.pier, -1)
		}
	}
	w.build()
	e := w.engine(1)
	draw := func(d view.Document) *chart.Chart {
		d.Gavrik, d.Records = 1, "crossings"
		p, err := plan.Check(&d, w.catalog, w.cal)
		require.NoError(t, err)
		res, err := e.Run(t.Context(), readBack(t, p))
		require.NoError(t, err)
		c, err := chart.Draw(t.Context(), res)
		require.NoError(t, err)
		return c
	}
	seats := []view.Column{
		{Field: "seats", Totals: []view.Total{{Fn: view.Sum}}},
		{Field: "fare", Totals: []view.Total{{Fn: view.Average}}},
	}
	byMonth := view.Group{Field: "day", Unit: "month", Order: &view.Order{By: view.ByLabel, Desc: true}}
	c := draw(view.Document{
		Columns: seats, Groups: []view.Group{{Field: "state"}, byMonth}, Chart: &view.Chart{Field: "seats"},
	})
	require.Equal(t, view.Stacked, c.Kind)
	require.Equal(t, []string{"May 2026", "Jun 2026", "Jul 2026"}, c.Places, "time runs from left to right")
	require.Equal(
		t, []string{"Quay", "x y z", "blank"}, []string{c.Series[0].Label, c.Series[1].Label, c.Series[2].Label},
	)
	require.InDelta(t, 3.0, c.Series[2].Marks[2].Value, 0)

	c = draw(view.Document{
		Columns: seats, Groups: []view.Group{{Field: "state"}, byMonth}, Chart: &view.Chart{Field: "fare"},
	})
	require.Equal(t, view.Lines, c.Kind, "averages are not put on each other")
	require.InDelta(t, 2.5, c.Series[0].Marks[0].Value, 0)
	c = draw(view.Document{
		Columns: seats, Groups: []view.Group{{Field: "state"}, byMonth},
		Chart: &view.Chart{Field: "fare", Kind: view.Stacked},
	})
	require.Contains(t, c.Trouble, "do not add up")
	c = draw(view.Document{
		Columns: seats, Groups: []view.Group{byMonth}, Chart: &view.Chart{Field: "seats"},
		Filter: &view.Condition{Field: "day", Op: view.NotBetween, Value: "2026-06-01", To: "2026-06-30"},
	})
	require.Equal(t, []string{"May 2026", "Jun 2026", "Jul 2026"}, c.Places, "a month without records has its place")
	require.True(t, math.IsNaN(c.Series[0].Marks[1].Value))
	require.InDelta(t, 9.0, c.Series[0].Marks[2].Value, 0)
	require.Equal(
		t, view.Bars,
		draw(view.Document{Columns: seats, Groups: []view.Group{byMonth}, Chart: &view.Chart{Field: "seats"}}).Kind,
	)
	require.Contains(
		t, draw(view.Document{Columns: seats, Chart: &view.Chart{Field: "seats"}}).Trouble,
		"group by something first",
	)
	require.Contains(
		t,
		draw(view.Document{
			Columns: seats[:1], Groups: []view.Group{byMonth}, Chart: &view.Chart{Field: "fare"},
		}).Trouble,
		"no column any more",
	)
}

func asFloat(s string) float64 {
	if s == "" {
		return 0
	}
	v, err := strconv.ParseFloat(s, 64)
	if err != nil {
		panic(err)
	}
	return v
}
