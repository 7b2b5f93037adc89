// Linked values: what is taken of the records that link to each record.

package fields

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"
	"sync/atomic"
	"unicode/utf8"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/program"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// drawing works one linked value out.
type drawing struct {
	*linking
	l *plan.LinkedValue
	// failed marks the rows that have no value although records with values link to them.
	failed *program.Failures
	// several says which rows' values are in several currencies; nil if none can be.
	several []bool
}

// Drawn is a linked value as a column of the plan's record set.
func (f *Fields) Drawn(l *plan.LinkedValue) (Derived, error) {
	return f.Derive(&plan.Derived{Linked: l, Identity: l.Identity, Ref: catalog.Ref{Label: l.There.Many}})
}

func (f *Fields) drawn(l *plan.LinkedValue, step string) (Derived, error) {
	if l.Take.ByDate() {
		return f.ofChosen(l, step)
	}
	linking, err := f.linkingOf(l, step)
	if err != nil {
		return Derived{}, err
	}
	d := &drawing{linking: linking, l: l, failed: program.NewFailures(f.Rows)}
	if !l.Take.OfField() {
		return d.counted()
	}
	col, err := d.there.Column(l.Of)
	if err != nil {
		return Derived{}, err
	}
	if l.CurrencyBy != "" {
		named, which, err := d.currencies(col)
		if err != nil || l.ItsCurrency {
			return Derived{Column: itsCurrency(named, which)}, err
		}
	}
	made := Derived{Failed: d.failed}
	switch l.Take {
	case view.TakeSmallest, view.TakeLargest:
		made.Column, err = d.extreme(col)
	case view.TakeDistinct:
		made.Column, err = d.distinct(col)
	case view.TakeJoined:
		made.Column, err = d.joined(col)
	default:
		made.Column, err = d.summed(col)
	}
	return made, err
}

// ofChosen takes the field of the latest or earliest record.
func (f *Fields) ofChosen(l *plan.LinkedValue, step string) (Derived, error) {
	chosen, err := f.Chosen(l, step)
	if err != nil {
		return Derived{}, err
	}
	there, err := f.Over(l.There)
	if err != nil {
		return Derived{}, err
	}
	var col table.Column
	if l.ItsCurrency {
		var texts *table.Texts
		if texts, err = there.Currencies(l.CurrencyBy); err == nil {
			col = texts
		}
	} else {
		col, err = there.Column(l.Of)
	}
	if err != nil {
		return Derived{}, err
	}
	return Derived{Column: col.Gather(chosen.Rows), Tied: chosen.Tied}, f.job.Stopped()
}

// counted is how many records link to each, or whether any does.
func (d *drawing) counted() (Derived, error) {
	out, err := d.counts()
	if d.l.Take == view.TakeAny {
		for i, n := range out {
			out[i] = min(n, 1)
		}
	}
	return Derived{Column: table.NewNumbers(out)}, err
}

// currencies finds the currency of the values that link to each row. Rows of several fail.
func (d *drawing) currencies(col table.Column) (named *table.Texts, which []uint32, err error) {
	if named, err = d.there.Currencies(d.l.CurrencyBy); named == nil || err != nil {
		return named, nil, err
	}
	which, d.several = make([]uint32, d.Rows), make([]bool, d.Rows)
	blank := table.BlankTest(col)
	err = each(d.linking, named.Codes, func(target, row int32, code uint32) {
		if !blank(row) {
			which[target] = JoinedCurrency(which[target], code+1)
		}
	})
	for i, c := range which {
		d.several[i] = c == SeveralCurrencies
		d.failed.Rows[formula.SeveralCurrencies][i/64] |= kernel.Bit(d.several[i]) << (i % 64)
	}
	return named, which, err
}

// itsCurrency names the currency of each row's values, blank if they have none or several.
func itsCurrency(named *table.Texts, which []uint32) table.Column {
	if named == nil {
		return nil
	}
	codes := make([]uint32, len(which))
	for i, c := range which {
		if c != NoCurrency && c != SeveralCurrencies {
			codes[i] = c - 1
		}
	}
	return table.NewTexts(codes, named.Dict)
}

// isSeveral says whether a row's values are in several currencies.
func (d *drawing) isSeveral(row int) bool { return d.several != nil && d.several[row] }

// extreme is the smallest or largest value; of texts, the first or last in order.
func (d *drawing) extreme(col table.Column) (table.Column, error) {
	largest := d.l.Take == view.TakeLargest
	switch c := col.(type) {
	case *table.Floats:
		out, err := extremesOf(d, c.Values, math.NaN(), largest)
		return table.NewFloats(out), err
	case *table.Texts:
		ordered := c.InOrder()
		out, err := extremesOf(d, ordered.Codes, 0, largest)
		return table.NewTexts(out, ordered.Dict), err
	}
	out, err := extremesOf(d, col.(*table.Numbers).Values, table.Blank, largest)
	return table.NewNumbers(out), err
}

func extremesOf[T cmp.Ordered](d *drawing, values []T, blank T, largest bool) ([]T, error) {
	out := make([]T, d.Rows)
	for i := range out {
		out[i] = blank
	}
	isBlank := func(v T) bool { return v == blank || v != v }
	err := each(d.linking, values, func(target, _ int32, v T) {
		have := out[target]
		if !isBlank(v) && (isBlank(have) || largest && v > have || !largest && v < have) {
			out[target] = v
		}
	})
	for i, is := range d.several {
		if is {
			out[i] = blank
		}
	}
	return out, err
}

// distinct is how many different values there are.
func (d *drawing) distinct(col table.Column) (table.Column, error) {
	switch c := col.(type) {
	case *table.Floats:
		return countsOf(d, c.Values, math.NaN())
	case *table.Texts:
		return countsOf(d, c.Codes, 0)
	}
	return countsOf(d, col.(*table.Numbers).Values, table.Blank)
}

func countsOf[T cmp.Ordered](d *drawing, values []T, blank T) (table.Column, error) {
	list, err := d.children()
	if err != nil {
		return nil, err
	}
	out := make([]int64, d.Rows)
	err = d.job.EachBlock(d.Rows, func(lo, hi int) {
		var different differing[T]
		for i := lo; i < hi; i++ {
			out[i] = int64(len(different.of(values, list.of(i), blank)))
		}
	})
	return table.NewNumbers(out), err
}

// differing gathers the different values of some rows, in order.
type differing[T cmp.Ordered] struct{ buf []T }

func (b *differing[T]) of(values []T, rows []int32, blank T) []T {
	b.buf = b.buf[:0]
	for _, row := range rows {
		if v := values[row]; v == v && v != blank {
			b.buf = append(b.buf, v)
		}
	}
	slices.Sort(b.buf)
	return slices.Compact(b.buf)
}

// joined is the different values as one text, in order.
func (d *drawing) joined(col table.Column) (table.Column, error) {
	f := d.l.Of.Field
	switch c := col.(type) {
	case *table.Floats:
		return joinedOf(d, c.Values, math.NaN(), func(w *format.Writer, v float64) string { return w.Float(v, f) })
	case *table.Texts:
		ordered := c.InOrder()
		return joinedOf(d, ordered.Codes, 0, func(_ *format.Writer, code uint32) string {
			return ordered.Dict.Value(code)
		})
	}
	values := col.(*table.Numbers).Values
	return joinedOf(d, values, table.Blank, func(w *format.Writer, v int64) string { return w.Number(v, f) })
}

func joinedOf[T cmp.Ordered](
	d *drawing, values []T, blank T, write func(w *format.Writer, v T) string,
) (table.Column, error) {
	list, err := d.children()
	if err != nil {
		return nil, err
	}
	if err := d.job.Need(16*int64(d.Rows), d.step); err != nil {
		return nil, err
	}
	texts := make([]string, d.Rows)
	meter := &textMeter{job: d.job, step: d.step}
	tooLong := d.failed.Rows[formula.TooLong]
	var refused atomic.Pointer[error]
	err = d.job.EachBlock(d.Rows, func(lo, hi int) {
		w, different, text := format.NewWriter(format.People, d.Plan.Calendar), differing[T]{}, strings.Builder{}
		for i := lo; i < hi && refused.Load() == nil; i++ {
			text.Reset()
			all := different.of(values, list.of(i), blank)
			for n, v := range all[:min(len(all), view.MostJoined)] {
				if n > 0 {
					text.WriteString(", ")
				}
				text.WriteString(write(w, v))
			}
			if more := len(all) - view.MostJoined; more > 0 {
				fmt.Fprintf(&text, ", and %d more", more)
			}
			if utf8.RuneCountInString(text.String()) > formula.MaxText {
				tooLong[i/64] |= 1 << (i % 64)
				continue
			}
			texts[i] = text.String()
			if err := meter.Use(int64(text.Len())); err != nil {
				refused.CompareAndSwap(nil, &err)
			}
		}
	})
	if refused.Load() != nil {
		err = *refused.Load()
	}
	if err != nil {
		return nil, err
	}
	col, err := encoded(d.job, texts, d.step)
	_ = meter.Use(-meter.used.Load()) // the dictionary holds them now
	return col, err
}
