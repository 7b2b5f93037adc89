package calendar

import "fmt"

// Which names a relative period's place against today.
type Which string

// The relative periods. For days, Past and Coming count today; for longer units they
// count full units and leave the present one out. Older is all before Past and Beyond all
// after Coming, for every N: with the days between, they part the calendar without gap or
// overlap.
const (
	This   Which = "this"    // the unit today lies in
	Last   Which = "last"    // the unit before it
	Next   Which = "next"    // the unit after it
	ToDate Which = "to_date" // from the start of this unit to today
	Past   Which = "past"    // the last N days, or N full units before this one
	Coming Which = "coming"  // the next N days, or N full units after this one
	Older  Which = "older"   // before the last N: open towards the past
	Beyond Which = "beyond"  // after the next N: open towards the future
)

// Period is a stretch of time relative to the day the view runs.
type Period struct {
	Which Which `json:"which" enum:"this,last,next,to_date,past,coming,older,beyond" doc:"Place against today"`
	Unit  Unit  `json:"unit" enum:"day,week,month,quarter,year,fiscal_quarter,fiscal_year" doc:"Length of one step"`
	N     int   `json:"n,omitempty" minimum:"0" maximum:"10000" doc:"How many units, for past, coming, older and beyond"`
}

// Range is a run of days, From and To included. OpenFrom and OpenTo say that a
// side has no bound.
type Range struct {
	From, To         Day
	OpenFrom, OpenTo bool
}

// MaxUnits bounds the N of a period, so that no date leaves the calendar.
const MaxUnits = 10_000

// counted says whether a period's N matters.
func (w Which) counted() bool { return w == Past || w == Coming || w == Older || w == Beyond }

// PeriodError says what is wrong with a period, and with which of its parts: which, unit or
// n.
type PeriodError struct{ Part, Message string }

func (e *PeriodError) Error() string { return e.Message }

func wrongPeriod(part, format string, args ...any) error {
	return &PeriodError{part, fmt.Sprintf(format, args...)}
}

// Check reports what is wrong with a period, in words for its author. The error is a
// *PeriodError.
func (p Period) Check() error {
	switch p.Which {
	case This, Last, Next, ToDate, Past, Coming, Older, Beyond:
	default:
		return wrongPeriod("which",
			"%q is not a relative period; use this, last, next, to_date, past, coming, older or beyond", p.Which)
	}
	if !p.Unit.Valid() {
		return wrongPeriod("unit", "%q is not a unit of time; use one of %v", p.Unit, Units())
	}
	if p.Which.counted() && (p.N < 1 || p.N > MaxUnits) {
		return wrongPeriod("n", "the number of %ss must be from 1 to %d, not %d", p.Unit.Word(), MaxUnits, p.N)
	}
	return nil
}

// Resolve gives the days a valid period stands for today.
func (c Calendar) Resolve(p Period) Range {
	today := c.Today()
	this := c.Start(p.Unit, today)
	unitFrom := func(i, n int) Range {
		return Range{From: c.Add(p.Unit, this, i), To: c.Add(p.Unit, this, i+n) - 1}
	}
	switch p.Which {
	case Last:
		return unitFrom(-1, 1)
	case Next:
		return unitFrom(1, 1)
	case ToDate:
		return Range{From: this, To: today}
	case Past:
		if p.Unit == ByDay {
			return Range{From: today - int64(p.N) + 1, To: today}
		}
		return unitFrom(-p.N, p.N)
	case Coming:
		if p.Unit == ByDay {
			return Range{From: today, To: today + int64(p.N) - 1}
		}
		return unitFrom(1, p.N)
	case Older:
		return Range{OpenFrom: true, To: c.Resolve(Period{Past, p.Unit, p.N}).From - 1}
	case Beyond:
		return Range{OpenTo: true, From: c.Resolve(Period{Coming, p.Unit, p.N}).To + 1}
	}
	return unitFrom(0, 1)
}

// Words says a period in running text: "in the last 6 full months".
func (p Period) Words() string {
	unit, n := p.Unit.Word(), p.N
	many := unit + "s"
	if n == 1 {
		many = unit
	}
	if p.Unit != ByDay {
		many = "full " + many
	}
	switch p.Which {
	case This:
		if p.Unit == ByDay {
			return "is today"
		}
		return "is in this " + unit
	case Last:
		if p.Unit == ByDay {
			return "is yesterday"
		}
		return "is in the last " + unit
	case Next:
		if p.Unit == ByDay {
			return "is tomorrow"
		}
		return "is in the next " + unit
	case ToDate:
		return "is in this " + unit + " up to today"
	case Past:
		return fmt.Sprintf("is in the last %d %s", n, many)
	case Coming:
		return fmt.Sprintf("is in the next %d %s", n, many)
	case Older:
		return fmt.Sprintf("is before the last %d %s", n, many)
	}
	return fmt.Sprintf("is after the next %d %s", n, many)
}

// Dates says the days a range stands for: "1 Oct 2026 to 31 Oct 2026".
func (r Range) Dates() string {
	switch {
	case r.OpenFrom:
		return "up to " + FormatDay(r.To)
	case r.OpenTo:
		return "from " + FormatDay(r.From)
	case r.From == r.To:
		return FormatDay(r.From)
	}
	return FormatDay(r.From) + " to " + FormatDay(r.To)
}
