// The functions by name, each with its node.

package program

import (
	"maps"

	"gavrik/internal/core/formula"
)

// functions make the kernels of functions, and of conversions that look at the calendar.
var functions = map[formula.Op]func(e *formula.Expr) kernel{}

func init() {
	for _, chapter := range []map[formula.Op]func(e *formula.Expr) kernel{
		logicFunctions, numberFunctions, textFunctions, dateFunctions,
	} {
		maps.Copy(functions, chapter)
	}
}

// fixed is a kernel that is the same for all types.
func fixed(do kernel) func(*formula.Expr) kernel { return func(*formula.Expr) kernel { return do } }

// cell is one argument of one record, or a result.
type cell struct {
	int   int64
	float float64
	text  string
}

// rowwise looks at one record at a time. do is not asked when a number, a date or a duration
// is blank; it says false for a blank result.
func rowwise(do func(m *Machine, i int, a []cell) (cell, bool)) func(*formula.Expr) kernel {
	return fixed(rows(do))
}

func rows(do func(m *Machine, i int, a []cell) (cell, bool)) kernel {
	return func(m *Machine, out vec, v []vec) {
		row := make([]cell, len(v))
		for i := range m.n {
			out.clear(i)
			if m.halted() || !readRow(m, row, v, i) {
				continue
			}
			got, ok := do(m, i, row)
			if !ok {
				continue
			}
			switch {
			case out.texts != nil:
				out.texts[i] = m.text(i, got.text)
			case out.floats != nil:
				out.floats[i] = got.float
			default:
				out.ints[i] = got.int
			}
		}
	}
}

// readRow fetches the arguments of a record; it is false if one that is not text is
// blank.
func readRow(m *Machine, row []cell, v []vec, i int) bool {
	for j, a := range v {
		if a.texts != nil {
			row[j].text = a.texts[i]
			m.look(int64(len(a.texts[i])))
			continue
		}
		if a.blank(i) {
			return false
		}
		if a.floats != nil {
			row[j].float = a.floats[i]
		} else {
			row[j].int = a.ints[i]
		}
	}
	return true
}

func yes(b bool) (cell, bool) {
	if b {
		return cell{int: 1}, true
	}
	return cell{int: 0}, true
}
