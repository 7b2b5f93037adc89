package view

// Calculated is a field worked out by a formula: for each record or, if totals
// stand in it, for each group.
type Calculated struct {
	Key     string `json:"key" doc:"Name that the rest of the document uses"`
	Label   string `json:"label" doc:"Name for people"`
	Formula string `json:"formula" doc:"See docs/formulas.md"`

	Unit     Unit   `json:"unit,omitempty" enum:"number,money,percent" doc:"What a number is shown as; what the formula gives, if left out"`
	Currency string `json:"currency,omitempty" doc:"With money: ISO 4217 code"`
	Decimals *int   `json:"decimals,omitempty" minimum:"0" maximum:"9" doc:"Rounds every result to so many decimals, halves away from zero"`
}

// Unit is what the number that a formula gives is shown as.
type Unit string

// The units. A ratio of 0.125 is 12.5 as a percentage.
const (
	AsNumber  Unit = "number"
	AsMoney   Unit = "money"
	AsPercent Unit = "percent"
)
