// A formula's program run over many rows, in blocks over the cores.

package fields

import (
	"gavrik/internal/core/calendar"
	"gavrik/internal/core/engine/work"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/program"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"math"
	"sync/atomic"
)

// Calculate works a calculation out over n rows of its inputs; step says what for.
func Calculate(
	job *work.Job, cal calendar.Calendar, calculation *formula.Calculation, inputs []table.Column, n int,
	step string,
) (Derived, error) {
	p, err := program.Compile(calculation)
	if err != nil {
		return Derived{}, err
	}
	working := p.BlockBytes() * int64(min(job.Workers, n/kernel.BlockRows+1))
	if err := job.Need(working, step); err != nil {
		return Derived{}, err
	}
	out, failed := p.Make(n), program.NewFailures(n)
	meter := &textMeter{job: job, step: step}
	var first atomic.Pointer[error]
	err = job.EachBlock(n, func(lo, hi int) {
		if first.Load() != nil {
			return
		}
		if err := p.Machine(inputs, cal, failed, meter).Run(out, lo, hi); err != nil {
			first.CompareAndSwap(nil, &err)
		}
	})
	if err == nil && first.Load() != nil {
		err = *first.Load()
	}
	if err != nil {
		return Derived{}, err
	}
	made := Derived{Failed: failed}
	switch {
	case out.Texts != nil:
		if made.Column, err = encoded(job, out.Texts, step); err != nil {
			return Derived{}, err
		}
		_ = meter.Use(-meter.used.Load()) // the dictionary holds them now
	case out.Floats != nil:
		for i, v := range out.Floats { // what is no number anywhere is a blank
			if math.IsInf(v, 0) {
				out.Floats[i] = math.NaN()
				failed.Rows[formula.TooLarge][i/64] |= 1 << (i % 64)
			}
		}
		made.Column = table.NewFloats(out.Floats)
	default:
		made.Column = table.NewNumbers(out.Ints)
	}
	return made, job.Need(-working, step)
}

// textMeter books the texts that a formula makes, as they are made.
type textMeter struct {
	job  *work.Job
	step string
	used atomic.Int64
}

func (m *textMeter) Use(bytes int64) error {
	m.used.Add(bytes)
	return m.job.Need(bytes, m.step)
}

// dictCopies is how often a dictionary in the making holds each text: as collected,
// joined, folded and put into order.
const dictCopies = 4

// encoded makes a column of texts.
func encoded(job *work.Job, texts []string, step string) (table.Column, error) {
	dict, codes := table.NewDictBuilder(), make([]uint32, len(texts))
	booked := int64(0)
	for lo := 0; lo < len(texts); lo += kernel.BlockRows {
		for i, s := range texts[lo:min(lo+kernel.BlockRows, len(texts))] {
			codes[lo+i] = dict.CodeOf(s)
		}
		more := dictCopies*dict.Bytes() - booked
		if err := job.Need(more, step); err != nil {
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
	return column, job.Need(column.Bytes()-booked, step)
}
