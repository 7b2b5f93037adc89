package view

import (
	"slices"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
)

// Beside is a field that sets a record beside others: those of its group, or the one before it
// in an order.
type Beside struct {
	Key   string       `json:"key" doc:"Name that the rest of the document uses"`
	Label string       `json:"label" doc:"Name for people"`
	Take  BesideTake   `json:"take" enum:"@beside" doc:"What is taken of the group, or of the records before"`
	Field string       `json:"field,omitempty" doc:"Path of the field that is looked at; none with count and position"`
	Each  []BesideEach `json:"each,omitempty" doc:"What records of one group have in common; all are one group, if left out"`
	By    []Sort       `json:"by,omitempty" doc:"Order of the records of a group, for what goes by one"`
	Among *Condition   `json:"among,omitempty" doc:"Which records there are beside it; those that the view’s other conditions keep, if left out, and in a definition all"`
}

// BesideEach is a part of what the records of one group have in common.
type BesideEach struct {
	Field string        `json:"field" doc:"Path of the field"`
	Unit  calendar.Unit `json:"unit,omitempty" enum:"day,week,month,quarter,year,fiscal_quarter,fiscal_year,weekday,hour" doc:"Length of time a date is grouped by"`
}

// BesideTake is what a record is set beside.
type BesideTake string

// What can be taken of the record's group, and of the records before it in an order.
const (
	GroupShare   BesideTake = "share"        // the value in percent of the group's total
	GroupRank    BesideTake = "rank"         // 1 for the largest; equal values share a rank
	FromAverage  BesideTake = "from_average" // the value less the group's average
	GroupAverage BesideTake = "average"
	GroupTotal   BesideTake = "total"
	GroupCount   BesideTake = "count"

	Previous       BesideTake = "previous" // the value of the record before
	Next           BesideTake = "next"
	PreviousChange BesideTake = "change"   // the value less that of the record before
	SincePrevious  BesideTake = "since"    // the time since the record before
	RunningTotal   BesideTake = "running"  // the sum down to this record
	FirstOfEach    BesideTake = "first"    // the first value there is in the group
	LastOfEach     BesideTake = "last"     // the last value there is in the group
	Position       BesideTake = "position" // 1 for the first record of the group
)

// BesideTakes lists what can be taken: of the group, then by an order.
func BesideTakes() []BesideTake {
	return []BesideTake{
		GroupShare, GroupRank, FromAverage, GroupAverage, GroupTotal, GroupCount, PreviousChange, SincePrevious,
		Previous, Next, RunningTotal, FirstOfEach, LastOfEach, Position,
	}
}

// Ordered says whether the records of a group need an order.
func (t BesideTake) Ordered() bool {
	switch t {
	case PreviousChange, SincePrevious, Previous, Next, RunningTotal, FirstOfEach, LastOfEach, Position:
		return true
	}
	return false
}

// OfField says whether a field is looked at.
func (t BesideTake) OfField() bool { return t != GroupCount && t != Position }

// Combines says whether values of several records are put together, as those of several
// currencies cannot be.
func (t BesideTake) Combines() bool { return t.OfField() && t != SincePrevious }

// Fits says whether it can be taken of fields of a type.
func (t BesideTake) Fits(of catalog.Type) bool {
	fns := FnsFor(of)
	switch t {
	case GroupShare, GroupTotal, RunningTotal:
		return slices.Contains(fns, Sum)
	case FromAverage, GroupAverage:
		return slices.Contains(fns, Average)
	case PreviousChange:
		return of.Numeric()
	case GroupRank:
		return of.Numeric() || of.Temporal()
	case SincePrevious:
		return of.Temporal()
	}
	return of != catalog.Picture
}

// Result describes the values, of a field.
func (t BesideTake) Result(of catalog.Field) catalog.Field {
	out := catalog.Field{Type: catalog.Whole}
	switch t {
	case GroupShare:
		out = catalog.Field{Type: catalog.Percent, Scale: 2}
	case GroupAverage, FromAverage:
		out = Average.Result(of)
	case SincePrevious:
		if of.Type == catalog.DateTime {
			out = catalog.Field{Type: catalog.Duration, Scale: 1}
		}
	case GroupTotal, PreviousChange, RunningTotal, Previous, Next, FirstOfEach, LastOfEach:
		out = of
	}
	out.Key, out.Unique, out.Lost, out.Meaning, out.CurrencyBy = "", false, "", "", ""
	return out
}

// Words name it in a list of choices.
func (t BesideTake) Words() string {
	return map[BesideTake]string{
		GroupShare: "share", GroupRank: "rank", FromAverage: "above or below the average", GroupAverage: "average",
		GroupTotal: "total", GroupCount: "number of records", Previous: "the one before", Next: "the one after",
		PreviousChange: "change from the one before", SincePrevious: "time since the one before",
		RunningTotal: "running total", FirstOfEach: "the first", LastOfEach: "the last", Position: "position",
	}[t]
}
