package pgreader

import (
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
)

// steps tell what each condition did, by how many records meet what.
func (s *standing) steps() []result.Step {
	if s.plan.Filter == nil {
		return nil
	}
	c := &counting{standing: s}
	in := make([]bool, len(s.many))
	for i := range in {
		in[i] = true
	}
	met := c.node(s.plan.Filter, in)
	c.steps[0].Left = c.count(met)
	return c.steps
}

// counting counts as the engine does, in lines.
type counting struct {
	*standing
	steps []result.Step
}

func (c *counting) count(in []bool) int {
	n := int64(0)
	for i, is := range in {
		if is {
			n += c.many[i]
		}
	}
	return int(n)
}

func (c *counting) node(n *plan.Node, in []bool) []bool {
	at := len(c.steps)
	c.steps = append(c.steps, result.Step{Path: n.Path})
	met := c.combine(n, in, at)
	c.steps[at].Alone = int(total(c.many)) - c.count(met)
	return met
}

func (c *counting) combine(n *plan.Node, in []bool, at int) []bool {
	met := make([]bool, len(in))
	if n.Kind == plan.Leaf || n.Kind == plan.Open || n.Kind == plan.Within {
		for line := range met {
			met[line] = c.meets(n, line)
		}
		if n.Kind == plan.Leaf {
			c.test(c.by[n], at)
		}
		return met
	}
	left, parts := append([]bool(nil), in...), 0
	for line := range met {
		met[line] = n.Kind != plan.Any
	}
	for _, child := range n.Children {
		if child.Kind == plan.Open {
			continue
		}
		parts++
		mine := len(c.steps)
		is := c.node(child, left)
		for line := range met {
			switch n.Kind {
			case plan.Any:
				met[line] = met[line] || is[line]
			case plan.None:
				met[line], left[line] = met[line] && !is[line], left[line] && !is[line]
			default:
				met[line], left[line] = met[line] && is[line], left[line] && is[line]
			}
		}
		counted := left
		if n.Kind == plan.Any {
			counted = make([]bool, len(in))
			for line := range counted {
				counted[line] = met[line] && in[line]
			}
		}
		c.steps[mine].Left = c.count(counted)
	}
	if n.Kind == plan.Any && parts == 0 {
		for line := range met {
			met[line] = true
		}
	}
	return met
}

// test tells what is to be told of a test alone.
func (c *counting) test(i, at int) {
	t, step := c.tests[i], &c.steps[at]
	step.Dates = t.of.Dates
	step.Unmatched, step.UnmatchedCount = t.step.Unmatched, t.step.UnmatchedCount
	if t.of.Negate && t.of.Match != plan.MatchBlank && !t.of.Blank {
		for line, many := range c.many {
			step.BlanksKept += int(many * c.blank[i][line])
		}
	}
}
