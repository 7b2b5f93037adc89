// And, or and not, with blanks.

package program

import "gavrik/internal/core/formula"

var logicFunctions = map[formula.Op]func(e *formula.Expr) kernel{
	"AND": truths(func(yes, all int) bool { return yes == all }),
	"OR":  truths(func(yes, _ int) bool { return yes > 0 }),
	"NOT": truths(func(yes, _ int) bool { return yes == 0 }),
}

// truths decides by how many conditions are yes; a blank is none.
func truths(decide func(yes, all int) bool) func(*formula.Expr) kernel {
	return fixed(func(_ *Machine, out vec, v []vec) {
		for i := range out.ints {
			yes := 0
			for _, a := range v {
				if a.ints[i] == 1 {
					yes++
				}
			}
			out.ints[i] = 0
			if decide(yes, len(v)) {
				out.ints[i] = 1
			}
		}
	})
}
