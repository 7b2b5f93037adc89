package view

import (
	"cmp"
	"fmt"
	"strings"

	"gavrik/internal/core/catalog"
)

// Reference writes the tables of totals and operators in Markdown.
func Reference() string {
	var b strings.Builder
	b.WriteString("# Totals and operators\n\nWritten from the tables in the code by `make openapi`; " +
		"the checker, the sentence and the bench read the same tables.\n\n## Totals\n\n" +
		"A total is worked out over the records of each group, and over all of them.\n\n" +
		"| Key | In formulas | What it is | For | Gives | Blanks | Adds up | A linked record |\n" +
		"| --- | --- | --- | --- | --- | --- | --- | --- |\n")
	for _, t := range totals {
		if t.Fn == Records {
			continue
		}
		fmt.Fprintf(&b, "| `%s` | %s | %s | %s | %s | %s | %s | %s |\n", t.Fn, cmp.Or(t.Function, "–"), t.Meaning,
			cmp.Or(fittingTypes(t.fits), "calculated fields"), cmp.Or(string(t.Gives), "what the formula gives"),
			either(t.KeepsBlanks, "are counted", "are skipped"), either(t.AddsUp, "yes", "no"),
			either(t.DistinctPerLinked, "counts once", "counts with every record"))
	}
	b.WriteString("\n## Operators\n\nA negative operator keeps exactly the records that its twin leaves out, " +
		"blanks among them.\n\n| Key | Named | For | Compares with | Negates |\n| --- | --- | --- | --- | --- |\n")
	for _, o := range operators {
		with := map[Operand]string{
			OperandNone: "nothing", OperandOne: "a value", OperandTwo: "two values", OperandList: "a list of values",
			OperandPattern: "a text in which `*` stands for any characters and `?` for one; behind `\\`, for themselves",
			OperandPeriod:  "a relative period", OperandWeekdays: "days of the week", OperandHours: "hours of the day",
		}[o.Operand]
		if o.Fields {
			with += " or a second field"
		}
		fmt.Fprintf(&b, "| `%s` | %s | %s | %s | %s |\n", o.Op, named(o),
			cmp.Or(fittingTypes(o.fits), "calculated fields"), with, cmp.Or(string(o.Negates), "–"))
	}
	return b.String()
}

// named is what an operator is called, for dates otherwise than for other values where they
// have words of their own.
func named(o OpInfo) string {
	words := o.LabelFor(catalog.Whole)
	if o.Words.date != "" {
		words += "; " + o.LabelFor(catalog.Date)
	}
	return words
}

func fittingTypes(f fits) string {
	var names []string
	for _, info := range catalog.Types() {
		if f.place(info.Type) > 0 && (len(names) == 0 || names[len(names)-1] != info.Name) {
			names = append(names, info.Name)
		}
	}
	if len(names) == len(catalog.Types())-1 { // two of them go by one name
		return "all types"
	}
	return strings.Join(names, ", ")
}

func either(b bool, yes, no string) string {
	if b {
		return yes
	}
	return no
}
