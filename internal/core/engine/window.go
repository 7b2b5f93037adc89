package engine

import (
	"context"
	"math"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
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
	w.depth, w.toggled = open.Depth, r.find(open.Toggled)
	out := result.Window{Offset: offset, Lines: make([]result.Line, 0, min(limit, len(r.tree.nodes)+r.Kept))}
	end := offset + limit
	if open.Depth < 0 {
		return out, nil
	}
	if len(r.Plan.Groups) == 0 {
		if len(r.Plan.Across) == 0 {
			out.Total = r.Kept
			out.Lines = w.records(out.Lines, 1, min(offset, out.Total), min(end, out.Total))
		}
		return out, w.err
	}
	deepest := int32(len(r.Plan.Groups))
	above := make([]int32, deepest+1)
	at := 0
	for i, looked := int32(1), 0; i < int32(len(r.tree.nodes)); looked++ {
		if looked%lookUp == 0 {
			if err := mine.Wait(ctx); err != nil {
				return out, kernel.Stopped(err)
			}
		}
		n := r.tree.nodes[i]
		above[n.level] = i
		if at == offset && at < end {
			out.Above = w.above(above[1:n.level])
		}
		if at >= offset && at < end {
			out.Lines = append(out.Lines, w.group(i))
		}
		at++
		if !w.open(i) {
			i = n.next
			continue
		}
		if n.level == deepest {
			size := r.side.size(i)
			if offset >= at && offset < at+size {
				out.Above = w.above(above[1 : n.level+1])
			}
			if from, to := max(at, offset), min(at+size, end); from < to {
				start := int(r.side.start[i]) - at
				out.Lines = w.records(out.Lines, int(n.level)+1, start+from, start+to)
			}
			at += size
		}
		i++
	}
	out.Total = at
	return out, w.err
}

// cellOf is a record's value.
func cellOf(col table.Column, f catalog.Field, row int32) cell.Cell {
	switch c := col.(type) {
	case *table.Numbers:
		if v := c.Values[row]; v != table.Blank {
			return cell.OfInt(v, f)
		}
	case *table.Floats:
		return cell.OfFloat(c.Values[row])
	case *table.Texts:
		return cell.OfText(c.Dict.Value(c.Codes[row]), f)
	}
	return cell.Cell{}
}

// cell is a node's figure. field is what it is shown as.
func (f *aggregates) cell(i int32, field catalog.Field) cell.Cell {
	if parts := f.mixed[i]; len(parts) > 0 {
		amounts := make([]cell.Amount, len(parts))
		for j, a := range parts {
			amounts[j] = cell.Amount{Currency: a.currency, Value: a.cell(f.floats != nil, field)}
		}
		return cell.Cell{Kind: cell.Several, More: &cell.More{Amounts: amounts}}
	}
	if f.isBlank(i) {
		return cell.Cell{}
	}
	var out cell.Cell
	more := cell.More{Currency: f.currencyOf(i)}
	if f.codes != nil {
		out = cell.OfText(f.dict.Value(f.codes[i]), field)
	} else {
		out = f.amount(i, more.Currency).cell(f.floats != nil, field)
	}
	if f.times != nil {
		more.Times = f.times[i]
	}
	if more.Currency != "" || more.Times > 0 {
		out.More = &more
	}
	return out
}

// cell is the amount as it is stored.
func (a amount) cell(approx bool, f catalog.Field) cell.Cell {
	if approx {
		return cell.OfFloat(a.float)
	}
	return cell.OfInt(a.number, f)
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
		w.heads = r.allHeads
	}
	return w
}

func (w *windower) open(i int32) bool {
	level := w.tree.nodes[i].level
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
	n := w.tree.nodes[i]
	line := result.Line{Level: int(n.level), Open: w.open(i), Count: w.side.size(i), Cells: cells}
	if w.others != nil {
		line.Others = w.others.size(i)
	}
	if i > 0 {
		line.Key, line.Group = groupKey(w.tree, w.Plan.Groups, i), w.tree.pathOf(i)
	}
	for _, c := range w.heads {
		if f, h := w.cells[c], w.Heads[c]; f != nil && (w.asked || w.Plan.Columns[h.Column].Shows(line.Level)) {
			line.Cells[c] = f.cell(i, h.Field)
		}
	}
	line.Mixes = w.mixesOf(line, i)
	line.Bars = w.bars(line.Level, func(c int) float64 {
		// Currencies have no scale in common.
		if f := w.cells[c]; f != nil && line.Cells[c].Kind != cell.Blank && !f.apart && len(f.mixed) == 0 {
			return f.float(i)
		}
		return math.NaN()
	})
	return line
}

// records adds the lines of the records at places lo to hi.
func (w *windower) records(lines []result.Line, level, lo, hi int) []result.Line {
	rows, err := w.sorter.window(w.ctx, lo, hi)
	if err != nil && w.err == nil {
		w.err = err
	}
	for _, row := range rows {
		line := result.Line{Level: level, IsRecord: true, Cells: make([]cell.Cell, len(w.Heads))}
		if w.address != nil {
			line.Record = cellOf(w.address, w.addressField, row)
		}
		w.fill(line.Cells, row)
		line.Bars = w.bars(level, func(c int) float64 {
			if h := w.Heads[c]; w.showsValues(h) {
				return float(w.columns[h.Column], row)
			}
			return math.NaN()
		})
		lines = append(lines, line)
	}
	return lines
}

// showsValues says whether records have values in a column; in a crosstab, whose cells
// stand for many records, in none.
func (r *Result) showsValues(h result.Head) bool {
	return r.Plan.Columns[h.Column].Values && h.Part == result.Own && r.across == nil
}

// fill reads a record's cells.
func (r *Result) fill(cells []cell.Cell, row int32) {
	for c, h := range r.Heads {
		if col := r.Plan.Columns[h.Column]; r.showsValues(h) {
			cells[c] = cellOf(r.columns[h.Column], col.Ref.Field, row)
		}
	}
}

// groupKey is what a group is of.
func groupKey(t *tree, groups []plan.Group, i int32) result.Key {
	n := t.nodes[i]
	g, k := groups[n.level-1], t.levels[n.level-1]
	switch {
	case n.joined > 0:
		return result.Key{Joined: int(n.joined), Place: int(k.rest())}
	case n.key == 0:
		return result.Key{Place: int(k.rest()) + 1}
	}
	return result.Key{Value: k.cell(n.key, g), Place: int(n.key)}
}

// keysTo are those of a node and of the groups that it lies in, the outermost first; none
// for the grand total.
func keysTo(t *tree, groups []plan.Group, i int32) []result.Key {
	var out []result.Key
	for ; i > 0; i = t.nodes[i].parent {
		out = append([]result.Key{groupKey(t, groups, i)}, out...)
	}
	return out
}
