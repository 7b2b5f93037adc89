// Package code names the faults that a view document can have, so that programs need not
// read words. Codes are only ever added: one that is published keeps its meaning.
package code

// Code tells one kind of fault from another.
type Code string

// The form of a document: what its JSON Schema says.
const (
	Size          Code = "document-size"
	JSON          Code = "document-json"
	Encoding      Code = "document-encoding"
	Twice         Code = "key-twice"
	Unknown       Code = "key-unknown"
	Missing       Code = "key-missing"
	Kind          Code = "value-kind"
	Choice        Code = "value-choice"
	Bounds        Code = "value-bounds"
	Version       Code = "document-version"
	Depth         Code = "condition-depth"
	Several       Code = "condition-several"
	Question      Code = "question-form"
	TwoParameters Code = "question-twice"
	TwoValues     Code = "operand-beside-field"
)

// What a document speaks of: what there is, and what fits it.
const (
	Records          Code = "records-unknown"
	NoField          Code = "field-missing"
	Field            Code = "field-unknown"
	LinkAsField      Code = "field-is-link"
	Restricted       Code = "field-withheld"
	FieldType        Code = "field-type"
	OfTotals         Code = "field-of-totals"
	Link             Code = "link-unknown"
	Key              Code = "key-form"
	KeyTaken         Code = "key-taken"
	Label            Code = "label-missing"
	LabelTwice       Code = "label-twice"
	Circle           Code = "made-of-itself"
	Operator         Code = "operator-unfit"
	Operand          Code = "operand-form"
	NoOperand        Code = "operand-missing"
	Reversed         Code = "range-reversed"
	NotMade          Code = "field-not-calculated"
	Total            Code = "total-unfit"
	Percentile       Code = "percentile-form"
	Show             Code = "show-unfit"
	Level            Code = "level-unknown"
	Keep             Code = "groups-kept-unfit"
	Beside           Code = "beside-form"
	Unit             Code = "unit-unfit"
	Format           Code = "format-unfit"
	Band             Code = "band-form"
	Linked           Code = "linked-form"
	Period           Code = "period-form"
	Compare          Code = "compare-unbounded"
	Many             Code = "too-many"
	ParameterWithin  Code = "question-within"
	MissingParameter Code = "question-waiting"
)

// Formulas.
const (
	FormulaForm      Code = "formula-form"
	FormulaName      Code = "formula-name"
	FormulaDoubt     Code = "formula-doubt"
	FormulaArguments Code = "formula-arguments"
	FormulaType      Code = "formula-type"
	FormulaSize      Code = "formula-size"
	FormulaUnit      Code = "formula-unit"
)

// Entry explains a code.
type Entry struct {
	Code    Code
	Meaning string // what is wrong
	Mend    string // what to do about it
}

// All lists every code, in the order of the places where they come up.
func All() []Entry {
	return []Entry{
		{Size, "The document is larger than 8 MB, or has more than 200,000 values.",
			"Shorten its longest list of values; a condition on a linked record may say the same."},
		{Encoding,
			"The document is not plain UTF-8: a byte order mark stands before it, or bytes are no characters.",
			"Save it as UTF-8 without a byte order mark."},
		{JSON, "The text is no JSON, or no JSON object.",
			"Mend the line that is named; a view document is one object in braces."},
		{Version, "The document is of a version that this program does not read.",
			`Put "gavrik": 1 at its start, or install a newer program.`},
		{Twice, "A key stands twice in one object, and it is not known which was meant.", "Take one of them out."},
		{Unknown, "A key is not known at this place.",
			"Correct its spelling, or take it out; docs/view.schema.json lists what there is."},
		{Missing, "A key is missing that has to be there.", "Add it."},
		{Kind, "A value is of the wrong kind: a text where a list is wanted, or null.",
			"Write what is wanted; what has no value is left out, key and all."},
		{Choice, "A word is none of those that can stand here.", "Choose one of those that the message lists."},
		{Bounds, "A number or a text is beyond its bounds.", "Keep to the bounds that the message names."},
		{Depth, "Conditions are nested more than 256 deep.", "Combine fewer within each other."},
		{Several,
			"A condition is several things at once: a combination, a test of a field, a test of linked records, the records of another view.",
			"Make it one of them, and combine them with all, any or none."},
		{TwoValues, "A test has an operand and a second field to compare with.", "Keep one of the two."},
		{Question, "A question cannot be asked so: it has no words, or it is no test of a field.",
			"Give it words, and put it on a test of a field."},
		{TwoParameters, "Two questions have one name, so that an answer would go to both.",
			"Give one of them another name."},
		{ParameterWithin, "A question stands within a condition on linked records.", "Ask it outside."},
		{MissingParameter, "A question that needs an answer has none.", "Answer it."},
		{Records, "There is no record set of that key.", "Correct the key; the page Records lists them."},
		{NoField, "No field is named.", "Name one by its path."},
		{Field, "There is no field at the path.", "Correct the path."},
		{LinkAsField, "The path names a link, not a field.",
			"Go on to a field of the linked record, such as the one that the message names."},
		{Link, "There is no link of that name, or it leads elsewhere.", "Correct the path of links."},
		{Restricted, "The field, or what it is made of, is not shown to you.",
			"Ask an administrator, or do without it."},
		{FieldType, "The field is of a type that does not fit here.", "Choose another field."},
		{OfTotals, "The field is calculated from totals of groups, so that single records have no value of it.",
			"Use it as a column, or to order groups."},
		{NotMade, "The field is stored, not calculated, so it cannot fail.", "Test a calculated field."},
		{Key, "The key of a calculated field or bucket is not one word without dots.",
			"Use letters, digits and _."},
		{KeyTaken, "The key is used already.", "Choose another."},
		{Label, "A label is missing.", "Give one."},
		{LabelTwice, "Two fields or bands have one label.", "Give one of them another."},
		{Circle, "Calculated fields or buckets are made of each other.", "Take one of them out of the other."},
		{Operator, "The operator does not fit the field's type.", "Use one of those that the message lists."},
		{Operand, "The operand cannot be read as a value of the field.", "Write it as the message shows."},
		{NoOperand, "The operator needs an operand, and there is none.", "Give it."},
		{Reversed, "A range ends before it begins.", "Swap its two ends."},
		{Period, "A relative period cannot be read.",
			"Give which, unit and, with past, coming, older and beyond, n."},
		{Linked, "A condition on linked records is not complete.", "Add what the message names."},
		{Total, "The total does not fit the field's type.", "Use one of those that the message lists."},
		{Percentile, "The percentile is no number from 0 to 100.", "Write it as 90."},
		{Show, "What is to be shown in place of the total does not fit it.", "Choose another, or another total."},
		{Beside, "A record cannot be set beside others so.",
			"Name the order that says which is before which, and among which records it stands."},
		{Keep, "Groups cannot be kept by their total so.",
			"Keep them by a sum, a count, or another number or date, and do not ask for groups without records as well."},
		{Level, "There is no such level of groups.",
			"Levels run from 0, the grand total, to the number of groups."},
		{Unit, "Values of the field cannot be grouped so.",
			"Choose a unit that fits dates or moments, or another field."},
		{Format, "The format does not fit the type.", "Choose one that does."},
		{Band, "A band of a bucket has no bounds or values, or ends before it begins.",
			"Give it bounds, or a list of texts."},
		{Compare,
			"The filter bounds no stretch of whole days, or several, so it is not known what to compare with.",
			"Bound one date on both sides, or name it."},
		{Many, "There are more columns, levels or fields than a view can have.", "Take some out."},
		{FormulaForm, "The formula cannot be read: a bracket, a quote or an operator is missing.",
			"Mend it at the character that is named."},
		{FormulaName, "The formula names a field or function that there is not.", "Correct the name."},
		{FormulaDoubt, "A name in the formula could be two fields.",
			"Write the path of the one that is meant, in single quotes."},
		{FormulaArguments, "A function has too few or too many arguments.", "Write it as the message shows."},
		{FormulaType, "Values of these types cannot be put together so.",
			"Turn one of them into the other's type with a function."},
		{FormulaSize, "The formula, or a text or number that it makes, would be too large.",
			"Shorten it, or round."},
		{FormulaUnit, "The result cannot be shown in that unit, or with so many decimals.",
			"Choose another unit, or from 0 to 9 decimals."},
	}
}
