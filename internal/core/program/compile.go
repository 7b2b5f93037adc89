// From a formula's tree to nodes that work on blocks.

package program

import (
	"fmt"
	"math"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/table"
)

// Compile makes a program of a calculation. The error is of an operator that there is not,
// as in a plan that a newer program wrote.
func Compile(calculation *formula.Calculation) (*Program, error) { return compile(calculation.Expr) }

func compile(root *formula.Expr) (*Program, error) {
	c := &compiler{}
	node, err := c.node(root)
	if err != nil {
		return nil, err
	}
	return &Program{Type: root.Type, root: node, nodes: c.nodes}, nil
}

// compiler makes the nodes of a program.
type compiler struct {
	nodes int
	// switched are the values of the SWITCHes around the place at hand.
	switched []*shared
}

// id numbers a node, and thereby its buffer.
func (c *compiler) id() int {
	c.nodes++
	return c.nodes - 1
}

func (c *compiler) node(e *formula.Expr) (node, error) {
	switch e.Op {
	case formula.Input:
		return &input{t: e.Type, id: c.id(), index: e.Input}, nil
	case formula.Constant:
		return &constant{t: e.Type, id: c.id(), int: e.Int, text: e.Text}, nil
	case formula.Blank:
		return &constant{t: e.Type, id: c.id(), int: table.Blank, float: math.NaN()}, nil
	case formula.Switched:
		if len(c.switched) == 0 {
			return nil, fmt.Errorf("program: %q stands outside of a SWITCH", e.Op)
		}
		return c.switched[len(c.switched)-1], nil
	case formula.Choose:
		return c.choose(e)
	case formula.Switch:
		value, err := c.node(e.Args[0])
		if err != nil {
			return nil, err
		}
		c.switched = append(c.switched, &shared{value})
		defer func() { c.switched = c.switched[:len(c.switched)-1] }()
		return c.choose(e)
	case formula.Inlined:
		return c.inlined(e)
	}
	args, err := c.all(e.Args)
	if err != nil {
		return nil, err
	}
	switch e.Op {
	case formula.Retype:
		return args[0], nil
	case formula.Coalesce:
		return &coalesce{t: e.Type, id: c.id(), args: args}, nil
	case formula.IsBlank:
		return &isBlank{id: c.id(), arg: args[0]}, nil
	}
	if do, ok := operators[e.Op]; ok {
		return c.folded(c.apply(e, args, do(e, args)), e.Type, args), nil
	}
	if do, ok := functions[e.Op]; ok {
		return c.apply(e, args, do(e)), nil
	}
	return nil, fmt.Errorf("program: there is no operator %q", e.Op)
}

func (c *compiler) all(of []*formula.Expr) ([]node, error) {
	out := make([]node, len(of))
	for i, e := range of {
		var err error
		if out[i], err = c.node(e); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func (c *compiler) apply(e *formula.Expr, args []node, do kernel) node {
	return &apply{t: e.Type, id: c.id(), args: args, do: do}
}

func (c *compiler) choose(e *formula.Expr) (node, error) {
	tests, err := c.all(e.Tests())
	if err != nil {
		return nil, err
	}
	branches, err := c.all(e.Branches())
	if err != nil {
		return nil, err
	}
	return &choose{t: e.Type, id: c.id(), tests: tests, branches: branches}, nil
}

func (c *compiler) inlined(e *formula.Expr) (node, error) {
	body, err := compile(e.Body)
	if err != nil {
		return nil, err
	}
	args, err := c.all(e.Args)
	if err != nil {
		return nil, err
	}
	return &nested{id: c.id(), program: body, args: args}, nil
}

// folded is the value of an operator between constants, worked out once.
func (c *compiler) folded(n node, t formula.Type, args []node) node {
	for _, a := range args {
		if _, ok := a.(*constant); !ok {
			return n
		}
	}
	m := &Machine{n: 1, failed: NewFailures(1), buffers: make([]vec, c.nodes), texts: texts{meter: free{}}}
	v := n.eval(m)
	if m.failed.any() {
		return n // it fails for every record, and says so
	}
	out := &constant{t: t, id: c.id()}
	switch {
	case t.Type == catalog.Text:
		out.text = v.texts[0]
	case t.Approx:
		out.float = v.floats[0]
	default:
		out.int = v.ints[0]
	}
	return out
}

// operators make the kernels of what is worked out at once between constants: none of them
// looks at the calendar. args may be constants.
var operators = map[formula.Op]func(e *formula.Expr, args []node) kernel{
	formula.Rescale: func(e *formula.Expr, _ []node) kernel {
		return times(table.Pow10(e.Type.Scale - e.Args[0].Type.Scale))
	},
	formula.Approximate: func(e *formula.Expr, _ []node) kernel { return approximated(e.Args[0].Type) },
	formula.Written:     func(e *formula.Expr, _ []node) kernel { return written(e.Args[0].Type) },
	formula.Negate:      func(*formula.Expr, []node) kernel { return negate },
	formula.Add:         func(*formula.Expr, []node) kernel { return add },
	formula.Subtract:    func(*formula.Expr, []node) kernel { return subtract },
	formula.Multiply:    multiplied,
	formula.Divide:      func(*formula.Expr, []node) kernel { return divide },
	formula.Join:        func(*formula.Expr, []node) kernel { return join },
	formula.Equal:       comparison(func(c int) bool { return c == 0 }),
	formula.Different:   comparison(func(c int) bool { return c != 0 }),
	formula.Below:       comparison(func(c int) bool { return c < 0 }),
	formula.AtMost:      comparison(func(c int) bool { return c <= 0 }),
	formula.Above:       comparison(func(c int) bool { return c > 0 }),
	formula.AtLeast:     comparison(func(c int) bool { return c >= 0 }),
}
