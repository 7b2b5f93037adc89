// Package view is the view document: the one thing that is saved, shared,
// compared, exported and run. A document says what to compute in terms of field
// paths; package plan checks it against a catalog.
package view

import (
	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
)

// Version is the document version this program writes.
const Version = 1

// Document is a view as it is saved.
type Document struct {
	Gavrik  int    `json:"gavrik" minimum:"1" maximum:"1" doc:"Version of the document format"`
	Records string `json:"records" doc:"Key of the record set; one row is one of its records"`

	Calculated []Calculated  `json:"calculated,omitempty" doc:"Fields worked out by formulas; used like any other field, by key"`
	Buckets    []Bucket      `json:"buckets,omitempty" doc:"Fields that put values into named bands; used like any other field, by key"`
	Linked     []LinkedValue `json:"linked,omitempty" doc:"Fields drawn from the records that link here; used like any other field, by key"`

	Beside []Beside `json:"beside,omitempty" doc:"Fields that set a record beside those of its group, or the one before it; used like any other field, by key"`

	Filter  *Condition `json:"filter,omitempty" doc:"Which records are kept; none keeps all"`
	Columns []Column   `json:"columns" doc:"Columns from left to right"`
	Groups  []Group    `json:"groups,omitempty" doc:"Group levels from the outermost in"`
	Across  []Group    `json:"across,omitempty" doc:"Group levels that run across, from the outermost in; they make a crosstab"`
	Sort    []Sort     `json:"sort,omitempty" doc:"Order of records within their group"`
	Compare *Compare   `json:"compare,omitempty" doc:"A second set of records that every total is compared with"`
	Chart   *Chart     `json:"chart,omitempty" doc:"A picture of the groups beside their figures"`
	Paper   *Paper     `json:"paper,omitempty" doc:"How the view goes on paper; it changes no number"`
}

// Condition is either a combination (exactly one of All, Any and None) or a test
// of one field. Operands are written as text, whatever the field's type, so
// that amounts never pass through binary floating point.
type Condition struct {
	All  []Condition `json:"all,omitzero" doc:"Keeps records that meet every one"`
	Any  []Condition `json:"any,omitzero" doc:"Keeps records that meet at least one"`
	None []Condition `json:"none,omitzero" doc:"Keeps records that meet none"`

	Field     string           `json:"field,omitempty" doc:"Path of the field tested"`
	Op        Op               `json:"op,omitempty" enum:"@operators" doc:"How the field is tested"`
	Value     string           `json:"value,omitempty" doc:"Operand of a test with one"`
	To        string           `json:"to,omitempty" doc:"Upper operand of between, itself included"`
	Values    Values           `json:"values,omitempty" doc:"Operands of one_of, none_of, weekday and hour, and of their negatives"`
	Period    *calendar.Period `json:"period,omitempty" doc:"Operand of in and not_in"`
	Other     string           `json:"other,omitempty" doc:"Path of a second field to compare with, in place of value"`
	Parameter *Parameter       `json:"ask,omitempty" doc:"Leaves the operands open for whoever runs the view; those here are proposed"`

	After bool `json:"after,omitempty" doc:"Tested once records are set beside each other: those it takes away are among them still"`

	Linked *Linked `json:"linked,omitempty" doc:"In place of field: a test of the records that link to this one"`
	Within *Within `json:"within,omitempty" doc:"In place of field: the records that another view keeps"`
}

// Column is one column of the ledger.
type Column struct {
	Field   string  `json:"field" doc:"Path of the field shown"`
	Heading string  `json:"heading,omitempty" doc:"Heading in place of the field's label"`
	Width   int     `json:"width,omitempty" minimum:"40" maximum:"1200" doc:"Width in CSS pixels"`
	Totals  []Total `json:"totals,omitempty" doc:"What group lines and the grand total show"`

	Format *catalog.Format `json:"format,omitempty" doc:"How its values and totals are written; as is usual for the type, if left out"`
	Frozen bool            `json:"frozen,omitempty" doc:"Stays in sight while others are scrolled away"`
	Hidden bool            `json:"hidden,omitempty" doc:"Is not shown, and keeps its place and settings"`
	Bars   bool            `json:"bars,omitempty" doc:"Draws a bar behind each figure, as long as its share of the largest one"`
}

// Total is one figure worked out over the records of a group.
type Total struct {
	Fn      Fn     `json:"fn" enum:"@totals" doc:"How the figure is worked out; formula, of a field that is calculated from totals"`
	Label   string `json:"label,omitempty" doc:"Label in place of the usual one"`
	Percent string `json:"percent,omitempty" doc:"With percentile: from 0 to 100; 90 is the value that nine in ten do not pass"`
	By      string `json:"by,omitempty" doc:"With first and last: path of the field that decides; if left out, the order of the records"`
	Show    Show   `json:"show,omitempty" enum:"share_all,share_group,share_row,share_column,running,rank,difference,change" doc:"What is shown in place of the figure itself"`
	Levels  []int  `json:"levels,omitempty" doc:"Levels that show it: 0 is the grand total, 1 the outermost groups; all, if left out"`
}

// Group is one level of groups.
type Group struct {
	Field string        `json:"field" doc:"Path of the field grouped by"`
	Unit  calendar.Unit `json:"unit,omitempty" enum:"day,week,month,quarter,year,fiscal_quarter,fiscal_year,weekday,hour" doc:"Length of time a date is grouped by"`
	Order *Order        `json:"order,omitempty" doc:"Order of the groups; by label, ascending, if left out"`
	Top   int           `json:"top,omitempty" minimum:"0" maximum:"100000" doc:"Keeps the first so many groups and puts the rest into one"`
	Rest  string        `json:"rest,omitempty" doc:"With top: label of the rest"`
	Empty bool          `json:"empty,omitempty" doc:"Shows groups that have no records, too"`
	Keep  *Keep         `json:"keep,omitempty" doc:"Keeps only groups whose own total is as asked"`
}

// Keep says which groups of a level are kept, by a total of their own: those that meet a test,
// or the largest that together make up a share of all. It is decided before Top, from the records
// that the levels further out have left.
type Keep struct {
	Field   string `json:"field,omitempty" doc:"Path of the field whose total decides; the number of records, if left out"`
	Fn      Fn     `json:"fn,omitempty" enum:"@totals" doc:"Which total of that field, whether or not a column shows it"`
	Percent string `json:"percent,omitempty" doc:"With percentile: from 0 to 100"`
	Op      Op     `json:"op,omitempty" enum:"@figure-operators" doc:"How the total is tested"`
	Value   string `json:"value,omitempty" doc:"The operand"`
	To      string `json:"to,omitempty" doc:"With between: the upper operand"`
	Share   string `json:"share,omitempty" doc:"In place of op: keeps the largest groups that together make up so many percent"`
	Others  Others `json:"others,omitempty" enum:"out,rest" doc:"What becomes of the records of the others; they are left out, if not said"`
}

// Others is what becomes of the records of groups that are not kept.
type Others string

// What can become of them: they are left out of everything, or stand as one group, the rest.
const (
	OthersOut  Others = "out"
	OthersRest Others = "rest"
)

// Order is how the groups of one level follow each other.
type Order struct {
	By      string   `json:"by" enum:"label,count,total,list" doc:"What decides"`
	Field   string   `json:"field,omitempty" doc:"With total: path of the field"`
	Fn      Fn       `json:"fn,omitempty" enum:"@totals" doc:"With total: which total of that field, whether or not a column shows it"`
	Percent string   `json:"percent,omitempty" doc:"With percentile: from 0 to 100"`
	Values  []string `json:"values,omitempty" doc:"With list: the values in their order; others follow by label"`
	Desc    bool     `json:"desc,omitempty" doc:"Largest or last first"`
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
	ByList  = "list"
)
