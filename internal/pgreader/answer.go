package pgreader

import (
	"context"
	"errors"
	"slices"

	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
)

// question is one about record sets that stay.
func (r *Reader) question(p *plan.Plan) *question {
	return &question{
		Reader: r, plan: p, away: r.Loaded.Away[p.Records], links: r.linksOf(p.Records), uses: map[string]*use{},
	}
}

// finished asks the database, and has the engine finish.
func (q *question) finished(ctx context.Context) (result.Result, *standing, error) {
	e, p, got, err := q.engine(ctx)
	if err != nil {
		return nil, nil, err
	}
	res, err := e.Run(ctx, p)
	if err != nil {
		return nil, nil, err
	}
	return res, got, nil
}

// answer is one to the question as it was asked.
func (q *question) answer(ctx context.Context) (result.Result, error) {
	res, got, err := q.finished(ctx)
	if err != nil {
		return nil, err
	}
	sum := res.Summarize()
	sum.Plan, sum.AsOf = q.plan, got.asOf
	if got.decided {
		sum.All, sum.Steps = int(total(got.many)), got.steps()
	}
	return res, nil
}

// engine is one over the records that the question needs, with the plan as it is carried out over those.
func (q *question) engine(ctx context.Context) (*engine.Engine, *plan.Plan, *standing, error) {
	if err := q.samplePrices(ctx); err != nil {
		return nil, nil, nil, err
	}
	clear(q.uses)
	q.each, q.all, q.ordered, q.linking, q.empties = false, false, false, nil, nil
	err := q.settle()
	for _, ref := range q.looked {
		if err == nil {
			err = q.needs(ref, q.grain)
		}
	}
	if err == nil && q.shown {
		err = q.settleShown()
	}
	if err == nil && (q.sample > 0 && !q.anyOrder || q.bothSides()) && len(q.keyOf()) > 0 {
		err = q.needsEach()
	}
	if err != nil {
		return nil, nil, nil, err
	}
	q.single = q.plan.SingleRecords() || q.shown && !q.each
	d := &deciding{question: q, by: map[*plan.Node]int{}}
	got, err := d.bring(ctx)
	if err != nil {
		return nil, nil, nil, err
	}
	if q.page && !got.decided {
		return nil, nil, nil, errUndecided
	}
	return d.finish(ctx, got.lines, got.decided)
}

// errUndecided says that the database does not know which records come first, for it does not know all that
// are kept.
var errUndecided = errors.New("pgreader: the engine decides which records are kept")

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
	return false, d.leaveConditions()
}

// leaveConditions leaves them to the engine.
func (d *deciding) leaveConditions() error {
	err := d.needsConditions(d.plan.Filter)
	if err == nil && d.plan.Compare != nil {
		err = d.needsConditions(d.plan.Compare.Filter)
	}
	if err == nil && len(averages(d.plan)) > 0 && len(d.keyOf()) > 0 {
		err = d.needsEach() // which records come first matters
	}
	return err
}

// finish has the records stand that the lines are of.
func (d *deciding) finish(
	ctx context.Context, got *lines, decided bool,
) (*engine.Engine, *plan.Plan, *standing, error) {
	stand := &standing{lines: got, deciding: d, decided: decided}
	p := *d.plan
	p.Columns, p.Measures = slices.Clone(p.Columns), slices.Clone(p.Measures)
	for i, is := range d.prices {
		if !d.each { // else the engine sees it for itself
			p.Measures[i].Prices = &is
		}
	}
	if !d.shown {
		if !d.ordered {
			p.Sort = nil
		}
		for i := range p.Columns {
			p.Columns[i].Values = false
		}
	}
	if decided {
		p.Filter = nil
		if stand.flagged() {
			p.Filter = &plan.Node{Path: "filter", Kind: plan.All, Children: append(
				[]*plan.Node{stand.flag(keptFlag)}, d.bounding(d.plan.Filter)...,
			)}
		}
		if d.plan.Compare != nil {
			compare := *p.Compare
			compare.Filter, p.Compare = stand.flag(otherFlag), &compare
		}
	}
	snap, err := stand.snapshot(ctx, d.Memory.Snapshot())
	if err == nil {
		snap, err = d.withOthers(ctx, d.question.plan, d.looked, snap, d.stood)
	}
	if err != nil {
		return nil, nil, nil, err
	}
	return engine.New(snap, d.Catalog, d.opts.Engine), &p, stand, nil
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
