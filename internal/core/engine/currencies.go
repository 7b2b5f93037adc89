// Which totals of a view are of several currencies.

package engine

import (
	"slices"

	"gavrik/internal/core/engine/aggregation"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// currencies notes which totals of the view are of several currencies.
func (b *builder) currencies() {
	for i := range b.plan.Measures {
		for _, figs := range [][]*aggregation.Aggregates{b.figures, b.others} {
			if figs == nil || figs[i] == nil || !figs[i].Apart || !b.isShown(i) {
				continue
			}
			f := figs[i]
			b.res.Currencies = append(b.res.Currencies, result.Currencies{
				Label: f.Measure.Label, By: f.Measure.Currencies[0], Count: len(f.Mixed[0]),
			})
			break
		}
	}
}

// isShown says whether a measure decides about anything that is shown, not only as a part
// of a formula.
func (b *builder) isShown(measure int) bool {
	for _, c := range b.plan.Columns {
		if c.Measure == measure || c.Measure >= 0 && b.plan.Measures[c.Measure].Show != "" &&
			b.plan.Measures[c.Measure].Of == measure {
			return true
		}
	}
	return slices.ContainsFunc(slices.Concat(b.plan.Groups, b.plan.Across), func(g plan.Group) bool {
		return g.Order.By == view.ByTotal && g.Order.Measure == measure ||
			g.Keep != nil && g.Keep.Measure == measure
	})
}
