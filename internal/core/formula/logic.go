package formula

import (
	"math"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
)

const oneOfItsValues = "a value of the same kind"

var logicFunctions = []Function{
	{Name: "IF", Arguments: "condition; then; otherwise", least: 2, most: 3, compile: compileIf, Result: oneOfItsValues,
		Meaning: "One value if the condition is yes, another if it is no. Without the third argument, blank.",
		Blanks:  "A blank condition counts as no, as an empty cell does in the standard. What is not taken does not fail.",
		Example: `IF('Paid' >= 'Claimed'; "in full"; "in part")`, Sample: `IF(3 > 2; "more"; "less")`},
	{Name: "IFS", Arguments: "condition; value; …", least: 2, compile: compileIfs, Result: oneOfItsValues,
		Meaning: "The value behind the first condition that is yes; blank if none is.",
		Blanks:  "A blank condition counts as no. End with TRUE; value for all others.",
		Example: `IFS('Claimed' > 500; "large"; 'Claimed' > 100; "medium"; TRUE; "small")`, Sample: `IFS(1 > 2; "a"; 2 > 1; "b")`},
	{Name: "SWITCH", Arguments: "value; case; result; …; otherwise", least: 3, compile: compileSwitch, Result: oneOfItsValues,
		Meaning: "The result behind the first case that equals the value, without regard to case and accents; the last argument, if it stands alone, for all others.",
		Blanks:  "A blank value equals no case.",
		Example: `SWITCH('Status'; "Open"; 1; "Settled"; 2; 0)`, Sample: `SWITCH("b"; "a"; 1; "B"; 2; 0)`},
	{Name: "AND", Arguments: "condition; …", least: 1, compile: compileTruths(func(yes, all int) bool { return yes == all }), Result: "yes or no",
		Meaning: "Yes if every condition is yes.", Blanks: "A blank counts as no; the standard passes over it.",
		Example: `AND('Claimed' > 100; 'Category' = "Baggage")`, Sample: `AND(1 < 2; 2 < 1)`},
	{Name: "OR", Arguments: "condition; …", least: 1, compile: compileTruths(func(yes, _ int) bool { return yes > 0 }), Result: "yes or no",
		Meaning: "Yes if at least one condition is yes.", Blanks: "A blank counts as no; the standard passes over it.",
		Example: `OR('Status' = "Open"; ISBLANK('Closed at'))`, Sample: `OR(1 < 2; 2 < 1)`},
	{Name: "NOT", Arguments: "condition", least: 1, most: 1, compile: compileTruths(func(yes, _ int) bool { return yes == 0 }), Result: "yes or no",
		Meaning: "Yes if the condition is no.", Blanks: "Yes for a blank, as for an empty cell in the standard.",
		Example: `NOT('Status' = "Open")`, Sample: `NOT(1 < 2)`},
	{Name: "ISBLANK", Arguments: "value", least: 1, most: 1, compile: compileIsBlank, Result: "yes or no",
		Meaning: "Yes if there is no value.", Blanks: "Yes for a blank, and for what fails.",
		Example: `ISBLANK('Paid')`, Sample: `ISBLANK("")`},
	{Name: "COALESCE", Arguments: "value; …", least: 1, compile: compileCoalesce, Result: oneOfItsValues,
		Meaning: "The first value that is not blank. What fails is passed over as a blank is.",
		Blanks:  "Blank only if all values are. The standard has no such function.",
		Example: `'Claimed' - COALESCE('Paid'; 0)`, Sample: `COALESCE(IF(1 > 2; 3); 4)`},
}

func compileIf(c *checker, t *tree, args []node) (node, error) {
	if _, err := c.wanted(&tree{text: t.text, args: t.args[:1]}, args[:1], aTruth); err != nil {
		return nil, err
	}
	return c.chosen(t, args[:1], args[1:])
}

func compileIfs(c *checker, t *tree, args []node) (node, error) {
	if len(args)%2 > 0 {
		return nil, fault(t, "IFS wants a value behind each condition; end with TRUE; value for all others")
	}
	var tests, branches []node
	for i := 0; i < len(args); i += 2 {
		if _, err := c.wanted(&tree{text: t.text, args: t.args[i : i+1]}, args[i:i+1], aTruth); err != nil {
			return nil, err
		}
		tests, branches = append(tests, args[i]), append(branches, args[i+1])
	}
	return c.chosen(t, tests, branches)
}

func compileSwitch(c *checker, t *tree, args []node) (node, error) {
	var tests, branches []node
	// Every case reads the value.
	args = append([]node{&shared{args[0]}}, args[1:]...)
	for i := 1; i+1 < len(args); i += 2 {
		same, err := c.compare(&tree{kind: signToken, text: "=", args: []*tree{t.args[0], t.args[i]}, from: t.args[i].from, to: t.args[i].to}, args[0], args[i])
		if err != nil {
			return nil, err
		}
		tests, branches = append(tests, same), append(branches, args[i+1])
	}
	if len(args)%2 == 0 {
		branches = append(branches, args[len(args)-1])
	}
	return c.chosen(t, tests, branches)
}

// chosen takes the first branch whose test is yes; without one more branch than
// tests, blank for the rest.
func (c *checker) chosen(t *tree, tests, branches []node) (node, error) {
	if len(branches) == len(tests) {
		branches = append(branches[:len(branches):len(branches)], c.nothing(branches[0].typ()))
	}
	branches, typ, err := c.unified(t, branches)
	if err != nil {
		return nil, err
	}
	return &choose{t: typ, id: c.id(), tests: tests, branches: branches}, nil
}

// nothing is a blank of a type.
func (c *checker) nothing(t Type) node {
	return &constant{t: t, id: c.id(), int: table.Blank, float: math.NaN()}
}

// unified brings values to one type, or says which two do not go together.
func (c *checker) unified(t *tree, values []node) ([]node, Type, error) {
	typ := values[0].typ()
	for _, v := range values[1:] {
		switch x := v.typ(); {
		case x.plainNumber() && typ.plainNumber():
			_, _, both, err := c.alike(t, &constant{t: typ, id: c.id()}, &constant{t: x, id: c.id()})
			if err != nil {
				return nil, typ, err
			}
			typ = both
		case x.Type != typ.Type:
			return nil, typ, fault(t, "%s gives one kind of value: %s and %s do not go together", t.text, typ.Word(), x.Word())
		default:
			typ.Scale = max(typ.Scale, x.Scale) // of durations
		}
	}
	out := make([]node, len(values))
	for i, v := range values {
		out[i] = v
		if typ.plainNumber() {
			if typ.Type != catalog.Percent {
				out[i] = c.unpercented(v)
			}
			if typ.Approx {
				out[i] = c.keptFloat(out[i])
			} else {
				out[i] = c.rescaled(out[i], typ.Scale)
			}
		}
	}
	return out, typ, nil
}

func compileTruths(decide func(yes, all int) bool) compiler {
	return func(c *checker, t *tree, args []node) (node, error) {
		args, err := c.wanted(t, args, aTruth)
		if err != nil {
			return nil, err
		}
		return &apply{t: truthType, id: c.id(), args: args, do: func(_ *Machine, out vec, v []vec) {
			for i := range out.ints {
				yes := 0
				for _, a := range v {
					if a.ints[i] == 1 {
						yes++
					}
				}
				out.ints[i] = 0
				if decide(yes, len(v)) {
					out.ints[i] = 1
				}
			}
		}}, nil
	}
}

func compileIsBlank(c *checker, _ *tree, args []node) (node, error) {
	return &isBlank{id: c.id(), arg: args[0]}, nil
}

func compileCoalesce(c *checker, t *tree, args []node) (node, error) {
	args, typ, err := c.unified(t, args)
	if err != nil {
		return nil, err
	}
	return &coalesce{t: typ, id: c.id(), args: args}, nil
}
