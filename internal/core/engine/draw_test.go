package engine

import (
	"fmt"
	"slices"

	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/view"
)

// drawDocument draws a document that fits the world's catalog.
func drawDocument(t *rapid.T, w *world) *view.Document {
	d := &view.Document{Gavrik: 1, Records: "crossings", Columns: []view.Column{}}
	drawDerived(t, w, d)
	if rapid.Bool().Draw(t, "filtered") {
		c := drawCondition(t, w, 3)
		d.Filter = &c
	}
	for range rapid.IntRange(0, 3).Draw(t, "levels") {
		d.Groups = append(d.Groups, drawGroup(t, w))
	}
	for range rapid.IntRange(0, 4).Draw(t, "columns") {
		columns := w.paths()
		if len(w.rates) > 0 {
			columns = append(columns, "rate")
		}
		c := view.Column{Field: rapid.SampledFrom(columns).Draw(t, "column")}
		for range rapid.IntRange(0, 3).Draw(t, "totals") {
			total := view.Total{}
			if c.Field != "rate" {
				total = drawTotal(t, w, c.Field)
			}
			total.Show = drawShow(t, w, c.Field, total)
			if rapid.IntRange(0, 3).Draw(t, "by level") == 0 {
				total.Levels = []int{rapid.IntRange(0, len(d.Groups)).Draw(t, "level")}
			}
			c.Totals = append(c.Totals, total)
		}
		d.Columns = append(d.Columns, c)
	}
	for range rapid.IntRange(0, 2).Draw(t, "sorts") {
		d.Sort = append(d.Sort, view.Sort{
			Field: rapid.SampledFrom(w.paths()).Draw(t, "sort"), Desc: rapid.Bool().Draw(t, "desc"),
		})
	}
	return d
}

func drawGroup(t *rapid.T, w *world) view.Group {
	g := view.Group{Field: rapid.SampledFrom(w.paths()).Draw(t, "group")}
	f := w.field(g.Field)
	if f.Type.Temporal() && rapid.Bool().Draw(t, "by unit") {
		g.Unit = rapid.SampledFrom(calendar.GroupUnits()).Draw(t, "unit")
		if g.Unit == calendar.ByHour && f.Type == catalog.Date {
			g.Unit = calendar.ByWeekday
		}
	}
	g.Order = drawOrder(t, w)
	if rapid.IntRange(0, 4).Draw(t, "top") == 0 {
		g.Top = rapid.IntRange(1, 4).Draw(t, "kept")
	}
	if rapid.IntRange(0, 3).Draw(t, "kept by total") == 0 {
		if g.Keep = drawKeep(t, w); g.Top > 0 {
			g.Keep.Others = view.OthersRest
		}
	} else if f.Type == catalog.Text || f.Type == catalog.YesNo || g.Unit != "" {
		// Of many records, the reference would list all values for each group of all.
		g.Empty = rapid.IntRange(0, 4).Draw(t, "empty") == 0 && len(w.rows) < parallelRows
	}
	return g
}

// drawKeep draws which groups are kept by a total of their own.
func drawKeep(t *rapid.T, w *world) *view.Keep {
	k := &view.Keep{Others: rapid.SampledFrom([]view.Others{"", view.OthersOut, view.OthersRest}).Draw(t, "others")}
	f := catalog.Field{Type: catalog.Whole}
	path := rapid.SampledFrom(worldPaths).Draw(t, "keep field")
	total := drawTotal(t, w, path)
	if of := total.Fn.Result(w.field(path)); (of.Type.Numeric() || of.Type.Temporal()) && !of.Approx && total.By == "" {
		k.Field, k.Fn, k.Percent, f = path, total.Fn, total.Percent, of
	}
	adds := k.Field == "" || total.Fn == view.Sum && w.linksOf(path) == "" || total.Fn == view.CountFilled ||
		total.Fn == view.Blanks
	if adds && rapid.Bool().Draw(t, "by share") {
		k.Share = rapid.SampledFrom([]string{"1", "50", "80", "99.9", "100"}).Draw(t, "share")
		return k
	}
	k.Op = rapid.SampledFrom(view.FigureOps()).Draw(t, "keep op")
	k.Value = drawOperand(t, w, f)
	if k.Op == view.Between {
		k.To = drawOperand(t, w, f)
	}
	return k
}

// drawTotal draws a total that fits a field. Approximate values have no spread
// here: its last digits depend on the order of addition.
func drawTotal(t *rapid.T, w *world, path string) view.Total {
	f := w.field(path)
	fns := view.FnsFor(f.Type)
	if f.Approx {
		fns = slices.DeleteFunc(fns, func(fn view.Fn) bool { return fn == view.Spread || fn == view.Variance })
	}
	out := view.Total{Fn: rapid.SampledFrom(fns).Draw(t, "fn")}
	switch out.Fn {
	case view.Percentile:
		out.Percent = rapid.SampledFrom([]string{"0", "10", "33.3", "50", "99.999", "100"}).Draw(t, "percent")
	case view.First, view.Last:
		if rapid.Bool().Draw(t, "by another") {
			out.By = rapid.SampledFrom(worldPaths).Draw(t, "by")
		}
	}
	return out
}

// drawShow draws what a total may be shown as.
func drawShow(t *rapid.T, w *world, path string, total view.Total) view.Show {
	if rapid.IntRange(0, 2).Draw(t, "shown") > 0 {
		return ""
	}
	f := w.field(path)
	if total.Fn != "" {
		f = total.Fn.Result(f)
	}
	if !f.Type.Numeric() || f.Approx {
		return ""
	}
	shows := []view.Show{view.Rank, view.Difference, view.Change}
	if total.Fn == view.Sum && w.linksOf(path) == "" || total.Fn == view.CountFilled || total.Fn == view.Blanks {
		shows = append(shows, view.ShareAll, view.ShareGroup, view.Running)
	}
	return rapid.SampledFrom(shows).Draw(t, "show")
}

func drawOrder(t *rapid.T, w *world) *view.Order {
	desc := rapid.Bool().Draw(t, "order desc")
	switch rapid.IntRange(0, 4).Draw(t, "order") {
	case 0:
		return nil
	case 1:
		return &view.Order{By: view.ByCount, Desc: desc}
	case 2:
		return &view.Order{By: view.ByLabel, Desc: desc}
	case 3:
		return &view.Order{By: view.ByList, Values: []string{"quay", "ETE", "Route 10", "0.5", "3", "2026-03-01"}}
	}
	path := rapid.SampledFrom(worldPaths).Draw(t, "order field")
	total := drawTotal(t, w, path)
	return &view.Order{By: view.ByTotal, Field: path, Fn: total.Fn, Percent: total.Percent, Desc: desc}
}

func drawCondition(t *rapid.T, w *world, depth int) view.Condition {
	kind := rapid.IntRange(0, 9).Draw(t, "condition")
	if kind == 3 {
		inner := drawCondition(t, w, max(0, depth-1))
		return view.Condition{Within: &view.Within{Filter: &inner}}
	}
	if depth == 0 || kind > 2 {
		return drawTest(t, w)
	}
	parts := make([]view.Condition, rapid.IntRange(0, 3).Draw(t, "parts"))
	for i := range parts {
		parts[i] = drawCondition(t, w, depth-1)
	}
	switch kind {
	case 0:
		return view.Condition{All: parts}
	case 1:
		return view.Condition{Any: parts}
	}
	return view.Condition{None: parts}
}

func drawTest(t *rapid.T, w *world) view.Condition {
	path := rapid.SampledFrom(w.paths()).Draw(t, "tested")
	f := w.field(path)
	c := view.Condition{Field: path, Op: rapid.SampledFrom(view.OpsFor(f.Type)).Draw(t, "op")}
	if c.Op.Info().Fields && rapid.IntRange(0, 4).Draw(t, "other") == 0 {
		if other := drawComparable(t, w, f); other != "" {
			c.Other = other
			return c
		}
	}
	switch c.Op {
	case view.IsBlank, view.Filled:
	case view.In, view.NotIn:
		c.Period = &calendar.Period{
			Which: rapid.SampledFrom([]calendar.Which{
				"this", "last", "next", "to_date", "past", "coming", "older", "beyond",
			}).Draw(t, "which"),
			Unit: rapid.SampledFrom(calendar.Units()).Draw(t, "period unit"),
			N:    rapid.IntRange(1, 9).Draw(t, "n"),
		}
	case view.Weekday, view.NotWeekday:
		c.Values = rapid.SliceOfN(
			rapid.SampledFrom([]string{"Monday", "Wednesday", "Saturday", "Sunday"}), 1, 3,
		).Draw(t, "weekdays")
	case view.Hour, view.NotHour:
		c.Values = rapid.SliceOfN(rapid.SampledFrom([]string{"0", "7", "13", "23"}), 1, 3).Draw(t, "hours")
	case view.OneOf, view.NoneOf:
		for range rapid.IntRange(1, 12).Draw(t, "values") {
			v := ""
			if rapid.IntRange(0, 8).Draw(t, "blank value") != 0 {
				v = drawOperand(t, w, f)
			}
			c.Values = append(c.Values, v)
		}
	case view.Like, view.NotLike:
		const parts = "*?er qué12-\\"
		c.Value = rapid.StringOfN(rapid.RuneFrom([]rune(parts)), 1, 6, -1).Draw(t, "pattern")
	case view.Between, view.NotBetween:
		c.Value, c.To = drawOperand(t, w, f), drawOperand(t, w, f)
	default:
		c.Value = drawOperand(t, w, f)
	}
	return c
}

func drawComparable(t *rapid.T, w *world, f catalog.Field) string {
	path := rapid.SampledFrom(worldPaths).Draw(t, "compared")
	if g := w.field(path); g.Type == f.Type || g.Type.Temporal() && f.Type.Temporal() || f.Type.Numeric() &&
		g.Type.Numeric() && f.Type != catalog.Duration && g.Type != catalog.Duration {
		return path
	}
	return ""
}

func drawOperand(t *rapid.T, w *world, f catalog.Field) string {
	switch f.Type {
	case catalog.Text:
		return rapid.SampledFrom([]string{
			"route", "Route 2", "ETE", "é", "quay", "7", "C-1", "nowhere",
		}).Draw(t, "operand")
	case catalog.YesNo:
		return rapid.SampledFrom([]string{"yes", "no"}).Draw(t, "operand")
	case catalog.Date:
		return fmt.Sprintf(
			"%d-%02d-%02d", w.cal.Now.Year(), rapid.IntRange(1, 12).Draw(t, "month"),
			rapid.IntRange(1, 28).Draw(t, "date"),
		)
	case catalog.DateTime:
		day := fmt.Sprintf(
			"%d-%02d-%02d", w.cal.Now.Year(), rapid.IntRange(1, 12).Draw(t, "month"),
			rapid.IntRange(1, 28).Draw(t, "date"),
		)
		if rapid.Bool().Draw(t, "to the minute") {
			day += fmt.Sprintf(
				"T%02d:%02d", rapid.IntRange(0, 23).Draw(t, "hour"), rapid.IntRange(0, 59).Draw(t, "minute"),
			)
		}
		return day
	case catalog.Duration:
		return fmt.Sprintf(
			"%d:%02d", rapid.IntRange(0, 1).Draw(t, "hours"), rapid.IntRange(0, 59).Draw(t, "minutes"),
		)
	}
	// Often with more decimals than the field keeps.
	return fmt.Sprintf(
		"%d.%0*d", rapid.IntRange(-3, 12).Draw(t, "whole"), 4, rapid.IntRange(0, 9999).Draw(t, "part"),
	)
}
