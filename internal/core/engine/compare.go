// The columns of a comparison: the other side, the change, the change in percent.

package engine

import (
	"gavrik/internal/core/engine/aggregation"
	"gavrik/internal/core/result"
)

// compared adds, behind a column of the view's own, the other side's column, the change to it and
// the change in percent.
func (b *builder) compared(h result.Head, mine, other *aggregation.Aggregates) {
	h.Part = result.Other
	b.head(h, other)
	if !mine.Field.Type.Numeric() {
		return
	}
	change, percent := aggregation.Changes(mine, other)
	h.Part = result.Change
	b.head(h, change)
	h.Part = result.Percent
	b.head(h, percent)
}
