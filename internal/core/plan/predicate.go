package plan

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"unicode/utf8"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// Match is how a test decides about one record.
type Match string

// The ways to match.
const (
	MatchBlank    Match = "blank"
	MatchSet      Match = "set"      // one of Texts or Ranges, or blank if Blank is set
	MatchContains Match = "contains" // the folded text holds Texts[0]
	MatchStarts   Match = "starts"
	MatchEnds     Match = "ends"
	MatchLike     Match = "like"  // the folded text is like the pattern Texts[0]; see Pattern
	MatchField    Match = "field" // Compare with Other
	MatchCycle    Match = "cycle" // the weekday or the hour is one of Cycle
	MatchFailed   Match = "failed"
)

// Interval is an inclusive range of stored values. Blank lies in none, as
// Lo is never below math.MinInt64+1.
type Interval struct{ Lo, Hi int64 }

// FloatInterval is an inclusive range of approximate values.
type FloatInterval struct{ Lo, Hi float64 }

// Predicate is one condition on a field, its operands parsed.
type Predicate struct {
	Ref   catalog.Ref
	Match Match
	// Negate keeps exactly the records that do not match, blanks among them.
	Negate bool
	// Blank makes a set match blanks as well.
	Blank bool
	// Texts are folded; Given are the same as the author wrote them.
	Texts, Given []string
	Ranges       []Interval
	Floats       []FloatInterval
	Other        *catalog.Ref
	Compare      view.Op
	// Unit is that of a cycle: calendar.ByWeekday or ByHour; bit n of Cycle says that
	// its n-th weekday or hour is wanted.
	Unit  calendar.Unit
	Cycle uint32
	// Dates are the days a relative period stands for today, in words.
	Dates string
	// Days are the whole days that the test keeps, if it keeps one run of them.
	Days *calendar.Range
	// Period is the relative period, if the test was given as one.
	Period *calendar.Period
}

func (k *checker) predicate(c *view.Condition, at string) *Predicate {
	ref, ok := k.ref(c.Field, at+".field")
	if !ok {
		return nil
	}
	if d := k.derived(c.Field); d != nil && d.PerTotal() {
		k.fault(code.OfTotals, at+".field",
			"%s is calculated from totals of groups; records cannot be filtered by it", ref.Label)
		return nil
	}
	if c.Op == view.Failed {
		if d := k.derived(c.Field); d == nil || d.There == nil && d.Formula == nil {
			k.fault(code.NotMade, at+".op", "%s is not calculated, so it cannot fail", ref.Label)
		}
		return &Predicate{Ref: ref, Match: MatchFailed}
	}
	fits := view.OpsFor(ref.Field.Type)
	if !slices.Contains(fits, c.Op) {
		k.fault(code.Operator, at+".op",
			"%q does not fit %s, which is %s; use %s", c.Op, ref.Label, ref.Field.Type.Word(), view.Words(fits))
		return nil
	}
	t := &Predicate{Ref: ref}
	op, negative := c.Op.Negative()
	t.Negate = negative
	if op == view.Filled {
		op, t.Negate = view.IsBlank, true
	}
	if op == view.IsBlank {
		t.Match = MatchBlank
		return t
	}
	if c.Other != "" {
		return k.fieldTest(t, c, op, at)
	}
	values := []string{c.Value}
	switch op {
	case view.OneOf:
		values = c.Values
		if len(values) == 0 {
			k.fault(code.NoOperand, at+".values", "no value is chosen; choose at least one")
		}
	case view.Between:
		values = []string{c.Value, c.To}
		for i, v := range values {
			if v == "" {
				k.fault(code.NoOperand, operandAt(at, op, i), "the range has no %s; give it, or use %s", pick(
					i == 0, "beginning", "end",
				),
					pick(i == 0, "at_most", "at_least"))
				return nil
			}
		}
	case view.In:
		k.period(t, c.Period, at)
		return t
	case view.Weekday, view.Hour:
		k.cycle(t, op, c.Values, at)
		return t
	}
	if op != view.OneOf && values[0] == "" && ref.Field.Type != catalog.Text {
		k.fault(code.NoOperand, at+".value",
			"nothing is given to compare %s with; give %s, or use blank", ref.Label, ref.Field.Type.Word())
		return nil
	}
	if ref.Field.Type == catalog.Text {
		k.textTest(t, op, values, at)
		return t
	}
	k.rangeTest(t, op, values, at)
	return t
}

func (k *checker) fieldTest(t *Predicate, c *view.Condition, op view.Op, at string) *Predicate {
	if !c.Op.Info().Fields {
		k.fault(code.Operator, at+".other",
			"%q cannot compare two fields; use is, is_not, over, at_least, under or at_most", c.Op)
		return t
	}
	other, ok := k.ref(c.Other, at+".other")
	if !ok {
		return t
	}
	a, b := t.Ref.Field, other.Field
	// A date and a moment are compared by the day.
	comparable := a.Type == b.Type || a.Type.Temporal() && b.Type.Temporal() || a.Type.Numeric() &&
		b.Type.Numeric() && a.Type != catalog.Duration && b.Type != catalog.Duration
	if !comparable {
		k.fault(code.FieldType, at+".other",
			"%s is %s and %s is %s; they cannot be compared", t.Ref.Label, a.Type.Word(), other.Label, b.Type.Word())
		return t
	}
	t.Match, t.Other, t.Compare = MatchField, &other, op
	return t
}

func (k *checker) textTest(t *Predicate, op view.Op, values []string, at string) {
	switch op {
	case view.Contains:
		t.Match = MatchContains
	case view.Starts:
		t.Match = MatchStarts
	case view.Ends:
		t.Match = MatchEnds
	case view.Like:
		t.Match = MatchLike
		if n := utf8.RuneCountInString(values[0]); n > MaxPattern {
			k.fault(code.Operand, at+".value", "the pattern has %d characters; at most %d are read", n, MaxPattern)
		}
	default:
		t.Match = MatchSet
	}
	t.Given = make([]string, 0, len(values))
	for _, v := range values {
		switch {
		case v != "":
			t.Given = append(t.Given, v)
		case op == view.OneOf:
			t.Blank = true
		default:
			k.fault(code.NoOperand, at+".value", "no text is given; type one, or use blank")
		}
	}
	t.Texts = table.FoldAll(t.Given)
}

func (k *checker) period(t *Predicate, p *calendar.Period, at string) {
	if p == nil {
		k.fault(code.Period, at+".period", "no period is given; choose one such as the last 30 days")
		return
	}
	if err := p.Check(); err != nil {
		k.fault(code.Period, at+".period"+partOf(err), "%s", err)
		return
	}
	r := k.cal.Resolve(*p)
	t.Match, t.Dates, t.Period = MatchSet, r.Dates(), p
	t.Ranges, t.Days = k.days(t.Ref.Field.Type, r), &r
}

// partOf is the part of a period that is wrong.
func partOf(err error) string {
	var wrong *calendar.PeriodError
	if errors.As(err, &wrong) {
		return "." + wrong.Part
	}
	return ""
}

const lowest = calendar.Lowest

// days are the stored values that lie in a range of days.
func (k *checker) days(t catalog.Type, r calendar.Range) []Interval {
	whole := Interval{r.From, r.To}
	if t == catalog.DateTime {
		whole = Interval{r.From * calendar.DayLen, (r.To+1)*calendar.DayLen - 1}
	}
	if r.OpenFrom {
		whole.Lo = lowest
	}
	if r.OpenTo {
		whole.Hi = calendar.Highest
	}
	return k.stored(t, whole)
}

// stored turns a range of what is read, of moments the time on the clock, into those of
// what is stored.
func (k *checker) stored(t catalog.Type, r Interval) []Interval {
	if t != catalog.DateTime {
		return []Interval{r}
	}
	var out []Interval
	for _, s := range k.cal.Moments(r.Lo, r.Hi) {
		out = append(out, Interval{s.From, s.To})
	}
	return out
}

// rangeTest turns a comparison into inclusive ranges of stored values. An
// operand between two storable values ("over 0.005" on a field with two
// decimals) is moved to the neighbour that keeps the same records.
func (k *checker) rangeTest(t *Predicate, op view.Op, values []string, at string) {
	t.Match = MatchSet
	if t.Ref.Field.Approx {
		k.floatTest(t, op, values, at)
		return
	}
	points := make([]Interval, 0, len(values))
	for i, v := range values {
		if v == "" && op == view.OneOf {
			t.Blank = true
			continue
		}
		p, err := k.point(t.Ref.Field, v)
		if err != nil {
			k.fault(code.Operand, operandAt(at, op, i), "%s", err)
			return
		}
		points = append(points, p)
	}
	if len(points) == 0 {
		return
	}
	p, typ := points[0], t.Ref.Field.Type
	ranges := points
	switch op {
	case view.Over:
		ranges = []Interval{{p.Hi + 1, math.MaxInt64}}
	case view.AtLeast:
		ranges = []Interval{{p.Lo, math.MaxInt64}}
	case view.Under:
		ranges = []Interval{{lowest, p.Lo - 1}}
	case view.AtMost:
		ranges = []Interval{{lowest, p.Hi}}
	case view.Between:
		if reversed(typ, p, points[1], values) {
			k.fault(code.Reversed, at+".to", "the range ends before it begins; swap its two values")
			return
		}
		ranges = []Interval{{p.Lo, points[1].Hi}}
	}
	if typ.Temporal() && op != view.OneOf && !slices.ContainsFunc(values, hasTime) {
		t.Days = daysOf(typ, ranges[0])
	}
	t.Ranges = nil
	for _, r := range ranges {
		t.Ranges = append(t.Ranges, k.stored(typ, r)...)
	}
}

// operandAt is the place of an operand in a document.
func operandAt(at string, op view.Op, i int) string {
	switch {
	case op == view.OneOf:
		return fmt.Sprintf("%s.values[%d]", at, i)
	case i > 0:
		return at + ".to"
	}
	return at + ".value"
}

// reversed says whether the second of two operands comes before the first. Two numbers
// between the same two values that can be stored are compared as they are written.
func reversed(t catalog.Type, from, to Interval, written []string) bool {
	if to.Hi >= from.Lo || !t.Numeric() || t == catalog.Duration {
		return to.Hi < from.Lo
	}
	a, errA := parseRat(written[0])
	b, errB := parseRat(written[1])
	return errA != nil || errB != nil || b.Cmp(a) < 0
}

// hasTime says whether an operand names a time of the day, not a whole day.
func hasTime(operand string) bool { return len(operand) > len("2026-11-23") }

// daysOf is a range of dates, or of the clock's time, in days.
func daysOf(t catalog.Type, r Interval) *calendar.Range {
	out := calendar.Range{From: r.Lo, To: r.Hi, OpenFrom: r.Lo == lowest, OpenTo: r.Hi == calendar.Highest}
	if t == catalog.DateTime {
		out.From, out.To = calendar.FloorDay(r.Lo), calendar.FloorDay(r.Hi)
	}
	return &out
}

// point is the values that an operand names, moments by the time on the clock: one value,
// a whole day of moments, or none (Hi below Lo) when it lies between two of them.
func (k *checker) point(f catalog.Field, s string) (Interval, error) {
	switch f.Type {
	case catalog.YesNo:
		return yesNoPoint(s)
	case catalog.Date, catalog.DateTime:
		if f.Type == catalog.DateTime && hasTime(s) {
			m, err := calendar.ParseLocal(s)
			step := calendar.Minute // as it is typed and shown
			if len(s) > len("2026-11-23T14:30") {
				step = calendar.Second
			}
			return Interval{m, m + step - 1}, err
		}
		d, err := calendar.ParseDay(s)
		if f.Type == catalog.Date || err != nil {
			return Interval{d, d}, err
		}
		return Interval{d * calendar.DayLen, (d+1)*calendar.DayLen - 1}, nil
	case catalog.Duration:
		d, err := ParseDuration(s)
		return Interval{d, d}, err
	}
	return ParseNumber(s, f.Scale)
}

func yesNoPoint(s string) (Interval, error) {
	switch strings.ToLower(s) {
	case "yes":
		return Interval{1, 1}, nil
	case "no":
		return Interval{0, 0}, nil
	case "true", "1":
		return Interval{}, fmt.Errorf("%q stands where yes or no is wanted; write yes", s)
	case "false", "0":
		return Interval{}, fmt.Errorf("%q stands where yes or no is wanted; write no", s)
	}
	return Interval{}, fmt.Errorf("%q is neither yes nor no", s)
}

func (k *checker) floatTest(t *Predicate, op view.Op, values []string, at string) {
	var points []float64
	for i, v := range values {
		if v == "" && op == view.OneOf {
			t.Blank = true
			continue
		}
		x, err := ParseFloat(v)
		if err != nil {
			k.fault(code.Operand, operandAt(at, op, i), "%s", err)
			return
		}
		points = append(points, x)
	}
	if len(points) == 0 {
		return
	}
	// No stored value is infinite.
	x, most := points[0], math.MaxFloat64
	switch op {
	case view.Over:
		t.Floats = []FloatInterval{{math.Nextafter(x, most), most}}
	case view.AtLeast:
		t.Floats = []FloatInterval{{x, most}}
	case view.Under:
		t.Floats = []FloatInterval{{-most, math.Nextafter(x, -most)}}
	case view.AtMost:
		t.Floats = []FloatInterval{{-most, x}}
	case view.Between:
		if points[1] < x {
			k.fault(code.Reversed, at+".to", "the range ends before it begins; swap its two values")
		}
		t.Floats = []FloatInterval{{x, points[1]}}
	default:
		for _, p := range points {
			t.Floats = append(t.Floats, FloatInterval{p, p})
		}
	}
}

// Meets says whether a stored value lies in one of the test's ranges.
func (t *Predicate) Meets(v int64) bool {
	return slices.ContainsFunc(t.Ranges, func(r Interval) bool { return v >= r.Lo && v <= r.Hi })
}

// MeetsFloat is Meets for approximate values.
func (t *Predicate) MeetsFloat(v float64) bool {
	return slices.ContainsFunc(t.Floats, func(r FloatInterval) bool { return v >= r.Lo && v <= r.Hi })
}
