package pgreader

import (
	"context"
	"errors"
	"slices"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
)

// answer asks the database, and finishes.
func (q *question) answer(ctx context.Context) (result.Result, error) {
	if err := q.samplePrices(ctx); err != nil {
		return nil, err
	}
	clear(q.uses)
	q.each, q.all, q.linking, q.empties = false, false, nil, nil
	err := q.settle()
	if err == nil && q.shown {
		err = q.settleShown()
	}
	if err == nil && (q.sample > 0 || q.bothSides()) && len(q.away.Key()) > 0 {
		err = q.needsEach()
	}
	if err != nil {
		return nil, err
	}
	d := &deciding{question: q, by: map[*plan.Node]int{}}
	var got *lines
	var decided bool
	err = q.reading(ctx, func(tx pgx.Tx) (err error) {
		d.tx = tx
		if decided, err = d.conditions(ctx); err == nil {
			got, err = d.ask(ctx, decided)
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	return d.finish(ctx, got, decided)
}

// conditions has the database decide all conditions; where it cannot decide one exactly, the engine decides
// all of them, of all records.
func (d *deciding) conditions(ctx context.Context) (decided bool, err error) {
	p := d.plan
	filters := []*plan.Node{p.Filter}
	if p.Compare != nil {
		filters = append(filters, p.Compare.Filter)
	}
	if !d.all { // else others count, too, than those that are kept
		for _, n := range filters {
			if err == nil {
				err = d.tree(ctx, n)
			}
		}
		var not *undecided
		if !errors.As(err, &not) {
			return true, err
		}
	}
	d.tests = nil
	for _, n := range filters {
		if err := d.needsConditions(n); err != nil {
			return false, err
		}
	}
	if len(averages(p)) > 0 && len(d.away.Key()) > 0 {
		return false, d.needsEach() // which records come first matters
	}
	return false, nil
}

// finish works the result out of the lines.
func (d *deciding) finish(ctx context.Context, got *lines, decided bool) (result.Result, error) {
	stand := &standing{lines: got, deciding: d}
	p := *d.plan
	p.Columns, p.Measures = slices.Clone(p.Columns), slices.Clone(p.Measures)
	for i, is := range d.prices {
		if !d.each { // else the engine sees it for itself
			p.Measures[i].Prices = &is
		}
	}
	if !d.shown {
		p.Sort = nil
		for i := range p.Columns {
			p.Columns[i].Values = false
		}
	}
	if decided {
		p.Filter = nil
		if d.plan.Compare != nil || len(d.empties) > 0 {
			p.Filter = &plan.Node{Path: "filter", Kind: plan.All, Children: append(
				[]*plan.Node{stand.flag(keptFlag)}, d.bounding(d.plan.Filter)...,
			)}
		}
		if d.plan.Compare != nil {
			compare := *p.Compare
			compare.Filter, p.Compare = stand.flag(otherFlag), &compare
		}
	}
	snap, err := stand.snapshot(ctx, decided)
	if err != nil {
		return nil, err
	}
	res, err := engine.New(snap, d.loaded.Catalog, d.opts.Engine).Run(ctx, &p)
	if err != nil {
		return nil, err
	}
	sum := res.Summarize()
	sum.Plan, sum.AsOf = d.plan, got.asOf
	if decided {
		sum.All, sum.Steps = int(total(got.many)), stand.steps()
	}
	return res, nil
}

// bounding are the conditions that bound days which are shown without records, too; whatever is kept meets
// them.
func (q *question) bounding(n *plan.Node) (out []*plan.Node) {
	switch {
	case n == nil:
	case n.Kind == plan.All:
		for _, c := range n.Children {
			out = append(out, q.bounding(c)...)
		}
	case n.Kind == plan.Leaf && n.Predicate.Days != nil && !n.Predicate.Negate &&
		slices.ContainsFunc(q.empties, func(g plan.Group) bool { return g.Ref.Path == n.Predicate.Ref.Path }):
		out = append(out, n)
	}
	return out
}

func total(many []int64) (n int64) {
	for _, m := range many {
		n += m
	}
	return n
}
