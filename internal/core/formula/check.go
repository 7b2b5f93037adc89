package formula

import (
	"errors"
	"fmt"
	"math"
	"math/big"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
	"gavrik/internal/core/table"
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
	p.root, p.Type, p.Least = root, root.typ(), leastText(root)
	return p, nil
}

func (c *checker) id() int {
	c.building.nodes++
	return c.building.nodes - 1
}

// fault is one of values that do not go together, as most are.
func fault(t *tree, format string, args ...any) error {
	return faultOf(code.FormulaType, t, format, args...)
}

func faultOf(c code.Code, t *tree, format string, args ...any) error {
	return &Error{t.from, t.to, c, fmt.Sprintf(format, args...)}
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
	n, err := c.operator(t, args)
	if err != nil {
		return nil, err
	}
	return c.folded(n, args), nil
}

// folded works an operator between constants out at once.
func (c *checker) folded(n node, args []node) node {
	for _, a := range args {
		if _, ok := a.(*constant); !ok {
			return n
		}
	}
	m := &Machine{n: 1, failed: NewFailures(1), buffers: make([]vec, c.building.nodes), texts: texts{meter: free{}}}
	v := n.eval(m)
	for _, rows := range m.failed.Rows {
		if rows[0] != 0 {
			return n // it fails for every record, and says so
		}
	}
	out := &constant{t: n.typ(), id: c.id()}
	switch {
	case v.texts != nil:
		out.text = v.texts[0]
	case v.floats != nil:
		out.float = v.floats[0]
	default:
		out.int = v.ints[0]
	}
	return out
}

func (c *checker) number(t *tree) (node, error) {
	r, ok := new(big.Rat).SetString(t.text)
	if !ok || strings.Count(t.text, ".") > 1 {
		return nil, faultOf(code.FormulaForm, t, "%q is not a number; write it as 1234.5", t.text)
	}
	_, decimals, _ := strings.Cut(t.text, ".")
	typ := Type{Type: catalog.Whole}
	if decimals = strings.TrimRight(decimals, "0"); decimals != "" {
		typ = Type{Type: catalog.Decimal, Scale: len(decimals)}
	}
	r.Mul(r, new(big.Rat).SetInt64(table.Pow10(min(typ.Scale, maxScale))))
	if typ.Scale > maxScale || !r.IsInt() || !r.Num().IsInt64() {
		return nil, faultOf(code.FormulaSize, t,
			"the number %s has too many digits; at most %d are kept", t.text, maxScale)
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
	found, err := c.lookup(t.text)
	ref := found.Ref
	switch {
	case errors.Is(err, ErrDoubt):
		return nil, faultOf(code.FormulaDoubt, t, "%s", err)
	case err != nil:
		return nil, faultOf(code.FormulaName, t, "%s", err)
	case found.Totals != nil && c.inTotal:
		return nil, fault(t, "'%s' is calculated from totals and cannot stand inside one", t.text)
	case found.Totals != nil:
		return c.inlined(t, found)
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
	return &input{t: typeOfRef(ref), id: c.id(), index: at, least: found.Least}, nil
}

// inlined works a field that is calculated from totals out in its place.
func (c *checker) inlined(t *tree, found Found) (node, error) {
	if len(c.totals)+len(found.Totals.Totals) > maxTotals {
		return nil, faultOf(code.FormulaSize, t, "the formula needs more than %d totals", maxTotals)
	}
	at := len(c.totals)
	c.totals = append(c.totals, found.Totals.Totals...)
	figures := make([]node, len(found.Totals.Totals))
	for i, typ := range found.Totals.types() {
		figures[i] = &input{t: typ, id: c.id(), index: at + i}
	}
	return &nested{id: c.id(), program: found.Totals.Program, args: figures}, nil
}

func (c *checker) truth(v int64) node {
	return &constant{t: Type{Type: catalog.YesNo}, id: c.id(), int: v}
}

// hasTotal says whether a total stands anywhere in a tree, or a field that is
// calculated from totals.
func (c *checker) hasTotal(t *tree) bool {
	switch t.kind {
	case nameToken:
		if isTotal(t) {
			return true
		}
	case fieldToken:
		if found, err := c.lookup(t.text); err == nil && found.Totals != nil {
			return true
		}
	}
	return slices.ContainsFunc(t.args, c.hasTotal)
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
	return c.times(n, factor, t)
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
	out := Type{Type: catalog.Decimal, Approx: true, CurrencyBy: t.CurrencyBy}
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
	return &retyped{n, Type{Type: catalog.Decimal, Scale: t.Scale + 2, CurrencyBy: t.CurrencyBy}}
}

// retyped reads the same stored values as another type.
type retyped struct {
	node
	t Type
}

func (r *retyped) typ() Type { return r.t }
