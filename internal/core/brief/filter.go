package brief

import (
	"fmt"
	"strings"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
)

// shownValues is how many listed values a phrase names before it counts the rest.
const shownValues = 4

func (w *writer) filter() {
	n := w.plan.Filter
	if n == nil || (n.Kind == plan.All || n.Kind == plan.Any || n.Kind == plan.None) && len(n.Children) == 0 {
		return
	}
	w.plain(" where ")
	w.node(n, w.doc.Filter, true)
}

// node says a condition. c is the part of the document that n was checked from.
func (w *writer) node(n *plan.Node, c *view.Condition, outermost bool) {
	switch n.Kind {
	case plan.Leaf:
		w.add(Filter, w.test(n.Predicate, c)+pick(c.After, " (tested last)", ""), n.Path)
		w.phrases[len(w.phrases)-1].Parameter = n.Parameter
		return
	case plan.Open:
		label, _ := n.Predicate.Ref.Stem()
		text := running(label) + " is anything"
		if n.Parameter.Required {
			text = running(label) + " waits for an answer"
		}
		w.add(Filter, text, n.Path)
		w.phrases[len(w.phrases)-1].Parameter = n.Parameter
		return
	case plan.Links:
		w.add(Filter, w.linked(n.Linked, c.Linked), n.Path)
		return
	case plan.Within:
		text := "another view keeps them"
		if c.Within.View != "" {
			text = "the view “" + c.Within.View + "” keeps them"
		}
		w.add(Filter, text, n.Path)
		return
	}
	parts, join := c.All, " and "
	before, after := "(", ")"
	switch n.Kind {
	case plan.Any:
		parts, join = c.Any, " or "
	case plan.None:
		parts, join, before = c.None, " or ", "not ("
	}
	if outermost && n.Kind != plan.None || len(parts) == 1 && n.Kind != plan.None {
		before, after = "", ""
	}
	if len(parts) == 0 {
		w.add(Filter, "anything", n.Path)
		return
	}
	w.plain(before)
	for i, child := range n.Children {
		answers := n.Kind == plan.All && child.Parameter != nil && (i == 0 || n.Children[i-1].Parameter == nil)
		switch {
		case answers && i > 0:
			w.plain(" and, as answered, ")
		case answers:
			w.plain("(as answered) ")
		case i > 0:
			w.plain(join)
		}
		w.node(child, &parts[child.At], false)
	}
	w.plain(after)
}

func (w *writer) test(t *plan.Predicate, c *view.Condition) string {
	label, verbal := t.Ref.Stem()
	name := running(label)
	words := w.words(t, c)
	if verbal && c.Op != view.IsBlank && c.Op != view.Filled {
		words = strings.TrimPrefix(words, "is ") // "opened after", not "opened is after"
	}
	return name + " " + words
}

// words are what a test asks of its field: "is over 25.00".
func (w *writer) words(t *plan.Predicate, c *view.Condition) string {
	f := t.Ref.Field
	op, operand := c.Op.Words(f.Type), c.Op.Info().Operand
	switch {
	case c.Period != nil:
		words := c.Period.Words()
		if t.Negate {
			words = strings.Replace(words, "is ", "is not ", 1)
		}
		return words
	case operand == view.OperandNone:
		return op
	case t.Match == plan.MatchCycle:
		return op + " " + view.Listed(t.Given, " or ")
	case t.Other != nil:
		return op + " " + running(t.Other.Label)
	case f.Type == catalog.YesNo:
		return op + " " + c.Value
	case operand == view.OperandTwo:
		return fmt.Sprintf("%s %s to %s", op, w.operand(c.Value, f), w.operand(c.To, f))
	case operand == view.OperandList:
		return op + " " + w.list(c.Values, f)
	}
	return op + " " + w.operand(c.Value, f)
}

func (w *writer) list(values []string, f catalog.Field) string {
	var words []string
	for _, v := range values {
		words = append(words, w.operand(v, f))
	}
	if len(words) > shownValues {
		rest := len(words) - shownValues + 1
		words = append(words[:shownValues-1], fmt.Sprintf("%d more", rest))
	}
	return view.Listed(words, " or ")
}

// operand writes a value for people; what cannot be read stays as it was typed.
func (w *writer) operand(s string, f catalog.Field) string {
	if s == "" {
		return "blank"
	}
	pen := format.NewWriter(format.People, w.plan.Calendar)
	switch f.Type {
	case catalog.Text, catalog.Picture, catalog.YesNo:
		return s
	case catalog.Date, catalog.DateTime:
		if d, err := calendar.ParseDay(s); err == nil {
			return calendar.FormatDay(d)
		}
		if m, err := calendar.ParseLocal(s); err == nil {
			return pen.Number(w.plan.Calendar.At(m), f)
		}
		return s
	case catalog.Duration:
		if d, err := plan.ParseDuration(s); err == nil {
			return pen.Number(d, f)
		}
		return s
	}
	if _, fraction, _ := strings.Cut(s, "."); len(fraction) > f.Scale {
		return s
	}
	if v, err := plan.ParseNumber(s, f.Scale); err == nil {
		return pen.Number(v.Lo, f)
	}
	return s
}
