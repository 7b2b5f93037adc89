package pgreader

import (
	"context"
	"errors"
	"slices"
	"sync"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/result"
)

// answered is a result whose groups and totals are there, and whose records are asked for when somebody looks
// at them.
type answered struct {
	result.Result
	of *question

	mu      sync.Mutex // protects following fields; one asks at a time
	records result.Result
	// page has the first lines, up to upTo.
	page result.Result
	upTo int
}

// lastLines is how far somebody can go among the lines of more than a few records, unless all can be had.
const lastLines = 200_000

// first are the first lines of a result of many records, up to one; nil where they cannot be had without all.
func (a *answered) first(ctx context.Context, upTo int) (result.Result, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.records != nil || upTo > lastLines || !a.of.paged() || a.Summarize().Kept <= a.of.opts.Few {
		return nil, nil
	}
	if upTo <= a.upTo {
		return a.page, nil
	}
	q := a.of.question(a.of.plan)
	q.oneByOne, q.shown, q.page = true, true, true
	q.sample = min(lastLines, max(a.of.opts.Few/50, 2*upTo))
	res, err := asking(ctx, q.answer)
	if errors.Is(err, errUndecided) {
		return nil, nil
	}
	if err == nil {
		a.page, a.upTo = res, q.sample
	}
	return res, err
}

// paged says that the database can tell which lines of a view come first: records in the order of numbers and
// days, and of a key that is one.
func (q *question) paged() bool {
	p := q.plan
	if len(p.Groups) > 0 || len(p.Across) > 0 || p.Compare != nil || len(q.away.Key()) == 0 {
		return false
	}
	ordered := func(name string) bool {
		c, ok := q.away.Column(name)
		plain := c.Whole && c.Field.Type != catalog.Text
		return ok && !c.Field.Approx && (plain || bounded(c.Type) && c.Type != "money")
	}
	for _, s := range p.Sort {
		if len(s.Ref.Links) > 0 || p.Derived[s.Ref.Path] != nil || !ordered(s.Ref.Field.Key) {
			return false
		}
	}
	for _, c := range p.Columns {
		if c.Bars { // they are measured against all others
			return false
		}
	}
	for _, d := range p.Derived {
		if d.Beside != nil {
			return false
		}
	}
	return !slices.ContainsFunc(q.away.Key(), func(name string) bool { return !ordered(name) })
}

// whole is the result with its records: all that the filter keeps, with the fields that are shown of them.
func (a *answered) whole(ctx context.Context) (result.Result, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.records != nil {
		return a.records, nil
	}
	q := a.of.question(a.of.plan)
	q.oneByOne, q.shown = true, true
	res, err := asking(ctx, q.answer)
	if err == nil {
		a.records = res
	}
	return res, err
}

// settleShown finds what is shown of records, and what they are ordered and opened by.
func (q *question) settleShown() error {
	if len(q.away.Key()) > 0 {
		if err := q.needsEach(); err != nil {
			return err
		}
	}
	for _, c := range q.plan.Columns {
		if c.Values {
			if err := q.needs(c.Ref, false); err != nil {
				return err
			}
		}
	}
	for _, s := range q.plan.Sort {
		if err := q.needs(s.Ref, false); err != nil {
			return err
		}
	}
	if _, ok := q.away.Column(q.plan.Address); ok {
		q.needsWhole(q.plan.Address)
	}
	return nil
}

func (a *answered) Window(ctx context.Context, open result.Open, offset, limit int) (result.Window, error) {
	w, err := a.Result.Window(ctx, open, offset, limit)
	if err != nil || !slices.ContainsFunc(w.Lines, func(l result.Line) bool { return l.IsRecord }) {
		return w, err
	}
	of, err := a.first(ctx, offset+limit)
	if err != nil {
		return w, err
	}
	if of != nil {
		total := w.Total
		w, err = of.Window(ctx, open, offset, limit)
		w.Total = total
		return w, err
	}
	if of, err = a.whole(ctx); err != nil {
		return w, err
	}
	return of.Window(ctx, open, offset, limit)
}

func (a *answered) EachRecord(
	ctx context.Context, do func(groups []result.Key, cells []cell.Cell) error,
) error {
	of, err := a.whole(ctx)
	if err != nil {
		return err
	}
	return of.EachRecord(ctx, do)
}

func (a *answered) EachLine(ctx context.Context, open result.Open, do func(result.Line) error) error {
	if open.Depth < len(a.of.plan.Groups) && len(open.Toggled) == 0 {
		return a.Result.EachLine(ctx, open, do)
	}
	of, err := a.whole(ctx)
	if err != nil {
		return err
	}
	return of.EachLine(ctx, open, do)
}

// Bytes estimates the memory that the result holds.
func (a *answered) Bytes() int64 {
	a.mu.Lock()
	defer a.mu.Unlock()
	n := a.Result.Bytes()
	for _, of := range []result.Result{a.records, a.page} {
		if of != nil {
			n += of.Bytes()
		}
	}
	return n
}
