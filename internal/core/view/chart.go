package view

// Chart draws one total of the groups. It shows what the ledger shows and nothing
// else; no figure depends on it.
type Chart struct {
	Kind   ChartKind `json:"kind,omitempty" enum:"bars,stacked,lines,areas,shares" doc:"The kind that fits the groups, if left out"`
	Field  string    `json:"field,omitempty" doc:"Path of the column whose total is drawn; the number of records, if left out"`
	Fn     Fn        `json:"fn,omitempty" enum:"@totals" doc:"Which total of that column; its first, if left out"`
	Beside bool      `json:"beside,omitempty" doc:"Stands at the side of the ledger rather than above it"`
	Labels bool      `json:"labels,omitempty" doc:"Writes the figures on the marks"`
	Order  string    `json:"order,omitempty" enum:"groups,largest,smallest" doc:"As the groups stand, if left out"`
	Tint   string    `json:"tint,omitempty" enum:"many,pine,mulberry,slate" doc:"Many colours, or shades of one"`
}

// ChartKind is how a chart draws.
type ChartKind string

// The kinds. Shares draws each part's share of its whole.
const (
	Bars    ChartKind = "bars"
	Stacked ChartKind = "stacked"
	Lines   ChartKind = "lines"
	Areas   ChartKind = "areas"
	Shares  ChartKind = "shares"
)

// ChartKinds lists the kinds.
func ChartKinds() []ChartKind { return []ChartKind{Bars, Stacked, Lines, Areas, Shares} }

// Whole says whether the kind puts parts together, so that they must add up.
func (k ChartKind) Whole() bool { return k == Stacked || k == Areas || k == Shares }

// How the places along a chart follow each other.
const (
	AsGroups      = "groups"
	LargestFirst  = "largest"
	SmallestFirst = "smallest"
)

// ChartOrders lists the orders; none is as the groups stand.
func ChartOrders() []string { return []string{"", AsGroups, LargestFirst, SmallestFirst} }
