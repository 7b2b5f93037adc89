package explain

import (
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
)

// Sentence says an explanation: "Total claimed of 412 claims in Open, Refund. 398
// values went in, 14 blanks were passed over."
func (x *Explanation) Sentence(s *result.Summary) string {
	p, pen := s.Plan, s.Pen(format.People)
	w := format.NewWriter(format.People, p.Calendar)
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
	if x.Drawn != "" {
		out += " Each is " + x.Drawn + "."
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
