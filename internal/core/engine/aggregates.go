package engine

import (
	"math"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// aggregates are the values of one measure, one for each node. Which slice holds
// them follows from the measure's kind.
type aggregates struct {
	measure plan.Measure
	field   catalog.Field
	numbers []int64
	floats  []float64
	codes   []uint32
	dict    *table.Dict
	// counted is how many values, of records or of linked records, went in.
	counted []int32
	// times is how many records have the value, of totals that say so.
	times []int32
	// low and high are the smallest and the largest value of each node, for averages of
	// prices; see mixes.
	low, high []int64
	// tooLarge counts the nodes whose figure does not fit; it is blank there. failed
	// counts those whose formula failed.
	tooLarge int
	failed   [formula.Reasons]int
	// mixed are the figures of single currencies, for nodes that have several.
	mixed map[int32][]amount
	// currency names the one currency of each node that has one; apart says that some have
	// several.
	currency []string
	apart    bool
}

// bytes estimates the memory held.
func (f *aggregates) bytes() int64 {
	n := 8*int64(len(f.numbers)+len(f.floats)+len(f.low)+len(f.high)) + 4*int64(len(f.codes)+len(f.counted)+len(f.times)) + 16*int64(len(f.currency)) + 80*int64(len(f.mixed))
	if f.dict != nil && f.measure.Fn == view.Formula {
		n += f.dict.Bytes()
	}
	return n
}

// column reads the figures as a column with a row for each node.
func (f *aggregates) column() table.Column {
	switch {
	case f.numbers != nil:
		return table.NewNumbers(f.numbers)
	case f.floats != nil:
		return table.NewFloats(f.floats)
	}
	return table.NewTexts(f.codes, f.dict)
}

// isBlank says whether a node has no figure.
func (f *aggregates) isBlank(n int32) bool {
	switch {
	case f.numbers != nil:
		return f.numbers[n] == table.Blank
	case f.floats != nil:
		return math.IsNaN(f.floats[n])
	}
	return f.codes[n] == 0
}

// blankNode takes a node's figure away.
func (f *aggregates) blankNode(n int32) {
	switch {
	case f.numbers != nil:
		f.numbers[n] = table.Blank
	case f.floats != nil:
		f.floats[n] = math.NaN()
	default:
		f.codes[n] = 0
	}
}

// sortKey is a number that orders the node's figure among others, and whether it
// is blank.
func (f *aggregates) sortKey(n int32) (key uint64, blank bool) {
	const flip = 1 << 63 // signed numbers order as unsigned ones
	switch {
	case f.numbers != nil:
		return uint64(f.numbers[n]) ^ flip, f.numbers[n] == table.Blank
	case f.floats != nil:
		return uint64(orderedBits(f.floats[n])) ^ flip, math.IsNaN(f.floats[n])
	}
	return uint64(f.codes[n]), f.codes[n] == 0
}

// rearranged returns the figures with node from[i] at place i, blank where from[i]
// is negative.
func (f *aggregates) rearranged(from []int32) *aggregates {
	out := *f
	out.numbers, out.floats = rearrange(f.numbers, from, table.Blank), rearrange(f.floats, from, math.NaN())
	out.codes, out.counted = rearrange(f.codes, from, 0), rearrange(f.counted, from, 0)
	out.times = rearrange(f.times, from, 0)
	out.currency = rearrange(f.currency, from, "")
	out.low, out.high = rearrange(f.low, from, table.Blank), rearrange(f.high, from, table.Blank)
	if f.mixed != nil {
		out.mixed = map[int32][]amount{}
		for i, n := range from {
			if parts, ok := f.mixed[n]; ok {
				out.mixed[int32(i)] = parts
			}
		}
	}
	return &out
}

func rearrange[T any](values []T, from []int32, blank T) []T {
	if values == nil {
		return nil
	}
	out := make([]T, len(from))
	for i, n := range from {
		out[i] = valueOr(values, n, blank)
	}
	return out
}
