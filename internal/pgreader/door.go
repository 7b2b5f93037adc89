package pgreader

import (
	"context"
	"errors"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/fault"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/records"
)

// A Reader is asked as any other one is. What is about records in memory alone, they answer.
var _ result.Reader = (*Reader)(nil)

// asking carries a question out: the memory that it takes is booked meanwhile, and a fault of the program is
// its error.
func asking[T any](ctx context.Context, do func(ctx context.Context) (T, error)) (out T, err error) {
	ctx, release := booking(ctx)
	defer release()
	err = fault.Caught(func() error {
		out, err = do(ctx)
		return err
	})
	return out, err
}

// Run carries a plan out.
func (r *Reader) Run(ctx context.Context, p *plan.Plan) (result.Result, error) {
	return asking(ctx, func(ctx context.Context) (result.Result, error) {
		if r.Loaded.Away[p.Records] != nil {
			return r.run(ctx, p)
		}
		e, err := r.memoryFor(ctx, p)
		if err != nil {
			return nil, err
		}
		return e.Reader().Run(ctx, p)
	})
}

// run carries out a plan about records that stay. The most is decided by the database; what it cannot decide
// of a number too large to be added up there, it is asked for one by one.
func (r *Reader) run(ctx context.Context, p *plan.Plan) (result.Result, error) {
	q := r.question(p)
	res, err := q.answer(ctx)
	var beyond *records.BeyondError
	if errors.As(err, &beyond) {
		q.oneByOne = true
		res, err = q.answer(ctx)
	}
	if err != nil {
		return nil, err
	}
	return &answered{Result: res, of: q}, nil
}

// Kept lists the rows that the filter of a plan about records in memory keeps, ascending.
func (r *Reader) Kept(ctx context.Context, p *plan.Plan) ([]int32, error) {
	return asking(ctx, func(ctx context.Context) ([]int32, error) {
		e, err := r.memoryFor(ctx, p)
		if err != nil {
			return nil, err
		}
		return e.Kept(ctx, p)
	})
}

// looking is how a field is looked at: moments as finely as grain says, or records alone that a condition
// in SQL keeps.
type looking struct {
	grain grain
	only  string
}

// look asks an engine about a field, over all records or those of a plan, as far as the question needs them.
func look[T any](
	ctx context.Context, r *Reader, p *plan.Plan, of catalog.Ref, how looking,
	do func(e *engine.Engine, p *plan.Plan) (T, error),
) (T, error) {
	return asking(ctx, func(ctx context.Context) (none T, err error) {
		bare := *p
		bare.Derived = p.Making(of)
		if r.Loaded.Away[p.Records] == nil {
			e, err := r.memoryFor(ctx, &bare, of)
			if err != nil {
				return none, err
			}
			return do(e, p)
		}
		bare = withoutTotals(bare)
		bare.Columns, bare.Sort = nil, nil
		q := r.question(&bare)
		q.looked, q.counted, q.grain, q.only = []catalog.Ref{of}, true, how.grain, how.only
		e, over, _, err := q.engine(ctx)
		if err != nil {
			return none, err
		}
		return do(e, over)
	})
}

// Values lists a field's values with their counts; see result.Reader.
func (r *Reader) Values(
	ctx context.Context, p *plan.Plan, of catalog.Ref, search string, limit int,
) (*result.Values, error) {
	list := func(e *engine.Engine, p *plan.Plan) (*result.Values, error) {
		return e.Values(ctx, p, of, search, limit)
	}
	different, err := r.allDifferent(ctx, p, of)
	if err != nil {
		return nil, err
	}
	if !different {
		return look(ctx, r, p, of, looking{}, list)
	}
	// Those that are looked for, of more than can be listed.
	only, ok := r.holding(p, of, search)
	if !ok {
		return nil, manyDifferent(of)
	}
	out, err := look(ctx, r, p, of, looking{only: only}, list)
	if err == nil {
		out.Distinct = out.Found
	}
	return out, err
}

func manyDifferent(of catalog.Ref) error {
	return &result.LimitError{
		Step: "there are more different values of " + of.Label + " than can be listed", Mend: "type a part of one",
	}
}

// Distribution counts a field's values; see result.Reader. Moments of which there are too many are counted by
// their days, and have no bounds then.
func (r *Reader) Distribution(
	ctx context.Context, p *plan.Plan, of catalog.Ref, bins int,
) (*result.Distribution, error) {
	count := func(e *engine.Engine, p *plan.Plan) (*result.Distribution, error) {
		return e.Distribution(ctx, p, of, bins)
	}
	different, err := r.allDifferent(ctx, p, of)
	switch {
	case err != nil:
		return nil, err
	case !different:
		return look(ctx, r, p, of, looking{}, count)
	case of.Field.Type != catalog.DateTime:
		return nil, manyDifferent(of)
	}
	out, err := look(ctx, r, p, of, looking{grain: byDays}, count)
	if err == nil {
		out.Smallest, out.Largest = cell.Cell{}, cell.Cell{}
	}
	return out, err
}

// Profile says what a field holds; see result.Reader.
func (r *Reader) Profile(
	ctx context.Context, p *plan.Plan, of catalog.Ref, common, bins int,
) (*result.Profile, error) {
	return look(ctx, r, p, of, looking{}, func(e *engine.Engine, p *plan.Plan) (*result.Profile, error) {
		return e.Profile(ctx, p, of, common, bins)
	})
}

// Facts tells a field's fullness and a few of its values; of a set that stays, by the first of its records.
// Of a field that would be made of others which stay, nothing is told: it would take a question to the
// database for each field that is listed.
func (r *Reader) Facts(ctx context.Context, p *plan.Plan, of catalog.Ref) (result.Facts, error) {
	return asking(ctx, func(ctx context.Context) (result.Facts, error) {
		if p == nil || p.Derived[of.Path] == nil {
			if r.Loaded.Away[of.Set] != nil {
				return r.firstOf(ctx, of)
			}
			return r.Memory.Facts(ctx, p, of)
		}
		bare := plan.Plan{
			Records: p.Records, One: p.One, Many: p.Many, Address: p.Address, Calendar: p.Calendar,
			Derived: p.Making(of),
		}
		if len(others(r.reached(&bare, []catalog.Ref{of}), p.Records)) > 0 {
			return result.Facts{First: true}, nil
		}
		if r.Loaded.Away[p.Records] == nil {
			return r.Memory.Facts(ctx, p, of)
		}
		q := r.question(&bare)
		q.sample, q.anyOrder, q.looked = min(sampled, r.opts.Lines), true, []catalog.Ref{of}
		e, over, _, err := q.engine(ctx)
		var not *Refused
		if errors.As(err, &not) {
			return result.Facts{First: true}, nil
		}
		if err != nil {
			return result.Facts{}, err
		}
		out, err := e.Facts(ctx, over, of)
		out.First = true
		return out, err
	})
}

// Holding says which fields have values that hold a text; of sets that stay, the first of their records are
// looked at.
func (r *Reader) Holding(ctx context.Context, of []catalog.Ref, text string) ([]result.Held, error) {
	return asking(ctx, func(ctx context.Context) (out []result.Held, err error) {
		for _, ref := range of {
			e := r.Memory
			if r.Loaded.Away[ref.Set] != nil {
				if e, err = r.sampled(ctx, ref.Set); err != nil {
					return nil, err
				}
			}
			found, err := e.Holding(ctx, []catalog.Ref{ref}, text)
			if err != nil {
				return nil, err
			}
			out = append(out, found...)
		}
		return out, nil
	})
}

// Lookup reads records by their keys; see result.Reader.
func (r *Reader) Lookup(ctx context.Context, p *plan.Plan, keys []cell.Cell) ([][]cell.Cell, error) {
	return asking(ctx, func(ctx context.Context) ([][]cell.Cell, error) {
		if r.Loaded.Away[p.Records] == nil {
			e, err := r.memoryFor(ctx, p)
			if err != nil {
				return nil, err
			}
			return e.Lookup(ctx, p, keys)
		}
		only, ok := r.keyed(p, keys)
		if !ok {
			return nil, refused("records by their %s", p.Address)
		}
		bare := withoutTotals(*p)
		bare.Filter, bare.Sort = nil, nil
		address, err := r.Catalog.Resolve(p.Records, p.Address)
		if err != nil {
			return nil, err
		}
		q := r.question(&bare)
		q.only, q.looked = only, []catalog.Ref{address}
		for _, c := range p.Columns {
			q.looked = append(q.looked, c.Ref)
		}
		e, _, _, err := q.engine(ctx)
		if err != nil {
			return nil, err
		}
		return e.Lookup(ctx, &bare, keys)
	})
}

// keyed says in SQL that records have one of some keys.
func (r *Reader) keyed(p *plan.Plan, keys []cell.Cell) (string, bool) {
	c, ok := r.Loaded.Away[p.Records].Column(p.Address)
	if !ok {
		return "", false
	}
	var texts, numbers []string
	for _, key := range keys {
		switch {
		case c.Field.Type == catalog.Text:
			texts = append(texts, key.Text)
		case c.Field.Type == catalog.Picture || c.Field.Approx:
			return "", false
		default:
			text, err := stored(c, key.Int)
			if err != nil {
				return "", false
			}
			numbers = append(numbers, text)
		}
	}
	if texts != nil {
		return "(" + c.Expr + ") = ANY(" + listed(texts) + ")", true
	}
	if len(numbers) == 0 {
		return "false", true
	}
	return "(" + c.Expr + ") IN (" + strings.Join(numbers, ", ") + ")", true
}

// Extent says how many records a set has: of one that stays, about how many the planner believes, and of one
// that is seen in part, that nobody knows.
func (r *Reader) Extent(set string) (result.Extent, bool) {
	out, ok := r.Memory.Reader().Extent(set)
	if away := r.Loaded.Away[set]; away != nil && ok {
		out.Records, out.About = int(away.Rows), true
		if r.Limited(set) {
			out.Records = result.Unknown
		}
	}
	return out, ok
}
