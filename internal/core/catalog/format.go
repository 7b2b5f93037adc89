package catalog

// Format is how the values of a field are written for people, in place of what is
// usual for its type. Other programs get the values as they are.
type Format struct {
	Decimals *int       `json:"decimals,omitempty" minimum:"0" maximum:"6" doc:"Digits behind the point, for numbers, money, percentages, and durations in hours or days"`
	In       Magnitude  `json:"in,omitempty" enum:"thousands,millions" doc:"Numbers and money are divided by so much"`
	Plain    bool       `json:"plain,omitempty" doc:"No comma between thousands, as in the number of a year"`
	Date     DateFormat `json:"date,omitempty" enum:"weekday,iso,day_month,month,year,date_only,time_only" doc:"Which parts of a date or moment are written, and how"`
	Duration LengthUnit `json:"duration,omitempty" enum:"hours,days" doc:"Durations as a decimal number of so much, not as h:mm"`
}

// Magnitude is what large numbers are shown in.
type Magnitude string

// The magnitudes.
const (
	Thousands Magnitude = "thousands"
	Millions  Magnitude = "millions"
)

// Power is the number of digits that a magnitude takes away.
func (m Magnitude) Power() int {
	switch m {
	case Thousands:
		return 3
	case Millions:
		return 6
	}
	return 0
}

// DateFormat chooses the parts of a date.
type DateFormat string

// The formats of dates, by the example of Monday, 23 November 2026, 14:05.
const (
	WithWeekday DateFormat = "weekday"   // Mon 23 Nov 2026
	ISODate     DateFormat = "iso"       // 2026-11-23
	DayMonth    DateFormat = "day_month" // 23 Nov
	MonthYear   DateFormat = "month"     // Nov 2026
	YearOnly    DateFormat = "year"      // 2026
	DateOnly    DateFormat = "date_only" // 23 Nov 2026, also of a moment
	TimeOnly    DateFormat = "time_only" // 14:05, of a moment
)

// LengthUnit is what durations are counted in.
type LengthUnit string

// The units of durations. A day is 24 hours.
const (
	InHours LengthUnit = "hours"
	InDays  LengthUnit = "days"
)

// Fault says why a format does not fit a type, or "" if it does.
func (f *Format) Fault(t Type) string {
	number := t.Numeric() && t != Duration
	switch {
	case f.Decimals != nil && (*f.Decimals < 0 || *f.Decimals > 6):
		return "the number of decimals must be from 0 to 6"
	case f.Decimals != nil && !t.Numeric():
		return t.Word() + " has no decimals"
	case f.Decimals != nil && t == Duration && f.Duration == "":
		return "a duration has decimals only when it is shown in hours or days"
	case (f.In != "" || f.Plain) && !number:
		return t.Word() + " is not shown in thousands"
	case f.In != "" && f.In.Power() == 0:
		return "numbers are shown in thousands or in millions"
	case f.Date != "" && !t.Temporal():
		return t.Word() + " is no date"
	case f.Date == TimeOnly && t == Date:
		return "a date without a time cannot be shown as its time"
	case f.Duration != "" && t != Duration:
		return t.Word() + " is no duration"
	}
	return ""
}
