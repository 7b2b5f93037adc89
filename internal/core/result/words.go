package result

import (
	"fmt"

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
