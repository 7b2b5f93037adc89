// Package chart draws one total of a result's groups as marks along an axis.
package chart

import (
	"context"

	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// Bounds of a chart that can still be read.
const (
	MaxPlaces  = 150
	MaxMoments = 1500 // places along time, which need no labels of their own
	MaxSeries  = 9
)

// Chart is one total of the groups as marks along an axis, one series for each group
// of a second level.
type Chart struct {
	// Kind is the one asked for or, if none was, Fits, which suits the groups best.
	Kind, Fits view.ChartKind
	// Total names what is drawn, Axis and By the levels; By is empty for one series.
	Total, Axis, By string
	// Unit is what the values are: "percent", "hours", or "" for plain numbers.
	Unit   string
	Places []string // along the axis
	Series []Series
	// Trouble says why nothing is drawn, and how to mend it.
	Trouble string
	// Notes say what is left out.
	Notes []string
}

// Series is the marks of one colour, one for each place of the axis.
type Series struct {
	Label string
	Marks []Mark
}

// Mark is one figure of a chart.
type Mark struct {
	// Value is NaN where there is no figure. Text is the figure as the ledger shows it.
	Value float64
	Text  string
	// Group and Head lead to the cell of the ledger that it stands for; Head is -1 for
	// the number of records. Leads is false where there is no such cell, or where it is
	// one of the other side of a comparison.
	Group string
	Head  int
	Leads bool
}

// Draw draws what the document's chart asks for, or returns nil if it has none. It goes over
// the groups a few times and holds, beside what is drawn, one number for each group.
func Draw(ctx context.Context, r result.Result) (*Chart, error) {
	sum := r.Summarize()
	spec := sum.Plan.Chart
	if spec == nil {
		return nil, nil
	}
	out := &Chart{Kind: spec.Kind, Total: "number of " + sum.Plan.Many}
	d := &drawer{
		Result: r, Summary: sum, ctx: ctx, spec: spec, out: out, whole: -1,
		pen: sum.Pen(format.People), w: format.NewWriter(format.People, sum.Plan.Calendar),
	}
	return out, d.draw()
}
