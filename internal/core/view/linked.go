package view

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
