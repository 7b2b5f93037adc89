package table

import "math"

// BlankTest says of a column's rows whether they are blank.
func BlankTest(col Column) func(row int32) bool {
	switch c := col.(type) {
	case *Numbers:
		return func(row int32) bool { return c.Values[row] == Blank }
	case *Floats:
		return func(row int32) bool { return math.IsNaN(c.Values[row]) }
	case *Texts:
		return func(row int32) bool { return c.Codes[row] == 0 }
	}
	return func(int32) bool { return true }
}
