package view

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/code"
)

// Parameter leaves a condition open for whoever runs the view. Its operands are the answer:
// as saved, what is proposed; in a run, what was answered. An optional question without
// an answer filters nothing; a required one is waited for.
type Parameter struct {
	Name     string `json:"name" pattern:"^[a-z][a-z0-9_]*$" maxLength:"40" doc:"What answers are given by, in links and on the command line"`
	Label    string `json:"label" maxLength:"120" doc:"The question"`
	Help     string `json:"help,omitempty" maxLength:"400" doc:"What helps to answer it"`
	Required bool   `json:"required,omitempty" doc:"The view waits for an answer"`
}

// askName is how questions are named.
var askName = regexp.MustCompile(`^[a-z][a-z0-9_]*$`)

// Answered says whether the condition has the operands that its operator needs.
func (c *Condition) Answered() bool {
	switch c.Op.Info().Operand {
	case OperandNone:
		return true
	case OperandList, OperandWeekdays, OperandHours:
		return len(c.Values) > 0
	case OperandPeriod:
		return c.Period != nil
	case OperandTwo:
		return c.Value != "" && c.To != ""
	}
	return c.Value != "" || c.Other != ""
}

// checkAsk reports what is wrong with a question.
func (c *Condition) checkAsk(faults *Faults, path string) {
	switch {
	case c.Parameter == nil:
	case c.Field == "":
		faults.add(path+".ask", code.Question, "only a test of a field can be left open; put the question there")
	case strings.TrimSpace(c.Parameter.Label) == "":
		faults.add(path+".ask.label", code.Question, "the question has no words; write what is asked")
	case !askName.MatchString(c.Parameter.Name):
		faults.add(path+".ask.name", code.Question,
			"%q is no name for a question; use small letters, digits and _", c.Parameter.Name)
	}
}

// question is a condition that is left open, and its place.
type question struct {
	*Condition
	path string
}

// Parameters are the conditions that are left open, in the document's order.
func (d *Document) Parameters() []*Condition {
	var out []*Condition
	for _, q := range d.questions() {
		out = append(out, q.Condition)
	}
	return out
}

func (d *Document) questions() []question {
	var out []question
	var visit func(c *Condition, path string)
	visit = func(c *Condition, path string) {
		if c.Parameter != nil {
			out = append(out, question{c, path})
		}
		for _, of := range c.lists() {
			for i := range of.list {
				visit(&of.list[i], fmt.Sprintf("%s.%s[%d]", path, of.name, i))
			}
		}
	}
	if d.Filter != nil {
		visit(d.Filter, "filter")
	}
	return out
}

// Answer puts answers given as text into a document's questions, by their names: one
// value; several, between commas or on lines; a range as "from..to"; a relative period
// as "last month" or "past 30 day". An empty answer is none. The document is changed.
func (d *Document) Answer(answers map[string]string) error {
	return eachAnswer(d, answers, func(c *Condition, text string) error {
		return c.answer(strings.TrimSpace(text))
	})
}

// Given is what a question is answered with: operands; none at all are no answer.
type Given struct {
	Value  string           `json:"value,omitempty"`
	To     string           `json:"to,omitempty"`
	Values Values           `json:"values,omitempty"`
	Period *calendar.Period `json:"period,omitempty"`
}

// AnswerWith is Answer with operands as the interface keeps them.
func (d *Document) AnswerWith(answers map[string]Given) error {
	return eachAnswer(d, answers, func(c *Condition, o Given) error {
		c.Value, c.To, c.Values, c.Period = o.Value, o.To, o.Values, o.Period
		return nil
	})
}

func eachAnswer[A any](d *Document, answers map[string]A, put func(c *Condition, answer A) error) error {
	var names []string
	known := map[string]bool{}
	for _, c := range d.Parameters() {
		names = append(names, c.Parameter.Name)
		known[c.Parameter.Name] = true
		answer, given := answers[c.Parameter.Name]
		if !given {
			continue
		}
		if err := put(c, answer); err != nil {
			return fmt.Errorf("the answer to %q: %w", c.Parameter.Label, err)
		}
	}
	for name := range answers {
		if !known[name] {
			return fmt.Errorf("the view asks nothing called %q; it asks %s", name, orNothing(names))
		}
	}
	return nil
}

func orNothing(names []string) string {
	if len(names) == 0 {
		return "nothing"
	}
	return strings.Join(names, ", ")
}

func (c *Condition) answer(text string) error {
	c.Value, c.To, c.Values, c.Period = "", "", nil, nil
	if text == "" {
		return nil
	}
	switch c.Op.Info().Operand {
	case OperandList, OperandWeekdays, OperandHours:
		for _, v := range strings.FieldsFunc(text, func(r rune) bool { return r == ',' || r == '\n' }) {
			if v = strings.TrimSpace(v); v != "" {
				c.Values = append(c.Values, v)
			}
		}
	case OperandTwo:
		from, to, ok := strings.Cut(text, "..")
		if !ok {
			return fmt.Errorf("%q is no range; write it as from..to", text)
		}
		c.Value, c.To = strings.TrimSpace(from), strings.TrimSpace(to)
	case OperandPeriod:
		p, err := parsePeriod(text)
		c.Period = p
		return err
	default:
		c.Value = text
	}
	return nil
}

// parsePeriod reads "this month", "past 30 day" or "to_date year".
func parsePeriod(text string) (*calendar.Period, error) {
	words := strings.Fields(strings.ToLower(text))
	p := &calendar.Period{}
	if len(words) > 1 {
		p.Which, p.Unit = calendar.Which(words[0]), calendar.Unit(strings.TrimSuffix(words[len(words)-1], "s"))
	}
	if len(words) == 3 {
		p.N, _ = strconv.Atoi(words[1]) // Check refuses 0
	}
	if len(words) < 2 || len(words) > 3 {
		return nil, fmt.Errorf("%q is no period; write it as \"last month\" or \"past 30 day\"", text)
	}
	return p, p.Check()
}

// SameOperands says whether two conditions compare with the same.
func (c *Condition) SameOperands(other Condition) bool {
	samePeriod := c.Period == other.Period || c.Period != nil && other.Period != nil && *c.Period == *other.Period
	return c.Value == other.Value && c.To == other.To && slices.Equal(c.Values, other.Values) && samePeriod
}
