package engine

import (
	"math"
	"math/bits"
	"sync/atomic"

	"gavrik/internal/core/cache"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/program"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
)

// column returns a field, stored or derived, as a column of the plan's record set.
func (r *run) column(ref catalog.Ref) (table.Column, error) {
	d := r.plan.Derived[ref.Path]
	if d == nil {
		return r.e.column(r.ctx, r.plan.Records, ref)
	}
	made, err := r.derive(d)
	if err != nil {
		return nil, err
	}
	return made.column, nil
}

// derivedColumn is a worked-out field with the rows that failed.
type derivedColumn struct {
	column table.Column
	failed *program.Failures // nil for a bucket
}

func (r *run) derive(d *plan.Derived) (derivedColumn, error) {
	key := r.e.name + " derived " + r.plan.Records + " " + d.Identity
	return cache.Get(r.ctx, r.e.cache, key, func() (derivedColumn, int64, error) {
		if err := r.need(8*int64(r.table.Rows), "working out "+catalog.LowerFirst(d.Ref.Label)); err != nil {
			return derivedColumn{}, 0, err
		}
		var made derivedColumn
		var err error
		if d.There != nil {
			made, err = r.throughLinks(d)
		} else if d.Bucket != nil {
			made.column, err = r.bucket(d.Bucket)
		} else {
			made, err = r.calculate(d)
		}
		if err != nil {
			return made, 0, err
		}
		return made, made.column.Bytes() + int64(r.table.Rows)*int64(formula.Reasons)/8, nil
	})
}

// throughLinks fetches the values of another record set's definition, and the rows
// that failed there.
func (r *run) throughLinks(d *plan.Derived) (derivedColumn, error) {
	there, err := r.there(d)
	if err != nil {
		return derivedColumn{}, err
	}
	rows, _, err := r.e.follow(r.ctx, r.plan.Records, d.Ref.Links)
	if err != nil {
		return derivedColumn{}, err
	}
	made := derivedColumn{column: there.column.Gather(rows)}
	if there.failed == nil {
		return made, r.stopped()
	}
	made.failed = program.NewFailures(len(rows))
	for reason, marked := range there.failed.Rows {
		for i, to := range rows {
			if to >= 0 && marked[to/64]>>(to%64)&1 == 1 {
				made.failed.Rows[reason][i/64] |= 1 << (i % 64)
			}
		}
	}
	return made, r.stopped()
}

// there works a definition of another record set out, over that set.
func (r *run) there(d *plan.Derived) (derivedColumn, error) {
	sub, err := r.e.run(r.ctx, d.There)
	if err != nil {
		return derivedColumn{}, err
	}
	sub.budget = r.budget
	return sub.derive(d.Inner())
}

// inOwnSet is a field's column in the record set that holds it.
func (r *run) inOwnSet(ref catalog.Ref) (table.Column, error) {
	if d := r.plan.Derived[ref.Path]; d != nil && d.There != nil {
		made, err := r.there(d)
		return made.column, err
	}
	return r.e.stored(ref.Set, ref.Field.Key)
}

// calculate runs a formula over all rows.
func (r *run) calculate(d *plan.Derived) (derivedColumn, error) {
	calculation := d.Calculation()
	inputs := make([]table.Column, len(calculation.Inputs))
	for i, in := range calculation.Inputs {
		var err error
		if inputs[i], err = r.column(in); err != nil {
			return derivedColumn{}, err
		}
	}
	return r.runProgram(calculation, inputs, r.table.Rows, "working out "+catalog.LowerFirst(d.Ref.Label))
}

// runProgram works a calculation out over n rows of its inputs; step says what for.
func (r *run) runProgram(
	calculation *formula.Calculation, inputs []table.Column, n int, step string,
) (derivedColumn, error) {
	p, err := program.Compile(calculation)
	if err != nil {
		return derivedColumn{}, err
	}
	working := p.BlockBytes() * int64(min(r.e.opts.Workers, n/kernel.BlockRows+1))
	if err := r.need(working, step); err != nil {
		return derivedColumn{}, err
	}
	out, failed := p.Make(n), program.NewFailures(n)
	meter := &textMeter{run: r, step: step}
	var first atomic.Pointer[error]
	err = kernel.EachBlock(r.ctx, n, r.e.opts.Workers, func(lo, hi int) {
		if first.Load() != nil {
			return
		}
		if err := p.Machine(inputs, r.plan.Calendar, failed, meter).Run(out, lo, hi); err != nil {
			first.CompareAndSwap(nil, &err)
		}
	})
	if err == nil && first.Load() != nil {
		err = *first.Load()
	}
	if err != nil {
		return derivedColumn{}, err
	}
	made := derivedColumn{failed: failed}
	switch {
	case out.Texts != nil:
		if made.column, err = r.encoded(out.Texts, step); err != nil {
			return derivedColumn{}, err
		}
		_ = meter.Use(-meter.used.Load()) // the dictionary holds them now
	case out.Floats != nil:
		for i, v := range out.Floats { // what is no number anywhere is a blank
			if math.IsInf(v, 0) {
				out.Floats[i] = math.NaN()
				failed.Rows[formula.TooLarge][i/64] |= 1 << (i % 64)
			}
		}
		made.column = table.NewFloats(out.Floats)
	default:
		made.column = table.NewNumbers(out.Ints)
	}
	return made, r.need(-working, step)
}

// textMeter books the texts that a formula makes, as they are made.
type textMeter struct {
	*run
	step string
	used atomic.Int64
}

func (m *textMeter) Use(bytes int64) error {
	m.used.Add(bytes)
	return m.need(bytes, m.step)
}

// dictCopies is how often a dictionary in the making holds each text: as collected,
// joined, folded and put into order.
const dictCopies = 4

// encoded makes a column of texts.
func (r *run) encoded(texts []string, step string) (table.Column, error) {
	dict, codes := table.NewDictBuilder(), make([]uint32, len(texts))
	booked := int64(0)
	for lo := 0; lo < len(texts); lo += kernel.BlockRows {
		for i, s := range texts[lo:min(lo+kernel.BlockRows, len(texts))] {
			codes[lo+i] = dict.CodeOf(s)
		}
		more := dictCopies*dict.Bytes() - booked
		if err := r.need(more, step); err != nil {
			return nil, err
		}
		booked += more
	}
	if err := dict.Err(); err != nil {
		return nil, &result.LimitError{
			Step: step + " makes more text than a column can hold", Mend: "make shorter texts, or filter first",
		}
	}
	column := dict.Build(codes)
	return column, r.need(column.Bytes()-booked, step)
}

// formula works a total that is calculated from totals out, for every node: the
// program runs over the nodes as over records.
func (w *aggregator) formula(f *aggregates) error {
	inputs := make([]table.Column, len(f.measure.Args))
	for i, arg := range f.measure.Args {
		of, err := w.figures(arg)
		if err != nil {
			return err
		}
		inputs[i] = of.column()
	}
	made, err := w.runProgram(f.measure.Formula, inputs, len(w.tree.nodes), "working out the "+f.measure.Label)
	if err != nil {
		return err
	}
	switch c := made.column.(type) {
	case *table.Numbers:
		f.numbers = c.Values
	case *table.Floats:
		f.floats = c.Values
	case *table.Texts:
		f.dict, f.codes = c.Dict, c.Codes
	}
	for reason, marked := range made.failed.Rows {
		for _, word := range marked {
			f.failed[reason] += bits.OnesCount64(word)
		}
	}
	return nil
}

// failures says how many of the kept records failed in a derived field, by reason.
func (r *run) failures(d *plan.Derived, kept kernel.Bitmap) ([formula.Reasons]int, error) {
	var out [formula.Reasons]int
	made, err := r.derive(d)
	if err != nil || made.failed == nil {
		return out, err
	}
	for reason, marked := range made.failed.Rows {
		out[reason] = kept.CountAnd(kernel.Bitmap{Words: marked, N: kept.N})
	}
	return out, nil
}
