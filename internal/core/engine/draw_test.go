package engine

import (
	"fmt"

	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/view"
)

// drawDocument draws a document that fits the world's catalog.
func drawDocument(t *rapid.T, w *world) *view.Document {
	d := &view.Document{Gavrik: 1, Records: "crossings", Columns: []view.Column{}}
	if rapid.Bool().Draw(t, "filtered") {
		c := drawCondition(t, w, 3)
		d.Filter = &c
	}
	for range rapid.IntRange(0, 3).Draw(t, "levels") {
		g := view.Group{Field: rapid.SampledFrom(worldPaths).Draw(t, "group")}
		if w.field(g.Field).Type.Temporal() && rapid.Bool().Draw(t, "by unit") {
			g.Unit = rapid.SampledFrom(calendar.Units()).Draw(t, "unit")
		}
		g.Order = drawOrder(t, w)
		d.Groups = append(d.Groups, g)
	}
	for range rapid.IntRange(0, 4).Draw(t, "columns") {
		c := view.Column{Field: rapid.SampledFrom(worldPaths).Draw(t, "column")}
		fns := view.FnsFor(w.field(c.Field).Type)
		for range rapid.IntRange(0, 3).Draw(t, "totals") {
			c.Totals = append(c.Totals, view.Total{Fn: rapid.SampledFrom(fns).Draw(t, "fn")})
		}
		d.Columns = append(d.Columns, c)
	}
	for range rapid.IntRange(0, 2).Draw(t, "sorts") {
		d.Sort = append(d.Sort, view.Sort{Field: rapid.SampledFrom(worldPaths).Draw(t, "sort"), Desc: rapid.Bool().Draw(t, "desc")})
	}
	return d
}

func drawOrder(t *rapid.T, w *world) *view.Order {
	desc := rapid.Bool().Draw(t, "order desc")
	switch rapid.IntRange(0, 3).Draw(t, "order") {
	case 0:
		return nil
	case 1:
		return &view.Order{By: view.ByCount, Desc: desc}
	case 2:
		return &view.Order{By: view.ByLabel, Desc: desc}
	}
	path := rapid.SampledFrom(worldPaths).Draw(t, "order field")
	return &view.Order{By: view.ByTotal, Field: path, Fn: rapid.SampledFrom(view.FnsFor(w.field(path).Type)).Draw(t, "order fn"), Desc: desc}
}

func drawCondition(t *rapid.T, w *world, depth int) view.Condition {
	kind := rapid.IntRange(0, 6).Draw(t, "condition")
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
	path := rapid.SampledFrom(worldPaths).Draw(t, "tested")
	f := w.field(path)
	c := view.Condition{Field: path, Op: rapid.SampledFrom(view.OpsFor(f.Type)).Draw(t, "op")}
	if c.Op.ComparesFields() && rapid.IntRange(0, 4).Draw(t, "other") == 0 {
		if other := drawComparable(t, w, f); other != "" {
			c.Other = other
			return c
		}
	}
	switch c.Op {
	case view.IsBlank, view.Filled:
	case view.In, view.NotIn:
		c.Period = &calendar.Period{
			Which: rapid.SampledFrom([]calendar.Which{"this", "last", "next", "to_date", "past", "coming", "older", "beyond"}).Draw(t, "which"),
			Unit:  rapid.SampledFrom(calendar.Units()).Draw(t, "period unit"),
			N:     rapid.IntRange(1, 9).Draw(t, "n"),
		}
	case view.OneOf, view.NoneOf:
		for range rapid.IntRange(1, 12).Draw(t, "values") {
			v := ""
			if rapid.IntRange(0, 8).Draw(t, "blank value") != 0 {
				v = drawOperand(t, f)
			}
			c.Values = append(c.Values, v)
		}
	case view.Between, view.NotBetween:
		c.Value, c.To = drawOperand(t, f), drawOperand(t, f)
	default:
		c.Value = drawOperand(t, f)
	}
	return c
}

func drawComparable(t *rapid.T, w *world, f catalog.Field) string {
	path := rapid.SampledFrom(worldPaths).Draw(t, "compared")
	if g := w.field(path); g.Type == f.Type || f.Type.Numeric() && g.Type.Numeric() && f.Type != catalog.Duration && g.Type != catalog.Duration {
		return path
	}
	return ""
}

func drawOperand(t *rapid.T, f catalog.Field) string {
	switch f.Type {
	case catalog.Text:
		return rapid.SampledFrom([]string{"route", "Route 2", "ETE", "é", "quay", "7", "C-1", "nowhere"}).Draw(t, "operand")
	case catalog.YesNo:
		return rapid.SampledFrom([]string{"yes", "no"}).Draw(t, "operand")
	case catalog.Date:
		return fmt.Sprintf("2026-%02d-%02d", rapid.IntRange(1, 12).Draw(t, "month"), rapid.IntRange(1, 28).Draw(t, "date"))
	case catalog.DateTime:
		day := fmt.Sprintf("2026-%02d-%02d", rapid.IntRange(1, 12).Draw(t, "month"), rapid.IntRange(1, 28).Draw(t, "date"))
		if rapid.Bool().Draw(t, "to the minute") {
			day += fmt.Sprintf("T%02d:%02d", rapid.IntRange(0, 23).Draw(t, "hour"), rapid.IntRange(0, 59).Draw(t, "minute"))
		}
		return day
	case catalog.Duration:
		return fmt.Sprintf("%d:%02d", rapid.IntRange(0, 1).Draw(t, "hours"), rapid.IntRange(0, 59).Draw(t, "minutes"))
	}
	// Often with more decimals than the field keeps.
	return fmt.Sprintf("%d.%0*d", rapid.IntRange(-3, 12).Draw(t, "whole"), 4, rapid.IntRange(0, 9999).Draw(t, "part"))
}
