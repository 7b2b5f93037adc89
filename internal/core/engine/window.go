package engine

import (
	"fmt"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/table"
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
	// Count is how many records the group holds.
	Count int
	// Row is the record's row in its table.
	Row   int32
	Cells []string
}

// Window is a part of the ledger.
type Window struct {
	// Total is how many lines there are with these groups open.
	Total, Offset int
	Lines         []Line
	// Above are the lines of the groups that the first line lies in.
	Above []Line
}

// pathSeparator cannot be typed into a label by accident: ASCII's unit separator.
const pathSeparator = "\x1f"

// Window returns limit lines from offset on. Nothing is computed again.
func (r *Result) Window(open Open, offset, limit int, style format.Style) Window {
	w := &windower{Result: r, pen: r.pen(style), depth: open.Depth, toggled: r.find(open.Toggled)}
	out := Window{Offset: offset, Lines: make([]Line, 0, min(limit, len(r.tree.nodes)+r.Kept))}
	end := offset + limit
	if open.Depth < 0 {
		return out
	}
	if len(r.Plan.Groups) == 0 {
		out.Total = r.Kept
		for at := offset; at < min(end, out.Total); at++ {
			out.Lines = append(out.Lines, w.record(1, r.rows()[at]))
		}
		return out
	}
	deepest := int32(len(r.Plan.Groups))
	above := make([]int32, deepest+1)
	at := 0
	for i := int32(1); i < int32(len(r.tree.nodes)); {
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
			size := int(n.end - n.start)
			if offset >= at && offset < at+size {
				out.Above = w.above(above[1 : n.level+1])
			}
			for p := max(at, offset); p < min(at+size, end); p++ {
				out.Lines = append(out.Lines, w.record(int(n.level)+1, r.rows()[int(n.start)+p-at]))
			}
			at += size
		}
		i++
	}
	out.Total = at
	return out
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
	pen     *pen
	depth   int
	toggled map[int32]bool
}

func (w *windower) open(i int32) bool {
	return (int(w.tree.nodes[i].level) <= w.depth) != w.toggled[i]
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
	line := Line{
		Level: int(n.level), Open: w.open(i), Count: int(n.end - n.start), Row: -1,
		Cells: make([]string, len(w.Plan.Columns)),
	}
	if i == 0 {
		line.Label = "All " + w.Plan.Many
	} else {
		line.Label, line.Group = w.label(i), w.path(i)
	}
	for c, col := range w.Plan.Columns {
		if col.Measure >= 0 {
			line.Cells[c] = w.figure(w.figures[col.Measure], i)
		}
	}
	return line
}

func (w *windower) figure(f *figures, i int32) string {
	switch {
	case f.numbers != nil:
		return w.pen.w.Number(f.numbers[i], f.field)
	case f.floats != nil:
		return w.pen.w.Float(f.floats[i], f.field)
	}
	return f.dict.Value(f.codes[i])
}

func (w *windower) record(level int, row int32) Line {
	line := Line{Level: level, Row: row, Cells: make([]string, len(w.Plan.Columns))}
	for c, col := range w.Plan.Columns {
		if col.Values {
			line.Cells[c] = w.pen.cell(w.columns[c], col.Ref.Field, row)
		}
	}
	return line
}

// labelWith names a group by its value; a blank's label is empty.
func (r *Result) labelWith(w *format.Writer, i int32) string {
	n := r.tree.nodes[i]
	g, k := r.Plan.Groups[n.level-1], r.tree.levels[n.level-1]
	if g.Unit != "" {
		return w.Unit(r.Plan.Calendar, g.Unit, k.number(n.key))
	}
	return k.text(w, n.key, g.Ref.Field)
}

func (w *windower) label(i int32) string { return w.labelWith(w.pen.w, i) }

// path names a group by the labels from the outermost group to its own.
func (w *windower) path(i int32) string {
	var labels []string
	for ; i > 0; i = w.tree.nodes[i].parent {
		labels = append([]string{w.label(i)}, labels...)
	}
	return strings.Join(labels, pathSeparator)
}

// find returns the nodes of group paths. A path that no group has any longer is
// passed over: the groups may have changed under the reader.
func (r *Result) find(paths []string) map[int32]bool {
	out := map[int32]bool{}
	pen := format.NewWriter(format.People, r.Plan.Calendar)
	for _, p := range paths {
		at := int32(0)
		for _, label := range strings.Split(p, pathSeparator) {
			if at = r.child(pen, at, label); at < 0 {
				break
			}
		}
		if at > 0 {
			out[at] = true
		}
	}
	return out
}

func (r *Result) child(pen *format.Writer, parent int32, label string) int32 {
	end := r.tree.nodes[parent].next
	for i := parent + 1; i < end; i = r.tree.nodes[i].next {
		if r.labelWith(pen, i) == label {
			return i
		}
	}
	return -1
}

// GroupLine is a group of any level as flat data: its labels from the outermost
// on, empty past its own level.
type GroupLine struct {
	Line
	Labels []string
}

// EachGroup calls do for every group in the order shown, the grand total last.
func (r *Result) EachGroup(style format.Style, do func(GroupLine) error) error {
	w := &windower{Result: r, pen: r.pen(style), depth: len(r.Plan.Groups)}
	labels := make([]string, len(r.Plan.Groups))
	for i := int32(1); i < int32(len(r.tree.nodes)); i++ {
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
func (r *Result) EachRecord(style format.Style, do func(labels, cells []string) error) error {
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
		for _, row := range r.rows()[n.start:n.end] {
			if err := do(labels, w.record(int(n.level)+1, row).Cells); err != nil {
				return fmt.Errorf("engine: record %d: %w", row, err)
			}
		}
	}
	return nil
}
