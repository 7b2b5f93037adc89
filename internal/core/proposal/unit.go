package proposal

import "gavrik/internal/core/calendar"

// Fewest and Most groups that are read at a glance.
const (
	Fewest = 5
	Most   = 40
)

// Units are tried in this order: what people report by comes first.
func Units() []calendar.Unit {
	return []calendar.Unit{calendar.ByMonth, calendar.ByWeek, calendar.ByQuarter, calendar.ByDay, calendar.ByYear}
}

// Unit proposes the unit of time that makes a readable number of groups: the first of Units that makes
// between Fewest and Most of them, else the one that comes nearest to that.
func Unit(groups map[calendar.Unit]int) calendar.Unit {
	best, least := calendar.ByMonth, -1.0
	for _, u := range Units() {
		n := groups[u]
		if n >= Fewest && n <= Most {
			return u
		}
		off := float64(n) / Most
		if n < Fewest {
			off = Fewest / float64(max(1, n))
		}
		if least < 0 || off < least {
			best, least = u, off
		}
	}
	return best
}
