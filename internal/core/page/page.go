// Package page lays a result out on sheets of paper: a result, a set-up and the widths of type
// give pages of texts at places. What is seen before printing and what is printed are drawn from
// the same pages. Lengths are in points, 72 to an inch, from the upper left corner.
package page

// Face is a face of type.
type Face string

// The faces: Sans for figures, Serif for titles and the names of groups.
const (
	Sans      Face = "sans"
	SansBold  Face = "sans-bold"
	Serif     Face = "serif"
	SerifBold Face = "serif-bold"
)

// Metrics measures type.
type Metrics interface {
	// Width is that of a text in a face at a size: the sum of those of its characters.
	Width(face Face, size float64, text string) float64
}

// Page is one sheet.
type Page struct {
	// Number counts from 1; Of is how many there are.
	Number   int       `json:"number"`
	Of       int       `json:"of"`
	Width    float64   `json:"width"`
	Height   float64   `json:"height"`
	Texts    []Text    `json:"texts"`
	Rules    []Stroke  `json:"rules"`
	Fills    []Fill    `json:"fills"`
	Shapes   []Shape   `json:"shapes"`
	Pictures []Picture `json:"pictures"`
}

// Text stands with the start of its base line at a place.
type Text struct {
	X    float64 `json:"x"`
	Y    float64 `json:"y"`
	Face Face    `json:"face" enum:"sans,sans-bold,serif,serif-bold"`
	Size float64 `json:"size"`
	// Quiet texts are in a lighter ink.
	Quiet bool   `json:"quiet,omitempty"`
	Text  string `json:"text"`
	// Role says what the text is to whoever reads the page aloud.
	Role Role `json:"role" enum:"title,about,heading,group,value,footing"`
}

// Role is what a text is.
type Role string

// The roles.
const (
	Title   Role = "title"
	About   Role = "about"   // the brief, and what else stands above the table
	Heading Role = "heading" // of a column
	Group   Role = "group"   // the name of a group
	Value   Role = "value"
	Footing Role = "footing"
)

// Stroke is a line from one place to another; a faint one is in a lighter ink.
type Stroke struct {
	X1    float64 `json:"x1"`
	Y1    float64 `json:"y1"`
	X2    float64 `json:"x2"`
	Y2    float64 `json:"y2"`
	Width float64 `json:"width"`
	Faint bool    `json:"faint,omitempty"`
}

// Fill is a coloured part.
type Fill struct {
	X      float64 `json:"x"`
	Y      float64 `json:"y"`
	Width  float64 `json:"width"`
	Height float64 `json:"height"`
	Ink    Ink     `json:"ink" enum:"shade,bar,below"`
}

// Shape is a mark of a chart: a surface, or a line from point to point.
type Shape struct {
	// Points are x and y of each, one after the other.
	Points []float64 `json:"points"`
	// Series is its colour, by the place of its series in the chart.
	Series int  `json:"series"`
	Line   bool `json:"line,omitempty"`
}

// Ink is the colour of a fill.
type Ink string

// The inks.
const (
	Shade Ink = "shade" // behind the lines of outermost groups
	Bar   Ink = "bar"   // a bar behind a figure
	Below Ink = "below" // a bar of a figure below zero
)

// Picture is one that fits into a box, in the middle of its height.
type Picture struct {
	X      float64 `json:"x"`
	Y      float64 `json:"y"`
	Width  float64 `json:"width"`
	Height float64 `json:"height"`
	// Address holds the picture itself: data:image/…
	Address string `json:"address"`
}

// MaxPages is how many pages one result may take.
const MaxPages = 8000

// Error says why a result does not go on paper, and what to do.
type Error struct{ Why string }

func (e *Error) Error() string { return e.Why }
