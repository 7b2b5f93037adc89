package engine

import (
	"fmt"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
)

// String says a problem: "12 records have no Net because they divide by zero".
func (p Problem) String() string {
	one, many := "record has", "records have"
	if p.Groups {
		one, many = "line has", "lines have"
	}
	if p.Count == 1 {
		many = one
	}
	return fmt.Sprintf("%d %s no %s because %s", p.Count, many, p.Label, p.Reason.Words())
}

// String says what became of amounts in several currencies.
func (c Currencies) String() string {
	if c.Count == 0 {
		return c.Label + " would put several currencies together, and is blank where it would"
	}
	return fmt.Sprintf("%s is in %d currencies, each worked out by itself", c.Label, c.Count)
}

// Label names a column of the ledger by itself: its total, its side of a
// comparison, its group across.
func (r *Result) Label(h Head) string {
	label := r.totalLabel(h)
	if len(r.Plan.Across) == 0 {
		return label
	}
	if len(h.Across) == 0 {
		return label + ", all"
	}
	for _, a := range h.Across {
		label += ", " + named(a)
	}
	return label
}

// totalLabel is Label but for the group across.
func (r *Result) totalLabel(h Head) string {
	c := r.Plan.Columns[h.Column]
	label := c.Heading
	if c.Measure >= 0 {
		label = r.Plan.Measures[c.Measure].Label
	}
	if part := r.PartLabel(h.Part); part != "" {
		label += ", " + part
	}
	return label
}

// named is a group's label where it stands alone.
func named(label string) string {
	if label == "" {
		return "blank"
	}
	return label
}

// PartLabel says which side of a comparison a part is; empty for the view's own.
func (r *Result) PartLabel(p Part) string {
	switch p {
	case Other:
		return otherLabel(r.Plan.Compare)
	case Change:
		return "change"
	case Percent:
		return "change in percent"
	}
	return ""
}

func otherLabel(c *plan.Compare) string {
	if c == nil {
		return ""
	}
	return c.Label
}

// Sentence says an explanation: "Total claimed of 412 claims in Open, Refund. 398
// values went in, 14 blanks were passed over."
func (x *Explanation) Sentence(p *plan.Plan) string {
	w := format.NewWriter(format.People, p.Calendar)
	count := func(n int, one, many string) string {
		if n == 1 {
			many = one
		}
		return w.Number(int64(n), catalog.Field{Type: catalog.Whole}) + " " + many
	}
	out := catalog.UpperFirst(x.Label) + " of " + count(x.Records, p.One, p.Many)
	if len(x.Groups) > 0 {
		labels := make([]string, len(x.Groups))
		for i, g := range x.Groups {
			labels[i] = named(g)
		}
		out += " in " + strings.Join(labels, ", ")
	}
	out += "."
	if x.Formula != "" {
		out += " Calculated as " + x.Formula + "."
	}
	one, many := "value", "values"
	if x.Once != "" {
		one, many = "value, each "+x.Once+" once,", "values, each "+x.Once+" once,"
	}
	wentIn := func(x *Explanation) string {
		if x.Counted < 0 {
			return ""
		}
		text := " " + count(x.Counted, one, many) + " went in"
		if x.Blanks > 0 {
			text += ", " + count(x.Blanks, "blank was", "blanks were") + " passed over"
		}
		return text + "."
	}
	out += wentIn(x)
	if x.Mix != nil {
		out += " It is no price: those that went in lie from " + x.Mix.Low + " to " + x.Mix.High + "."
	}
	if x.Each != "" {
		out += " Amounts of linked records count in every " + x.Each + " that leads to them."
	}
	for _, f := range x.From {
		out += " " + catalog.UpperFirst(f.Label) + ":" + wentIn(&f)
	}
	for _, pr := range x.Problems {
		out += " " + pr.String() + "."
	}
	return out
}
