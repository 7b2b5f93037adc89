package formula

import "strings"

// Tidy writes a formula in one way: fields in single quotes, arguments separated by a
// semicolon, brackets where they are needed. Two formulas that differ in looks only
// are the same when tidied.
func Tidy(source string) (string, error) {
	t, err := parse(source)
	if err != nil {
		return "", err
	}
	return t.String(), nil
}

// String writes an expression so that parsing it gives the same tree.
func (t *tree) String() string {
	var b strings.Builder
	t.write(&b, 0)
	return b.String()
}

// prefixed and postfixed bind tighter than all operators between two values.
var prefixed, postfixed = len(binding), len(binding) + 1

// level is how tightly the outermost operator binds; literals and calls most.
func (t *tree) level() int {
	if t.kind != signToken {
		return postfixed + 1
	}
	switch t.text {
	case "neg":
		return prefixed
	case "%":
		return postfixed
	}
	for i, signs := range binding {
		for _, s := range strings.Fields(signs) {
			if s == t.text {
				return i
			}
		}
	}
	return postfixed + 1
}

// write puts brackets around what binds looser than its place wants.
func (t *tree) write(b *strings.Builder, least int) {
	if t.level() < least {
		b.WriteByte('(')
		defer b.WriteByte(')')
	}
	switch {
	case t.kind == numberToken:
		b.WriteString(t.text)
	case t.kind == textToken:
		b.WriteString(`"` + strings.ReplaceAll(t.text, `"`, `""`) + `"`)
	case t.kind == fieldToken:
		b.WriteString("'" + strings.ReplaceAll(t.text, "'", "''") + "'")
	case t.kind == nameToken:
		b.WriteString(t.text + "(")
		for i, a := range t.args {
			if i > 0 {
				b.WriteString("; ")
			}
			a.write(b, 0)
		}
		b.WriteByte(')')
	case t.text == "neg":
		b.WriteByte('-')
		t.args[0].write(b, prefixed)
	case t.text == "%":
		t.args[0].write(b, postfixed)
		b.WriteByte('%')
	default:
		// Operators of one level group from the left.
		t.args[0].write(b, t.level())
		b.WriteString(" " + t.text + " ")
		t.args[1].write(b, t.level()+1)
	}
}
