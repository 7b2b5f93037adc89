package engine

import (
	"fmt"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
)

// maxDays bounds the table of days: eleven thousand years.
const maxDays = 4_000_000

// unitSpan is the days a level of dates speaks of, and how the records of a
// comparison's other side are moved.
type unitSpan struct {
	group plan.Group
	unit  calendar.Unit
	// shift moves the positions from others on.
	shift  *plan.Shift
	others int
}

// numberUnits numbers dates or moments by the unit of time they lie in.
func (r *run) numberUnits(col table.Column, rs rows, u unitSpan) (*levelKeys, error) {
	c, ok := col.(*table.Numbers)
	if !ok {
		return nil, fmt.Errorf("engine: %s cannot be grouped by %s", u.group.Ref.Label, u.unit)
	}
	k := &levelKeys{keys: make([]uint32, rs.n), card: 1, blanks: c.Blanks() > 0}
	lo, hi, ok := c.Bounds()
	if !ok {
		return k, nil // blanks only
	}
	cal := r.plan.Calendar
	moments := u.group.Ref.Field.Type == catalog.DateTime
	if u.unit == calendar.ByHour {
		return k, r.numberHours(k, c, rs)
	}
	if moments {
		lo, hi = cal.DaysBetween(lo, hi)
	}
	if hi-lo > maxDays || lo < -maxDays || hi > maxDays {
		return nil, &result.LimitError{Step: fmt.Sprintf("%s spans more than %d days", u.group.Ref.Label, maxDays), Mend: "filter out the dates that are far off, or group by another field"}
	}
	if from, to, ok := r.plan.Bounds(u.group.Ref); ok && u.group.Empty && !u.unit.Cyclic() && to-from <= maxDays {
		k.addUnits(cal, u.unit, cal.Start(u.unit, from), cal.Start(u.unit, to))
	}
	tables := [2][]uint32{unitTable(k, cal, u.unit, lo, hi, nil)}
	if u.shift != nil {
		tables[1] = unitTable(k, cal, u.unit, lo, hi, u.shift)
		tables[0] = unitTable(k, cal, u.unit, lo, hi, nil) // the shifted days may have come before
	}
	k.card = len(k.values) + 1
	k.listable = r.between(k, rs, u)
	return k, kernel.EachBlock(r.ctx, rs.n, r.e.opts.Workers, func(from, to int) {
		clock := cal.Clock()
		vals := valuesAt(c.Values, rs, from, to, make([]int64, kernel.BlockRows))
		// Up to here the view's own records, from here on the other side's.
		turn := to
		if u.shift != nil {
			turn = min(max(u.others, from), to)
		}
		for side, part := range [2][2]int{{from, turn}, {turn, to}} {
			keys, vals := k.keys[part[0]:part[1]], vals[part[0]-from:part[1]-from]
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
func unitTable(k *levelKeys, cal calendar.Calendar, u calendar.Unit, lo, hi calendar.Day, shift *plan.Shift) []uint32 {
	if u == calendar.ByWeekday {
		k.values = []int64{0, 1, 2, 3, 4, 5, 6}
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
			key, _ = k.keyOfValue(s)
		}
		out[day-lo] = key
	}
	return out
}

// addUnits makes sure that k has every unit from one that starts on a day to
// another.
func (k *levelKeys) addUnits(cal calendar.Calendar, u calendar.Unit, from, to calendar.Day) {
	if len(k.values) > 0 {
		from, to = min(from, k.values[0]), max(to, k.values[len(k.values)-1])
	}
	k.values = k.values[:0]
	for at := from; at <= to; at = cal.Add(u, at, 1) {
		k.values = append(k.values, at)
	}
}

func (r *run) numberHours(k *levelKeys, c *table.Numbers, rs rows) error {
	for h := range int64(24) {
		k.values = append(k.values, h)
	}
	k.card = len(k.values) + 1
	return kernel.EachBlock(r.ctx, rs.n, r.e.opts.Workers, func(from, to int) {
		clock := r.plan.Calendar.Clock()
		keys := k.keys[from:to]
		for i, v := range valuesAt(c.Values, rs, from, to, make([]int64, kernel.BlockRows)) {
			if v != table.Blank {
				local := clock.Local(v)
				keys[i] = uint32((local-calendar.FloorDay(local)*calendar.DayLen)/calendar.Hour) + 1
			}
		}
	})
}

// between says which units may be shown without records: those from the first to
// the last that has any, or that the filter asks for. Weekdays may all be.
func (r *run) between(k *levelKeys, rs rows, u unitSpan) func(key uint32) bool {
	if !u.group.Empty || u.unit.Cyclic() {
		return nil
	}
	var bounds [2]uint32
	known := false
	return func(key uint32) bool {
		if !known { // the keys are there by now
			known = true
			bounds = r.unitBounds(k, u)
		}
		return key >= bounds[0] && key <= bounds[1]
	}
}

func (r *run) unitBounds(k *levelKeys, u unitSpan) [2]uint32 {
	lo, hi := uint32(k.card), uint32(0)
	for _, key := range k.keys {
		if key != 0 {
			lo, hi = min(lo, key), max(hi, key)
		}
	}
	if from, to, ok := r.plan.Bounds(u.group.Ref); ok {
		if key, found := k.keyOfValue(r.plan.Calendar.Start(u.unit, from)); found {
			lo = min(lo, key)
		}
		if key, found := k.keyOfValue(r.plan.Calendar.Start(u.unit, to)); found {
			hi = max(hi, key)
		}
	}
	return [2]uint32{lo, hi}
}
