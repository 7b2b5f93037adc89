package chart

import (
	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/result"
)

// fillTime gives the units of time without records their places along an axis that runs along
// time, so that equal distances are equal times.
func (d *drawer) fillTime() {
	unit, cal, keys := d.axis.group.Unit, d.Plan.Calendar, d.keys
	if unit == "" && d.axis.group.Ref.Field.Type == catalog.Date {
		unit = calendar.ByDay
	}
	if !d.axis.temporal() || d.bySize() || unit == "" || len(keys) < 2 {
		return
	}
	// from says which of the places drawn stands at each place, or -1; labels are those of the empty ones.
	var from []int
	labels := map[int]string{}
	for i, k := range keys {
		if i > 0 && dated(keys[i-1]) && dated(k) {
			for day := cal.Add(unit, keys[i-1].Value.Int, 1); day < k.Value.Int; day = cal.Add(unit, day, 1) {
				if len(from)+len(keys)-i >= MaxMoments {
					d.note("Times without records are left out: there are too many of them.")
					return
				}
				labels[len(from)] = d.w.Unit(cal, unit, day)
				from = append(from, -1)
			}
		}
		from = append(from, i)
	}
	if len(labels) == 0 {
		return
	}
	places := make([]string, len(from))
	for i, f := range from {
		if places[i] = labels[i]; f >= 0 {
			places[i] = d.out.Places[f]
		}
	}
	d.out.Places = places
	for s := range d.out.Series {
		marks := noMarks(len(from))
		for i, f := range from {
			if f >= 0 {
				marks[i] = d.out.Series[s].Marks[f]
			}
		}
		d.out.Series[s].Marks = marks
	}
}

// dated says whether a group is one unit of time, neither blank nor the rest of a top level.
func dated(k result.Key) bool {
	return k.Joined == 0 && k.Value.Kind == cell.Date
}
