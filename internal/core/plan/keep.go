package plan

import (
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
	"gavrik/internal/core/view"
)

// keptGroups resolves which groups of a level are kept by their total.
func (k *checker) keptGroups(g view.Group, at string) *Keep {
	c := g.Keep
	out := &Keep{Measure: -1, Out: c.Others != view.OthersRest}
	figure := catalog.Ref{Label: "number of " + k.plan.Many, Field: catalog.Field{Type: catalog.Whole}}
	if c.Field != "" {
		by, ok := k.order(view.Order{By: view.ByTotal, Field: c.Field, Fn: c.Fn, Percent: c.Percent}, at)
		if !ok {
			return nil
		}
		out.Measure = by.Measure
		m := k.plan.Measures[by.Measure]
		figure = catalog.Ref{Label: m.Label, Field: m.Result()}
	} else if c.Fn != "" {
		k.fault(code.NoField, at+".field",
			"the %q of no field decides; name the field, or leave fn out to count %s", c.Fn, k.plan.Many)
		return nil
	}
	if g.Empty {
		k.fault(code.Keep, at, "groups without %s have no total to be kept by; take one of the two away", k.plan.Many)
	}
	if t := figure.Field.Type; !t.Numeric() && !t.Temporal() {
		k.fault(code.Keep, at+".fn", "the %s is %s; groups are kept by a number or a date", figure.Label, t.Word())
		return nil
	}
	switch {
	case c.Share != "" && c.Op != "":
		k.fault(code.Several, at+".share", "groups are kept by a test or by the share they make up; keep one of the two")
	case c.Share != "":
		k.keepShare(out, c.Share, figure, at)
	case !c.Op.Info().Figures:
		k.fault(code.Operator, at+".op", "%q does not fit a total; use %s, or give a share", c.Op, view.Words(view.FigureOps()))
	default:
		values := []string{c.Value}
		if c.Op == view.Between {
			values = append(values, c.To)
		}
		out.Test = &Predicate{Ref: figure}
		k.rangeTest(out.Test, c.Op, values, at)
	}
	return out
}

// keepShare keeps the groups that make up a share of the total of their parent.
func (k *checker) keepShare(out *Keep, share string, figure catalog.Ref, at string) {
	if out.Measure >= 0 && !k.plan.Measures[out.Measure].Additive() {
		k.fault(code.Keep, at+".share",
			"the %s of parts do not add up to that of the whole, so no groups make up a share of it; use a sum or a "+
				"count", figure.Label)
		return
	}
	p, err := ParseNumber(share, 6)
	if err != nil || p.Lo != p.Hi || p.Lo <= 0 || p.Lo > 100*PercentUnit {
		k.fault(code.Operand, at+".share", "%q is no share; give a number of percent up to 100, such as 80", share)
		return
	}
	out.Share = p.Lo
}
