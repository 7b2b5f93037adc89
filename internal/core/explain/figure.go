// Package explain tells where the figures of a result come from: how one came about, and which
// records it is taken of.
package explain

import (
	"context"
	"fmt"

	"gavrik/internal/core/brief"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// Explanation tells how one figure came about.
type Explanation struct {
	// Label is the total's; Value the figure, of the column Head.
	Label string
	Value cell.Cell
	Head  int
	Part  result.Part
	// Down and Across are the groups it belongs to, from the outermost in.
	Down, Across []result.Key
	// Records is how many records the group holds. Counted is how many values went
	// in and Blanks how many were passed over; -1 where neither is known.
	Records, Counted, Blanks int
	// PerLinked names the linked record that counts once, however many records lead to
	// it; Counted and Blanks are of linked records then.
	PerLinked string
	// Each names the record of which every one counts, although several share the amounts
	// of linked records that go in.
	Each string
	// Mix is set for an average of prices that differ.
	Mix *result.Mix
	Fn  view.Fn
	// Formula is the source of a total that is calculated from others, and From how
	// these came about.
	Formula string
	From    []Explanation
	// Drawn says how the values come about that are drawn from other records, or is empty.
	Drawn string
	// Steps are what the conditions did, and Problems what went wrong on the way.
	Steps    []result.Step
	Problems []result.Problem
}

// Figure tells how the figure of a group (a path as Line.Group gives it; empty for the grand
// total) in a column of the ledger came about. It fails with a NotThereError if there is none.
func Figure(ctx context.Context, r result.Result, group string, head int) (*Explanation, error) {
	sum := r.Summarize()
	if head < 0 || head >= len(sum.Heads) || sum.Plan.Columns[sum.Heads[head].Column].Measure < 0 {
		return nil, &result.NotThereError{What: fmt.Sprintf("total to explain in column %d", head)}
	}
	line, err := r.Group(group, []int{head})
	if err != nil {
		return nil, err
	}
	h := sum.Heads[head]
	x := &explainer{ctx: ctx, r: r, plan: sum.Plan, group: group, head: head, records: recordsOf(line, h, head)}
	measure := sum.Plan.Columns[h.Column].Measure
	out, err := x.measure(measure)
	if err != nil {
		return nil, err
	}
	out.Label, out.Value, out.Head, out.Part = sum.TotalLabel(h), line.Cells[head], head, h.Part
	out.Down, out.Across, out.Steps = line.Keys[:line.Level], h.Across, sum.Steps
	for _, m := range line.Mixes {
		if m.Cell == head {
			out.Mix = &m
		}
	}
	m := sum.Plan.Measures[measure]
	for _, p := range sum.Problems {
		if p.Label == m.Label || p.Label == m.Ref.Label {
			out.Problems = append(out.Problems, p)
		}
	}
	return out, nil
}

// recordsOf is how many records a cell is taken of.
func recordsOf(line result.GroupLine, h result.Head, head int) int {
	switch {
	case len(h.Across) > 0:
		return line.Counts[head]
	case h.Part == result.Other:
		return line.Others
	}
	return line.Count
}

type explainer struct {
	ctx     context.Context
	r       result.Result
	plan    *plan.Plan
	group   string
	head    int
	records int
}

// measure explains the figure of a measure of the plan, but for where it stands.
func (x *explainer) measure(i int) (*Explanation, error) {
	if m := x.plan.Measures[i]; m.Show != "" {
		i = m.Of
	}
	m := x.plan.Measures[i]
	out := &Explanation{Label: m.Label, Fn: m.Fn, Records: x.records, Each: m.Each, Counted: -1, Blanks: -1}
	if m.PerLinked {
		out.PerLinked = m.Via
	}
	if d := x.plan.Derived[m.Ref.Path]; d != nil {
		out.Drawn = brief.DrawnFrom(x.plan, d, &view.Made{}) // the brief says which records count
		if d.There != nil {
			d = d.Inner()
		}
		if d.Formula != nil {
			out.Formula = d.Formula.Source
		}
	}
	for _, arg := range m.Args {
		from, err := x.measure(arg)
		if err != nil {
			return nil, err
		}
		out.From = append(out.From, *from)
	}
	if m.Formula != nil || m.Fn == view.Records {
		return out, nil
	}
	var err error
	if out.Counted, err = x.r.Counted(x.ctx, x.group, x.head, i); err != nil {
		return nil, err
	}
	if out.Counted >= 0 && !m.PerLinked {
		out.Blanks = out.Records - out.Counted
	}
	return out, nil
}
