// Package view is the view document: the one thing that is saved, shared,
// compared, exported and run. A document says what to compute in terms of field
// paths; package plan checks it against a catalog.
package view

import "gavrik/internal/core/calendar"

// Version is the document version this program writes.
const Version = 1

// Document is a view as it is saved.
type Document struct {
	Gavrik  int        `json:"gavrik" minimum:"1" doc:"Version of the document format"`
	Records string     `json:"records" doc:"Key of the record set; one row is one of its records"`
	Filter  *Condition `json:"filter,omitempty" doc:"Which records are kept; none keeps all"`
	Columns []Column   `json:"columns" doc:"Columns from left to right"`
	Groups  []Group    `json:"groups,omitempty" doc:"Group levels from the outermost in"`
	Sort    []Sort     `json:"sort,omitempty" doc:"Order of records within their group"`
}

// Condition is either a combination (exactly one of All, Any and None) or a test
// of one field. Operands are written as text, whatever the field's type, so
// that amounts never pass through binary floating point.
type Condition struct {
	All  []Condition `json:"all,omitzero" doc:"Keeps records that meet every one"`
	Any  []Condition `json:"any,omitzero" doc:"Keeps records that meet at least one"`
	None []Condition `json:"none,omitzero" doc:"Keeps records that meet none"`

	Field  string           `json:"field,omitempty" doc:"Path of the field tested"`
	Op     Op               `json:"op,omitempty" doc:"How the field is tested"`
	Value  string           `json:"value,omitempty" doc:"Operand of a test with one"`
	To     string           `json:"to,omitempty" doc:"Upper operand of between, itself included"`
	Values []string         `json:"values,omitempty" doc:"Operands of one_of and none_of"`
	Period *calendar.Period `json:"period,omitempty" doc:"Operand of in and not_in"`
	Other  string           `json:"other,omitempty" doc:"Path of a second field to compare with, in place of value"`
}

// Column is one column of the ledger.
type Column struct {
	Field   string  `json:"field" doc:"Path of the field shown"`
	Heading string  `json:"heading,omitempty" doc:"Heading in place of the field's label"`
	Width   int     `json:"width,omitempty" minimum:"40" maximum:"1200" doc:"Width in CSS pixels"`
	Totals  []Total `json:"totals,omitempty" doc:"What group lines and the grand total show"`
}

// Total is one figure worked out over the records of a group.
type Total struct {
	Fn    Fn     `json:"fn" doc:"How the figure is worked out"`
	Label string `json:"label,omitempty" doc:"Label in place of the usual one"`
}

// Group is one level of groups.
type Group struct {
	Field string        `json:"field" doc:"Path of the field grouped by"`
	Unit  calendar.Unit `json:"unit,omitempty" enum:"day,week,month,quarter,year,fiscal_quarter,fiscal_year" doc:"Length of time a date is grouped by"`
	Order *Order        `json:"order,omitempty" doc:"Order of the groups; by label, ascending, if left out"`
}

// Order is how the groups of one level follow each other.
type Order struct {
	By    string `json:"by" enum:"label,count,total" doc:"What decides"`
	Field string `json:"field,omitempty" doc:"With total: the column's field path"`
	Fn    Fn     `json:"fn,omitempty" doc:"With total: which total of that column"`
	Desc  bool   `json:"desc,omitempty" doc:"Largest or last first"`
}

// Sort is one key of the order of records.
type Sort struct {
	Field string `json:"field" doc:"Path of the field"`
	Desc  bool   `json:"desc,omitempty" doc:"Largest, latest or last first; blanks come last either way"`
}

// What an Order goes by.
const (
	ByLabel = "label"
	ByCount = "count"
	ByTotal = "total"
)
