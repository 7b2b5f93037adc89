package brief

import (
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
)

// DrawnFrom says in one run of text how a field of a plan comes about that is drawn from other
// records, by links or beside it; empty for others. as is what it was checked from; if nil, that of
// its definition, and where there is none, nothing is said of which records count.
func DrawnFrom(p *plan.Plan, d *plan.Derived, as *view.Made) string {
	if d.There != nil {
		p, d = d.There, d.Inner()
	}
	given := view.Made{}
	if as != nil {
		given = *as
	} else if d.Definition != nil {
		given = *d.Definition
	}
	w := &writer{plan: p, doc: &view.Document{Records: p.Records}}
	switch {
	case d.Linked != nil && given.Linked != nil:
		return w.drawn(d.Linked, given.Linked)
	case d.Linked != nil:
		return w.drawn(d.Linked, &view.LinkedValue{})
	case d.Beside != nil && given.Beside != nil:
		return w.beside(d.Beside, given.Beside)
	case d.Beside != nil:
		return w.beside(d.Beside, &view.Beside{})
	}
	return ""
}

// beside says how a record is set beside others: "a booking’s fare as a share of that of all bookings
// of the same route".
func (w *writer) beside(b *plan.Beside, given *view.Beside) string {
	one, many, of := w.plan.One, w.plan.Many, running(b.Of.Label)
	own := catalog.Article(one) + "’s " + of
	same := sameOf(b.Each)
	text := ""
	switch b.Take {
	case view.GroupShare:
		text = own + " as a share of that of all " + many + same
	case view.GroupRank:
		text = catalog.Article(one) + "’s rank by " + of + " among the " + many + same + ", " +
			pick(b.Of.Field.Type.Temporal(), "the latest", "the largest") + " first"
	case view.FromAverage:
		text = "how far " + own + " is above the average of the " + many + same + " (below it, if negative)"
	case view.GroupAverage:
		text = "the average " + of + " of the " + many + same
	case view.GroupTotal:
		text = "the total " + of + " of the " + many + same
	case view.GroupCount:
		text = "the number of " + many + same
	case view.PreviousChange:
		text = own + " less that of the " + one + " before" + same
	case view.SincePrevious:
		text = "the time from the " + of + " of the " + one + " before" + same + " to its own"
	case view.Previous:
		text = "the " + of + " of the " + one + " before" + same
	case view.Next:
		text = "the " + of + " of the " + one + " after" + same
	case view.RunningTotal:
		text = "the running total of " + of + " over the " + many + same
	case view.FirstOfEach:
		text = "the first " + of + " of the " + many + same
	case view.LastOfEach:
		text = "the last " + of + " of the " + many + same
	default:
		text = "the place of " + catalog.Article(one) + " among the " + many + same
	}
	if b.Take.Ordered() {
		var by []string
		for _, s := range b.By {
			by = append(by, sortWords(s))
		}
		text += ", " + strings.Join(by, " then ")
	}
	switch {
	case b.Kept && b.Among != nil:
		text += ", among those that the other conditions keep"
	case b.Among != nil && given.Among != nil:
		text += ", among those where " + w.condition(b.Among, given.Among)
	}
	return text
}

// sameOf says what records of one group have in common.
func sameOf(each []plan.Group) string {
	if len(each) == 0 {
		return ""
	}
	labels := make([]string, len(each))
	for i, g := range each {
		labels[i] = strings.TrimPrefix(running(g.Label()), "each ") // of the same customer
	}
	return " of the same " + view.Listed(labels, " and ")
}
