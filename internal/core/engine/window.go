package engine

import (
	"context"
	"fmt"
	"math"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/turn"
	"gavrik/internal/core/view"
)

// Open says which groups show what is in them.
type Open struct {
	// Depth is how many levels of groups are open: 0 shows the outermost groups
	// closed, the number of levels shows the records, -1 shows nothing but the
	// grand total.
	Depth int
	// Toggled are the paths of groups that are the other way round.
	Toggled []string
}

// Line is one line of the ledger: a group's or a record's.
type Line struct {
	// Level is 1 for an outermost group; a record's is one more than its group's.
	Level int
	// Group is the path that Open.Toggled names; empty for a record.
	Group string
	Label string
	Open  bool
	// Count is how many records the group holds; Others how many of the other side
	// of a comparison.
	Count, Others int
	// Joined is how many groups were put into this one, the rest of a top level.
	Joined int
	// Row is the record's row in its table.
	Row   int32
	Cells []string
	Mixes []Mix
	Bars  []Bar
}

// Window is a part of the ledger.
type Window struct {
	// Total is how many lines there are with these groups open.
	Total, Offset int
	Lines         []Line
	// Above are the lines of the groups that the first line lies in.
	Above []Line
}

// Window returns limit lines from offset on. Nothing is worked out again, but for
// the order of records that were not shown before.
func (r *Result) Window(ctx context.Context, open Open, offset, limit int, style format.Style) (Window, error) {
	if len(r.Plan.Across) > 0 { // a cell has many records; none has a line
		open.Depth = min(open.Depth, len(r.Plan.Groups)-1)
	}
	mine := turn.Of(ctx)
	defer mine.Rest()
	w := &windower{Result: r, ctx: ctx, pen: r.pen(style), depth: open.Depth, toggled: r.find(open.Toggled)}
	out := Window{Offset: offset, Lines: make([]Line, 0, min(limit, len(r.tree.nodes)+r.Kept))}
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
				return out, stopped(err)
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

// GrandTotal is the line of all kept records.
func (r *Result) GrandTotal(style format.Style) Line {
	w := &windower{Result: r, pen: r.pen(style)}
	return w.group(0)
}

// pen writes the cells of one window.
type pen struct{ w *format.Writer }

func (r *Result) pen(style format.Style) *pen {
	return &pen{w: format.NewWriter(style, r.Plan.Calendar)}
}

func (p *pen) cell(col table.Column, f catalog.Field, row int32) string {
	switch c := col.(type) {
	case *table.Numbers:
		return p.w.Number(c.Values[row], f)
	case *table.Floats:
		return p.w.Float(c.Values[row], f)
	case *table.Texts:
		return c.Dict.Value(c.Codes[row])
	}
	return ""
}

type windower struct {
	*Result
	ctx     context.Context
	pen     *pen
	depth   int
	toggled map[int32]bool
	err     error // of the first records that could not be put into order
}

func (w *windower) open(i int32) bool {
	level := w.tree.nodes[i].level
	if len(w.Plan.Across) > 0 && int(level) == len(w.Plan.Groups) {
		return false
	}
	return (int(level) <= w.depth) != w.toggled[i]
}

func (w *windower) above(nodes []int32) []Line {
	out := make([]Line, len(nodes))
	for i, n := range nodes {
		out[i] = w.group(n)
	}
	return out
}

func (w *windower) group(i int32) Line {
	n := w.tree.nodes[i]
	line := Line{Level: int(n.level), Open: w.open(i), Count: w.side.size(i), Row: -1, Joined: int(n.joined), Cells: make([]string, len(w.Heads))}
	if w.others != nil {
		line.Others = w.others.size(i)
	}
	if i == 0 {
		line.Label = "All " + w.Plan.Many
	} else {
		line.Label, line.Group = w.label(i), w.tree.pathOf(i)
	}
	for c, h := range w.Heads {
		if f := w.cells[c]; f != nil && w.Plan.Columns[h.Column].Shows(line.Level) {
			line.Cells[c] = w.figure(h.Field, f, i)
		}
	}
	line.Mixes = w.mixesOf(line, i)
	line.Bars = w.bars(line.Level, func(c int) float64 {
		// Currencies have no scale in common.
		if f := w.cells[c]; f != nil && line.Cells[c] != "" && !f.apart && len(f.mixed) == 0 {
			return f.float(i)
		}
		return math.NaN()
	})
	return line
}

// figure writes a figure as a field is written; amounts of several currencies one
// by one.
func (w *windower) figure(as catalog.Field, f *figures, i int32) string {
	switch {
	case len(f.mixed[i]) > 0:
		parts := make([]string, len(f.mixed[i]))
		for j, a := range f.mixed[i] {
			parts[j] = w.amount(as, f.floats != nil, a)
		}
		if f.measure.Fn == view.Sum {
			return strings.Join(parts, " + ")
		}
		return strings.Join(parts, " and ") // averages are not to be read as a sum
	case f.isBlank(i):
		return ""
	}
	times := ""
	if f.times != nil {
		times = w.pen.w.Times(int64(f.times[i]))
	}
	if f.codes != nil {
		return f.dict.Value(f.codes[i]) + times
	}
	return w.amount(as, f.floats != nil, f.amounts(i)[0]) + times
}

// amount writes a figure and its currency, if it has one.
func (w *windower) amount(as catalog.Field, approx bool, a amount) string {
	text := w.pen.w.Number(a.number, as)
	if approx {
		text = w.pen.w.Float(a.float, as)
	}
	return strings.TrimSpace(text + " " + a.currency)
}

// records adds the lines of the records at places lo to hi.
func (w *windower) records(lines []Line, level, lo, hi int) []Line {
	rows, err := w.sorter.window(w.ctx, lo, hi)
	if err != nil && w.err == nil {
		w.err = err
	}
	for _, row := range rows {
		lines = append(lines, w.record(level, row))
	}
	return lines
}

// showsValues says whether records have values in a column; in a crosstab, whose cells
// stand for many records, in none.
func (r *Result) showsValues(h Head) bool {
	return r.Plan.Columns[h.Column].Values && h.Part == Own && r.across == nil
}

func (w *windower) record(level int, row int32) Line {
	line := Line{Level: level, Row: row, Cells: make([]string, len(w.Heads))}
	for c, h := range w.Heads {
		if col := w.Plan.Columns[h.Column]; w.showsValues(h) {
			line.Cells[c] = w.pen.cell(w.columns[h.Column], col.Ref.Field, row)
		}
	}
	line.Bars = w.bars(level, func(c int) float64 {
		if h := w.Heads[c]; w.showsValues(h) {
			return float(w.columns[h.Column], row)
		}
		return math.NaN()
	})
	return line
}

// nodeLabel names a group by its value; a blank's label is empty.
func nodeLabel(p *plan.Plan, t *tree, groups []plan.Group, w *format.Writer, i int32) string {
	n := t.nodes[i]
	g, k := groups[n.level-1], t.levels[n.level-1]
	if n.joined > 0 {
		if g.Rest != "" {
			return g.Rest
		}
		return fmt.Sprintf("%d others", n.joined)
	}
	return writeGroup(p, w, k, g, n.key)
}

func (r *Result) labelWith(w *format.Writer, i int32) string {
	return nodeLabel(r.Plan, r.tree, r.Plan.Groups, w, i)
}

func (w *windower) label(i int32) string { return w.labelWith(w.pen.w, i) }

// labels are those of a node and of the groups that it lies in, the outermost first;
// none for the grand total.
func (w *windower) labels(i int32) []string {
	var out []string
	for ; i > 0; i = w.tree.nodes[i].parent {
		out = append([]string{w.label(i)}, out...)
	}
	return out
}

// GroupLine is a group of any level as flat data: its labels from the outermost
// on, empty past its own level.
type GroupLine struct {
	Line
	Labels []string
}

// exportRows is after how many lines the writing of all of them looks up.
const exportRows = 256

// EachGroup calls do for every group in the order shown, the grand total last.
func (r *Result) EachGroup(ctx context.Context, style format.Style, do func(GroupLine) error) error {
	mine := turn.Of(ctx)
	defer mine.Rest()
	w := &windower{Result: r, pen: r.pen(style), depth: len(r.Plan.Groups)}
	labels := make([]string, len(r.Plan.Groups))
	for i := int32(1); i < int32(len(r.tree.nodes)); i++ {
		if i%exportRows == 0 {
			if err := mine.Wait(ctx); err != nil {
				return stopped(err)
			}
		}
		line := w.group(i)
		labels[line.Level-1] = line.Label
		clear(labels[line.Level:])
		if err := do(GroupLine{Line: line, Labels: labels}); err != nil {
			return fmt.Errorf("engine: group %q: %w", line.Label, err)
		}
	}
	return do(GroupLine{Line: w.group(0), Labels: make([]string, len(labels))})
}

// EachRecord calls do for every kept record in the order shown, with the labels
// of its groups and its cells; both slices are used again for the next.
func (r *Result) EachRecord(ctx context.Context, style format.Style, do func(labels, cells []string) error) error {
	mine := turn.Of(ctx)
	defer mine.Rest()
	w := &windower{Result: r, pen: r.pen(style)}
	deepest := int32(len(r.Plan.Groups))
	labels := make([]string, deepest)
	for i := range r.tree.nodes {
		n := r.tree.nodes[i]
		if n.level > 0 {
			labels[n.level-1] = w.label(int32(i))
		}
		if n.level != deepest {
			continue
		}
		rows, err := r.sorter.window(ctx, int(r.side.start[i]), int(r.side.end[i]))
		if err != nil {
			return err
		}
		for at, row := range rows {
			if at%exportRows == 0 {
				if err := mine.Wait(ctx); err != nil {
					return stopped(err)
				}
			}
			if err := do(labels, w.record(int(n.level)+1, row).Cells); err != nil {
				return fmt.Errorf("engine: record %d: %w", row, err)
			}
		}
	}
	return nil
}
