package pgreader

import (
	"context"
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// averages are the averages and medians of money among a plan's measures, by their places.
func averages(p *plan.Plan) (out []int) {
	for i, m := range p.Measures {
		if m.Show == "" && (m.Fn == view.Average || m.Fn == view.Median) && m.Ref.Field.Type == catalog.Money {
			out = append(out, i)
		}
	}
	return out
}

// samplePrices looks at the first records, to tell amounts that repeat as prices do from others, as the
// engine does where it has them in their order.
func (q *question) samplePrices(ctx context.Context) error {
	if q.sample > 0 || (q.shown || q.bothSides()) && len(q.keyOf()) > 0 || len(averages(q.plan)) == 0 {
		return nil
	}
	p := *q.plan
	p.Groups, p.Across, p.Compare, p.Chart, p.Measures = nil, nil, nil, nil, slices.Clone(p.Measures)
	of := q.question(&p)
	of.oneByOne, of.sample = true, plan.PriceSample
	res, err := of.answer(ctx)
	if err != nil {
		return err
	}
	q.prices = map[int]bool{}
	for _, i := range averages(q.plan) {
		q.prices[i] = slices.ContainsFunc(res.Summarize().Heads, func(h result.Head) bool {
			return p.Columns[h.Column].Measure == i && h.Mixed > 0
		})
	}
	return nil
}

// bothSides says that averages of two sides are looked at, each of which has its own first records: the
// engine sees those for itself where it has every record in its order.
func (q *question) bothSides() bool { return q.plan.Compare != nil && len(averages(q.plan)) > 0 }
