// The lines that are in sight, found by walking the groups in the order shown.

package windows

import (
	"context"
	"math"

	"gavrik/internal/core/cell"
	"gavrik/internal/core/engine/fields"
	"gavrik/internal/core/engine/grouping"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/turn"
)

// lookUp is after how many groups the search for a window looks up from its work.
const lookUp = 1 << 13

// Window returns limit lines from offset on. Nothing is worked out again, but for
// the order of records that were not shown before.
func (r *Result) Window(ctx context.Context, open result.Open, offset, limit int) (result.Window, error) {
	if len(r.Plan.Across) > 0 { // a cell has many records; none has a line
		open.Depth = min(open.Depth, len(r.Plan.Groups)-1)
	}
	mine := turn.Of(ctx)
	defer mine.Rest()
	w := r.windower(ctx, nil)
	w.depth, w.toggled = open.Depth, r.Tree.Find(open.Toggled)
	out := result.Window{Offset: offset, Lines: make([]result.Line, 0, min(limit, len(r.Tree.Nodes)+r.Kept))}
	end := offset + limit
	if open.Depth < 0 {
		return out, nil
	}
	if len(r.Plan.Groups) == 0 {
		if len(r.Plan.Across) == 0 {
			out.Total = r.Kept
			out.Lines = w.recordsOf(out.Lines, 0, min(offset, out.Total), min(end, out.Total))
		}
		return out, w.err
	}
	deepest := int32(len(r.Plan.Groups))
	above := make([]int32, deepest+1)
	at := 0
	for i, looked := int32(1), 0; i < int32(len(r.Tree.Nodes)); looked++ {
		if looked%lookUp == 0 {
			if err := mine.Wait(ctx); err != nil {
				return out, kernel.Stopped(err)
			}
		}
		n := r.Tree.Nodes[i]
		above[n.Level] = i
		if at == offset && at < end {
			out.Above = w.above(above[1:n.Level])
		}
		if at >= offset && at < end {
			out.Lines = append(out.Lines, w.group(i))
		}
		at++
		if !w.open(i) {
			i = n.Next
			continue
		}
		if n.Level == deepest {
			size := r.Side.Size(i)
			if offset >= at && offset < at+size {
				out.Above = w.above(above[1 : n.Level+1])
			}
			if from, to := max(at, offset), min(at+size, end); from < to {
				out.Lines = w.recordsOf(out.Lines, i, from-at, to-at)
			}
			at += size
		}
		i++
	}
	out.Total = at
	return out, w.err
}

// windower reads lines of a result.
type windower struct {
	*Result
	ctx     context.Context
	depth   int
	toggled map[int32]bool
	// heads are the columns whose cells are filled; asked says that they are filled in every
	// line, else where the line shows them.
	heads []int
	asked bool
	err   error // of the first records that could not be put into order
}

// windower returns one that has every group open. heads are as in result.Groups.
func (r *Result) windower(ctx context.Context, heads []int) *windower {
	w := &windower{Result: r, ctx: ctx, depth: len(r.Plan.Groups), heads: heads, asked: heads != nil}
	if !w.asked {
		w.heads = r.heads
	}
	return w
}

func (w *windower) open(i int32) bool {
	level := w.Tree.Nodes[i].Level
	if len(w.Plan.Across) > 0 && int(level) == len(w.Plan.Groups) {
		return false
	}
	return (int(level) <= w.depth) != w.toggled[i]
}

func (w *windower) above(nodes []int32) []result.Line {
	out := make([]result.Line, len(nodes))
	for i, n := range nodes {
		out[i] = w.group(n)
	}
	return out
}

func (w *windower) group(i int32) result.Line {
	return w.groupInto(i, make([]cell.Cell, len(w.Heads)))
}

// groupInto is a group's line with cells of the caller's, which are blank.
func (w *windower) groupInto(i int32, cells []cell.Cell) result.Line {
	n := w.Tree.Nodes[i]
	line := result.Line{Level: int(n.Level), Open: w.open(i), Count: w.Side.Size(i), Cells: cells}
	if w.Other != nil {
		line.Others = w.Other.Size(i)
	}
	if i > 0 {
		line.Key, line.Group = KeyOf(w.Tree, w.Plan.Groups, i), w.Tree.PathOf(i)
	}
	for _, c := range w.heads {
		if f, h := w.Figures[c], w.Heads[c]; f != nil && (w.asked || w.Plan.Columns[h.Column].Shows(line.Level)) {
			line.Cells[c] = f.Cell(i, h.Field)
		}
	}
	line.Mixes = w.mixesOf(line, i)
	line.Bars = w.bars(line.Level, func(c int) float64 {
		// Currencies have no scale in common.
		if f := w.Figures[c]; f != nil && line.Cells[c].Kind != cell.Blank && !f.Apart && len(f.Mixed) == 0 {
			return f.Float(i)
		}
		return math.NaN()
	})
	return line
}

// recordsOf adds the lines of the records at places lo to hi of a node. Where rows stand for several records,
// there are none to show, and a line of each says its place.
func (w *windower) recordsOf(lines []result.Line, node int32, lo, hi int) []result.Line {
	level := int(w.Tree.Nodes[node].Level) + 1
	if w.Side.Weights == nil {
		start := int(w.Side.Start[node])
		return w.records(lines, level, start+lo, start+hi)
	}
	path := w.Tree.PathOf(node)
	for place := lo; place < hi; place++ {
		lines = append(lines, result.Line{Level: level, IsRecord: true, Group: path, Count: place})
	}
	return lines
}

// records adds the lines of the records at places lo to hi.
func (w *windower) records(lines []result.Line, level, lo, hi int) []result.Line {
	rows, err := w.Sorter.Window(w.ctx, lo, hi)
	if err != nil && w.err == nil {
		w.err = err
	}
	for _, row := range rows {
		line := result.Line{Level: level, IsRecord: true, Cells: make([]cell.Cell, len(w.Heads))}
		if w.Address != nil {
			line.Record = fields.Cell(w.Address, w.AddressField, row)
		}
		w.fill(line.Cells, row)
		line.Bars = w.recordBars(level, row)
		lines = append(lines, line)
	}
	return lines
}

// recordBars are the bars of a record's line.
func (w *windower) recordBars(level int, row int32) []result.Bar {
	return w.bars(level, func(c int) float64 {
		if h := w.Heads[c]; w.showsValues(h) {
			return float(w.Columns[h.Column], row)
		}
		return math.NaN()
	})
}

// showsValues says whether records have values in a column; in a crosstab, whose cells
// stand for many records, in none.
func (r *Result) showsValues(h result.Head) bool {
	return r.Plan.Columns[h.Column].Values && h.Part == result.Own && r.Across == nil
}

// fill reads a record's cells.
func (r *Result) fill(cells []cell.Cell, row int32) {
	for c, h := range r.Heads {
		if col := r.Plan.Columns[h.Column]; r.showsValues(h) {
			cells[c] = fields.Cell(r.Columns[h.Column], col.Ref.Field, row)
		}
	}
}

// KeyOf is what a group is of.
func KeyOf(t *grouping.Tree, groups []plan.Group, i int32) result.Key {
	n := t.Nodes[i]
	g, k := groups[n.Level-1], t.Levels[n.Level-1]
	switch {
	case n.Joined > 0:
		rest := result.Key{Joined: int(n.Joined), Place: int(k.Rest())}
		if t.Gone != nil {
			rest.Gone = t.Gone[t.PathOf(n.Parent)]
		}
		return rest
	case n.Key == 0:
		return result.Key{Place: int(k.Rest()) + 1}
	}
	return result.Key{Value: k.Cell(n.Key, g), Place: int(n.Key)}
}

// KeysTo are those of a node and of the groups that it lies in, the outermost first; none
// for the grand total.
func KeysTo(t *grouping.Tree, groups []plan.Group, i int32) []result.Key {
	var out []result.Key
	for ; i > 0; i = t.Nodes[i].Parent {
		out = append([]result.Key{KeyOf(t, groups, i)}, out...)
	}
	return out
}
