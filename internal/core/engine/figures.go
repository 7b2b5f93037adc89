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

// compare orders two nodes by their figure; blanks count as the lowest.
func (f *figures) compare(a, b int32) int {
	switch {
	case f.numbers != nil:
		return compareOrdered(f.numbers[a], f.numbers[b])
	case f.floats != nil:
		return compareOrdered(orderedBits(f.floats[a]), orderedBits(f.floats[b]))
	}
	return compareOrdered(f.codes[a], f.codes[b])
}

func (f *figures) blank(n int32) bool {
	switch {
	case f.numbers != nil:
		return f.numbers[n] == table.Blank
	case f.floats != nil:
		return math.IsNaN(f.floats[n])
	}
	return f.codes[n] == 0
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

func compareOrdered[T int64 | uint32](a, b T) int {
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}
