package records

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// Moment is one of a database: which transactions had been committed by then, by their numbers.
type Moment struct {
	// All below from had come to an end, none from to on had; of those between, open had not.
	to   uint64
	open []uint64
}

// readMoment reads what pg_current_snapshot returns: xmin:xmax:xip_list (PostgreSQL's documentation,
// "Transaction ID and Snapshot Information Functions").
func readMoment(text string) (*Moment, error) {
	parts := strings.Split(text, ":")
	if len(parts) != 3 {
		return nil, fmt.Errorf("records: the database names a moment as %q", text)
	}
	m := &Moment{}
	var err error
	if m.to, err = strconv.ParseUint(parts[1], 10, 64); err != nil {
		return nil, fmt.Errorf("records: the database names a moment as %q", text)
	}
	for one := range strings.SplitSeq(parts[2], ",") {
		if one == "" {
			continue
		}
		n, err := strconv.ParseUint(one, 10, 64)
		if err != nil {
			return nil, fmt.Errorf("records: the database names a moment as %q", text)
		}
		m.open = append(m.open, n)
	}
	return m, nil
}

// sees says whether what a committed transaction did is there. Only the lower half of its number is known:
// the upper one is that of transactions nearby.
func (m *Moment) sees(xid uint32) bool {
	full := m.to>>32<<32 | uint64(xid)
	switch half := uint64(1 << 31); {
	case full > m.to+half && full >= 1<<32:
		full -= 1 << 32
	case full+half < m.to:
		full += 1 << 32
	}
	return full < m.to && !slices.Contains(m.open, full)
}
