// All lines one after the other, for charts and exports.

package windows

import (
	"context"
	"fmt"

	"gavrik/internal/core/cell"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/turn"
)

// exportRows is after how many lines the reading of all of them looks up from its work.
const exportRows = 256

// Group is the line of a group, by its path; that of the empty path is the grand total.
func (r *Result) Group(path string, heads []int) (result.GroupLine, error) {
	node, err := r.nodeOf(path)
	if err != nil {
		return result.GroupLine{}, err
	}
	w := r.windower(context.Background(), heads)
	keys := make([]result.Key, len(r.Plan.Groups))
	copy(keys, KeysTo(r.Tree, r.Plan.Groups, node))
	return result.GroupLine{Line: w.group(node), Keys: keys, Counts: r.countsOf(node, nil)}, nil
}

// EachGroup calls do for the groups asked for in the order shown, and last for the one that they
// lie in.
func (r *Result) EachGroup(ctx context.Context, of result.Groups, do func(result.GroupLine) error) error {
	within, err := r.nodeOf(of.Within)
	if err != nil {
		return err
	}
	mine := turn.Of(ctx)
	defer mine.Rest()
	w := r.windower(ctx, of.Heads)
	keys := make([]result.Key, len(r.Plan.Groups))
	copy(keys, KeysTo(r.Tree, r.Plan.Groups, within))
	cells, counts := make([]cell.Cell, len(w.Heads)), []int(nil)
	tell := func(i int32) error {
		clear(cells)
		line := w.groupInto(i, cells)
		if i > 0 {
			keys[line.Level-1] = line.Key
		}
		clear(keys[line.Level:])
		counts = r.countsOf(i, counts)
		if err := do(result.GroupLine{Line: line, Keys: keys, Counts: counts}); err != nil {
			return fmt.Errorf("windows: group %q: %w", line.Group, err)
		}
		return nil
	}
	deepest := int32(of.Levels)
	if of.Levels == 0 {
		deepest = int32(len(r.Plan.Groups))
	}
	end := r.Tree.Nodes[within].Next
	if r.Tree.Nodes[within].Level >= deepest {
		end = 0 // its parts are of no level asked for
	}
	for i, read := within+1, 0; i < end; read++ {
		if read%exportRows == 0 {
			if err := mine.Wait(ctx); err != nil {
				return kernel.Stopped(err)
			}
		}
		if err := tell(i); err != nil {
			return err
		}
		if r.Tree.Nodes[i].Level >= deepest {
			i = r.Tree.Nodes[i].Next
		} else {
			i++
		}
	}
	return tell(within)
}

// countsOf are how many records each cell of a line is taken of, written into counts; nil
// without groups across.
func (r *Result) countsOf(node int32, counts []int) []int {
	if r.Across == nil {
		return nil
	}
	if counts == nil {
		counts = make([]int, len(r.Heads))
	}
	for i, f := range r.Counts {
		counts[i] = 0
		if v := f.Numbers[node]; v != table.Blank {
			counts[i] = int(v)
		}
	}
	return counts
}

// nodeOf finds a group by its path; the empty one is the grand total's.
func (r *Result) nodeOf(group string) (int32, error) {
	n := r.Tree.NodeOf(group)
	if n < 0 {
		return 0, &result.NotThereError{What: fmt.Sprintf("group %q any longer", group)}
	}
	return n, nil
}

// EachRecord calls do for every kept record in the order shown, with its groups and its
// cells; both slices are used again for the next.
func (r *Result) EachRecord(
	ctx context.Context, do func(groups []result.Key, cells []cell.Cell) error,
) error {
	mine := turn.Of(ctx)
	defer mine.Rest()
	deepest := int32(len(r.Plan.Groups))
	keys, cells := make([]result.Key, deepest), make([]cell.Cell, len(r.Heads))
	for i := range r.Tree.Nodes {
		n := r.Tree.Nodes[i]
		if n.Level > 0 {
			keys[n.Level-1] = KeyOf(r.Tree, r.Plan.Groups, int32(i))
		}
		if n.Level != deepest {
			continue
		}
		rows, err := r.Sorter.Window(ctx, int(r.Side.Start[i]), int(r.Side.End[i]))
		if err != nil {
			return err
		}
		for at, row := range rows {
			if at%exportRows == 0 {
				if err := mine.Wait(ctx); err != nil {
					return kernel.Stopped(err)
				}
			}
			r.fill(cells, row)
			if err := do(keys, cells); err != nil {
				return fmt.Errorf("windows: record %d: %w", row, err)
			}
		}
	}
	return nil
}

// EachLine calls do for every line with these groups open, in the order shown. Of rows that stand for
// several records there is one line in the place of all records of a group, which says how many there are.
func (r *Result) EachLine(ctx context.Context, open result.Open, do func(result.Line) error) error {
	mine := turn.Of(ctx)
	defer mine.Rest()
	w := r.windower(ctx, nil)
	w.depth, w.toggled = open.Depth, r.Tree.Find(open.Toggled)
	if open.Depth < 0 {
		return nil
	}
	cells, deepest, told := make([]cell.Cell, len(r.Heads)), int32(len(r.Plan.Groups)), 0
	tell := func(line result.Line) error {
		if told++; told%exportRows == 0 {
			if err := mine.Wait(ctx); err != nil {
				return kernel.Stopped(err)
			}
		}
		if err := do(line); err != nil {
			return fmt.Errorf("windows: line %d: %w", told, err)
		}
		return nil
	}
	for i := int32(0); i < int32(len(r.Tree.Nodes)); {
		n := r.Tree.Nodes[i]
		if i > 0 {
			clear(cells)
			if err := tell(w.groupInto(i, cells)); err != nil {
				return err
			}
			if !w.open(i) {
				i = n.Next
				continue
			}
		}
		if n.Level == deepest && r.Across == nil && r.Side.Weights != nil { // one for all
			line := result.Line{Level: int(deepest) + 1, IsRecord: true}
			line.Group, line.Count = r.Tree.PathOf(i), r.Side.Size(i)
			if err := tell(line); err != nil {
				return err
			}
		} else if n.Level == deepest && r.Across == nil {
			rows, err := r.Sorter.Window(ctx, int(r.Side.Start[i]), int(r.Side.End[i]))
			if err != nil {
				return err
			}
			for _, row := range rows {
				clear(cells)
				r.fill(cells, row)
				line := result.Line{Level: int(deepest) + 1, IsRecord: true, Cells: cells}
				line.Bars = w.recordBars(line.Level, row)
				if err := tell(line); err != nil {
					return err
				}
			}
		}
		i++
	}
	return nil
}
