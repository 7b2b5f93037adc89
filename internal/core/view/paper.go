package view

import "slices"

// Paper is how a view goes on paper. It changes no number.
type Paper struct {
	Size     PaperSize `json:"size,omitempty" enum:"A4,A3,Letter,Legal" doc:"A4, if left out"`
	Sideways bool      `json:"sideways,omitempty" doc:"The long edge is at the top"`
	Margin   int       `json:"margin,omitempty" minimum:"5" maximum:"50" doc:"Of every side, in millimetres; 15, if left out"`
	Type     int       `json:"type,omitempty" minimum:"6" maximum:"14" doc:"Size of the type in points; 9, if left out"`
	Over     bool      `json:"over,omitempty" doc:"Columns that do not fit go over the edge, onto further pages beside the first; otherwise the type shrinks until they fit"`
	Break    int       `json:"break,omitempty" minimum:"0" maximum:"10" doc:"Every group of this level begins on a new page; 1 is the outermost"`

	Title    string      `json:"title,omitempty" maxLength:"200" doc:"In place of the view's name"`
	Subtitle string      `json:"subtitle,omitempty" maxLength:"300"`
	Lines    []string    `json:"lines,omitempty" maxItems:"10" doc:"Lines of one's own below"`
	Leave    []PaperPart `json:"leave,omitempty" enum:"title,brief,conditions,answers,moment,made,author,pages,count,letterhead" doc:"Parts of the heading and the footing that are left out"`
}

// PaperSize is that of a sheet.
type PaperSize string

// The sizes of sheets.
const (
	A4     PaperSize = "A4"
	A3     PaperSize = "A3"
	Letter PaperSize = "Letter"
	Legal  PaperSize = "Legal"
)

// PaperPart is what can be left out of a heading or a footing.
type PaperPart string

// The parts of headings and footings.
const (
	PaperTitle      PaperPart = "title"
	PaperBrief      PaperPart = "brief"
	PaperConditions PaperPart = "conditions"
	PaperAnswers    PaperPart = "answers"
	PaperMoment     PaperPart = "moment" // of the records
	PaperMade       PaperPart = "made"   // when it was printed
	PaperAuthor     PaperPart = "author"
	PaperPages      PaperPart = "pages"
	PaperCount      PaperPart = "count" // of the records, at the end
	PaperLetterhead PaperPart = "letterhead"
)

// Leaves says whether a part is left out.
func (p *Paper) Leaves(part PaperPart) bool { return slices.Contains(p.Leave, part) }
