package formula

import (
	"fmt"
	"strings"

	"gavrik/internal/core/code"
)

// tree is a parsed expression: a literal, a field, or an operator or function
// with its arguments.
type tree struct {
	kind tokenKind // numberToken, textToken, fieldToken; signToken or nameToken for what has arguments
	// text is the literal, the field's name, the operator or the function in
	// capitals.
	text     string
	args     []*tree
	from, to int
}

// Operators by how tightly they bind, loosest first (OpenFormula 5.5). A unary
// minus binds tighter than ^, as in the standard: -2^2 is 4.
var binding = []string{"= <> < <= > >=", "&", "+ -", "* /", "^"}

func parse(source string) (*tree, error) {
	tokens, err := scan(strings.TrimPrefix(source, "="))
	if err != nil {
		return nil, err
	}
	p := &parser{tokens: tokens}
	if p.peek().kind == endToken {
		return nil, p.fail("the formula is empty; write one such as 'Claimed' - 'Paid'")
	}
	t, err := p.binary(0)
	if err != nil {
		return nil, err
	}
	if p.peek().kind != endToken {
		return nil, p.fail("an operator such as + or & is wanted before %q", p.peek().text)
	}
	return t, nil
}

type parser struct {
	tokens []token
	at     int
	depth  int
}

func (p *parser) peek() token { return p.tokens[p.at] }

func (p *parser) fail(format string, args ...any) error {
	t := p.peek()
	return &Error{t.from, max(t.to, t.from+1), code.FormulaForm, fmt.Sprintf(format, args...)}
}

func (p *parser) tooDeep(format string, args ...any) error {
	err := p.fail(format, args...).(*Error)
	err.Code = code.FormulaSize
	return err
}

// deeper counts a level of nesting; the caller takes it back.
func (p *parser) deeper() error {
	p.depth++
	if p.depth > maxDepth {
		return p.tooDeep(
			"the formula is nested more than %d deep; use a calculated field for a part of it", maxDepth)
	}
	return nil
}

func (p *parser) isSign(words string) bool {
	t := p.peek()
	if t.kind != signToken {
		return false
	}
	for _, w := range strings.Fields(words) {
		if t.text == w {
			return true
		}
	}
	return false
}

// binary reads operators of a level and tighter; all group from the left.
func (p *parser) binary(level int) (*tree, error) {
	if level == len(binding) {
		return p.unary()
	}
	if err := p.deeper(); err != nil {
		return nil, err
	}
	defer func(depth int) { p.depth = depth }(p.depth - 1)
	left, err := p.binary(level + 1)
	if err != nil {
		return nil, err
	}
	for p.isSign(binding[level]) {
		op := p.peek()
		p.at++
		if err := p.deeper(); err != nil { // a long chain makes a deep tree
			return nil, err
		}
		right, err := p.binary(level + 1)
		if err != nil {
			return nil, err
		}
		left = &tree{signToken, op.text, []*tree{left, right}, left.from, right.to}
	}
	return left, nil
}

func (p *parser) unary() (*tree, error) {
	if p.isSign("- +") {
		op := p.peek()
		p.at++
		if err := p.deeper(); err != nil {
			return nil, err
		}
		defer func() { p.depth-- }()
		arg, err := p.unary()
		if err != nil || op.text == "+" {
			return arg, err
		}
		return &tree{signToken, "neg", []*tree{arg}, op.from, arg.to}, nil
	}
	t, err := p.primary()
	for err == nil && p.isSign("%") {
		t = &tree{signToken, "%", []*tree{t}, t.from, p.peek().to}
		p.at++
	}
	return t, err
}

func (p *parser) primary() (*tree, error) {
	t := p.peek()
	switch {
	case t.kind == numberToken || t.kind == textToken || t.kind == fieldToken:
		p.at++
		return &tree{t.kind, t.text, nil, t.from, t.to}, nil
	case t.kind == nameToken:
		p.at++
		if p.isSign("(") {
			return p.call(t)
		}
		return &tree{fieldToken, t.text, nil, t.from, t.to}, nil
	case p.isSign("("):
		p.at++
		inner, err := p.binary(0)
		if err != nil {
			return nil, err
		}
		if !p.isSign(")") {
			return nil, p.fail("a closing bracket is wanted for the one opened at character %d", t.from+1)
		}
		inner.from, inner.to = t.from, p.peek().to
		p.at++
		return inner, nil
	case t.kind == endToken:
		return nil, p.fail("the formula ends where a field, a number or a text is wanted")
	}
	return nil, p.fail("a field, a number or a text is wanted before %q", t.text)
}

// call reads a function's arguments, separated by ; or ,.
func (p *parser) call(name token) (*tree, error) {
	out := &tree{kind: nameToken, text: strings.ToUpper(name.text), from: name.from}
	p.at++ // the bracket
	for !p.isSign(")") {
		arg, err := p.binary(0)
		if err != nil {
			return nil, err
		}
		out.args = append(out.args, arg)
		switch {
		case p.isSign("; ,"):
			p.at++
			if p.isSign(")") {
				return nil, p.fail("one more argument is wanted after the separator")
			}
		case !p.isSign(")"):
			return nil, p.fail("a ; or a closing bracket is wanted in the arguments of %s", out.text)
		}
	}
	out.to = p.peek().to
	p.at++
	return out, nil
}
