package engine

import (
	"math"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
)

// figures are the values of one measure, one for each node. Which slice holds
// them follows from the measure's kind.
type figures struct {
	measure plan.Measure
	field   catalog.Field
	numbers []int64
	floats  []float64
	codes   []uint32
	dict    *table.Dict
	// counted is how many values, of records or of linked records, went in.
	counted []int32
	// tooLarge counts the nodes whose figure does not fit; it is blank there.
	tooLarge int
}

// sortKey is a number that orders the node's figure among others, and whether it
// is blank.
func (f *figures) sortKey(n int32) (key uint64, blank bool) {
	const flip = 1 << 63 // signed numbers order as unsigned ones
	switch {
	case f.numbers != nil:
		return uint64(f.numbers[n]) ^ flip, f.numbers[n] == table.Blank
	case f.floats != nil:
		return uint64(orderedBits(f.floats[n])) ^ flip, math.IsNaN(f.floats[n])
	}
	return uint64(f.codes[n]), f.codes[n] == 0
}

// permuted returns the figures with node i at the place of node order[i].
func (f *figures) permuted(order []int32) *figures {
	out := *f
	out.numbers, out.floats, out.codes = permute(f.numbers, order), permute(f.floats, order), permute(f.codes, order)
	out.counted = permute(f.counted, order)
	return &out
}

func permute[T any](values []T, order []int32) []T {
	if values == nil {
		return nil
	}
	out := make([]T, len(values))
	for i, from := range order {
		out[i] = values[from]
	}
	return out
}
