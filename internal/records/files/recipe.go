package files

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/currency"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/reading"
)

// Recipe says how a file becomes records. It is kept with them, so that a later file becomes them in
// the same way.
type Recipe struct {
	Settings Settings      `json:"settings"`
	Fields   []RecipeField `json:"fields" maxItems:"500"`
	// By are the keys of the fields that tell the records apart; without any, each row is a record.
	By    []string     `json:"by,omitempty" maxItems:"8" doc:"Keys of the fields that tell the records apart; a later file can change those records then"`
	Links []RecipeLink `json:"links,omitempty" maxItems:"50"`
}

// RecipeField says what becomes of a column.
type RecipeField struct {
	// Heading is what the column is called in the file.
	Heading  string       `json:"heading" maxLength:"200"`
	Key      string       `json:"key" maxLength:"60" doc:"Key of the field"`
	Label    string       `json:"label" maxLength:"80"`
	Type     catalog.Type `json:"type" enum:"@types"`
	Way      string       `json:"way,omitempty" maxLength:"40" doc:"How its values are written, if there are several ways"`
	Currency string       `json:"currency,omitempty" maxLength:"3" doc:"ISO 4217 code of amounts"`
	Out      bool         `json:"out,omitempty" doc:"The column is left out"`
}

// RecipeLink leads from the records of a file to those of another set that hold the same value.
type RecipeLink struct {
	By   string `json:"by" maxLength:"60" doc:"Key of the field"`
	To   string `json:"to" maxLength:"200" doc:"Key of the other record set"`
	Into string `json:"into" maxLength:"200" doc:"Key of its field that holds the same; no two of its records share a value"`
}

// Types are those that a field can have.
var Types = []catalog.Type{
	catalog.Text, catalog.Whole, catalog.Decimal, catalog.Money, catalog.Percent, catalog.Date, catalog.DateTime,
	catalog.Duration, catalog.YesNo,
}

// Field finds a field that comes in, by key; nil if there is none.
func (r *Recipe) Field(key string) *RecipeField {
	for i := range r.Fields {
		if f := &r.Fields[i]; f.Key == key && !f.Out {
			return f
		}
	}
	return nil
}

// Taken are the fields that come in.
func (r *Recipe) Taken() []RecipeField {
	return slices.DeleteFunc(slices.Clone(r.Fields), func(f RecipeField) bool { return f.Out })
}

// RecipeError says which part of a recipe is wrong.
type RecipeError struct{ Path, Why string }

func (e *RecipeError) Error() string { return e.Why }

// MaxLabel is how many letters a field's label may have.
const MaxLabel = 80

// Check says what is wrong with a recipe.
func (r *Recipe) Check() error {
	keys, labels := map[string]bool{}, map[string]bool{}
	for i, f := range r.Fields {
		at := fmt.Sprintf("fields[%d]", i)
		way, found := reading.Find(catalog.Text, f.Type, f.Way)
		switch label := strings.ToLower(f.Label); {
		case f.Out:
			continue
		case strings.TrimSpace(f.Label) == "" || utf8.RuneCountInString(f.Label) > MaxLabel:
			return &RecipeError{at + ".label", fmt.Sprintf("Give the column “%s” a name of 1 to %d letters.", f.Heading, MaxLabel)}
		case labels[label]:
			return &RecipeError{at + ".label", fmt.Sprintf("Two fields are called “%s”; call one of them otherwise.", f.Label)}
		case f.Key == "" || f.Key == Line || keys[f.Key] || f.Key != KeyOf(f.Key, ""):
			return &RecipeError{at + ".key", fmt.Sprintf("The key “%s” of “%s” is no key, or there are two of it.", f.Key, f.Label)}
		case !slices.Contains(Types, f.Type):
			return &RecipeError{at + ".type", fmt.Sprintf("“%s” cannot be %s.", f.Label, f.Type.Word())}
		case f.Type != catalog.Text && (!found || f.Way != "" && way.Key != f.Way):
			return &RecipeError{at + ".way", fmt.Sprintf("%s cannot be written in the way %q.", f.Type.Word(), f.Way)}
		case f.Currency != "" && (f.Type != catalog.Money || !catalog.CurrencyCode(f.Currency)):
			return &RecipeError{at + ".currency", fmt.Sprintf("“%s” is no currency of amounts; use a code such as EUR.", f.Currency)}
		default:
			keys[f.Key], labels[label] = true, true
		}
	}
	if len(keys) == 0 {
		return &RecipeError{"fields", "Every column is left out; take at least one."}
	}
	for i, key := range r.By {
		if !keys[key] || slices.Contains(r.By[:i], key) {
			return &RecipeError{fmt.Sprintf("by[%d]", i), fmt.Sprintf("The key “%s” is no field that comes in, or stands there twice.", key)}
		}
	}
	for i, l := range r.Links {
		if !keys[l.By] {
			return &RecipeError{fmt.Sprintf("links[%d].by", i), fmt.Sprintf("“%s” is no field that comes in.", l.By)}
		}
	}
	return nil
}

// Line is the column with the number of the row, in record sets without a key of their own.
const Line = "line"

var notName = regexp.MustCompile(`[^\p{L}\p{N}]+`)

// maxKey leaves room for a number behind it: PostgreSQL keeps 63 bytes of a name.
const maxKey = 56

// KeyOf makes a plain key of a heading or a name.
func KeyOf(name, fallback string) string {
	s := strings.Trim(notName.ReplaceAllString(strings.ToLower(name), "_"), "_")
	for len(s) > maxKey {
		_, size := utf8.DecodeLastRuneInString(s)
		s = strings.TrimRight(s[:len(s)-size], "_")
	}
	if s == "" {
		return fallback
	}
	return s
}

// fieldFor is a field for a heading, with a key that no other has.
func (r *Recipe) fieldFor(heading string) RecipeField {
	f := RecipeField{Heading: heading, Label: heading, Type: catalog.Text}
	if strings.Contains(heading, "_") || heading == strings.ToLower(heading) {
		f.Label = catalog.LabelOf(heading)
	}
	if utf8.RuneCountInString(f.Label) > MaxLabel {
		f.Label = string([]rune(f.Label)[:MaxLabel])
	}
	taken := func(key string) bool {
		return key == Line || slices.ContainsFunc(r.Fields, func(o RecipeField) bool { return o.Key == key })
	}
	f.Key = KeyOf(heading, "column")
	for n, stem := 2, f.Key; taken(f.Key); n++ {
		f.Key = fmt.Sprintf("%s_%d", stem, n)
	}
	called := func(o RecipeField) bool { return strings.EqualFold(o.Label, f.Label) }
	for n, stem := 2, f.Label; slices.ContainsFunc(r.Fields, called); n++ {
		f.Label = fmt.Sprintf("%s %d", stem, n)
	}
	return f
}

// Value is one value of a record: nothing, a text, or a number as columns keep it.
type Value struct {
	Filled bool
	Text   string
	Number reading.Exact
}

// Converter makes values of a file's rows.
type Converter struct {
	in      reading.Setting
	columns []convertedColumn // in the order of Taken
	by      []int             // places of the key in the row
}

type convertedColumn struct {
	place int // in the row; -1 for a field that the file does not have
	field RecipeField
	way   reading.Way
	text  bool
	// least is how many decimals an amount is kept with at the least.
	least int
}

// Converter readies a recipe for a file. Fields that the file does not have are blank.
func (r *Recipe) Converter(f *File, cal calendar.Calendar) (*Converter, error) {
	c := &Converter{in: reading.In(cal)}
	for _, field := range r.Taken() {
		column := convertedColumn{place: f.column(field.Heading), field: field, text: field.Type == catalog.Text}
		if !column.text {
			column.way, _ = reading.Find(catalog.Text, field.Type, field.Way) // Check has found it
			column.least = decimalsOf(field)
		}
		if slices.Contains(r.By, field.Key) {
			if column.place < 0 {
				return nil, refuse("the file has no column “%s”, which tells the records apart", field.Heading)
			}
			c.by = append(c.by, len(c.columns))
		}
		c.columns = append(c.columns, column)
	}
	return c, nil
}

// decimalsOf is how many decimals amounts of a currency have, as cents are two; none of what is no amount.
func decimalsOf(f RecipeField) int {
	if f.Type != catalog.Money {
		return 0
	}
	unit, err := currency.ParseISO(f.Currency)
	if err != nil {
		return 2
	}
	scale, _ := currency.Standard.Rounding(unit)
	return scale
}

// column is the place of a heading, as it is written or nearly so; -1 if there is none.
func (f *File) column(heading string) int {
	if i := slices.Index(f.Headings, heading); i >= 0 {
		return i
	}
	return slices.IndexFunc(f.Headings, func(h string) bool { return strings.EqualFold(h, heading) })
}

// maxKeyText is how many bytes a text may have that tells records apart: an index holds no more.
const maxKeyText = 1000

// Convert makes the values of a row, one for each field that comes in; into is written over. The
// error says why the row cannot be taken.
func (c *Converter) Convert(row Row, into []Value) ([]Value, error) {
	if row.Wrong != nil {
		return nil, row.Wrong
	}
	into = into[:0]
	for _, column := range c.columns {
		v, err := c.value(column, row)
		if err != nil {
			return nil, fmt.Errorf("%s %w", column.field.Heading, err)
		}
		into = append(into, v)
	}
	for _, at := range c.by {
		if v := into[at]; !v.Filled {
			return nil, fmt.Errorf("%s is blank, and should tell the record from others", c.columns[at].field.Heading)
		} else if len(v.Text) > maxKeyText {
			return nil, fmt.Errorf("%s is longer than %d letters, too long to tell records apart", c.columns[at].field.Heading, maxKeyText)
		}
	}
	return into, nil
}

// Key makes the values of the key of a row that cannot be taken as a whole; ok is false if those
// cannot be read either.
func (c *Converter) Key(row Row) (values []Value, ok bool) {
	if row.Wrong != nil {
		return nil, false
	}
	for _, at := range c.by {
		v, err := c.value(c.columns[at], row)
		if err != nil || !v.Filled || len(v.Text) > maxKeyText {
			return nil, false
		}
		values = append(values, v)
	}
	return values, len(values) > 0
}

func (c *Converter) value(column convertedColumn, row Row) (Value, error) {
	if column.place < 0 {
		return Value{}, nil
	}
	if fault := row.Broken[column.place]; fault != "" {
		return Value{}, fmt.Errorf("%s", fault)
	}
	text := strings.TrimSpace(row.Cells[column.place])
	switch {
	case text == "":
		return Value{}, nil
	case column.text:
		return Value{Filled: true, Text: text}, nil
	}
	n, err := column.way.Written(text, c.in)
	if err != nil {
		return Value{}, fmt.Errorf("cannot be read: %w", err)
	}
	if n.Scale < column.least {
		if longer, ok := n.At(column.least); ok {
			n = longer
		}
	}
	return Value{Filled: true, Number: n}, nil
}
