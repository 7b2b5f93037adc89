package result

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
func (s *Summary) Label(h Head) string {
	label := s.TotalLabel(h)
	if len(s.Plan.Across) == 0 {
		return label
	}
	if len(h.Across) == 0 {
		return label + ", all"
	}
	for _, a := range s.Pen(format.People).Across(h.Across) {
		label += ", " + Named(a)
	}
	return label
}

// TotalLabel is Label but for the group across.
func (s *Summary) TotalLabel(h Head) string {
	c := s.Plan.Columns[h.Column]
	label := c.Heading
	if c.Measure >= 0 {
		label = s.Plan.Measures[c.Measure].Label
	}
	if part := s.PartLabel(h.Part); part != "" {
		label += ", " + part
	}
	return label
}

// PartLabel says which side of a comparison a part is; empty for the view's own.
func (s *Summary) PartLabel(p Part) string {
	switch p {
	case Other:
		return otherLabel(s.Plan.Compare)
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
func (x *Explanation) Sentence(s *Summary) string {
	p, pen := s.Plan, s.Pen(format.People)
	w := pen.w
	count := func(n int, one, many string) string {
		if n == 1 {
			many = one
		}
		return w.Number(int64(n), catalog.Field{Type: catalog.Whole}) + " " + many
	}
	out := catalog.UpperFirst(x.Label) + " of " + count(x.Records, p.One, p.Many)
	if groups := pen.Groups(x.Down, x.Across); len(groups) > 0 {
		out += " in " + strings.Join(groups, ", ")
	}
	out += "."
	if x.Formula != "" {
		out += " Calculated as " + x.Formula + "."
	}
	one, many := "value", "values"
	if x.PerLinked != "" {
		one, many = "value, each "+x.PerLinked+" once,", "values, each "+x.PerLinked+" once,"
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
		low, high := pen.Mix(*x.Mix)
		out += " It is no price: those that went in lie from " + low + " to " + high + "."
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
