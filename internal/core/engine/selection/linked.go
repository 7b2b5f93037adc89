// Conditions on the records that link here: how many, the latest, their sum or average.

package selection

import (
	"gavrik/internal/core/engine/fields"
	"gavrik/internal/core/engine/work"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// within returns the records that another view keeps.
func (f *filter) within(n *plan.Node) (kernel.Bitmap, error) {
	if len(n.Children) == 0 {
		return kernel.FullBitmap(f.fields.Rows), nil
	}
	return All(f.job, f.fields, n.Children[0])
}

// All is what a condition includes of all records; its steps are not counted. The bits are the
// caller's.
func All(job *work.Job, of *fields.Fields, n *plan.Node) (kernel.Bitmap, error) {
	f := &filter{job: job, fields: of}
	b, err := f.node(n, kernel.FullBitmap(of.Rows))
	return b.Clone(), err
}

// linked returns the records whose linking records meet a test. The step says how many have no
// sum or average to test.
func (f *filter) linked(l *plan.Linked, step *result.Step) (kernel.Bitmap, error) {
	if l.Value.Take.ByDate() {
		return f.chosen(l)
	}
	value, err := f.fields.Drawn(l.Value)
	if err != nil {
		return kernel.Bitmap{}, err
	}
	if value.Failed != nil {
		failed := func(r formula.Reason) int {
			return f.fields.Weights.Count(kernel.Bitmap{Words: value.Failed.Rows[r], N: f.fields.Rows})
		}
		step.Mixed, step.TooLarge = failed(formula.SeveralCurrencies), failed(formula.TooLarge)
	}
	met := kernel.NewBitmap(f.fields.Rows)
	var mark func(words []uint64, lo, hi int)
	switch c := value.Column.(type) {
	case *table.Floats:
		mark = markFloats(c.Values, l.Figure)
	case *table.Numbers:
		mark = markCounts(c.Values, l)
		if l.Figure != nil {
			mark = markNumbers(c.Values, l.Figure)
		}
	}
	return met, f.mark(met, mark)
}

// markCounts tests how many records link to each.
func markCounts(counts []int64, l *plan.Linked) func(words []uint64, lo, hi int) {
	least, most := int64(1), int64(1<<62)
	switch l.Test {
	case view.NoneLinked:
		least, most = 0, 0
	case view.AtLeastLinked:
		least = int64(l.N)
	case view.AtMostLinked:
		least, most = 0, int64(l.N)
	}
	return func(words []uint64, lo, hi int) {
		for i, n := range counts[lo:hi] {
			words[i/64] |= kernel.Bit(n >= least && n <= most) << (i % 64)
		}
	}
}

// chosen asks whether each record's latest or earliest linking record meets a condition.
func (f *filter) chosen(l *plan.Linked) (kernel.Bitmap, error) {
	choice, err := f.fields.Chosen(l.Value, "looking at the linked records")
	if err != nil {
		return kernel.Bitmap{}, err
	}
	there, err := f.fields.Over(l.Value.There)
	if err != nil {
		return kernel.Bitmap{}, err
	}
	meets, err := All(f.job, there, l.Meets)
	if err != nil {
		return kernel.Bitmap{}, err
	}
	out := kernel.NewBitmap(f.fields.Rows)
	return out, f.mark(out, func(words []uint64, lo, hi int) {
		for i, row := range choice.Rows[lo:hi] {
			words[i/64] |= kernel.Bit(row >= 0 && meets.Has(int(row))) << (i % 64)
		}
	})
}
