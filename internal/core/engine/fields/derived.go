// Worked-out fields: formulas, buckets, and those of other record sets; each once, and kept.

package fields

import (
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/program"
	"gavrik/internal/core/table"
)

// Derived is a worked-out field with the rows that failed.
type Derived struct {
	Column table.Column
	Failed *program.Failures // nil where nothing can fail
	// Tied marks the rows whose value a tie was broken for; nil if none.
	Tied []uint64
}

// Derive works a field out, with the rows that failed and those that a tie was broken for.
func (f *Fields) Derive(d *plan.Derived) (Derived, error) {
	key := "derived " + f.Plan.Records + " " + d.Identity
	return Keep(f, key, func(f *Fields) (Derived, int64, error) {
		if err := f.job.Need(8*int64(f.Rows), "working out "+catalog.LowerFirst(d.Ref.Label)); err != nil {
			return Derived{}, 0, err
		}
		var made Derived
		var err error
		if d.There != nil {
			made, err = f.throughLinks(d)
		} else if d.Bucket != nil {
			made.Column, err = f.bucket(d.Bucket)
		} else if d.Beside != nil {
			made, err = f.Beside(f.job, f, d)
		} else if d.Linked != nil {
			made, err = f.drawn(d.Linked, "working out "+catalog.LowerFirst(d.Ref.Label))
		} else {
			made, err = f.calculate(d)
		}
		if err != nil {
			return made, 0, err
		}
		return made, made.Column.Bytes() + int64(f.Rows)*int64(formula.Reasons)/8, nil
	})
}

// throughLinks fetches the values of another record set's definition, and the rows
// that failed there.
func (f *Fields) throughLinks(d *plan.Derived) (Derived, error) {
	there, err := f.there(d)
	if err != nil {
		return Derived{}, err
	}
	rows, _, err := f.Linked(d.Ref.Links)
	if err != nil {
		return Derived{}, err
	}
	made := Derived{Column: there.Column.Gather(rows)}
	if there.Tied != nil {
		made.Tied = gatherBits(there.Tied, rows)
	}
	if there.Failed != nil {
		made.Failed = &program.Failures{}
		for reason, marked := range there.Failed.Rows {
			made.Failed.Rows[reason] = gatherBits(marked, rows)
		}
	}
	return made, f.job.Stopped()
}

// gatherBits is what bits of linked rows are for the rows that link to them.
func gatherBits(marked []uint64, rows []int32) []uint64 {
	out := make([]uint64, (len(rows)+63)/64)
	for i, to := range rows {
		if to >= 0 {
			out[i/64] |= marked[to/64] >> (to % 64) & 1 << (i % 64)
		}
	}
	return out
}

// there works a definition of another record set out, over that set.
func (f *Fields) there(d *plan.Derived) (Derived, error) {
	own, err := f.Over(d.There)
	if err != nil {
		return Derived{}, err
	}
	return own.Derive(d.Inner())
}

// calculate runs a formula over all rows.
func (f *Fields) calculate(d *plan.Derived) (Derived, error) {
	calculation := d.Calculation()
	inputs := make([]table.Column, len(calculation.Inputs))
	for i, in := range calculation.Inputs {
		var err error
		if inputs[i], err = f.Column(in); err != nil {
			return Derived{}, err
		}
	}
	return Calculate(
		f.job, f.Plan.Calendar, calculation, inputs, f.Rows, "working out "+catalog.LowerFirst(d.Ref.Label),
	)
}
