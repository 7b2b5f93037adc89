package view

import (
	"slices"

	"gavrik/internal/core/catalog"
)

// Linked tests the records of another set that link to a record: a vessel's
// inspections, a booking's claims.
type Linked struct {
	Records string     `json:"records" doc:"Key of the record set that links here"`
	By      string     `json:"by" doc:"The links that lead here, their keys joined by dots"`
	Where   *Condition `json:"where,omitempty" doc:"Which of the linking records count; all, if left out"`
	Test    LinkedTest `json:"test" enum:"any,none,at_least,at_most,latest,earliest,sum,average" doc:"What is asked of them"`
	N       int        `json:"n,omitempty" minimum:"0" doc:"With at_least and at_most: how many"`
	Date    string     `json:"date,omitempty" doc:"With latest and earliest: path of the date that decides"`
	Meets   *Condition `json:"meets,omitempty" doc:"With latest and earliest: what that one record must meet"`
	Field   string     `json:"field,omitempty" doc:"With sum and average: path of the field"`
	Op      Op         `json:"op,omitempty" enum:"@figure-operators" doc:"With sum and average: how the figure is tested"`
	Value   string     `json:"value,omitempty" doc:"With sum and average: the operand"`
	To      string     `json:"to,omitempty" doc:"With sum and average, and between: the upper operand"`
}

// LinkedTest is what a condition asks of the records that link to one.
type LinkedTest string

// The tests.
const (
	AnyLinked      LinkedTest = "any"
	NoneLinked     LinkedTest = "none"
	AtLeastLinked  LinkedTest = "at_least"
	AtMostLinked   LinkedTest = "at_most"
	LatestLinked   LinkedTest = "latest"
	EarliestLinked LinkedTest = "earliest"
	SumLinked      LinkedTest = "sum"
	AverageLinked  LinkedTest = "average"
)

// LinkedTests lists the tests, the likeliest first.
func LinkedTests() []LinkedTest {
	return []LinkedTest{
		AnyLinked, NoneLinked, AtLeastLinked, AtMostLinked, LatestLinked, EarliestLinked, SumLinked, AverageLinked,
	}
}

// Within keeps the records that another view of the same record set keeps. The
// other view's filter travels with it, so that a document stands by itself.
type Within struct {
	View   string     `json:"view,omitempty" doc:"Name of the other view, for people"`
	Filter *Condition `json:"filter,omitempty" doc:"Its filter"`
}

// LinkedValue is a field drawn from the records that link to a record: how many inspections a
// vessel has, the score of its latest one.
type LinkedValue struct {
	Key     string     `json:"key" doc:"Name that the rest of the document uses"`
	Label   string     `json:"label" doc:"Name for people"`
	Records string     `json:"records" doc:"Key of the record set that links here"`
	By      string     `json:"by" doc:"The links that lead here, their keys joined by dots"`
	Where   *Condition `json:"where,omitempty" doc:"Which of the linking records count; all, if left out"`
	Take    Take       `json:"take" enum:"@takes" doc:"What is taken of them"`
	Field   string     `json:"field,omitempty" doc:"Path of the field that is taken, from the linking record on; none with count and any"`
	Date    string     `json:"date,omitempty" doc:"With latest and earliest: path of the date that decides"`
}

// Take is what a linked value takes of the records that link to one.
type Take string

// What can be taken. Where none links, count, sum and distinct are 0, any is no, and
// everything else is blank; where some link but none has a value, sum is blank as well.
const (
	TakeCount    Take = "count"
	TakeAny      Take = "any"
	TakeSum      Take = "sum"
	TakeAverage  Take = "average"
	TakeSmallest Take = "smallest"
	TakeLargest  Take = "largest"
	TakeDistinct Take = "distinct"
	TakeLatest   Take = "latest"
	TakeEarliest Take = "earliest"
	TakeJoined   Take = "joined"
)

// MostJoined is how many different values are joined; of more, the text says how many.
const MostJoined = 20

// Takes lists what can be taken, the likeliest first.
func Takes() []Take {
	return []Take{
		TakeCount, TakeAny, TakeLatest, TakeEarliest, TakeSum, TakeAverage, TakeSmallest, TakeLargest,
		TakeDistinct, TakeJoined,
	}
}

// OfField says that a field of the linking records is taken, ByDate that a date decides which
// of them it is taken from.
func (t Take) OfField() bool { return t != TakeCount && t != TakeAny }

// ByDate says that one record is chosen by a date.
func (t Take) ByDate() bool { return t == TakeLatest || t == TakeEarliest }

// Words name what is taken in a list of choices, for fields of a type.
func (t Take) Words(of catalog.Type) string {
	switch t {
	case TakeCount:
		return "how many"
	case TakeAny:
		return "whether any"
	case TakeLatest:
		return "of the latest"
	case TakeEarliest:
		return "of the earliest"
	case TakeDistinct:
		return "how many different"
	case TakeJoined:
		return "all different"
	}
	return t.Fn().Words(of)
}

// Fn is the total over the linking records that is taken, or empty if it is none.
func (t Take) Fn() Fn {
	switch t {
	case TakeSum, TakeAverage, TakeSmallest, TakeLargest, TakeDistinct:
		return Fn(t)
	}
	return ""
}

// TakesFor lists what can be taken of fields of a type.
func TakesFor(t catalog.Type) (takes []Take) {
	for _, take := range Takes() {
		fits := take.OfField()
		if fn := take.Fn(); fn != "" {
			fits = slices.Contains(FnsFor(t), fn)
		}
		if fits && (take != TakeJoined || t != catalog.Picture) {
			takes = append(takes, take)
		}
	}
	return takes
}
