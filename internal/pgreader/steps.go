package pgreader

import (
	"slices"

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

// node counts what a condition does of the lines that reach it, and what its parts do of those that reach
// them.
func (c *counting) node(n *plan.Node, in []bool) (met []bool) {
	at := len(c.steps)
	c.steps = append(c.steps, result.Step{Path: n.Path})
	met = make([]bool, len(in))
	for line := range met {
		met[line] = c.meets(n, line)
	}
	c.steps[at].Alone = int(total(c.many)) - c.count(met)
	switch n.Kind {
	case plan.Leaf:
		c.test(c.by[n], at)
	case plan.All, plan.Any, plan.None:
		c.parts(n, in)
	}
	return met
}

// parts counts what is left after each part, or of any what is let in.
func (c *counting) parts(n *plan.Node, in []bool) {
	left, let := slices.Clone(in), make([]bool, len(in))
	for _, child := range n.Children {
		if child.Kind == plan.Open {
			continue
		}
		at := len(c.steps)
		if n.Kind == plan.Any {
			for line, is := range c.node(child, in) {
				let[line] = let[line] || is && in[line]
			}
			c.steps[at].Left = c.count(let)
			continue
		}
		for line, is := range c.node(child, left) {
			left[line] = left[line] && is != (n.Kind == plan.None)
		}
		c.steps[at].Left = c.count(left)
	}
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
