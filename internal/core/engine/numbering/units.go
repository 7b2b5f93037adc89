// Dates and moments numbered by the unit of time that they lie in.

package numbering

import (
	"fmt"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine/work"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
)

// maxDays bounds the table of days: eleven thousand years.
const maxDays = 4_000_000

// Span is the days a level of dates speaks of, and how the records of a
// comparison's other side are moved.
type Span struct {
	Group plan.Group
	Unit  calendar.Unit
	// Shift moves the positions from Others on.
	Shift  *plan.Shift
	Others int
}

// Units numbers dates or moments by the unit of time they lie in.
func Units(job *work.Job, p *plan.Plan, col table.Column, rs kernel.Rows, u Span) (*Keys, error) {
	c, ok := col.(*table.Numbers)
	if !ok {
		return nil, fmt.Errorf("numbering: %s cannot be grouped by %s", u.Group.Ref.Label, u.Unit)
	}
	k := &Keys{Numbers: make([]uint32, rs.N), Card: 1, Blanks: c.Blanks() > 0}
	lo, hi, ok := c.Bounds()
	if !ok {
		return k, nil // blanks only
	}
	cal := p.Calendar
	moments := u.Group.Ref.Field.Type == catalog.DateTime
	if u.Unit == calendar.ByHour {
		return k, k.fromHours(job, cal, c, rs)
	}
	if moments {
		lo, hi = cal.DaysBetween(lo, hi)
	}
	if hi-lo > maxDays || lo < -maxDays || hi > maxDays {
		return nil, &result.LimitError{
			Step: fmt.Sprintf("%s spans more than %d days", u.Group.Ref.Label, maxDays),
			Mend: "filter out the dates that are far off, or group by another field",
		}
	}
	if from, to, ok := p.Bounds(u.Group.Ref); ok && u.Group.Empty && !u.Unit.Cyclic() && to-from <= maxDays {
		k.addUnits(cal, u.Unit, cal.Start(u.Unit, from), cal.Start(u.Unit, to))
	}
	tables := [2][]uint32{unitTable(k, cal, u.Unit, lo, hi, nil)}
	if u.Shift != nil {
		tables[1] = unitTable(k, cal, u.Unit, lo, hi, u.Shift)
		tables[0] = unitTable(k, cal, u.Unit, lo, hi, nil) // the shifted days may have come before
	}
	k.Card = len(k.Values) + 1
	k.Listable = k.between(p, u)
	return k, job.EachBlock(rs.N, func(from, to int) {
		clock := cal.Clock()
		vals := kernel.ValuesAt(c.Values, rs, from, to, make([]int64, kernel.BlockRows))
		// Up to here the view's own records, from here on the other side's.
		turn := to
		if u.Shift != nil {
			turn = min(max(u.Others, from), to)
		}
		for side, part := range [2][2]int{{from, turn}, {turn, to}} {
			keys, vals := k.Numbers[part[0]:part[1]], vals[part[0]-from:part[1]-from]
			if moments {
				momentUnits(keys, vals, clock, lo, tables[side])
			} else {
				dayUnits(keys, vals, lo, tables[side])
			}
		}
	})
}

// dayUnits looks up the unit of every day; first is the day of the table's start.
func dayUnits(keys []uint32, vals []int64, first calendar.Day, units []uint32) {
	for i, v := range vals {
		if v != table.Blank {
			keys[i] = units[v-first]
		}
	}
}

// momentUnits is dayUnits for moments. The zone's offset is looked up anew only
// where it may have changed.
func momentUnits(keys []uint32, vals []int64, clock *calendar.Clock, first calendar.Day, units []uint32) {
	from, to, offset := calendar.Micros(1), calendar.Micros(0), calendar.Micros(0) // holds for no moment
	for i, v := range vals {
		if v == table.Blank {
			continue
		}
		if v < from || v >= to {
			from, to, offset = clock.Offset(v)
		}
		keys[i] = units[calendar.FloorDay(v+offset)-first]
	}
}

// unitTable numbers the unit of every day between two, some of which no row has.
// It adds the units to k, which keeps them in order.
func unitTable(
	k *Keys, cal calendar.Calendar, u calendar.Unit, lo, hi calendar.Day, shift *plan.Shift,
) []uint32 {
	if u == calendar.ByWeekday {
		k.Values = []int64{0, 1, 2, 3, 4, 5, 6}
	}
	start := func(day calendar.Day) int64 {
		switch {
		case u == calendar.ByWeekday:
			return cal.Weekday(day)
		case shift != nil:
			return shift.Forward(cal, u, day)
		}
		return cal.Start(u, day)
	}
	if u != calendar.ByWeekday {
		k.addUnits(cal, u, start(lo), start(hi))
	}
	out := make([]uint32, hi-lo+1)
	last, key := int64(table.Blank), uint32(0)
	for day := lo; day <= hi; day++ {
		if s := start(day); s != last {
			last = s
			key, _ = k.KeyOf(s)
		}
		out[day-lo] = key
	}
	return out
}

// addUnits makes sure that k has every unit from one that starts on a day to
// another.
func (k *Keys) addUnits(cal calendar.Calendar, u calendar.Unit, from, to calendar.Day) {
	if len(k.Values) > 0 {
		from, to = min(from, k.Values[0]), max(to, k.Values[len(k.Values)-1])
	}
	k.Values = k.Values[:0]
	for at := from; at <= to; at = cal.Add(u, at, 1) {
		k.Values = append(k.Values, at)
	}
}

func (k *Keys) fromHours(job *work.Job, cal calendar.Calendar, c *table.Numbers, rs kernel.Rows) error {
	for h := range int64(24) {
		k.Values = append(k.Values, h)
	}
	k.Card = len(k.Values) + 1
	return job.EachBlock(rs.N, func(from, to int) {
		clock := cal.Clock()
		keys := k.Numbers[from:to]
		for i, v := range kernel.ValuesAt(c.Values, rs, from, to, make([]int64, kernel.BlockRows)) {
			if v != table.Blank {
				local := clock.Local(v)
				keys[i] = uint32((local-calendar.FloorDay(local)*calendar.DayLen)/calendar.Hour) + 1
			}
		}
	})
}

// between says which units may be shown without records: those from the first to
// the last that has any, or that the filter asks for. Weekdays may all be.
func (k *Keys) between(p *plan.Plan, u Span) func(key uint32) bool {
	if !u.Group.Empty || u.Unit.Cyclic() {
		return nil
	}
	var bounds [2]uint32
	known := false
	return func(key uint32) bool {
		if !known { // the keys are there by now
			known = true
			bounds = k.bounds(p, u)
		}
		return key >= bounds[0] && key <= bounds[1]
	}
}

func (k *Keys) bounds(p *plan.Plan, u Span) [2]uint32 {
	lo, hi := uint32(k.Card), uint32(0)
	for _, key := range k.Numbers {
		if key != 0 {
			lo, hi = min(lo, key), max(hi, key)
		}
	}
	if from, to, ok := p.Bounds(u.Group.Ref); ok {
		if key, found := k.KeyOf(p.Calendar.Start(u.Unit, from)); found {
			lo = min(lo, key)
		}
		if key, found := k.KeyOf(p.Calendar.Start(u.Unit, to)); found {
			hi = max(hi, key)
		}
	}
	return [2]uint32{lo, hi}
}
