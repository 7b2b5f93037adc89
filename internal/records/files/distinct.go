package files

import (
	"context"
	"slices"
	"strings"

	"gavrik/internal/core/calendar"
)

// Counted is a value of a column with the number of its rows.
type Counted struct {
	Value Value
	As    string // as it is written
	Rows  int
}

// MaxDistinct is how many different values of a column are counted.
const MaxDistinct = 200_000

// Distinct counts the values of a field, of the rows that are looked at. Of more than MaxDistinct,
// the first are counted.
func (f *File) Distinct(
	ctx context.Context, r *Recipe, key string, cal calendar.Calendar,
) ([]*Counted, error) {
	c, err := r.Converter(f, cal)
	if err != nil {
		return nil, err
	}
	at := slices.IndexFunc(c.columns, func(column convertedColumn) bool { return column.field.Key == key })
	if at < 0 || c.columns[at].place < 0 {
		return nil, nil
	}
	known := map[string]*Counted{}
	var out []*Counted
	err = f.each(ctx, func(row Row) {
		if row.Wrong != nil {
			return
		}
		v, err := c.value(c.columns[at], row)
		text := row.Cells[c.columns[at].place]
		if len(text) > maxKeyText { // no other record has that much in a key
			text = strings.ToValidUTF8(text[:maxKeyText], "")
			v.Text = text
		}
		switch one := known[text]; {
		case err != nil || !v.Filled:
		case one != nil:
			one.Rows++
		case len(out) < MaxDistinct:
			text = strings.Clone(text)
			v.Text = strings.Clone(v.Text)
			known[text] = &Counted{v, cut(text), 1}
			out = append(out, known[text])
		}
	})
	return out, err
}
