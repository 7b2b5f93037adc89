package export

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// formulas write totals as a spreadsheet works them out, from the records in its own sheet, so
// that they follow a record that is changed. SUBTOTAL (OpenFormula 1.3, 6.16.59) passes over
// other subtotals in its range: one range holds a group's records at every level.
type formulas struct {
	ledger
	front int
	// columns are those of the sheet, from 1, by head.
	columns map[int]int
	// values are the heads whose column holds the records' values of a path, and at group
	// lines nothing but subtotals.
	values map[string]int
	ways   map[int]way
}

// way is how a head's totals come about.
type way int

const (
	asValue     way = iota
	overRecords     // SUBTOTAL of the group's records
	overParts       // SUBTOTAL of the lines of the groups within
	fromTotals      // a formula over other totals of the line
	asChange        // between the two sides of a comparison
	asPercent
)

// place is the line that a formula stands in, and the lines that its group has below.
type place struct{ row, level, from, to int }

// subtotals are the numbers of the functions that SUBTOTAL knows.
var subtotals = map[view.Fn]int{
	view.Average: 1, view.CountFilled: 3, view.Largest: 4, view.Smallest: 5, view.Spread: 7, view.Sum: 9,
	view.Variance: 10,
}

func newFormulas(l ledger, front int) *formulas {
	f := &formulas{
		ledger: l, front: front, columns: map[int]int{}, values: map[string]int{}, ways: map[int]way{},
	}
	for i, head := range l.heads {
		f.columns[head] = front + i + 1
	}
	if l.records {
		for _, head := range l.heads {
			h := l.sum.Heads[head]
			c := l.sum.Plan.Columns[h.Column]
			if c.Values && h.Part == result.Own &&
				(c.Measure < 0 || subtotalled(l.sum.Plan.Measures[c.Measure])) {
				f.values[c.Ref.Path] = head
			}
		}
	}
	for _, head := range l.heads {
		f.ways[head] = f.way(head)
	}
	return f
}

// subtotalled says whether a total is one that SUBTOTAL can take of values.
func subtotalled(m plan.Measure) bool {
	t := m.Ref.Field.Type
	switch {
	case m.Formula != nil || m.Show != "" || m.PerLinked || len(m.Currencies) > 0 || subtotals[m.Fn] == 0:
		return false
	case m.Fn == view.CountFilled:
		return t != catalog.Picture
	case m.Fn == view.Smallest || m.Fn == view.Largest:
		return t.Numeric() || t.Temporal()
	case m.Fn == view.Variance:
		return t != catalog.Percent
	}
	return t.Numeric()
}

func (f *formulas) way(head int) way {
	h := f.sum.Heads[head]
	c := f.sum.Plan.Columns[h.Column]
	if c.Measure < 0 {
		return asValue
	}
	m := f.sum.Plan.Measures[c.Measure]
	_, held := f.values[m.Ref.Path]
	switch {
	case h.Part == result.Change && f.sided(h, result.Own) > 0 && f.sided(h, result.Other) > 0:
		return asChange
	case h.Part == result.Percent && f.sided(h, result.Own) > 0 && f.sided(h, result.Other) > 0:
		return asPercent
	case h.Part == result.Change || h.Part == result.Percent:
		return asValue
	case h.Part == result.Own && len(h.Across) == 0 && held && subtotalled(m):
		return overRecords
	case m.Formula != nil && m.Show == "" && f.written(m, h, place{level: -1}) != "":
		return fromTotals
	case m.Fn.Info().AddsUp && m.Show == "" && !m.PerLinked && len(m.Currencies) == 0 && c.Levels == nil &&
		!(f.records && c.Values):
		return overParts
	}
	return asValue
}

// of is the formula of a line's total, or empty for a value.
func (f *formulas) of(head int, at place, c cell.Cell) string {
	h := f.sum.Heads[head]
	col := f.sum.Plan.Columns[h.Column]
	if col.Measure < 0 || !col.Shows(at.level) {
		return ""
	}
	m := f.sum.Plan.Measures[col.Measure]
	blank := c.Kind == cell.Blank
	switch f.ways[head] {
	case overRecords:
		if at.to < at.from {
			return ""
		}
		return f.overRecords(m, at, blank)
	case overParts:
		// The innermost lines that are shown have no parts, and records have no such value.
		if deepest := min(f.depth+1, len(f.sum.Plan.Groups)); at.level >= deepest || at.to < at.from || blank {
			return ""
		}
		return fmt.Sprintf("SUBTOTAL(9,%s)", f.span(f.columns[head], at))
	case fromTotals:
		if blank {
			return ""
		}
		return "IFERROR(" + f.written(m, h, at) + `,"")`
	case asChange, asPercent:
		if blank {
			return ""
		}
		own, other := f.ref(f.sided(h, result.Own), at), f.ref(f.sided(h, result.Other), at)
		if f.ways[head] == asChange {
			return own + "-" + other
		}
		return fmt.Sprintf("IFERROR((%s-%s)/ABS(%s),\"\")", own, other, other)
	}
	return ""
}

// overRecords is a subtotal of the group's records, a blank where too few have a value. An exact
// average is rounded to what is kept of it, as here.
func (f *formulas) overRecords(m plan.Measure, at place, blank bool) string {
	as, over := m.Result(), f.span(f.columns[f.values[m.Ref.Path]], at)
	out := fmt.Sprintf("SUBTOTAL(%d,%s)", subtotals[m.Fn], over)
	if m.Fn == view.Average && !as.Approx && as.Type != catalog.Duration {
		out = fmt.Sprintf("ROUND(%s,%d)", out, as.Scale+percentDigits(as))
	}
	least := 1
	if m.Fn == view.Spread || m.Fn == view.Variance {
		least = 2
	}
	if !blank {
		return out
	}
	return fmt.Sprintf(`IF(SUBTOTAL(2,%s)<%d,"",%s)`, over, least, out)
}

// sided is the sheet's column of a total's other part, in the same group across; 0 if it is
// not there.
func (f *formulas) sided(of result.Head, part result.Part) int {
	for _, head := range f.heads {
		if h := f.sum.Heads[head]; h.Column == of.Column && h.Part == part && sameAcross(h, of) {
			return f.columns[head]
		}
	}
	return 0
}

// sameAcross says whether two columns belong to the same group across.
func sameAcross(a, b result.Head) bool {
	return a.AcrossPath == b.AcrossPath && len(a.Across) == len(b.Across)
}

// written is the formula of a calculated total over the cells of its line, or empty if a
// spreadsheet has no words for it. At a level below 0 it only says whether there is one.
func (f *formulas) written(m plan.Measure, h result.Head, at place) string {
	w := &writtenTotal{formulas: f, measure: m, head: h, at: at}
	out := w.expr(m.Formula.Expr)
	if w.failed {
		return ""
	}
	if m.Formula.Expr.Type.Type == catalog.Percent {
		return "(" + out + ")"
	}
	return out
}

// writtenTotal writes one calculated total.
type writtenTotal struct {
	*formulas
	measure plan.Measure
	head    result.Head
	at      place
	failed  bool
}

// expr writes an expression. Percentages stand in cells as parts of one.
func (w *writtenTotal) expr(e *formula.Expr) string {
	arg := func(i int) string { return w.expr(e.Args[i]) }
	switch e.Op {
	case formula.Input:
		return w.input(w.measure.Args[e.Input])
	case formula.Constant:
		if !e.Type.Type.Numeric() || e.Type.Type == catalog.Duration {
			break
		}
		v := scaled(e.Int, e.Type.Scale+percentDigits(catalog.Field{Type: e.Type.Type}))
		if e.Type.Approx {
			v = math.Float64frombits(uint64(e.Int))
		}
		return strconv.FormatFloat(v, 'f', -1, 64)
	case formula.Negate:
		return "(-" + arg(0) + ")"
	case formula.Add, formula.Subtract, formula.Multiply, formula.Divide:
		return "(" + arg(0) + string(e.Op) + arg(1) + ")"
	case formula.Approximate:
		if e.Args[0].Type.Type != catalog.Duration {
			return arg(0)
		}
	case formula.Rescale:
		return arg(0)
	case formula.Retype:
		return w.retype(e)
	case formula.Round:
		digits := e.Args[1].Int + int64(percentDigits(catalog.Field{Type: e.Type.Type}))
		return fmt.Sprintf("ROUND(%s,%d)", arg(0), digits)
	}
	w.failed = true
	return ""
}

// retype writes the same stored number read as another type: decimals and percentages count
// it in other units.
func (w *writtenTotal) retype(e *formula.Expr) string {
	from, to := e.Args[0].Type, e.Type
	if !from.Type.Numeric() || !to.Type.Numeric() || from.Type == catalog.Duration || to.Type == catalog.Duration {
		w.failed = true
		return ""
	}
	digits := percentDigits(catalog.Field{Type: from.Type}) - percentDigits(catalog.Field{Type: to.Type})
	if !from.Approx {
		digits += from.Scale - to.Scale
	}
	text := w.expr(e.Args[0])
	switch {
	case digits > 0:
		return fmt.Sprintf("(%s*1%s)", text, strings.Repeat("0", digits))
	case digits < 0:
		return fmt.Sprintf("(%s/1%s)", text, strings.Repeat("0", -digits))
	}
	return text
}

// input is the cell of a total that the line shows, or a subtotal of the records.
func (w *writtenTotal) input(measure int) string {
	for _, head := range w.heads {
		h := w.sum.Heads[head]
		c := w.sum.Plan.Columns[h.Column]
		shown := c.Shows(w.at.level)
		if w.at.level < 0 {
			shown = c.Levels == nil
		}
		if c.Measure == measure && h.Part == w.head.Part && sameAcross(h, w.head) && shown {
			return w.ref(w.columns[head], w.at)
		}
	}
	m := w.sum.Plan.Measures[measure]
	_, held := w.values[m.Ref.Path]
	if !held || w.head.Part != result.Own || len(w.head.Across) > 0 ||
		!subtotalled(m) || !m.Ref.Field.Type.Numeric() {
		w.failed = true
		return ""
	}
	return w.overRecords(m, w.at, false)
}

// ref is a cell of the line.
func (f *formulas) ref(column int, at place) string { return cellName(column, max(at.row, 1)) }

// span is a column of the lines below.
func (f *formulas) span(column int, at place) string {
	name, err := excelize.ColumnNumberToName(column)
	if err != nil {
		panic(err) // columns are bounded before
	}
	return fmt.Sprintf("%s%d:%s%d", name, max(at.from, 1), name, max(at.to, 1))
}

// why says why a head's totals are values, or "".
func (f *formulas) why(head int) string {
	c := f.sum.Plan.Columns[f.sum.Heads[head].Column]
	if c.Measure < 0 || f.ways[head] != asValue {
		return ""
	}
	m := f.sum.Plan.Measures[c.Measure]
	switch {
	case m.PerLinked:
		return "Values: " + m.Via + " counts once, however many lines repeat it, which no subtotal of a spreadsheet does."
	case len(m.Currencies) > 0:
		return "Values: amounts are in several currencies."
	case !f.records:
		return "Values: the records that they are taken of are not in this sheet."
	}
	return "Values: a spreadsheet has no subtotal of this kind."
}

// notes say of each column with totals how they come about.
func (f *formulas) notes() []totalNote {
	var out []totalNote
	for _, head := range f.heads {
		h := f.sum.Heads[head]
		if f.sum.Plan.Columns[h.Column].Measure < 0 || len(h.Across) > 0 {
			continue
		}
		how := f.why(head)
		switch f.ways[head] {
		case overRecords:
			how = "Formulas over the records of each group."
		case overParts:
			how = "Values of the innermost groups; formulas over them above."
		case fromTotals:
			how = "Formulas over the totals of each line."
		case asChange, asPercent:
			how = "Formulas between the two sides."
		}
		out = append(out, totalNote{catalog.UpperFirst(f.sum.Label(h)), how})
	}
	return out
}
