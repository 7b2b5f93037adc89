package plan

import (
	"strconv"
	"strings"
	"time"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
	"gavrik/internal/core/view"
)

// cycle resolves a test of the weekday or the hour.
func (k *checker) cycle(t *Predicate, op view.Op, values []string, at string) {
	t.Match, t.Unit = MatchCycle, calendar.ByWeekday
	if op == view.Hour {
		t.Unit = calendar.ByHour
	}
	if len(values) == 0 {
		k.fault(code.NoOperand, at+".values", "no %s is chosen; choose at least one", t.Unit.Word())
	}
	for i, v := range values {
		n, ok := k.cyclePlace(t.Unit, v)
		if !ok && t.Unit == calendar.ByHour {
			k.fault(code.Operand, operandAt(at, view.OneOf, i),
				"%q is not an hour of the day; give a number from 0 to 23", v)
		} else if !ok {
			k.fault(code.Operand, operandAt(at, view.OneOf, i), "%q is not a day of the week; write it as Monday", v)
		}
		t.Cycle |= 1 << n
		t.Given = append(t.Given, k.cal.Label(t.Unit, int64(n)))
	}
}

// cyclePlace is a weekday's place in the calendar's week, or an hour.
func (k *checker) cyclePlace(u calendar.Unit, s string) (n int, ok bool) {
	if u == calendar.ByHour {
		n, err := strconv.Atoi(s)
		return min(max(n, 0), 23), err == nil && n >= 0 && n <= 23
	}
	for d := time.Sunday; d <= time.Saturday; d++ {
		if strings.EqualFold(s, d.String()) {
			return (int(d-k.cal.WeekStart) + 7) % 7, true
		}
	}
	return 0, false
}

// MeetsCycle says whether a stored date or moment falls on one of the test's
// weekdays or hours. clock converts moments; dates need none.
func (t *Predicate) MeetsCycle(v int64, cal calendar.Calendar, clock *calendar.Clock) bool {
	n := v
	switch {
	case t.Unit == calendar.ByHour:
		local := clock.Local(v)
		n = (local - calendar.FloorDay(local)*calendar.DayLen) / calendar.Hour
	case t.Ref.Field.Type == catalog.DateTime:
		n = cal.Weekday(calendar.FloorDay(clock.Local(v)))
	default:
		n = cal.Weekday(v)
	}
	return t.Cycle>>n&1 == 1
}
