// Package board is the board document: several saved views on one sheet, each shown as far as it matters
// there. A board asks nothing itself and holds no figures: every figure on it is one of its views'.
package board

import (
	"encoding/json"
	"fmt"
	"strings"

	"gavrik/internal/core/code"
	"gavrik/internal/core/view"
)

// Version is the document version this program writes.
const Version = 1

// Board is a board as it is saved: its parts in reading order. They stand side by side in a grid of
// Columns columns as long as there is room, and begin the next row where there is not.
type Board struct {
	Gavrik int    `json:"gavrik" minimum:"1" maximum:"1" doc:"Version of the document format"`
	Parts  []Part `json:"parts" doc:"What stands on the sheet, in reading order"`
}

// Part is one ruled part of the sheet.
type Part struct {
	Key  string `json:"key" pattern:"^[a-z][a-z0-9_]*$" maxLength:"40" doc:"Names the part on its board"`
	Show Show   `json:"show" enum:"figure,chart,groups,table,text" doc:"What is shown"`
	View string `json:"view,omitempty" maxLength:"40" doc:"Key of the saved view; none for a text"`

	Heading string  `json:"heading,omitempty" maxLength:"120" doc:"In place of the view's name"`
	Field   string  `json:"field,omitempty" doc:"Of a figure or a chart: path of the column whose total it is; the first total, if left out"`
	Fn      view.Fn `json:"fn,omitempty" enum:"@totals" doc:"Of a figure or a chart: which total of that column; its first, if left out"`
	Count   bool    `json:"count,omitempty" doc:"Of a figure or a chart: the number of records, whatever totals the view has"`
	Depth   int     `json:"depth,omitempty" minimum:"0" maximum:"20" doc:"Of groups: how many levels within the outermost are open"`
	Lines   int     `json:"lines,omitempty" minimum:"1" maximum:"100" doc:"Of groups and a table: how many lines; as many as fit, if left out"`
	Text    string  `json:"text,omitempty" maxLength:"20000" doc:"Of a text: what it says, in Markdown"`

	Wide int  `json:"wide,omitempty" minimum:"2" maximum:"12" doc:"Columns of the grid, of twelve; as suits what is shown, if left out"`
	High int  `json:"high,omitempty" minimum:"2" maximum:"30" doc:"Rows of the grid; as suits what is shown, if left out"`
	Page bool `json:"page,omitempty" doc:"Begins a page: on paper, and where a board is shown page by page"`
}

// Show is what a part shows of its view.
type Show string

// What can be shown.
const (
	Figure Show = "figure" // one total of all records, with its change where the view compares
	Chart  Show = "chart"  // the view's chart, or one as fits its groups
	Groups Show = "groups" // the first lines of the ledger's groups
	Table  Show = "table"  // the first records, in the view's order
	Text   Show = "text"   // words of the board's own
)

// The bounds of a board.
const (
	// Columns is how many the grid has.
	Columns = 12
	// MaxParts is how many parts a board may have: each is worked out by itself.
	MaxParts = 40
)

// usual is the size of a part whose author has not said one, in columns and rows.
var usual = map[Show][2]int{Figure: {3, 3}, Chart: {6, 8}, Groups: {6, 8}, Table: {12, 8}, Text: {6, 3}}

// Size is how many columns and rows of the grid a part takes.
func (p Part) Size() (wide, high int) {
	wide, high = usual[p.Show][0], usual[p.Show][1]
	if p.Wide > 0 {
		wide = p.Wide
	}
	if p.High > 0 {
		high = p.High
	}
	return wide, high
}

// Parse reads a board. The error is view.Faults, and names everything that does not fit its form.
func Parse(data []byte) (*Board, error) {
	doc := &Board{}
	if err := view.Decode(data, doc, `a board is wanted, an object: { "gavrik": 1, "parts": … }`); err != nil {
		return nil, err
	}
	return doc, nil
}

// UnmarshalJSON is Parse for boards within other JSON.
func (d *Board) UnmarshalJSON(text []byte) error {
	doc, err := Parse(text)
	if err == nil {
		*d = *doc
	}
	return err
}

// MarshalJSON writes no null for a board without parts.
func (d Board) MarshalJSON() ([]byte, error) {
	type plain Board
	if d.Parts == nil {
		d.Parts = []Part{}
	}
	return json.Marshal(plain(d))
}

// Check says what is wrong with a board by itself, whatever its views are. The error is view.Faults.
func (d *Board) Check() error {
	var faults view.Faults
	say := func(at int, key string, c code.Code, format string, args ...any) {
		faults.Add(view.Fault{Path: fmt.Sprintf("parts[%d]%s", at, key), Code: c, Message: fmt.Sprintf(format, args...)})
	}
	if n := len(d.Parts); n > MaxParts {
		faults.Add(view.Fault{Path: "parts", Code: code.Many, Message: fmt.Sprintf(
			"the board has %d parts, where %d are the most; put some of them on a second board", n, MaxParts)})
	}
	seen := map[string]bool{}
	for i, p := range d.Parts {
		if seen[p.Key] {
			say(i, ".key", code.KeyTaken, "another part is called %q already; give this one a name of its own", p.Key)
		}
		seen[p.Key] = true
		switch {
		case p.Show == Text && p.View != "":
			say(i, ".view", code.Show, "a text is of no view; leave the view out, or show something of it")
		case p.Show == Text && strings.TrimSpace(p.Text) == "":
			say(i, ".text", code.Missing, "the text says nothing; write something, or take the part off")
		case p.Show != Text && p.View == "":
			say(i, ".view", code.Missing, "the part is of no view; choose one")
		case p.Show != Text && p.Text != "":
			say(i, ".text", code.Show, "a part that shows a view has no text; put it into a part of its own")
		case p.Count && (p.Field != "" || p.Fn != ""):
			say(i, ".count", code.Show, "the number of records is no total of a column; leave one of the two out")
		}
	}
	if len(faults) > 0 {
		return faults
	}
	return nil
}

// Views are the keys of the views that a board is of, each once, in its order.
func (d *Board) Views() []string {
	var out []string
	seen := map[string]bool{}
	for _, p := range d.Parts {
		if p.View != "" && !seen[p.View] {
			seen[p.View] = true
			out = append(out, p.View)
		}
	}
	return out
}
