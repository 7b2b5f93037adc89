// The changes between the two sides of a comparison.

package aggregation

import "gavrik/internal/core/catalog"

// Changes are the ways from the figures of a comparison's other side to those of the view's own:
// as they are counted, and in percent of the other side.
func Changes(mine, other *Aggregates) (change, percent *Aggregates) {
	change = &Aggregates{Measure: mine.Measure, Field: mine.Field}
	if mine.Currency != nil {
		change.Currency = make([]string, len(mine.Currency))
	}
	percent = &Aggregates{Measure: mine.Measure, Field: catalog.Field{
		Key: mine.Field.Key, Label: mine.Field.Label, Type: catalog.Percent, Scale: 2,
	}}
	n := len(mine.Numbers) + len(mine.Floats)
	percent.Numbers = make([]int64, n)
	if mine.Floats != nil {
		change.Floats = make([]float64, n)
	} else {
		change.Numbers = make([]int64, n)
	}
	for i := range int32(n) {
		change.subtract(mine, i, other, i)
		percent.Numbers[i] = changeOf(mine, i, other, i)
	}
	return change, percent
}
