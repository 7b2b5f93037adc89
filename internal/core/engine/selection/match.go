// One condition over one column: the bits of the rows that meet it.

package selection

import (
	"fmt"

	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
)

// test marks the rows that meet a test, its negation set aside.
func (f *filter) test(t *plan.Predicate) (selection, error) {
	if t.Match == plan.MatchFailed {
		return f.failed(f.fields.Plan.Derived[t.Ref.Path])
	}
	col, err := f.fields.Column(t.Ref)
	if err != nil {
		return selection{}, err
	}
	s := selection{met: kernel.NewBitmap(f.fields.Rows), blanks: f.blanks(col)}
	if t.Match == plan.MatchField {
		other, err := f.fields.Column(*t.Other)
		if err != nil {
			return s, err
		}
		return s, f.compareFields(s.met, t, col, other)
	}
	var mark func(words []uint64, lo, hi int)
	switch c := col.(type) {
	case *table.Texts:
		if _, unique := c.RowOf(1); unique && t.Match == plan.MatchSet && !t.Blank {
			return s, f.markUnique(&s, c, t)
		}
		meets, unmatched, err := f.textTable(c.Dict, t)
		if err != nil {
			return s, err
		}
		s.unmatched = unmatched
		mark = func(words []uint64, lo, hi int) { kernel.MarkTable(words, c.Codes[lo:hi], meets) }
	case *table.Numbers:
		mark = markNumbers(c.Values, t)
		if t.Match == plan.MatchCycle {
			mark = f.markCycle(c.Values, t)
		}
	case *table.Floats:
		mark = markFloats(c.Values, t)
	default:
		return s, fmt.Errorf("selection: a condition on %s cannot be carried out", t.Ref.Label)
	}
	return s, f.mark(s.met, mark)
}

// failed marks the rows whose formula could not be worked out, for any reason.
func (f *filter) failed(d *plan.Derived) (selection, error) {
	s := selection{met: kernel.NewBitmap(f.fields.Rows)}
	made, err := f.fields.Derive(d)
	if err != nil || made.Failed == nil {
		return s, err
	}
	for _, marked := range made.Failed.Rows {
		for i, word := range marked {
			s.met.Words[i] |= word
		}
	}
	return s, nil
}

// mark fills a bitmap block by block; do ORs into the words of rows lo to hi.
func (f *filter) mark(b kernel.Bitmap, do func(words []uint64, lo, hi int)) error {
	return f.job.EachBlock(b.N, func(lo, hi int) {
		do(b.Words[lo/64:(hi+63)/64], lo, hi)
	})
}

// blanks counts the records without a value.
func (f *filter) blanks(col table.Column) int {
	if f.fields.Weights == nil {
		return col.Blanks()
	}
	blank, n := table.BlankTest(col), int64(0)
	for row, many := range f.fields.Weights {
		if blank(int32(row)) {
			n += many
		}
	}
	return int(n)
}
