// Conditions that compare two fields of a record.

package selection

import (
	"cmp"
	"fmt"
	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
	"math"
)

// compareFields marks the rows where two fields compare as asked. A blank on
// either side meets nothing.
func (f *filter) compareFields(b kernel.Bitmap, t *plan.Predicate, left, right table.Column) error {
	compare, err := comparer(t, left, right)
	if err != nil {
		return err
	}
	days := t.Ref.Field.Type != t.Other.Field.Type && t.Ref.Field.Type.Temporal()
	return f.mark(b, func(words []uint64, lo, hi int) {
		compare := compare
		if days {
			compare = f.dayComparer(t, left, right) // its clock is this goroutine's own
		}
		for row := lo; row < hi; row++ {
			c, ok := compare(row)
			words[(row-lo)/64] |= kernel.Bit(ok && holds(t.Compare, c)) << (row % 64)
		}
	})
}

// dayComparer compares a date and a moment, by the day that the moment is on.
func (f *filter) dayComparer(t *plan.Predicate, left, right table.Column) func(row int) (c int, ok bool) {
	clock := f.fields.Plan.Calendar.Clock()
	day := func(of catalog.Field, col table.Column) func(row int) int64 {
		values := col.(*table.Numbers).Values
		if of.Type == catalog.Date {
			return func(row int) int64 { return values[row] }
		}
		return func(row int) int64 {
			if v := values[row]; v != table.Blank {
				return calendar.FloorDay(clock.Local(v))
			}
			return table.Blank
		}
	}
	a, b := day(t.Ref.Field, left), day(t.Other.Field, right)
	return func(row int) (int, bool) {
		x, y := a(row), b(row)
		return cmp.Compare(x, y), x != table.Blank && y != table.Blank
	}
}

func holds(op view.Op, c int) bool {
	switch op {
	case view.Over:
		return c > 0
	case view.AtLeast:
		return c >= 0
	case view.Under:
		return c < 0
	case view.AtMost:
		return c <= 0
	}
	return c == 0
}

// comparer returns a function that compares the two fields of a row; ok is
// false when either is blank.
func comparer(t *plan.Predicate, left, right table.Column) (func(row int) (c int, ok bool), error) {
	switch l := left.(type) {
	case *table.Texts:
		if r, is := right.(*table.Texts); is {
			return func(row int) (int, bool) {
				a, b := l.Codes[row], r.Codes[row]
				return table.CompareNatural(l.Dict.Folded(a), r.Dict.Folded(b)), a != 0 && b != 0
			}, nil
		}
	case *table.Numbers:
		if r, is := right.(*table.Numbers); is {
			if t.Ref.Field.Type == catalog.Duration || t.Ref.Field.Scale == t.Other.Field.Scale {
				return func(row int) (int, bool) {
					a, b := l.Values[row], r.Values[row]
					return cmp.Compare(a, b), a != table.Blank && b != table.Blank
				}, nil
			}
			return func(row int) (int, bool) {
				a, b := l.Values[row], r.Values[row]
				return compareScaled(a, t.Ref.Field.Scale, b, t.Other.Field.Scale), a != table.Blank && b != table.Blank
			}, nil
		}
	}
	a, okA := asFloats(left, t.Ref.Field.Scale)
	b, okB := asFloats(right, t.Other.Field.Scale)
	if !okA || !okB {
		return nil, fmt.Errorf("selection: %s and %s cannot be compared", t.Ref.Label, t.Other.Label)
	}
	return func(row int) (int, bool) {
		x, y := a(row), b(row)
		return cmp.Compare(x, y), x == x && y == y
	}, nil
}

// compareScaled compares decimals of different scales exactly.
func compareScaled(a int64, scaleA int, b int64, scaleB int) int {
	if scaleA < scaleB {
		return kernel.Wide(a).Times(table.Pow10(scaleB - scaleA)).Compare(kernel.Wide(b))
	}
	return kernel.Wide(a).Compare(kernel.Wide(b).Times(table.Pow10(scaleA - scaleB)))
}

// asFloats reads a column of numbers as approximate values.
func asFloats(c table.Column, scale int) (func(row int) float64, bool) {
	switch c := c.(type) {
	case *table.Floats:
		return func(row int) float64 { return c.Values[row] }, true
	case *table.Numbers:
		unit := math.Pow10(scale)
		return func(row int) float64 {
			if v := c.Values[row]; v != table.Blank {
				return float64(v) / unit
			}
			return math.NaN()
		}, true
	}
	return nil, false
}
