package brief

import (
	"fmt"

	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
)

// linked says a condition on the records that link to one: "they have at
// least 2 inspections where result is failed".
func (w *writer) linked(l *plan.Linked, c *view.Linked) string {
	where := ""
	if l.Where != nil {
		where = " where " + w.condition(l.Where, c.Where)
	}
	switch l.Test {
	case view.NoneLinked:
		return "they have no " + l.Many + where
	case view.AtLeastLinked:
		return fmt.Sprintf("they have at least %d %s%s", l.N, l.Many, where)
	case view.AtMostLinked:
		return fmt.Sprintf("they have at most %d %s%s", l.N, l.Many, where)
	case view.LatestLinked, view.EarliestLinked:
		return fmt.Sprintf(
			"for the %s of their %s%s by %s, %s", l.Test, l.Many, where, running(l.Date.Label),
			w.condition(l.Meets, c.Meets),
		)
	case view.SumLinked, view.AverageLinked:
		figure := view.Condition{Op: c.Op, Value: c.Value, To: c.To}
		return fmt.Sprintf(
			"the %s %s of their %s%s %s", l.Fn.Words(l.Of.Field.Type), running(l.Of.Label), l.Many, where,
			w.words(l.Figure, &figure),
		)
	}
	return "they have " + l.Many + where
}

// condition says a condition on other records in one run of text.
func (w *writer) condition(n *plan.Node, c *view.Condition) string {
	inner := &writer{plan: w.plan, doc: w.doc}
	inner.node(n, c, true)
	return Text(inner.phrases)
}
