package view

import "gavrik/internal/core/calendar"

// Compare names the records that every total is compared with: the same view over
// another stretch of time, or over another filter.
type Compare struct {
	With   With             `json:"with" enum:"before,year_ago,weeks_ago,period,filter" doc:"How the other records are found"`
	Field  string           `json:"field,omitempty" doc:"Path of the date that the filter bounds; needed if it bounds several"`
	Period *calendar.Period `json:"period,omitempty" doc:"With period: the other one, relative to today"`
	From   string           `json:"from,omitempty" doc:"With period: first day of the other one"`
	To     string           `json:"to,omitempty" doc:"With period: last day of the other one"`
	Filter *Condition       `json:"filter,omitempty" doc:"With filter: the whole filter of the other records; none keeps all"`
	Label  string           `json:"label,omitempty" doc:"Name of the other side"`
}

// With is how the other side of a comparison is found.
type With string

// The ways. All but OtherFilter take the view's own filter and move the stretch of
// time it bounds.
const (
	PeriodBefore With = "before"   // the stretch of the same length right before
	YearAgo      With = "year_ago" // the same stretch a year earlier
	// WeeksAgo is the weeks of the same numbers a year earlier, day by day of the week; a week 53
	// stands alone where that year has none.
	WeeksAgo    With = "weeks_ago"
	OtherPeriod With = "period"
	OtherFilter With = "filter"
)
