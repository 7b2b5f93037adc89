package formula

import (
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
	"gavrik/internal/core/view"
)

// Function is a function of the language with the words of its reference, which the
// editor and docs/formulas.md show.
type Function struct {
	Name      string
	Arguments string // as written between the brackets
	Meaning   string
	Result    string // what it gives: "a whole number"
	// Blanks says what blanks do, if it is not that a blank gives a blank; and how the
	// standard differs.
	Blanks string
	// Example is a formula over the ferry company's records; Sample one of constants,
	// whose result the reference works out.
	Example, Sample string
	// Total is what a total works out, or empty for a function of each record.
	Total view.Fn

	// least and most bound the number of arguments; most is 0 for any number.
	least, most int
	check       rule
}

// rule checks a call whose arguments are checked and counted.
type rule func(c *checker, t *tree, args []*Expr) *Expr

// Chapter is a part of the reference.
type Chapter struct {
	Title     string
	Functions []Function
}

// Chapters are all functions, in the order of the reference.
func Chapters() []Chapter {
	return []Chapter{
		{"Conditions", logicFunctions},
		{"Numbers", numberFunctions},
		{"Text", textFunctions},
		{"Dates and durations", dateFunctions},
		{"Totals", totalFunctions},
	}
}

// byName are all functions. MIN and MAX stand twice among them: of one value they are
// totals, of several they are not.
var byName = func() map[string][]Function {
	all := map[string][]Function{}
	for _, c := range Chapters() {
		for _, f := range c.Functions {
			all[f.Name] = append(all[f.Name], f)
		}
	}
	return all
}()

// takes says whether a function may have so many arguments.
func (f Function) takes(n int) bool { return n >= f.least && (f.most == 0 || n <= f.most) }

// found returns the function of a call: of those of its name, the one that takes as
// many arguments, or the last.
func found(t *tree) (out Function, ok bool) {
	for _, out = range byName[t.text] {
		if out.takes(len(t.args)) {
			break
		}
	}
	return out, out.Name != ""
}

func (c *checker) call(t *tree) *Expr {
	f, ok := found(t)
	if !ok {
		var names []string
		for _, c := range Chapters() {
			for _, f := range c.Functions {
				names = append(names, f.Name)
			}
		}
		return c.faultOf(code.FormulaName, t,
			"there is no function %s%s", t.text, catalog.Suggest(t.text, names))
	}
	if !f.takes(len(t.args)) {
		return c.faultOf(code.FormulaArguments, t,
			"%s wants %s; write %s(%s)", f.Name, counted(f.least, f.most), f.Name, f.Arguments)
	}
	if f.Total != "" {
		return c.total(t, f.Total)
	}
	args, ok := c.exprs(t.args)
	if !ok {
		return nil
	}
	return f.check(c, t, args)
}

func counted(least, most int) string {
	words := []string{"no arguments", "one argument", "two arguments", "three arguments", "four arguments"}
	bare := func(n int) string { return strings.Fields(words[n])[0] }
	switch {
	case least == most:
		return words[least]
	case most == 0:
		return "at least " + words[least]
	}
	return "from " + bare(least) + " to " + words[most]
}

// isTotal says whether a call is a total.
func isTotal(t *tree) bool {
	f, ok := found(t)
	return ok && f.Total != ""
}

// want is what an argument has to be.
type want struct {
	words string
	fits  func(t Type) bool
	// turn, if set, brings the argument to the form that the function takes.
	turn func(e *Expr) *Expr
}

var (
	aText     = want{"text", func(t Type) bool { return t.Type == catalog.Text }, nil}
	aWhole    = want{"a whole number", func(t Type) bool { return t.Type == catalog.Whole && !t.Approx }, nil}
	aNumber   = want{"a number", Type.plainNumber, unpercented}
	aFloat    = want{"a number", Type.plainNumber, floated}
	aDate     = want{"a date", func(t Type) bool { return t.Type.Temporal() }, days}
	aMoment   = want{"a date and time", func(t Type) bool { return t.Type == catalog.DateTime }, nil}
	aDuration = want{"a duration", func(t Type) bool { return t.Type == catalog.Duration }, nil}
	aTruth    = want{
		"a condition, such as 'Paid' > 0", func(t Type) bool { return t.Type == catalog.YesNo }, nil,
	}
)

// wanted checks arguments and brings them to their form; the last want stands for
// all arguments that follow. ok is false if one does not fit.
func (c *checker) wanted(t *tree, args []*Expr, wants ...want) (out []*Expr, ok bool) {
	out, ok = slices.Clone(args), true
	for i, e := range args {
		w := wants[min(i, len(wants)-1)]
		if !w.fits(e.Type) {
			c.fault(t.args[i], "%s wants %s; %s is %s%s",
				t.text, w.words, t.args[i].said(), e.Type.Word(), mend(w, e.Type))
			ok = false
			continue
		}
		if w.turn != nil {
			out[i] = w.turn(e)
		}
	}
	return out, ok
}

// mend says how a value becomes what is wanted, if there is a function for it.
func mend(w want, t Type) string {
	switch {
	case w.words == aWhole.words && t.plainNumber():
		return ": use INT or ROUND"
	case w.words == aText.words:
		return ": use TEXT"
	case w.words == aNumber.words && t.Type == catalog.Text:
		return ": use VALUE"
	case w.words == aNumber.words && t.Type == catalog.Duration:
		return ": use HOURS, MINUTES or DAYS"
	case w.words == aDate.words && t.Type == catalog.Text:
		return ": use DATEVALUE"
	}
	return ""
}

// said names an argument in a message.
func (t *tree) said() string {
	if t.kind == fieldToken {
		return "'" + t.text + "'"
	}
	return "this"
}

// gives is the rule of a function that always gives values of one type.
func gives(result Type, wants ...want) rule {
	return func(c *checker, t *tree, args []*Expr) *Expr {
		args, ok := c.wanted(t, args, wants...)
		if !ok {
			return nil
		}
		return &Expr{Op: Op(t.text), Type: result, Args: args}
	}
}

// BlankRule says what blanks do.
func (f Function) BlankRule() string {
	if f.Blanks == "" {
		return "A blank gives a blank."
	}
	return f.Blanks
}
