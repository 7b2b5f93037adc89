package engine

import (
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/result"
)

// compared adds the other side's column, the change to it and the change in
// percent.
func (b *builder) compared(column int, mine, other *aggregates) {
	b.head(result.Head{Column: column, Field: other.field, Part: result.Other}, other)
	if !mine.field.Type.Numeric() {
		return
	}
	change := &aggregates{measure: mine.measure, field: mine.field}
	if mine.currency != nil {
		change.currency = make([]string, len(mine.currency))
	}
	percent := &aggregates{measure: mine.measure, field: catalog.Field{Key: mine.field.Key, Label: mine.field.Label, Type: catalog.Percent, Scale: 2}}
	n := len(mine.numbers) + len(mine.floats)
	percent.numbers = make([]int64, n)
	if mine.floats != nil {
		change.floats = make([]float64, n)
	} else {
		change.numbers = make([]int64, n)
	}
	for i := range int32(n) {
		change.subtract(mine, i, other, i)
		percent.numbers[i] = changeOf(mine, i, other, i)
	}
	b.head(result.Head{Column: column, Field: change.field, Part: result.Change}, change)
	b.head(result.Head{Column: column, Field: percent.field, Part: result.Percent}, percent)
}
