package result

import (
	"fmt"
	"strings"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
)

// Pen writes a result as text in one style. It belongs to one goroutine.
type Pen struct {
	w *format.Writer
	s *Summary
}

// Pen returns one that writes the result.
func (s *Summary) Pen(style format.Style) *Pen {
	return &Pen{format.NewWriter(style, s.Plan.Calendar), s}
}

// Cells writes the cells of a line, each as its column is written.
func (p *Pen) Cells(l Line) []string {
	out := make([]string, len(l.Cells))
	for i, c := range l.Cells {
		if c.Kind == cell.Blank {
			continue
		}
		if l.IsRecord {
			out[i] = p.Value(i, c)
		} else {
			out[i] = p.Figure(i, c)
		}
	}
	return out
}

// Value writes a record's value in a column of the ledger.
func (p *Pen) Value(head int, c cell.Cell) string {
	return p.w.Cell(c, p.s.Plan.Columns[p.s.Heads[head].Column].Ref.Field)
}

// Figure writes a total in a column of the ledger; amounts of several currencies one by one.
func (p *Pen) Figure(head int, c cell.Cell) string {
	h := p.s.Heads[head]
	if c.Kind != cell.Several {
		return p.w.Cell(c, h.Field)
	}
	parts := make([]string, len(c.More.Amounts))
	for i, a := range c.More.Amounts {
		parts[i] = strings.TrimSpace(p.w.Cell(a.Value, h.Field) + " " + a.Currency)
	}
	between := " and " // averages are not to be read as a sum
	if p.s.Plan.Measures[p.s.Plan.Columns[h.Column].Measure].Fn == view.Sum {
		between = " + "
	}
	return strings.Join(parts, between)
}

// Mix writes the smallest and the largest price that an average stands for.
func (p *Pen) Mix(m Mix) (low, high string) {
	of := p.s.Plan.Measures[p.s.Plan.Columns[p.s.Heads[m.Cell].Column].Measure].Ref.Field
	return p.w.Cell(m.Low, of), p.w.Cell(m.High, of)
}

// Label names a line: all records, a group by its value; a blank's label and that of a
// record are empty.
func (p *Pen) Label(l Line) string {
	switch {
	case l.IsRecord:
		return ""
	case l.Level == 0:
		return "All " + p.s.Plan.Many
	}
	return p.Down(l.Level, l.Key)
}

// Down names a group of a level, from 1; a blank's label is empty.
func (p *Pen) Down(level int, k Key) string { return p.Group(p.s.Plan.Groups[level-1], k) }

// Labels names the groups down that a line lies in, from the outermost in.
func (p *Pen) Labels(keys []Key) []string {
	out := make([]string, len(keys))
	for i, k := range keys {
		out[i] = p.Down(i+1, k)
	}
	return out
}

// Across names the groups across that a column belongs to, from the outermost in.
func (p *Pen) Across(keys []Key) []string {
	var out []string
	for i, k := range keys {
		out = append(out, p.Group(p.s.Plan.Across[i], k))
	}
	return out
}

// Groups names groups down and then across, from the outermost in, as they stand alone.
func (p *Pen) Groups(down, across []Key) []string {
	out := append(p.Labels(down), p.Across(across)...)
	for i, label := range out {
		out[i] = Named(label)
	}
	return out
}

// Group names a group of a level, down or across; a blank's label is empty.
func (p *Pen) Group(g plan.Group, k Key) string {
	switch {
	case k.Held > 0:
		return fmt.Sprintf("%d held back", k.Held)
	case k.Joined > 0 && g.Rest != "":
		return g.Rest
	case k.Joined > 0:
		return fmt.Sprintf("%d others", k.Joined)
	}
	return GroupText(p.w, p.s.Plan.Calendar, g, k.Value)
}

// GroupText writes the value that a group of a level is of; a blank is empty.
func GroupText(w *format.Writer, cal calendar.Calendar, g plan.Group, value cell.Cell) string {
	if g.Unit != "" && value.Kind != cell.Blank {
		return w.Unit(cal, g.Unit, value.Int)
	}
	return w.Cell(value, g.Ref.Field)
}

// Named is a group's label where it stands alone.
func Named(label string) string {
	if label == "" {
		return "blank"
	}
	return label
}

// Operand writes a value as a condition on the field takes it.
func Operand(cal calendar.Calendar, c cell.Cell, f catalog.Field) string {
	if c.Kind == cell.YesNo {
		return [2]string{"no", "yes"}[c.Int]
	}
	if c.Kind == cell.Duration && c.Int%calendar.Second != 0 { // as a clock, it would be rounded
		seconds := cell.Cell{Kind: cell.Number, Int: c.Int, Scale: 6}
		text := format.NewWriter(format.Plain, cal).Cell(seconds, catalog.Field{Type: catalog.Decimal, Scale: 6})
		return strings.TrimRight(text, "0") + " s"
	}
	return format.NewWriter(format.Plain, cal).Cell(c, f)
}

// Label says a bin to people: "10 to under 20", "Mar 2026"; empty for that of all other
// values.
func (b Bin) Label(cal calendar.Calendar, f catalog.Field) string {
	w := format.NewWriter(format.People, cal)
	switch {
	case b.Unit != "":
		label := cal.Label(b.Unit, b.From.Int)
		if b.Units > 1 {
			label += " to " + cal.Label(b.Unit, cal.Add(b.Unit, b.Below.Int, -1))
		}
		return label
	case b.Value.Kind != cell.Blank:
		return w.Cell(b.Value, f)
	case b.From.Kind == cell.Blank && b.Below.Kind == cell.Blank:
		return ""
	case b.Below.Kind == cell.Blank:
		return w.Cell(b.From, f) + " and over"
	case b.From.Kind == cell.Blank:
		return "under " + w.Cell(b.Below, f)
	}
	return w.Cell(b.From, f) + " to under " + w.Cell(b.Below, f)
}
