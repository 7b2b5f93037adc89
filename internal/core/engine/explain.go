package engine

import (
	"context"
	"fmt"

	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// Explain tells how the figure of a group (a path as Line.Group gives it; empty for
// the grand total) in a column of the ledger came about.
func (r *Result) Explain(ctx context.Context, group string, head int) (*result.Explanation, error) {
	if head < 0 || head >= len(r.Heads) || r.cells[head] == nil {
		return nil, fmt.Errorf("engine: column %d shows no total to explain", head)
	}
	node, err := r.nodeOf(group)
	if err != nil {
		return nil, err
	}
	x := &explainer{e: r.e, ctx: ctx, r: r, node: node}
	return x.head(head)
}

type explainer struct {
	e    *Engine
	ctx  context.Context
	r    *Result
	node int32
}

func (x *explainer) head(i int) (*result.Explanation, error) {
	h, f := x.r.Heads[i], x.r.cells[i]
	out, err := x.measure(f.measure, f, h)
	if err != nil {
		return nil, err
	}
	out.Mix = f.mix(i, x.node)
	out.Label, out.Value, out.Head, out.Part, out.Steps = x.r.TotalLabel(h), f.cell(x.node, h.Field), i, h.Part, x.r.Steps
	out.Down, out.Across = keysTo(x.r.tree, x.r.Plan.Groups, x.node), h.Across
	for _, p := range x.r.Problems {
		if p.Label == f.measure.Label || p.Label == f.measure.Ref.Label {
			out.Problems = append(out.Problems, p)
		}
	}
	return out, nil
}

// measure explains a figure but for where it stands. f may be nil for a total that
// has no column of its own.
func (x *explainer) measure(m plan.Measure, f *aggregates, h result.Head) (*result.Explanation, error) {
	if m.Show != "" {
		m = x.r.Plan.Measures[m.Of]
		f = nil
	}
	out := &result.Explanation{Label: m.Label, Fn: m.Fn, Counted: -1, Blanks: -1}
	side := x.r.side
	if h.Part == result.Other && x.r.others != nil {
		side = x.r.others
	}
	out.Records = side.size(x.node)
	if len(x.r.Plan.Across) > 0 && len(h.Across) > 0 {
		out.Records = x.r.cellRecords(h, x.node)
	}
	if m.PerLinked {
		out.PerLinked = m.Via
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
func (x *explainer) count(out *result.Explanation, m plan.Measure, f *aggregates, h result.Head) error {
	if f != nil && f.counted != nil {
		out.Counted = int(f.counted[x.node])
		if !m.PerLinked {
			out.Blanks = out.Records - out.Counted
		}
		return nil
	}
	if h.Part != result.Own || len(h.Across) > 0 || m.PerLinked {
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
func (r *Result) cellRecords(h result.Head, node int32) int {
	f := r.counts[h.AcrossPath]
	if f == nil || f.numbers[node] == table.Blank {
		return 0
	}
	return int(f.numbers[node])
}
