package plan

import (
	"fmt"
	"slices"

	"gavrik/internal/core/code"
	"gavrik/internal/core/view"
)

// Chart is what is drawn of the groups.
type Chart struct {
	Kind  view.ChartKind // empty: the one that fits
	Order string
	// Column is the index among the plan's columns of the total that is drawn; -1 for
	// the number of records.
	Column int
	// Missing says why the total cannot be drawn, if so. Taking a column away must not
	// stop a view, so it is no fault.
	Missing string
}

// chart resolves the document's chart.
func (k *checker) chart(c *view.Chart) {
	out := &Chart{Kind: c.Kind, Order: c.Order, Column: -1}
	k.plan.Chart = out
	if c.Kind != "" && !slices.Contains(view.ChartKinds(), c.Kind) {
		k.fault(code.Choice, "chart.kind", "%q is no kind of chart; use %s", c.Kind, view.Words(view.ChartKinds()))
	}
	if !slices.Contains(view.ChartOrders(), c.Order) {
		k.fault(code.Choice, "chart.order",
			"%q is no order of a chart; use %s", c.Order, view.Words(view.ChartOrders()[1:]))
	}
	if c.Field == "" {
		return
	}
	out.Column = slices.IndexFunc(k.plan.Columns, func(col Column) bool {
		return col.Measure >= 0 && col.Ref.Path == c.Field &&
			(c.Fn == "" || k.plan.Measures[col.Measure].Fn == c.Fn)
	})
	if out.Column < 0 {
		out.Missing = "The total that was drawn is no column any more; choose another."
		return
	}
	if m := k.plan.Measures[k.plan.Columns[out.Column].Measure]; !m.Result().Type.Numeric() {
		out.Missing = fmt.Sprintf(
			"%s is %s, which has no length to draw; choose a number.", m.Label, m.Result().Type.Word(),
		)
	}
}
