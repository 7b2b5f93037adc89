// How many values went into a total.

package windows

import (
	"context"
	"fmt"

	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
)

// Counted is how many values went into a measure: as the work noted it or, for a group down of
// the view's own side, by looking again; else -1.
func (r *Result) Counted(ctx context.Context, group string, head, measure int) (int, error) {
	node, err := r.nodeOf(group)
	if err != nil {
		return 0, err
	}
	if head < 0 || head >= len(r.Heads) || measure < 0 || measure >= len(r.Plan.Measures) {
		return 0, &result.NotThereError{What: fmt.Sprintf("measure %d in column %d", measure, head)}
	}
	h, m := r.Heads[head], r.Plan.Measures[measure]
	if f := r.Figures[head]; f != nil && f.Counted != nil && r.Plan.Columns[h.Column].Measure == measure {
		return int(f.Counted[node]), nil
	}
	if h.Part != result.Own || len(h.Across) > 0 || m.PerLinked {
		return -1, nil
	}
	col, err := r.Column(ctx, m.Ref)
	if err != nil {
		return 0, err
	}
	rows, err := r.Sorter.Window(ctx, int(r.Side.Start[node]), int(r.Side.End[node]))
	if err != nil {
		return 0, err
	}
	blank, n := table.BlankTest(col), int64(0)
	for _, row := range rows {
		if !blank(row) {
			n += r.Side.Weights.At(row)
		}
	}
	return int(n), nil
}
