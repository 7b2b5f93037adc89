package formula

import "gavrik/internal/core/catalog"

const oneOfItsValues = "a value of the same kind"

var logicFunctions = []Function{
	{Name: "IF", Arguments: "condition; then; otherwise", least: 2, most: 3, check: checkIf,
		Result:  oneOfItsValues,
		Meaning: "One value if the condition is yes, another if it is no. Without the third argument, blank.",
		Blanks:  "A blank condition counts as no, as an empty cell does in the standard. What is not taken does not fail.",
		Example: `IF('Paid' >= 'Claimed'; "in full"; "in part")`, Sample: `IF(3 > 2; "more"; "less")`},
	{Name: "IFS", Arguments: "condition; value; …", least: 2, check: checkIfs, Result: oneOfItsValues,
		Meaning: "The value behind the first condition that is yes; blank if none is.",
		Blanks:  "A blank condition counts as no. End with TRUE; value for all others.",
		Example: `IFS('Claimed' > 500; "large"; 'Claimed' > 100; "medium"; TRUE; "small")`,
		Sample:  `IFS(1 > 2; "a"; 2 > 1; "b")`},
	{Name: "SWITCH", Arguments: "value; case; result; …; otherwise", least: 3, check: checkSwitch,
		Result:  oneOfItsValues,
		Meaning: "The result behind the first case that equals the value, without regard to case and accents; the last argument, if it stands alone, for all others.",
		Blanks:  "A blank value equals no case.",
		Example: `SWITCH('Status'; "Open"; 1; "Settled"; 2; 0)`, Sample: `SWITCH("b"; "a"; 1; "B"; 2; 0)`},
	{Name: "AND", Arguments: "condition; …", least: 1, check: gives(truthType, aTruth), Result: "yes or no",
		Meaning: "Yes if every condition is yes.", Blanks: "A blank counts as no; the standard passes over it.",
		Example: `AND('Claimed' > 100; 'Category' = "Baggage")`, Sample: `AND(1 < 2; 2 < 1)`},
	{Name: "OR", Arguments: "condition; …", least: 1, check: gives(truthType, aTruth), Result: "yes or no",
		Meaning: "Yes if at least one condition is yes.",
		Blanks:  "A blank counts as no; the standard passes over it.",
		Example: `OR('Status' = "Open"; ISBLANK('Closed at'))`, Sample: `OR(1 < 2; 2 < 1)`},
	{Name: "NOT", Arguments: "condition", least: 1, most: 1, check: gives(truthType, aTruth),
		Result:  "yes or no",
		Meaning: "Yes if the condition is no.", Blanks: "Yes for a blank, as for an empty cell in the standard.",
		Example: `NOT('Status' = "Open")`, Sample: `NOT(1 < 2)`},
	{Name: "ISBLANK", Arguments: "value", least: 1, most: 1, check: checkIsBlank, Result: "yes or no",
		Meaning: "Yes if there is no value.", Blanks: "Yes for a blank, and for what fails.",
		Example: `ISBLANK('Paid')`, Sample: `ISBLANK("")`},
	{Name: "COALESCE", Arguments: "value; …", least: 1, check: checkCoalesce, Result: oneOfItsValues,
		Meaning: "The first value that is not blank. What fails is passed over as a blank is.",
		Blanks:  "Blank only if all values are. The standard has no such function.",
		Example: `'Claimed' - COALESCE('Paid'; 0)`, Sample: `COALESCE(IF(1 > 2; 3); 4)`},
}

func checkIf(c *checker, t *tree, args []*Expr) *Expr {
	if !c.isTruth(t, 0, args[0]) {
		return nil
	}
	return c.chosen(t, &Expr{Op: Choose}, args[:1], args[1:])
}

// isTruth says whether an argument is a condition, or reports that it is none.
func (c *checker) isTruth(t *tree, i int, e *Expr) bool {
	_, ok := c.wanted(&tree{text: t.text, args: t.args[i : i+1]}, []*Expr{e}, aTruth)
	return ok
}

func checkIfs(c *checker, t *tree, args []*Expr) *Expr {
	if len(args)%2 > 0 {
		return c.fault(t, "IFS wants a value behind each condition; end with TRUE; value for all others")
	}
	var tests, branches []*Expr
	ok := true
	for i := 0; i < len(args); i += 2 {
		ok = c.isTruth(t, i, args[i]) && ok
		tests, branches = append(tests, args[i]), append(branches, args[i+1])
	}
	if !ok {
		return nil
	}
	return c.chosen(t, &Expr{Op: Choose}, tests, branches)
}

func checkSwitch(c *checker, t *tree, args []*Expr) *Expr {
	value := &Expr{Op: Switched, Type: args[0].Type}
	var tests, branches []*Expr
	ok := true
	for i := 1; i+1 < len(args); i += 2 {
		at := t.args[i]
		at = &tree{kind: signToken, text: "=", args: []*tree{t.args[0], at}, from: at.from, to: at.to}
		same := c.compare(at, Equal, value, args[i])
		ok = ok && same != nil
		tests, branches = append(tests, same), append(branches, args[i+1])
	}
	if len(args)%2 == 0 {
		branches = append(branches, args[len(args)-1])
	}
	if !ok {
		return nil
	}
	return c.chosen(t, &Expr{Op: Switch, Args: args[:1:1]}, tests, branches)
}

// chosen completes an expression that takes the first branch whose test is yes; without
// one more branch than tests, blank for the rest.
func (c *checker) chosen(t *tree, out *Expr, tests, branches []*Expr) *Expr {
	if len(branches) == len(tests) {
		branches = append(branches[:len(branches):len(branches)], &Expr{Op: Blank, Type: branches[0].Type})
	}
	branches, typ, ok := c.unified(t, branches)
	if !ok {
		return nil
	}
	for i, test := range tests {
		out.Args = append(out.Args, test, branches[i])
	}
	out.Type, out.Args = typ, append(out.Args, branches[len(tests)])
	return out
}

// unified brings values to one type, or reports which two do not go together.
func (c *checker) unified(t *tree, values []*Expr) (out []*Expr, typ Type, ok bool) {
	typ = values[0].Type
	for _, v := range values[1:] {
		switch x := v.Type; {
		case x.plainNumber() && typ.plainNumber():
			if typ, ok = c.alikeType(t, typ, x); !ok {
				return nil, typ, false
			}
		case x.Type != typ.Type:
			c.fault(t, "%s gives one kind of value: %s and %s do not go together", t.text, typ.Word(), x.Word())
			return nil, typ, false
		default:
			typ.Scale = max(typ.Scale, x.Scale) // of durations
		}
	}
	out = make([]*Expr, len(values))
	for i, v := range values {
		out[i] = v
		if typ.plainNumber() {
			if typ.Type != catalog.Percent {
				out[i] = unpercented(v)
			}
			if typ.Approx {
				out[i] = keptFloat(out[i])
			} else {
				out[i] = rescaled(out[i], typ.Scale)
			}
		}
	}
	return out, typ, true
}

func checkIsBlank(_ *checker, _ *tree, args []*Expr) *Expr { return to(IsBlank, truthType, args[0]) }

func checkCoalesce(c *checker, t *tree, args []*Expr) *Expr {
	args, typ, ok := c.unified(t, args)
	if !ok {
		return nil
	}
	return &Expr{Op: Coalesce, Type: typ, Args: args}
}
