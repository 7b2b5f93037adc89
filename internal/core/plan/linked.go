package plan

import (
	"gavrik/internal/core/code"
	"gavrik/internal/core/view"
)

// Linked tests the records of another set that link to a record, by a value drawn from them.
type Linked struct {
	// Value is what is tested: how many there are, their latest or earliest, a figure.
	Value *LinkedValue
	Test  view.LinkedTest
	N     int
	// Meets is what the latest or earliest of them must meet.
	Meets *Node
	// Figure tests the sum or average; its Ref's field says how the figure is kept.
	Figure *Predicate
}

// takenFor is the value that each test looks at.
var takenFor = map[view.LinkedTest]view.Take{
	view.AnyLinked: view.TakeCount, view.NoneLinked: view.TakeCount, view.AtLeastLinked: view.TakeCount,
	view.AtMostLinked: view.TakeCount, view.LatestLinked: view.TakeLatest,
	view.EarliestLinked: view.TakeEarliest, view.SumLinked: view.TakeSum, view.AverageLinked: view.TakeAverage,
}

func (k *checker) linked(c *view.Linked, at string) *Linked {
	take, ok := takenFor[c.Test]
	if !ok {
		k.fault(code.Choice, at+".test",
			"%q is no test of linked records; use %s", c.Test, view.Words(view.LinkedTests()))
		return nil
	}
	value, there := k.drawnFrom(c.Records, c.By, c.Where, at)
	if value == nil {
		return nil
	}
	out := &Linked{Value: value, Test: c.Test, N: c.N}
	value.Take = take
	switch {
	case c.Test == view.AtLeastLinked && c.N < 1, c.N < 0:
		k.fault(code.Bounds, at+".n", "the number of %s must be at least 1", value.There.Many)
	case take.ByDate():
		there.dated(value, c.Date, at)
		if c.Meets == nil {
			k.fault(code.Linked, at+".meets", "nothing is asked of the %s record; add a condition", c.Test)
			break
		}
		out.Meets = there.node(c.Meets, at+".meets")
	case take.Fn() != "":
		if there.taken(value, c.Field, at) {
			out.Figure = there.figure(value, c, at)
		}
	}
	there.settle(value)
	return out
}

// figure resolves the test of a sum or average.
func (k *checker) figure(value *LinkedValue, c *view.Linked, at string) *Predicate {
	if !c.Op.Info().Figures {
		k.fault(code.Operator, at+".op", "%q does not fit a %s; use %s", c.Op, c.Test, view.Words(view.FigureOps()))
		return nil
	}
	figure := value.Of
	figure.Field = value.Field()
	out := &Predicate{Ref: figure}
	operands := []string{c.Value}
	if c.Op == view.Between {
		operands = append(operands, c.To)
	}
	k.rangeTest(out, c.Op, operands, at)
	return out
}
