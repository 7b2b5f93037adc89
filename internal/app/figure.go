package app

import (
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// Figure is one total of all records of an answered view.
type Figure struct {
	// Label says what it is, Text is it as people read it; empty for none.
	Label, Text string
	// Counted says that it is the number of records.
	Counted bool
	// Other is the same of what the view compares with, Change the difference and Percent that in percent;
	// all are empty if the view compares with nothing. Against names the other side, and Sign is that of
	// the change.
	Other, Change, Percent, Against string
	Sign                            int
	// Why, if not empty, says that the view does not have the total that was asked for.
	Why string
}

// Figure is the total of a column of the view: of its first column with one if no path is given, the column's
// first if no function is. A view without totals, or with count set, gives the number of its records.
func (a *Answer) Figure(path string, fn view.Fn, count bool) Figure {
	if !count {
		for at, h := range a.Heads {
			c := a.Plan.Columns[h.Column]
			if c.Measure < 0 || h.Part != result.Own || len(h.Across) > 0 {
				continue
			}
			m := a.Plan.Measures[c.Measure]
			wanted := path == c.Ref.Path && (fn == "" || fn == m.Fn)
			if wanted || path == "" && a.GrandTotal.Cells[at].Kind != cell.Blank {
				return a.figureAt(at)
			}
		}
	}
	f := a.counted()
	if !count && path != "" {
		f.Why = "The total that stood here is no column of the view any more. Choose another."
	}
	return f
}

// figureAt is the figure of a head, with what stands beside it in a comparison.
func (a *Answer) figureAt(at int) Figure {
	pen := a.Pen(format.People)
	text := func(i int) string {
		if a.GrandTotal.Cells[i].Kind == cell.Blank {
			return ""
		}
		return pen.Figure(i, a.GrandTotal.Cells[i])
	}
	of := a.Heads[at]
	f := Figure{Label: a.Plan.Measures[a.Plan.Columns[of.Column].Measure].Label, Text: text(at)}
	if a.Plan.Compare == nil {
		return f
	}
	f.Against = a.Plan.Compare.Label
	for i, h := range a.Heads {
		if h.Column != of.Column || len(h.Across) > 0 {
			continue
		}
		switch h.Part {
		case result.Other:
			f.Other = text(i)
		case result.Change:
			f.Change, f.Sign = text(i), a.GrandTotal.Cells[i].Sign()
		case result.Percent:
			f.Percent = text(i)
		}
	}
	return f
}

// counted is the number of records as a figure.
func (a *Answer) counted() Figure {
	w := format.NewWriter(format.People, a.Plan.Calendar)
	number := func(n int) string { return w.Number(int64(n), catalog.Field{Type: catalog.Whole}) }
	f := Figure{Label: a.Set.Noun(a.Kept), Text: number(a.Kept), Counted: true}
	if a.Plan.Compare != nil {
		change := a.Kept - a.Others
		f.Against, f.Other, f.Change, f.Sign = a.Plan.Compare.Label, number(a.Others), number(change), change
	}
	return f
}

// CountedText says how many records there are: "1,204 claims".
func (a *Answer) CountedText() string {
	f := a.counted()
	return f.Text + " " + f.Label
}
