package plan

import (
	"slices"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
	"gavrik/internal/core/view"
)

// Compare is the other side of a comparison.
type Compare struct {
	// Filter decides which records it has; nil keeps all.
	Filter *Node
	// Label names it; Dates are the days it bounds, in words, or empty.
	Label, Dates string
	// Path is the date that was moved, and Shift how far back. Groups by that date
	// are moved forward again, so that January stands beside January.
	Path  string
	Shift Shift
}

// Shift is a distance in time: whole months where both stretches start with one,
// else days; or to the week of the same number, years on.
type Shift struct {
	Months, Days int
	WeekYears    int `json:",omitempty"`
}

// Forward moves the first day of a unit, or any day, ahead by the shift, to the
// start of the unit it comes to lie in.
func (s Shift) Forward(cal calendar.Calendar, u calendar.Unit, d calendar.Day) calendar.Day {
	moved := d + int64(s.Days)
	if s.WeekYears != 0 {
		// Days whose week has no match are not on the other side; groups without records may be.
		moved, _ = cal.SameWeek(d, s.WeekYears)
	}
	if s.Months != 0 {
		moved = cal.Shift(calendar.ByMonth, d, s.Months)
		if u == calendar.ByWeek && s.Months%12 == 0 {
			moved = d + int64(s.Months/12*364) // a week beside the week nearest to it
		}
	}
	if u == "" {
		return moved
	}
	return cal.Start(u, moved)
}

func (k *checker) compare(c *view.Compare) {
	out := &Compare{Label: c.Label}
	k.plan.Compare = out
	if c.With == view.OtherFilter {
		if c.Filter != nil {
			out.Filter = k.node(c.Filter, "compare.filter")
		}
		if out.Label == "" {
			out.Label = "other filter"
		}
		return
	}
	bound := k.bounded(c.Field)
	if bound == nil {
		return
	}
	now := bound.days
	var other calendar.Range
	switch c.With {
	case view.PeriodBefore:
		other = k.before(bound)
	case view.YearAgo:
		other = calendar.Range{
			From: k.cal.Shift(calendar.ByYear, now.From, -1), To: k.cal.Shift(calendar.ByYear, now.To+1, -1) - 1,
		}
	case view.WeeksAgo:
		k.sameWeeks(out, bound)
		return
	case view.OtherPeriod:
		var ok bool
		if other, ok = k.otherPeriod(c); !ok {
			return
		}
	default:
		k.fault(code.Choice, "compare.with",
			"%q is no way to compare; use before, year_ago, weeks_ago, period or filter", c.With)
		return
	}
	out.Dates, out.Path, out.Shift = other.Dates(), bound.path, distance(now, other)
	if out.Label == "" {
		out.Label = map[view.With]string{
			view.PeriodBefore: "period before", view.YearAgo: "year ago",
		}[c.With]
		if out.Label == "" {
			out.Label = out.Dates
		}
	}
	out.Filter = k.moved(k.plan.Filter, bound, []calendar.Range{other})
}

// sameWeeks compares with the weeks of the same numbers a year before. A week 53 stands alone where
// the other year has none.
func (k *checker) sameWeeks(out *Compare, bound *stretch) {
	others := k.cal.SameWeeks(bound.days, -1)
	if len(others) == 0 {
		k.fault(code.Compare, "compare",
			"no week of the same number lies a year before the stretch that the filter keeps; choose another comparison")
		return
	}
	whole := calendar.Range{From: others[0].From, To: others[len(others)-1].To}
	out.Dates, out.Path, out.Shift = whole.Dates(), bound.path, Shift{WeekYears: 1}
	if out.Label == "" {
		out.Label = "same weeks a year ago"
	}
	out.Filter = k.moved(k.plan.Filter, bound, others)
}

// stretch is a run of whole days that the filter keeps of a date, by one condition or by
// two: one from a day on, one up to a day.
type stretch struct {
	path  string
	nodes []*Node
	days  calendar.Range
}

// bounded finds the stretch of time that holds for every record kept.
func (k *checker) bounded(path string) *stretch {
	var paths []string
	found := map[string]*stretch{}
	var look func(n *Node)
	look = func(n *Node) {
		switch {
		case n == nil:
		case n.Kind == All:
			for _, c := range n.Children {
				look(c)
			}
		case n.Kind == Leaf && n.Predicate.Days != nil && !n.Predicate.Negate &&
			(path == "" || n.Predicate.Ref.Path == path):
			at := n.Predicate.Ref.Path
			if found[at] == nil {
				paths = append(paths, at)
				found[at] = &stretch{path: at, days: calendar.Range{OpenFrom: true, OpenTo: true}}
			}
			found[at].add(n)
		}
	}
	look(k.plan.Filter)
	paths = slices.DeleteFunc(paths, func(p string) bool { return !found[p].whole() })
	switch len(paths) {
	case 1:
		return found[paths[0]]
	case 0:
		k.fault(code.Compare, "compare", "the filter bounds no stretch of whole days to compare another with; "+
			"add a condition such as a date in the last month")
	default:
		k.fault(code.Compare, "compare.field",
			"the filter bounds several dates; say which one to move: %s or %s", paths[0], paths[1])
	}
	return nil
}

// add narrows the stretch by a condition.
func (s *stretch) add(n *Node) {
	s.nodes = append(s.nodes, n)
	d := n.Predicate.Days
	if !d.OpenFrom && (s.days.OpenFrom || d.From > s.days.From) {
		s.days.From, s.days.OpenFrom = d.From, false
	}
	if !d.OpenTo && (s.days.OpenTo || d.To < s.days.To) {
		s.days.To, s.days.OpenTo = d.To, false
	}
}

// whole says whether the stretch has a beginning and an end.
func (s *stretch) whole() bool { return !s.days.OpenFrom && !s.days.OpenTo && s.days.From <= s.days.To }

// period is the relative period that bounds the stretch, or nil.
func (s *stretch) period() *calendar.Period {
	if len(s.nodes) != 1 {
		return nil
	}
	return s.nodes[0].Predicate.Period
}

// before is the stretch before: as many whole months if it is of whole months, the
// same part of the unit before if it runs up to today, else as many days.
func (k *checker) before(s *stretch) calendar.Range {
	now := s.days
	if p := s.period(); p != nil && p.Which == calendar.ToDate {
		from := k.cal.Add(p.Unit, now.From, -1)
		return calendar.Range{From: from, To: min(k.cal.Shift(p.Unit, now.To, -1), now.From-1)}
	}
	if months := wholeMonths(now); months > 0 {
		return calendar.Range{From: k.cal.Add(calendar.ByMonth, now.From, -months), To: now.From - 1}
	}
	return calendar.Range{From: now.From - (now.To - now.From + 1), To: now.From - 1}
}

// wholeMonths counts the months of a range of whole ones; 0 if it is none.
func wholeMonths(r calendar.Range) int {
	y1, m1, d1 := calendar.Date(r.From)
	y2, m2, d2 := calendar.Date(r.To + 1)
	if d1 != 1 || d2 != 1 {
		return 0
	}
	return (y2-y1)*12 + int(m2) - int(m1)
}

// distance is how far back one range lies from another.
func distance(now, other calendar.Range) Shift {
	y1, m1, d1 := calendar.Date(now.From)
	y2, m2, d2 := calendar.Date(other.From)
	if d1 == d2 && (y1 != y2 || m1 != m2) && (d1 == 1 || m1 == m2) {
		return Shift{Months: (y1-y2)*12 + int(m1) - int(m2)}
	}
	return Shift{Days: int(now.From - other.From)}
}

func (k *checker) otherPeriod(c *view.Compare) (calendar.Range, bool) {
	if c.Period != nil {
		if err := c.Period.Check(); err != nil {
			k.fault(code.Period, "compare.period"+partOf(err), "%s", err)
			return calendar.Range{}, false
		}
		r := k.cal.Resolve(*c.Period)
		if r.OpenFrom || r.OpenTo {
			k.fault(code.Period, "compare.period",
				"the other period has no end; choose one that is bounded on both sides")
		}
		return r, !r.OpenFrom && !r.OpenTo
	}
	from, err := calendar.ParseDay(c.From)
	if err != nil {
		k.fault(code.Operand, "compare.from", "%s", err)
		return calendar.Range{}, false
	}
	to, err := calendar.ParseDay(c.To)
	if err != nil || to < from {
		k.fault(code.Operand, "compare.to",
			"%q is not the last day of the other period; write a date on or after %s", c.To, c.From)
		return calendar.Range{}, false
	}
	return calendar.Range{From: from, To: to}, true
}

// moved copies a filter with a stretch of time replaced by others.
func (k *checker) moved(n *Node, bound *stretch, to []calendar.Range) *Node {
	if at := slices.Index(bound.nodes, n); at >= 0 {
		// One of several conditions takes the new bounds; the others need no longer hold.
		test := *n.Predicate
		if at > 0 {
			to = []calendar.Range{{OpenFrom: true, OpenTo: true}}
		}
		whole := to[0]
		whole.To, whole.OpenTo = to[len(to)-1].To, to[len(to)-1].OpenTo
		test.Ranges, test.Days = nil, &whole
		for _, r := range to {
			test.Ranges = append(test.Ranges, k.days(test.Ref.Field.Type, r)...)
		}
		if test.Dates = ""; at == 0 {
			test.Dates = whole.Dates()
		}
		return &Node{Path: n.Path, Kind: n.Kind, Predicate: &test}
	}
	out := *n
	out.Children = nil
	for _, c := range n.Children {
		out.Children = append(out.Children, k.moved(c, bound, to))
	}
	return &out
}

// Bounds returns the days that the filter keeps a date within, if one condition
// that holds for every record bounds it on both sides.
func (p *Plan) Bounds(ref catalog.Ref) (from, to calendar.Day, ok bool) {
	k := &checker{plan: p, cal: p.Calendar, faults: &Faults{}}
	s := k.bounded(ref.Path)
	if s == nil {
		return 0, 0, false
	}
	return s.days.From, s.days.To, true
}
