package result

import "gavrik/internal/core/view"

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
	Series []ChartSeries
	// Trouble says why nothing is drawn, and how to mend it.
	Trouble string
	// Notes say what is left out.
	Notes []string
}

// ChartSeries is the marks of one colour, one for each place of the axis.
type ChartSeries struct {
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
