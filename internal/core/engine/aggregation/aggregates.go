// The values of a measure for every group, and how they are moved about.

package aggregation

import (
	"math"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// Aggregates are the values of one measure, one for each node. Which slice holds
// them follows from the measure's kind.
type Aggregates struct {
	Measure plan.Measure
	Field   catalog.Field
	Numbers []int64
	Floats  []float64
	Codes   []uint32
	Dict    *table.Dict
	// Counted is how many values, of records or of linked records, went in.
	Counted []int64
	// Times is how many records have the value, of totals that say so.
	Times []int64
	// Low and High are the smallest and the largest value of each node, for averages of
	// prices; see mixes.
	Low, High []int64
	// TooLarge counts the nodes whose figure does not fit; it is blank there. failed
	// counts those whose formula failed.
	TooLarge int
	Failed   [formula.Reasons]int
	// Mixed are the figures of single currencies, for nodes that have several.
	Mixed map[int32][]Amount
	// Currency names the one currency of each node that has one. Apart says that some have
	// several.
	Currency []string
	Apart    bool
}

// Bytes estimates the memory held.
func (f *Aggregates) Bytes() int64 {
	n := 8*int64(len(f.Numbers)+len(f.Floats)+len(f.Low)+len(f.High)+len(f.Counted)+len(f.Times)) +
		4*int64(len(f.Codes)) + 16*int64(len(f.Currency)) + 80*int64(len(f.Mixed))
	if f.Dict != nil && f.Measure.Fn == view.Formula {
		n += f.Dict.Bytes()
	}
	return n
}

// Column reads the figures as a column with a row for each node.
func (f *Aggregates) Column() table.Column {
	switch {
	case f.Numbers != nil:
		return table.NewNumbers(f.Numbers)
	case f.Floats != nil:
		return table.NewFloats(f.Floats)
	}
	return table.NewTexts(f.Codes, f.Dict)
}

// IsBlank says whether a node has no figure.
func (f *Aggregates) IsBlank(n int32) bool {
	switch {
	case f.Numbers != nil:
		return f.Numbers[n] == table.Blank
	case f.Floats != nil:
		return math.IsNaN(f.Floats[n])
	}
	return f.Codes[n] == 0
}

// blankNode takes a node's figure away.
func (f *Aggregates) blankNode(n int32) {
	switch {
	case f.Numbers != nil:
		f.Numbers[n] = table.Blank
	case f.Floats != nil:
		f.Floats[n] = math.NaN()
	default:
		f.Codes[n] = 0
	}
}

// SortKey is a number that orders the node's figure among others, and whether it
// is blank.
func (f *Aggregates) SortKey(n int32) (key uint64, blank bool) {
	const flip = 1 << 63 // signed numbers order as unsigned ones
	switch {
	case f.Numbers != nil:
		return uint64(f.Numbers[n]) ^ flip, f.Numbers[n] == table.Blank
	case f.Floats != nil:
		return uint64(kernel.OrderedBits(f.Floats[n])) ^ flip, math.IsNaN(f.Floats[n])
	}
	return uint64(f.Codes[n]), f.Codes[n] == 0
}

// Rearranged returns the figures with node from[i] at place i, blank where from[i]
// is negative.
func (f *Aggregates) Rearranged(from []int32) *Aggregates {
	out := *f
	out.Numbers, out.Floats = Rearrange(f.Numbers, from, table.Blank), Rearrange(f.Floats, from, math.NaN())
	out.Codes, out.Counted = Rearrange(f.Codes, from, 0), Rearrange(f.Counted, from, 0)
	out.Times = Rearrange(f.Times, from, 0)
	out.Currency = Rearrange(f.Currency, from, "")
	out.Low, out.High = Rearrange(f.Low, from, table.Blank), Rearrange(f.High, from, table.Blank)
	if f.Mixed != nil {
		out.Mixed = map[int32][]Amount{}
		for i, n := range from {
			if parts, ok := f.Mixed[n]; ok {
				out.Mixed[int32(i)] = parts
			}
		}
	}
	return &out
}

func Rearrange[T any](values []T, from []int32, blank T) []T {
	if values == nil {
		return nil
	}
	out := make([]T, len(from))
	for i, n := range from {
		out[i] = valueOr(values, n, blank)
	}
	return out
}
