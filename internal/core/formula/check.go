package formula

import (
	"fmt"
	"math"
	"math/big"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// checker turns a tree into a program, or says what is wrong with it.
type checker struct {
	lookup   Lookup
	perTotal bool
	totals   []Total
	// building is the program at hand; programs of totals nest in the whole's.
	building *Program
	inTotal  bool
}

// program compiles a tree; outer is the formula itself, not the argument of one of
// its totals.
func (c *checker) program(t *tree, outer bool) (*Program, error) {
	saved := c.building
	defer func() { c.building = saved }()
	c.building = &Program{}
	p := c.building
	c.inTotal = !outer
	root, err := c.expr(t)
	c.inTotal = false
	if err != nil {
		return nil, err
	}
	p.root, p.Type = root, root.typ()
	return p, nil
}

func (c *checker) id() int {
	c.building.nodes++
	return c.building.nodes - 1
}

func fault(t *tree, format string, args ...any) error {
	return &Error{t.from, t.to, fmt.Sprintf(format, args...)}
}

func (c *checker) expr(t *tree) (node, error) {
	switch t.kind {
	case numberToken:
		return c.number(t)
	case textToken:
		return &constant{t: Type{Type: catalog.Text}, id: c.id(), text: t.text}, nil
	case fieldToken:
		return c.field(t)
	case nameToken:
		return c.call(t)
	}
	var args []node
	for _, a := range t.args {
		n, err := c.expr(a)
		if err != nil {
			return nil, err
		}
		args = append(args, n)
	}
	return c.operator(t, args)
}

func (c *checker) number(t *tree) (node, error) {
	r, ok := new(big.Rat).SetString(t.text)
	if !ok || strings.Count(t.text, ".") > 1 {
		return nil, fault(t, "%q is not a number; write it as 1234.5", t.text)
	}
	_, decimals, _ := strings.Cut(t.text, ".")
	typ := Type{Type: catalog.Whole}
	if decimals = strings.TrimRight(decimals, "0"); decimals != "" {
		typ = Type{Type: catalog.Decimal, Scale: len(decimals)}
	}
	r.Mul(r, new(big.Rat).SetInt64(table.Pow10(min(typ.Scale, maxScale))))
	if typ.Scale > maxScale || !r.IsInt() || !r.Num().IsInt64() {
		return nil, fault(t, "the number %s has too many digits; at most %d are kept", t.text, maxScale)
	}
	return &constant{t: typ, id: c.id(), int: r.Num().Int64()}, nil
}

func (c *checker) field(t *tree) (node, error) {
	switch strings.ToUpper(t.text) {
	case "TRUE", "YES":
		return c.truth(1), nil
	case "FALSE", "NO":
		return c.truth(0), nil
	}
	ref, err := c.lookup(t.text)
	if err != nil {
		return nil, fault(t, "%s", err)
	}
	if c.perTotal && !c.inTotal {
		return nil, fault(t, "in a formula of totals every field stands inside a total; write SUM('%s') or another total of it", t.text)
	}
	if ref.Field.Type == catalog.Picture {
		return nil, fault(t, "'%s' holds pictures, which cannot be calculated with", t.text)
	}
	p := c.building
	at := len(p.Inputs)
	for i, have := range p.Inputs {
		if have.Path == ref.Path {
			at = i
		}
	}
	if at == len(p.Inputs) {
		p.Inputs = append(p.Inputs, ref)
	}
	return &input{t: TypeOf(ref.Field), id: c.id(), index: at}, nil
}

func (c *checker) truth(v int64) node {
	return &constant{t: Type{Type: catalog.YesNo}, id: c.id(), int: v}
}

// hasTotal says whether a total stands anywhere in a tree.
func hasTotal(t *tree) bool {
	if t.kind == nameToken && totalOf(t) != "" {
		return true
	}
	for _, a := range t.args {
		if hasTotal(a) {
			return true
		}
	}
	return false
}

// totalOf is the total that a call stands for, or "". MIN and MAX of several
// values are no totals.
func totalOf(t *tree) view.Fn {
	fn := map[string]view.Fn{
		"SUM": view.Sum, "AVERAGE": view.Average, "COUNT": view.FilledN, "COUNTA": view.FilledN, "COUNTBLANK": view.Blanks,
		"COUNTDISTINCT": view.Distinct, "MEDIAN": view.Median, "MIN": view.Smallest, "MAX": view.Largest, "STDEV": view.Spread, "VAR": view.Variance,
	}[t.text]
	if (t.text == "MIN" || t.text == "MAX") && len(t.args) != 1 {
		return ""
	}
	return fn
}

// total compiles a total's argument as a program of its own and reads its figure
// as an input.
func (c *checker) total(t *tree, fn view.Fn) (node, error) {
	if len(t.args) != 1 {
		return nil, fault(t, "%s wants one value for each record, not %d", t.text, len(t.args))
	}
	if c.inTotal {
		return nil, fault(t, "%s stands inside another total; make a calculated field of one of them", t.text)
	}
	arg, err := c.program(t.args[0], false)
	if err != nil {
		return nil, err
	}
	f := arg.Type.Field("", "")
	fits := false
	for _, x := range view.FnsFor(f.Type) {
		fits = fits || x == fn
	}
	// A percentage may be summed within a formula: the formula says what it means.
	if !fits && !(fn == view.Sum && f.Type == catalog.Percent) {
		return nil, fault(t, "%s does not fit %s", t.text, f.Type.Word())
	}
	c.totals = append(c.totals, Total{Fn: fn, Arg: arg})
	return &input{t: TypeOf(fn.Result(f)), id: c.id(), index: len(c.totals) - 1}, nil
}

// rescaled brings an exact number to more decimals.
func (c *checker) rescaled(n node, scale int) node {
	t := n.typ()
	if t.Approx || t.Scale == scale {
		return n
	}
	factor := table.Pow10(scale - t.Scale)
	t.Scale = scale
	if k, ok := n.(*constant); ok && k.int <= math.MaxInt64/factor && k.int >= -math.MaxInt64/factor {
		return &constant{t: t, id: c.id(), int: k.int * factor}
	}
	return &apply{t: t, id: c.id(), args: []node{n}, do: func(m *Machine, out vec, a []vec) {
		for i, v := range a[0].ints {
			out.ints[i] = multiply(m, i, v, factor)
		}
	}}
}

// floated makes a number approximate. A percentage becomes the number it stands
// for.
func (c *checker) floated(n node) node {
	t := n.typ()
	percent := t.Type == catalog.Percent
	if t.Approx && !percent {
		return n
	}
	unit := 1.0
	if t.Type != catalog.Duration && !t.Approx {
		unit = math.Pow10(t.Scale)
	}
	if percent {
		unit *= 100
	}
	out := Type{Type: catalog.Decimal, Approx: true}
	return &apply{t: out, id: c.id(), args: []node{n}, do: func(_ *Machine, out vec, a []vec) {
		if a[0].floats != nil {
			for i, v := range a[0].floats {
				out.floats[i] = v / unit
			}
			return
		}
		for i, v := range a[0].ints {
			out.floats[i] = math.NaN()
			if v != table.Blank {
				out.floats[i] = float64(v) / unit
			}
		}
	}}
}

// unpercented reads a percentage as the number it stands for: 12.5 % is 0.125.
func (c *checker) unpercented(n node) node {
	t := n.typ()
	if t.Type != catalog.Percent {
		return n
	}
	if t.Approx {
		return c.floated(n)
	}
	return &retyped{n, Type{Type: catalog.Decimal, Scale: t.Scale + 2}}
}

// retyped reads the same stored values as another type.
type retyped struct {
	node
	t Type
}

func (r *retyped) typ() Type { return r.t }
