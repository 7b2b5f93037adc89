package engine

import (
	"context"
	"fmt"

	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// Explanation tells how one figure came about.
type Explanation struct {
	// Label is the total's; Value the figure as the ledger shows it.
	Label, Value string
	Part         Part
	// Groups are the labels of the groups it belongs to, from the outermost in, down
	// and then across.
	Groups []string
	// Records is how many records the group holds. Counted is how many values went
	// in and Blanks how many were passed over; -1 where neither is known.
	Records, Counted, Blanks int
	// Once names the linked record that counts once, however many records lead to
	// it; Counted and Blanks are of linked records then.
	Once string
	// Each names the record of which every one counts, although several share the amounts
	// of linked records that go in.
	Each string
	// Mix is set for an average of prices that differ.
	Mix *Mix
	Fn  view.Fn
	// Formula is the source of a total that is calculated from others, and From how
	// these came about.
	Formula string
	From    []Explanation
	// Steps are what the conditions did, and Problems what went wrong on the way.
	Steps    []Step
	Problems []Problem
}

// Explain tells how the figure of a group (a path as Line.Group gives it; empty for
// the grand total) in a column of the ledger came about.
func (e *Engine) Explain(ctx context.Context, r *Result, group string, head int) (*Explanation, error) {
	if head < 0 || head >= len(r.Heads) || r.cells[head] == nil {
		return nil, fmt.Errorf("engine: column %d shows no total to explain", head)
	}
	node, err := r.nodeOf(group)
	if err != nil {
		return nil, err
	}
	x := &explainer{e: e, ctx: ctx, r: r, node: node}
	return x.head(head)
}

type explainer struct {
	e    *Engine
	ctx  context.Context
	r    *Result
	node int32
}

func (x *explainer) head(i int) (*Explanation, error) {
	h, f := x.r.Heads[i], x.r.cells[i]
	w := &windower{Result: x.r, pen: x.r.pen(0)}
	out, err := x.measure(f.measure, f, h)
	if err != nil {
		return nil, err
	}
	out.Mix = w.mix(f, i, x.node)
	out.Label, out.Value, out.Part, out.Steps = x.r.totalLabel(h), w.figure(h.Field, f, x.node), h.Part, x.r.Steps
	out.Groups = append(w.labels(x.node), h.Across...)
	for _, p := range x.r.Problems {
		if p.Label == f.measure.Label || p.Label == f.measure.Ref.Label {
			out.Problems = append(out.Problems, p)
		}
	}
	return out, nil
}

// measure explains a figure but for where it stands. f may be nil for a total that
// has no column of its own.
func (x *explainer) measure(m plan.Measure, f *figures, h Head) (*Explanation, error) {
	if m.Show != "" {
		m = x.r.Plan.Measures[m.Of]
		f = nil
	}
	out := &Explanation{Label: m.Label, Fn: m.Fn, Counted: -1, Blanks: -1}
	side := x.r.side
	if h.Part == Other && x.r.others != nil {
		side = x.r.others
	}
	out.Records = side.size(x.node)
	if len(x.r.Plan.Across) > 0 && len(h.Across) > 0 {
		out.Records = x.r.cellRecords(h, x.node)
	}
	if m.Once {
		out.Once = m.Via
	}
	out.Each = m.Each
	if d := x.r.Plan.Derived[m.Ref.Path]; d != nil && d.Formula != nil {
		out.Formula = d.Formula.Source
	}
	for _, arg := range m.Args {
		from, err := x.measure(x.r.Plan.Measures[arg], nil, h)
		if err != nil {
			return nil, err
		}
		out.From = append(out.From, *from)
	}
	if m.Formula != nil || m.Fn == view.Records {
		return out, nil
	}
	return out, x.count(out, m, f, h)
}

// count says how many values went in: as the work noted it or, for a group down of
// the view's own side, by looking again.
func (x *explainer) count(out *Explanation, m plan.Measure, f *figures, h Head) error {
	if f != nil && f.counted != nil {
		out.Counted = int(f.counted[x.node])
		if !m.Once {
			out.Blanks = out.Records - out.Counted
		}
		return nil
	}
	if h.Part != Own || len(h.Across) > 0 || m.Once {
		return nil
	}
	col, err := within(x.e, x.ctx, x.r.Plan, func(r *run) (table.Column, error) { return r.column(m.Ref) })
	if err != nil {
		return err
	}
	rows, err := x.r.sorter.window(x.ctx, int(x.r.side.start[x.node]), int(x.r.side.end[x.node]))
	if err != nil {
		return err
	}
	blank := blankTest(col)
	out.Counted, out.Blanks = 0, 0
	for _, row := range rows {
		if blank(row) {
			out.Blanks++
		} else {
			out.Counted++
		}
	}
	return nil
}

// cellRecords is how many records a cell of a crosstab holds.
func (r *Result) cellRecords(h Head, node int32) int {
	f := r.counts[h.AcrossPath]
	if f == nil || f.numbers[node] == table.Blank {
		return 0
	}
	return int(f.numbers[node])
}
