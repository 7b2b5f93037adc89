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
	compile     compiler
}

// compiler makes a node of a call whose arguments are compiled and counted.
type compiler func(c *checker, t *tree, args []node) (node, error)

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

func (c *checker) call(t *tree) (node, error) {
	f, ok := found(t)
	if !ok {
		var names []string
		for _, c := range Chapters() {
			for _, f := range c.Functions {
				names = append(names, f.Name)
			}
		}
		return nil, faultOf(code.FormulaName, t,
			"there is no function %s%s", t.text, catalog.Suggest(t.text, names))
	}
	if !f.takes(len(t.args)) {
		return nil, faultOf(code.FormulaArguments, t,
			"%s wants %s; write %s(%s)", f.Name, counted(f.least, f.most), f.Name, f.Arguments)
	}
	if f.Total != "" {
		return c.total(t, f.Total)
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
	turn func(c *checker, n node) node
}

var (
	aText     = want{"text", func(t Type) bool { return t.Type == catalog.Text }, nil}
	aWhole    = want{"a whole number", func(t Type) bool { return t.Type == catalog.Whole && !t.Approx }, nil}
	aNumber   = want{"a number", Type.plainNumber, (*checker).unpercented}
	aFloat    = want{"a number", Type.plainNumber, (*checker).floated}
	aDate     = want{"a date", func(t Type) bool { return t.Type.Temporal() }, (*checker).days}
	aMoment   = want{"a date and time", func(t Type) bool { return t.Type == catalog.DateTime }, nil}
	aDuration = want{"a duration", func(t Type) bool { return t.Type == catalog.Duration }, nil}
	aTruth    = want{"a condition, such as 'Paid' > 0", func(t Type) bool { return t.Type == catalog.YesNo }, nil}
)

// wanted checks arguments and brings them to their form; the last want stands for
// all arguments that follow.
func (c *checker) wanted(t *tree, args []node, wants ...want) ([]node, error) {
	out := slices.Clone(args)
	for i, n := range args {
		w := wants[min(i, len(wants)-1)]
		if !w.fits(n.typ()) {
			return nil, fault(t.args[i], "%s wants %s; %s is %s%s", t.text, w.words, t.args[i].said(), n.typ().Word(), mend(w, n.typ()))
		}
		if w.turn != nil {
			out[i] = w.turn(c, n)
		}
	}
	return out, nil
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

// cell is one argument of one record, or a result.
type cell struct {
	int   int64
	float float64
	text  string
}

// rowwise compiles a function that looks at one record at a time. do is not asked
// when a number, a date or a duration is blank; it says false for a blank result.
func rowwise(result Type, do func(m *Machine, i int, a []cell) (cell, bool), wants ...want) compiler {
	return func(c *checker, t *tree, args []node) (node, error) {
		args, err := c.wanted(t, args, wants...)
		if err != nil {
			return nil, err
		}
		return c.rows(result, args, do), nil
	}
}

func (c *checker) rows(result Type, args []node, do func(m *Machine, i int, a []cell) (cell, bool)) node {
	return &apply{t: result, id: c.id(), args: args, do: func(m *Machine, out vec, v []vec) {
		row := make([]cell, len(v))
		for i := range m.n {
			out.clear(i)
			if m.halted() || !readRow(m, row, v, i) {
				continue
			}
			got, ok := do(m, i, row)
			if !ok {
				continue
			}
			switch {
			case out.texts != nil:
				out.texts[i] = m.text(i, got.text)
			case out.floats != nil:
				out.floats[i] = got.float
			default:
				out.ints[i] = got.int
			}
		}
	}}
}

// readRow fetches the arguments of a record; it is false if one that is not text is
// blank.
func readRow(m *Machine, row []cell, v []vec, i int) bool {
	for j, a := range v {
		if a.texts != nil {
			row[j].text = a.texts[i]
			m.look(int64(len(a.texts[i])))
			continue
		}
		if a.blank(i) {
			return false
		}
		if a.floats != nil {
			row[j].float = a.floats[i]
		} else {
			row[j].int = a.ints[i]
		}
	}
	return true
}

func yes(b bool) (cell, bool) {
	if b {
		return cell{int: 1}, true
	}
	return cell{int: 0}, true
}

var (
	truthType = Type{Type: catalog.YesNo}
	wholeType = Type{Type: catalog.Whole}
	textType  = Type{Type: catalog.Text}
	dateType  = Type{Type: catalog.Date}
	floatType = Type{Type: catalog.Decimal, Approx: true}
)

// BlankRule says what blanks do.
func (f Function) BlankRule() string {
	if f.Blanks == "" {
		return "A blank gives a blank."
	}
	return f.Blanks
}
