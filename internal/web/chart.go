package web

import (
	"context"

	"gavrik/internal/core/chart"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// Drawing is a chart of the groups: one total as marks along an axis.
type Drawing struct {
	Kind    view.ChartKind `json:"kind"`
	Fits    view.ChartKind `json:"fits" doc:"The kind that fits the groups"`
	Total   string         `json:"total" doc:"What is drawn"`
	Axis    string         `json:"axis" doc:"The level along the axis"`
	By      string         `json:"by" doc:"The level that makes the series; empty for one series"`
	Unit    string         `json:"unit" enum:"percent,hours," doc:"What the values are; none for plain numbers"`
	Places  []string       `json:"places" doc:"Labels along the axis"`
	Series  []ChartSeries  `json:"series"`
	Trouble string         `json:"trouble" doc:"Why nothing is drawn, and how to mend it"`
	Notes   []string       `json:"notes" doc:"What is left out"`
}

// ChartSeries is the marks of one colour.
type ChartSeries struct {
	Label string `json:"label"`
	Marks []Mark `json:"marks" doc:"One for each place"`
}

// Mark is one figure of a chart.
type Mark struct {
	Value  *float64 `json:"value,omitempty" doc:"None where there is no figure"`
	Text   string   `json:"text" doc:"As the ledger shows it"`
	Group  string   `json:"group,omitempty" doc:"Path of the group it stands for"`
	Column int      `json:"column" doc:"Place among the columns of the run; -1 for the number of records"`
	Leads  bool     `json:"leads" doc:"It stands for one group, whose records can be seen"`
}

func drawing(ctx context.Context, r result.Result) (*Drawing, error) {
	c, err := chart.Draw(ctx, r)
	if c == nil || err != nil {
		return nil, err
	}
	out := &Drawing{
		Kind: c.Kind, Fits: c.Fits, Total: c.Total, Axis: c.Axis, By: c.By, Unit: c.Unit, Trouble: c.Trouble,
		Places: append([]string{}, c.Places...), Series: []ChartSeries{}, Notes: append([]string{}, c.Notes...),
	}
	for _, s := range c.Series {
		series := ChartSeries{Label: s.Label, Marks: make([]Mark, len(s.Marks))}
		for i, m := range s.Marks {
			series.Marks[i] = Mark{Text: m.Text, Group: m.Group, Column: m.Head, Leads: m.Leads}
			if m.Value == m.Value {
				series.Marks[i].Value = &m.Value
			}
		}
		out.Series = append(out.Series, series)
	}
	return out, nil
}
