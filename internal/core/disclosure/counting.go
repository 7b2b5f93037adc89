// Package disclosure says what of a result may be told to somebody who is to see totals and never a record:
// statistical disclosure control by cell suppression, as handbooks on it describe (Hundepool et al.,
// "Statistical Disclosure Control", Wiley 2012, chapter 4).
//
// A figure is told if it is taken of no record at all or of a chosen number at least, counted by the values
// that went into it. A total that is one record's own value, such as the largest, is not told. Groups that
// cannot be told are put into one line per group around them, and enough of their neighbours with them that
// what follows by subtraction is of so many records, too.
package disclosure

import (
	"slices"

	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
)

// Counting is a document with one more column for each field whose totals it shows: how many records have a
// value in it. A result of it is what Hold takes; p is the plan of the document itself.
func Counting(doc *view.Document, p *plan.Plan) *view.Document {
	out := *doc
	out.Columns = slices.Clone(doc.Columns)
	out.Chart = nil
	for _, path := range paths(p) {
		out.Columns = append(out.Columns, view.Column{Field: path, Totals: []view.Total{{Fn: view.CountFilled}}})
	}
	return &out
}

// paths are the fields that go into the totals of a plan that may be told, each once.
func paths(p *plan.Plan) (out []string) {
	for _, c := range p.Columns {
		if c.Measure < 0 || !tellable(p, c.Measure) {
			continue
		}
		for _, path := range pathsOf(p, c.Measure) {
			if !slices.Contains(out, path) {
				out = append(out, path)
			}
		}
	}
	return out
}

// pathsOf are the fields that go into a measure.
func pathsOf(p *plan.Plan, measure int) (out []string) {
	m := p.Measures[measure]
	switch {
	case m.Show != "":
		return pathsOf(p, m.Of)
	case m.Formula != nil:
		for _, arg := range m.Args {
			out = append(out, pathsOf(p, arg)...)
		}
		return out
	case m.Fn == view.Records:
		return nil
	}
	return []string{m.Ref.Path}
}

// tellable says whether a measure is no record's own value, and does not follow the order of groups, by which
// those held back could be found.
func tellable(p *plan.Plan, measure int) bool {
	m := p.Measures[measure]
	switch m.Show {
	case "":
	case view.ShareAll, view.ShareGroup, view.ShareRow, view.ShareColumn:
		return tellable(p, m.Of)
	default:
		return false
	}
	if m.Formula != nil {
		return !slices.ContainsFunc(m.Args, func(arg int) bool { return !tellable(p, arg) })
	}
	switch m.Fn {
	case view.Sum, view.Average, view.Spread, view.Variance, view.Distinct, view.CountFilled, view.Blanks, view.Records:
		return true
	}
	return false
}
