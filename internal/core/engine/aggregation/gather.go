// Totals put together from those of other groups, for the columns of a crosstab.

package aggregation

import (
	"math"

	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// Gathered makes figures of single ones from several; a negative place is a blank.
func Gathered(like *Aggregates, n int, from func(i int) (*Aggregates, int32)) *Aggregates {
	out := &Aggregates{Measure: like.Measure, Field: like.Field, Dict: like.Dict}
	if like.Currency != nil {
		out.gatherAmounts(n, from)
	}
	if like.Measure.Fn == view.Formula && like.Dict != nil {
		out.gatherTexts(n, from)
		return out
	}
	for i := range n {
		f, at := from(i)
		switch {
		case like.Numbers != nil:
			out.Numbers = append(out.Numbers, valueOr(f.Numbers, at, table.Blank))
		case like.Floats != nil:
			out.Floats = append(out.Floats, valueOr(f.Floats, at, math.NaN()))
		default:
			out.Codes = append(out.Codes, valueOr(f.Codes, at, 0))
		}
		if like.Counted != nil {
			out.Counted = append(out.Counted, valueOr(f.Counted, at, 0))
		}
		if like.Times != nil {
			out.Times = append(out.Times, valueOr(f.Times, at, 0))
		}
	}
	return out
}

// gatherAmounts gathers which currencies the figures are of.
func (f *Aggregates) gatherAmounts(n int, from func(i int) (*Aggregates, int32)) {
	f.Currency, f.Mixed = make([]string, n), map[int32][]Amount{}
	for i := range n {
		of, at := from(i)
		if at < 0 || of.Currency == nil {
			continue
		}
		f.Currency[i] = of.Currency[at]
		if parts := of.Mixed[at]; len(parts) > 0 {
			f.Mixed[int32(i)] = parts
		}
	}
}

// gatherTexts gathers calculated texts, each of whose figures have a dictionary of
// their own.
func (f *Aggregates) gatherTexts(n int, from func(i int) (*Aggregates, int32)) {
	dict := table.NewDictBuilder()
	f.Codes = make([]uint32, n)
	for i := range n {
		if of, at := from(i); at >= 0 {
			f.Codes[i] = dict.CodeOf(of.Dict.Value(of.Codes[at]))
		}
	}
	built := dict.Build(f.Codes)
	f.Codes, f.Dict = built.Codes, built.Dict
}

func valueOr[T any](values []T, at int32, blank T) T {
	if at < 0 {
		return blank
	}
	return values[at]
}
