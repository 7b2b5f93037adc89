package records

import (
	"fmt"
	"sync/atomic"
)

// Progress is how far a load is. Any goroutine may read it. The zero Progress is ready.
type Progress struct {
	sets, setsDone, records, expected, bytes atomic.Int64
}

// String says it to people.
func (p *Progress) String() string {
	if p.sets.Load() == 0 {
		return "looking at the database"
	}
	text := fmt.Sprintf(
		"%d of %d record sets, %d records so far", p.setsDone.Load(), p.sets.Load(), p.records.Load(),
	)
	if n := p.expected.Load(); n > 0 {
		text += fmt.Sprintf(" of about %d", n)
	}
	return text
}
