package formula

import (
	"math"
	"slices"
	"strings"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
)

// function is a function of the language, with the words of its reference.
type function struct {
	Name      string
	Arguments string // as written between the brackets
	Meaning   string
	// least and most bound the number of arguments; most is 0 for any number.
	least, most int
	compile     func(c *checker, t *tree, args []node) (node, error)
}

var functions = slices.Concat(logicFunctions, numberFunctions, textFunctions, dateFunctions)

func (c *checker) call(t *tree) (node, error) {
	if fn := totalOf(t); fn != "" {
		return c.total(t, fn)
	}
	i := slices.IndexFunc(functions, func(f function) bool { return f.Name == t.text })
	if i < 0 {
		names := make([]string, len(functions))
		for i, f := range functions {
			names[i] = f.Name
		}
		return nil, fault(t, "there is no function %s%s", t.text, catalog.Suggest(t.text, names))
	}
	f := functions[i]
	if len(t.args) < f.least || f.most > 0 && len(t.args) > f.most {
		return nil, fault(t, "%s wants %s; write %s(%s)", f.Name, counted(f.least, f.most), f.Name, f.Arguments)
	}
	args := make([]node, len(t.args))
	for i, a := range t.args {
		var err error
		if args[i], err = c.expr(a); err != nil {
			return nil, err
		}
	}
	return f.compile(c, t, args)
}

func counted(least, most int) string {
	words := []string{"no arguments", "one argument", "two arguments", "three arguments", "four arguments"}
	switch {
	case least == most:
		return words[least]
	case most == 0:
		return "at least " + words[least]
	}
	return "from " + strings.TrimSuffix(strings.TrimSuffix(words[least], " argument"), " arguments") + " to " + words[most]
}

var logicFunctions = []function{
	{"IF", "condition; then; otherwise", "One value if the condition is yes, the other if it is no or blank. Without the other, blank.", 2, 3, compileIf},
	{"AND", "condition; …", "Yes if every condition is yes. A blank counts as no.", 1, 0, compileTruths(func(yes, all int) bool { return yes == all })},
	{"OR", "condition; …", "Yes if at least one condition is yes.", 1, 0, compileTruths(func(yes, _ int) bool { return yes > 0 })},
	{"NOT", "condition", "Yes if the condition is no or blank.", 1, 1, compileTruths(func(yes, _ int) bool { return yes == 0 })},
	{"ISBLANK", "value", "Yes if there is no value.", 1, 1, compileIsBlank},
	{"COALESCE", "value; …", "The first value that is not blank.", 1, 0, compileCoalesce},
}

func compileIf(c *checker, t *tree, args []node) (node, error) {
	if args[0].typ().Type != catalog.YesNo {
		return nil, fault(t.args[0], "IF wants a condition first, such as 'Paid' > 0; this is %s", args[0].typ().Word())
	}
	branches := args[1:]
	if len(branches) == 1 {
		branches = []node{branches[0], c.nothing(branches[0].typ())}
	}
	branches, typ, err := c.unified(t, branches)
	if err != nil {
		return nil, err
	}
	return &choose{t: typ, id: c.id(), tests: args[:1], branches: branches}, nil
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

func compileTruths(decide func(yes, all int) bool) func(*checker, *tree, []node) (node, error) {
	return func(c *checker, t *tree, args []node) (node, error) {
		for i, a := range args {
			if a.typ().Type != catalog.YesNo {
				return nil, fault(t.args[i], "%s wants conditions, such as 'Paid' > 0; this is %s", t.text, a.typ().Word())
			}
		}
		return &apply{t: Type{Type: catalog.YesNo}, id: c.id(), args: args, do: func(_ *Machine, out vec, v []vec) {
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
	return &apply{t: Type{Type: catalog.YesNo}, id: c.id(), args: args, do: func(_ *Machine, out vec, v []vec) {
		for i := range out.ints {
			out.ints[i] = 0
			if v[0].blank(i) {
				out.ints[i] = 1
			}
		}
	}}, nil
}

func compileCoalesce(c *checker, t *tree, args []node) (node, error) {
	args, typ, err := c.unified(t, args)
	if err != nil {
		return nil, err
	}
	var tests []node
	for _, a := range args[:len(args)-1] {
		filled, err := compileIsBlank(c, t, []node{a})
		if err != nil {
			return nil, err
		}
		filled, _ = compileTruths(func(yes, _ int) bool { return yes == 0 })(c, t, []node{filled})
		tests = append(tests, filled)
	}
	return &choose{t: typ, id: c.id(), tests: tests, branches: args}, nil
}

var textFunctions = []function{
	{"CONCAT", "value; …", "The values one after another. A blank adds nothing.", 1, 0, func(c *checker, _ *tree, args []node) (node, error) { return c.join(args), nil }},
	{"UPPER", "text", "The text in capitals.", 1, 1, compileText(strings.ToUpper)},
	{"LOWER", "text", "The text in small letters.", 1, 1, compileText(strings.ToLower)},
	{"TRIM", "text", "The text without spaces at its ends, and single ones within.", 1, 1, compileText(trimmed)},
	{"LEN", "text", "How many characters the text has.", 1, 1, compileLen},
	{"LEFT", "text; count", "The first characters of the text.", 2, 2, compilePart(func(s []rune, n int64) []rune { return s[:clamp(n, len(s))] })},
	{"RIGHT", "text; count", "The last characters of the text.", 2, 2, compilePart(func(s []rune, n int64) []rune { return s[len(s)-clamp(n, len(s)):] })},
}

func clamp(n int64, most int) int { return int(max(0, min(n, int64(most)))) }

func (c *checker) wantText(t *tree, i int, n node) error {
	if n.typ().Type != catalog.Text {
		return fault(t.args[i], "%s wants text; this is %s", t.text, n.typ().Word())
	}
	return nil
}

func compileText(do func(string) string) func(*checker, *tree, []node) (node, error) {
	return func(c *checker, t *tree, args []node) (node, error) {
		return &apply{t: Type{Type: catalog.Text}, id: c.id(), args: args, do: func(_ *Machine, out vec, v []vec) {
			for i, s := range v[0].texts {
				out.texts[i] = do(s)
			}
		}}, c.wantText(t, 0, args[0])
	}
}

func compileLen(c *checker, t *tree, args []node) (node, error) {
	return &apply{t: Type{Type: catalog.Whole}, id: c.id(), args: args, do: func(_ *Machine, out vec, v []vec) {
		for i, s := range v[0].texts {
			out.ints[i] = table.Blank
			if s != "" {
				out.ints[i] = int64(len([]rune(s)))
			}
		}
	}}, c.wantText(t, 0, args[0])
}

func compilePart(do func([]rune, int64) []rune) func(*checker, *tree, []node) (node, error) {
	return func(c *checker, t *tree, args []node) (node, error) {
		if err := c.wantText(t, 0, args[0]); err != nil {
			return nil, err
		}
		if x := args[1].typ(); x.Type != catalog.Whole || x.Approx {
			return nil, fault(t.args[1], "%s wants a whole number of characters; this is %s", t.text, x.Word())
		}
		return &apply{t: Type{Type: catalog.Text}, id: c.id(), args: args, do: func(_ *Machine, out vec, v []vec) {
			for i, s := range v[0].texts {
				out.texts[i] = ""
				if n := v[1].ints[i]; n != table.Blank {
					out.texts[i] = string(do([]rune(s), n))
				}
			}
		}}, nil
	}
}

var dateFunctions = []function{
	{"TODAY", "", "The day the view runs.", 0, 0, compileToday},
	{"NOW", "", "The moment the view runs.", 0, 0, compileNow},
	{"YEAR", "date", "The year of a date.", 1, 1, compileDatePart(func(d calendar.Day) int64 { y, _, _ := calendar.Date(d); return int64(y) })},
	{"MONTH", "date", "The month of a date, from 1 to 12.", 1, 1, compileDatePart(func(d calendar.Day) int64 { _, m, _ := calendar.Date(d); return int64(m) })},
	{"DAY", "date", "The day of the month.", 1, 1, compileDatePart(func(d calendar.Day) int64 { _, _, day := calendar.Date(d); return int64(day) })},
	{"DAYS", "end; start", "How many days lie between two dates.", 2, 2, compileDays},
	{"HOURS", "duration", "A duration as a number of hours.", 1, 1, compileLength(calendar.Hour)},
	{"MINUTES", "duration", "A duration as a number of minutes.", 1, 1, compileLength(calendar.Minute)},
}

func compileToday(c *checker, _ *tree, _ []node) (node, error) {
	c.building.UsesToday = true
	return &apply{t: Type{Type: catalog.Date}, id: c.id(), do: func(m *Machine, out vec, _ []vec) {
		today := m.calendar.Today()
		for i := range out.ints {
			out.ints[i] = today
		}
	}}, nil
}

func compileNow(c *checker, _ *tree, _ []node) (node, error) {
	c.building.UsesNow = true
	return &apply{t: Type{Type: catalog.DateTime}, id: c.id(), do: func(m *Machine, out vec, _ []vec) {
		now := m.calendar.Now.UnixMicro()
		for i := range out.ints {
			out.ints[i] = now
		}
	}}, nil
}

func compileDatePart(part func(calendar.Day) int64) func(*checker, *tree, []node) (node, error) {
	return func(c *checker, t *tree, args []node) (node, error) {
		if !args[0].typ().Type.Temporal() {
			return nil, fault(t.args[0], "%s wants a date; this is %s", t.text, args[0].typ().Word())
		}
		return &apply{t: Type{Type: catalog.Whole}, id: c.id(), args: []node{c.days(args[0])}, do: func(_ *Machine, out vec, v []vec) {
			for i, d := range v[0].ints {
				out.ints[i] = table.Blank
				if d != table.Blank {
					out.ints[i] = part(d)
				}
			}
		}}, nil
	}
}

func compileDays(c *checker, t *tree, args []node) (node, error) {
	for i, a := range args {
		if !a.typ().Type.Temporal() {
			return nil, fault(t.args[i], "DAYS wants two dates; this is %s", a.typ().Word())
		}
	}
	return c.adding(c.days(args[0]), c.days(args[1]), Type{Type: catalog.Whole}, true), nil
}

func compileLength(unit calendar.Micros) func(*checker, *tree, []node) (node, error) {
	return func(c *checker, t *tree, args []node) (node, error) {
		if args[0].typ().Type != catalog.Duration {
			return nil, fault(t.args[0], "%s wants a duration; this is %s", t.text, args[0].typ().Word())
		}
		return &apply{t: Type{Type: catalog.Decimal, Approx: true}, id: c.id(), args: args, do: func(_ *Machine, out vec, v []vec) {
			for i, d := range v[0].ints {
				out.floats[i] = math.NaN()
				if d != table.Blank {
					out.floats[i] = float64(d) / float64(unit)
				}
			}
		}}, nil
	}
}
