package pgreader

import (
	"context"
	"slices"
	"sync"

	"gavrik/internal/core/cell"
	"gavrik/internal/core/result"
)

// answered is a result whose groups and totals are there, and whose records are asked for when somebody looks
// at them.
type answered struct {
	result.Result
	of *question

	mu      sync.Mutex // protects records; one asks at a time
	records result.Result
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
	res, err := q.answer(ctx)
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
		if q.uses[q.plan.Address] == nil {
			q.uses[q.plan.Address] = &use{}
		}
		q.uses[q.plan.Address].alone = true
	}
	return nil
}

func (a *answered) Window(ctx context.Context, open result.Open, offset, limit int) (result.Window, error) {
	w, err := a.Result.Window(ctx, open, offset, limit)
	if err != nil || !slices.ContainsFunc(w.Lines, func(l result.Line) bool { return l.IsRecord }) {
		return w, err
	}
	of, err := a.whole(ctx)
	if err != nil {
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
	if a.records == nil {
		return a.Result.Bytes()
	}
	return a.Result.Bytes() + a.records.Bytes()
}
