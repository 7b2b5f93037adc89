package plan

import (
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
	"gavrik/internal/core/view"
)

// Linked tests the records of another set that link to a record.
type Linked struct {
	// Records is the other set; Many what its records are called.
	Records, Many string
	// Links lead from one of its records to the record tested.
	Links []string
	// Where says which of its records count; nil counts all.
	Where *Node
	Test  view.LinkedTest
	N     int
	Date  catalog.Ref // with latest and earliest
	Meets *Node       // likewise
	Fn    view.Fn     // with sum and average
	Of    catalog.Ref
	// Figure tests the sum or average; its Ref's field says how the figure is kept.
	Figure *Predicate
}

func (k *checker) linked(c *view.Linked, at string) *Linked {
	set := k.catalog.Set(c.Records)
	if set == nil {
		_, err := k.catalog.Resolve(c.Records, "")
		k.unresolved(at+".records", err)
		return nil
	}
	out := &Linked{Records: c.Records, Many: set.Many, Links: strings.Split(c.By, "."), Test: c.Test, N: c.N}
	if to, err := k.catalog.Follow(c.Records, out.Links); err != nil {
		k.unresolved(at+".by", err)
		return nil
	} else if to != k.set {
		k.fault(code.Link, at+".by", "%q leads from %s to %s, not to %s", c.By, set.Many, to, k.set)
		return nil
	}
	other := k.of(c.Records)
	if c.Where != nil {
		out.Where = other.node(c.Where, at+".where")
	}
	switch c.Test {
	case view.AnyLinked, view.NoneLinked:
	case view.AtLeastLinked, view.AtMostLinked:
		if c.N < 1 && c.Test == view.AtLeastLinked || c.N < 0 {
			k.fault(code.Bounds, at+".n", "the number of %s must be at least 1", set.Many)
		}
	case view.LatestLinked, view.EarliestLinked:
		other.latest(out, c, at)
	case view.SumLinked, view.AverageLinked:
		other.figure(out, c, at)
	default:
		k.fault(code.Choice, at+".test",
			"%q is no test of linked records; use %s", c.Test, view.Words(view.LinkedTests()))
	}
	return out
}

func (k *checker) latest(out *Linked, c *view.Linked, at string) {
	ref, ok := k.ref(c.Date, at+".date")
	if ok && !ref.Field.Type.Temporal() {
		k.fault(code.FieldType, at+".date",
			"%s is %s; the %s record is found by a date", ref.Label, ref.Field.Type.Word(), c.Test)
	}
	out.Date = ref
	if c.Meets == nil {
		k.fault(code.Linked, at+".meets", "nothing is asked of the %s record; add a condition", c.Test)
		return
	}
	out.Meets = k.node(c.Meets, at+".meets")
}

func (k *checker) figure(out *Linked, c *view.Linked, at string) {
	ref, ok := k.ref(c.Field, at+".field")
	if !ok {
		return
	}
	out.Of, out.Fn = ref, view.Fn(c.Test)
	if !slices.Contains(view.FnsFor(ref.Field.Type), out.Fn) {
		k.fault(code.Total, at+".field", "%s is %s, which has no %s", ref.Label, ref.Field.Type.Word(), c.Test)
		return
	}
	if !c.Op.Info().Figures {
		k.fault(code.Operator, at+".op", "%q does not fit a %s; use %s", c.Op, c.Test, view.Words(view.FigureOps()))
		return
	}
	figure := ref
	figure.Field = out.Fn.Result(ref.Field)
	out.Figure = &Predicate{Ref: figure}
	k.rangeTest(out.Figure, c.Op, k.operands(c), at)
}

func (k *checker) operands(c *view.Linked) []string {
	if c.Op == view.Between {
		return []string{c.Value, c.To}
	}
	return []string{c.Value}
}
