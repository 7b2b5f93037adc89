// The columns of a comparison: the other side, the change, the change in percent.

package engine

import (
	"gavrik/internal/core/engine/aggregation"
	"gavrik/internal/core/result"
)

// compared adds the other side's column, the change to it and the change in
// percent.
func (b *builder) compared(column int, mine, other *aggregation.Aggregates) {
	b.head(result.Head{Column: column, Field: other.Field, Part: result.Other}, other)
	if !mine.Field.Type.Numeric() {
		return
	}
	change, percent := aggregation.Changes(mine, other)
	b.head(result.Head{Column: column, Field: change.Field, Part: result.Change}, change)
	b.head(result.Head{Column: column, Field: percent.Field, Part: result.Percent}, percent)
}
