package engine

import (
	"math"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
)

// compared adds the other side's column, the change to it and the change in
// percent.
func (b *builder) compared(column int, mine, other *figures) {
	b.head(Head{Column: column, Field: other.field, Part: Other}, other)
	if !mine.field.Type.Numeric() {
		return
	}
	change := &figures{measure: mine.measure, field: mine.field}
	percent := &figures{measure: mine.measure, field: catalog.Field{Key: mine.field.Key, Label: mine.field.Label, Type: catalog.Percent, Scale: 2}}
	n := len(mine.numbers) + len(mine.floats)
	percent.numbers = make([]int64, n)
	if mine.floats != nil {
		change.floats = make([]float64, n)
	} else {
		change.numbers = make([]int64, n)
	}
	for i := range int32(n) {
		change.blankAt(i)
		percent.numbers[i] = table.Blank
		a, x, blankA := mine.value(i)
		c, y, blankB := other.value(i)
		switch {
		case blankA || blankB:
		case mine.floats != nil:
			change.floats[i] = x - y
			if r := math.Round((x - y) / math.Abs(y) * hundredths); y != 0 && math.Abs(r) < math.MaxInt64 {
				percent.numbers[i] = int64(r)
			}
		default:
			change.numbers[i] = change.fitted(wide(a).plus(wide(c).negated()))
			percent.numbers[i] = changeOf(a, c)
		}
	}
	b.head(Head{Column: column, Field: change.field, Part: Change}, change)
	b.head(Head{Column: column, Field: percent.field, Part: Percent}, percent)
}
