package view

// Show is what a column shows in place of a total itself.
type Show string

// What can be shown. All but the shares follow the order the groups are shown in,
// among the groups of one parent.
const (
	ShowFigure  Show = ""
	ShareAll    Show = "share_all"    // of the grand total, in percent
	ShareGroup  Show = "share_group"  // of the group around it
	ShareRow    Show = "share_row"    // in a crosstab: of the total of its line
	ShareColumn Show = "share_column" // in a crosstab: of the total of its column
	Running     Show = "running"      // the sum of the figures down to this one
	Rank        Show = "rank"         // 1 for the largest; equal figures share a rank
	Difference  Show = "difference"   // to the group before
	Change      Show = "change"       // to the group before, in percent of it
)

// Shows lists what can be shown.
func Shows() []Show {
	return []Show{ShowFigure, ShareAll, ShareGroup, ShareRow, ShareColumn, Running, Rank, Difference, Change}
}

// Words says it around a total: "share of all claimed".
func (s Show) Words() string {
	switch s {
	case ShareAll:
		return "share of all"
	case ShareGroup:
		return "share of the group's"
	case ShareRow:
		return "share of the line's"
	case ShareColumn:
		return "share of the column's"
	case Running:
		return "running"
	case Rank:
		return "rank by"
	case Difference:
		return "difference to the group before in"
	case Change:
		return "change from the group before in"
	}
	return ""
}

// Additive says whether showing it makes sense only of figures that add up.
func (s Show) Additive() bool {
	return s == ShareAll || s == ShareGroup || s == ShareRow || s == ShareColumn || s == Running
}
