package brief

import (
	"fmt"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
)

// linked says a condition on the records that link to one: "they have at
// least 2 inspections where result is failed".
func (w *writer) linked(l *plan.Linked, c *view.Linked) string {
	v := l.Value
	them := v.There.Many + wayOf(v) + w.where(v, c.Where)
	switch l.Test {
	case view.NoneLinked:
		return "they have no " + them
	case view.AtLeastLinked:
		return fmt.Sprintf("they have at least %d %s", l.N, them)
	case view.AtMostLinked:
		return fmt.Sprintf("they have at most %d %s", l.N, them)
	case view.LatestLinked, view.EarliestLinked:
		return fmt.Sprintf(
			"for the %s of their %s by %s, %s", l.Test, them, running(v.Date.Label), w.condition(l.Meets, c.Meets),
		)
	case view.SumLinked, view.AverageLinked:
		figure := view.Condition{Op: c.Op, Value: c.Value, To: c.To}
		return fmt.Sprintf(
			"the %s %s of their %s %s", v.Take.Fn().Words(v.Of.Field.Type), running(v.Of.Label), them,
			w.words(l.Figure, &figure),
		)
	}
	return "they have " + them
}

// where says which linked records count.
func (w *writer) where(l *plan.LinkedValue, c *view.Condition) string {
	if l.Where == nil || c == nil {
		return ""
	}
	return " where " + w.condition(l.Where, c)
}

// wayOf says the links that a value is drawn through, where that is not plain.
func wayOf(l *plan.LinkedValue) string {
	if l.Way == "" {
		return ""
	}
	return " (by " + l.Way + ")"
}

// drawn says how a linked value comes about, and what it is where there is nothing to draw from:
// "the number of a vessel’s inspections (0 if there are none)".
func (w *writer) drawn(l *plan.LinkedValue, v *view.LinkedValue) string {
	whose := catalog.Article(l.One) + "’s "
	where := wayOf(l) + w.where(l, v.Where)
	them, of := whose+l.There.Many+where, running(l.Of.Label)
	switch l.Take {
	case view.TakeCount:
		return "the number of " + them + " (0 if there are none)"
	case view.TakeAny:
		return "whether there are any of " + them
	case view.TakeLatest, view.TakeEarliest:
		return fmt.Sprintf("the %s of %s%s %s by %s%s (blank if there is none)",
			of, whose, l.Take, l.There.One, running(l.Date.Label), where)
	case view.TakeJoined:
		return fmt.Sprintf(
			"the different %s of %s, at most %d of them by name", catalog.Plural(of), them, view.MostJoined,
		)
	case view.TakeDistinct:
		return fmt.Sprintf("the number of different %s of %s (0 if there are none)", catalog.Plural(of), them)
	}
	text := fmt.Sprintf("the %s %s of %s", l.Take.Fn().Words(l.Of.Field.Type), of, them)
	if len(l.Once) > 0 {
		text += ", each " + l.Of.Via + " once"
	}
	if l.Take == view.TakeSum {
		return text + " (0 if there are none)"
	}
	return text + " (blank if there are none)"
}

// condition says a condition on other records in one run of text.
func (w *writer) condition(n *plan.Node, c *view.Condition) string {
	inner := &writer{plan: w.plan, doc: w.doc}
	inner.node(n, c, true)
	return Text(inner.phrases)
}
