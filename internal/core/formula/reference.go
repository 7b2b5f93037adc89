package formula

import (
	"fmt"
	"strings"
)

// introduction is the head of the reference.
const introduction = `# Formulas

Written from the table of functions in the code by ` + "`make openapi`" + `; the editor shows the
same words.

Formulas are spreadsheet arithmetic after the OpenFormula standard (OASIS OpenDocument
1.3, part 4), over fields. A field is its label in single quotes, 'Fare paid', or bare if
it is one word: Claimed. Text stands in double quotes. Arguments are separated by ; or by
a comma. Operators, the loosest first: = <> < <= > >=, then &, then + −, then * /, then ^,
then %; a minus before a value binds tightest, so -2^2 is 4. All group from the left.

**What a name means.** A name is a field's label, its key, or its path. It means the nearest
field that has it: first those of the record at hand, which the view makes, which are
defined for all views, or which are stored; then those of linked records, the fewer links
the nearer. Of equally near ones, that which is written exactly so goes before one that
differs in capitals, and a field may be called like one that it is made of. What could
still be two fields is a fault that names both; the path of one, in single quotes, tells
them apart: 'booking.status'.

**Of other records.** What is drawn from linked records, or sets a record beside others, is a
field like any other: 'Fare' - 'Paid so far', 'Fare' / 'Average fare of its route'. It is made
in the view or defined for all; see views.md.

**Per record or per total.** A formula is worked out for each record: 'Claimed' - 'Paid'.
If a total stands in it, it is worked out for each group and for all records, from the
totals of that group: SUM('Paid') / SUM('Claimed') is a ratio of sums at every level, never
an average of ratios. A condition inside counts some records only:
SUM(IF('Status' = "Open"; 'Claimed')). The amount of a linked record counts once in every
total, COUNT included, however many records lead to it, if the argument is made of that
record's fields alone; so SUM / COUNT is AVERAGE. Amounts in several currencies are not put
together: a group that has several has a result for each, or none.

**Exact or approximate.** Whole numbers and decimals are exact under + − * and ROUND, and
what does not fit into 64 bits fails instead of going wrong. Division, roots, powers and
logarithms give approximate numbers; ROUND makes them exact again. A percentage counts as
the number it stands for: 12.5 % is 0.125.

**Blanks stay blank.** A blank in arithmetic or in a comparison gives a blank, where a
spreadsheet would take an empty cell for 0. COALESCE('Paid'; 0) says that a blank is to
count as 0. What differs from this is said with each function.

**What fails is blank and is counted.** A record that divides by zero, or whose result is
too large, has no result; the tally says how many there are and why. What is made of a
failure fails with it, unless COALESCE or ISBLANK take it for the blank that it is.

**Dates and durations.** The difference of two dates is a whole number of days, that of two
moments a duration. A date and a duration make a moment, by the clock: 'Joined on' +
TIME(9; 30; 0) is half past nine on every day, also when the clocks are changed. Dates run
from the year 1 to 9999.
TODAY and NOW are the day and the moment the view runs.

A formula has at most 10,000 characters and is nested at most 1,000 deep.
`

// Reference writes the reference of the language in Markdown. sample works the samples out
// as it is written, each a formula without fields.
func Reference(sample func(source string) (result string, err error)) (string, error) {
	var b strings.Builder
	b.WriteString(introduction)
	for _, c := range Chapters() {
		fmt.Fprintf(&b, "\n## %s\n", c.Title)
		for _, f := range c.Functions {
			fmt.Fprintf(
				&b, "\n### %s(%s)\n\n%s Gives %s. %s\n\n", f.Name, f.Arguments, f.Meaning, f.Result, f.BlankRule(),
			)
			fmt.Fprintf(&b, "    %s\n", f.Example)
			if f.Sample == "" {
				continue
			}
			result, err := sample(f.Sample)
			if err != nil {
				return "", fmt.Errorf("formula: the sample of %s: %w", f.Name, err)
			}
			fmt.Fprintf(&b, "    %s gives %s\n", f.Sample, result)
		}
	}
	return b.String(), nil
}
