package engine

import (
	"fmt"
	"math"
	"math/bits"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
)

// column returns a field, stored or derived, as a column of the plan's record set.
func (r *run) column(ref catalog.Ref) (table.Column, error) {
	d := r.plan.Derived[ref.Path]
	if d == nil {
		return r.e.column(r.plan.Records, ref)
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
	failed *formula.Failures // nil for a bucket
}

func (r *run) derive(d *plan.Derived) (derivedColumn, error) {
	return cached(r.e.cache, "derived "+r.plan.Records+" "+d.Identity, func() (derivedColumn, int64, error) {
		if err := r.need(8*int64(r.table.Rows), "working out "+catalog.LowerFirst(d.Ref.Label)); err != nil {
			return derivedColumn{}, 0, err
		}
		var made derivedColumn
		var err error
		if d.Inner != nil {
			made, err = r.throughLinks(d)
		} else if d.Bucket != nil {
			made.column, err = r.bucket(d.Bucket)
		} else {
			made, err = r.calculate(d.Program())
		}
		return made, 8 * int64(r.table.Rows), err
	})
}

// throughLinks fetches the values of another record set's definition, and the rows
// that failed there.
func (r *run) throughLinks(d *plan.Derived) (derivedColumn, error) {
	there, err := r.there(d)
	if err != nil {
		return derivedColumn{}, err
	}
	rows, _, err := r.e.follow(r.plan.Records, d.Ref.Links)
	if err != nil {
		return derivedColumn{}, err
	}
	made := derivedColumn{column: there.column.Gather(rows)}
	if there.failed == nil {
		return made, r.stopped()
	}
	made.failed = formula.NewFailures(len(rows))
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
	return sub.derive(d.Inner)
}

// inOwnSet is a field's column in the record set that holds it.
func (r *run) inOwnSet(ref catalog.Ref) (table.Column, error) {
	if d := r.plan.Derived[ref.Path]; d != nil && d.Inner != nil {
		made, err := r.there(d)
		return made.column, err
	}
	return r.e.stored(ref.Set, ref.Field.Key)
}

// calculate runs a program over all rows.
func (r *run) calculate(p *formula.Program) (derivedColumn, error) {
	inputs := make([]table.Column, len(p.Inputs))
	for i, in := range p.Inputs {
		var err error
		if inputs[i], err = r.column(in); err != nil {
			return derivedColumn{}, err
		}
	}
	return r.runProgram(p, inputs, r.table.Rows)
}

func (r *run) runProgram(p *formula.Program, inputs []table.Column, n int) (derivedColumn, error) {
	out, failed := p.Make(n), formula.NewFailures(n)
	err := eachBlock(r.ctx, n, r.e.opts.Workers, func(lo, hi int) {
		p.Machine(inputs, r.plan.Calendar, failed).Run(out, lo, hi)
	})
	if err != nil {
		return derivedColumn{}, err
	}
	made := derivedColumn{failed: failed}
	switch {
	case out.Texts != nil:
		dict, codes := table.NewDictBuilder(), make([]uint32, n)
		for i, s := range out.Texts {
			codes[i] = dict.CodeOf(s)
		}
		if err := dict.Err(); err != nil {
			return made, fmt.Errorf("engine: %w", err)
		}
		made.column = dict.Build(codes)
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
	return made, r.stopped()
}

// formula works a total that is calculated from totals out, for every node: the
// program runs over the nodes as over records.
func (w *totaller) formula(f *figures) error {
	inputs := make([]table.Column, len(f.measure.Args))
	for i, arg := range f.measure.Args {
		of, err := w.figures(arg)
		if err != nil {
			return err
		}
		inputs[i] = of.column()
	}
	made, err := w.runProgram(f.measure.Program, inputs, len(w.tree.nodes))
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
func (r *run) failures(d *plan.Derived, kept bitmap) ([formula.Reasons]int, error) {
	var out [formula.Reasons]int
	made, err := r.derive(d)
	if err != nil || made.failed == nil {
		return out, err
	}
	for reason, marked := range made.failed.Rows {
		out[reason] = kept.countAnd(bitmap{words: marked, n: kept.n})
	}
	return out, nil
}
