// Package export writes one answered view as files of other programs' formats: as rows of
// typed values, or as the lines of the ledger with what a reader has to know of them.
package export

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/format"
)

// Sheet is a result as a flat table of typed values.
type Sheet struct {
	Columns []Column
	// Rows is how many there are.
	Rows     int
	calendar calendar.Calendar
	taken    map[string]bool // names of columns
	each     func(do func(row []cell.Cell) error) error
}

// Column is one of a sheet.
type Column struct {
	// Key names it to programs, Heading to people; each is of this column alone.
	Key, Heading string
	// Field says how the values are kept.
	Field catalog.Field
	// Unit, if set, says that the value is the first day of one.
	Unit calendar.Unit
}

// text writes a value for people.
func (c Column) text(w *format.Writer, cal calendar.Calendar, of cell.Cell) string {
	if c.Unit != "" && of.Kind == cell.Date {
		return cal.Label(c.Unit, of.Int)
	}
	return w.Cell(of, c.Field)
}

// Each calls do for every row, which has a cell for each column and is used again for the next.
func (s Sheet) Each(do func(row []cell.Cell) error) error { return s.each(do) }

// EachText is Each with values as programs read them: decimals without thousands, ISO 8601
// dates, durations as h:mm:ss, blanks empty.
func (s Sheet) EachText(do func(row []string) error) error {
	w, texts := format.NewWriter(format.Plain, s.calendar), make([]string, len(s.Columns))
	return s.Each(func(row []cell.Cell) error {
		for i, c := range row {
			texts[i] = w.Cell(c, s.Columns[i].Field)
		}
		return do(texts)
	})
}

// Names are the columns' headings or, if asked for, their keys.
func (s Sheet) Names(keys bool) []string {
	out := make([]string, len(s.Columns))
	for i, c := range s.Columns {
		if out[i] = c.Heading; keys {
			out[i] = c.Key
		}
	}
	return out
}

// Only is the sheet with the columns of these keys, in the sheet's order; without any, all.
func (s Sheet) Only(keys []string) (Sheet, error) {
	if len(keys) == 0 {
		return s, nil
	}
	for _, key := range keys {
		if !slices.ContainsFunc(s.Columns, func(c Column) bool { return c.Key == key }) {
			return s, &Refused{"columns", fmt.Sprintf(
				"there is no column %q%s", key, catalog.Suggest(key, s.Names(true)),
			)}
		}
	}
	var kept []int
	out := Sheet{Rows: s.Rows, calendar: s.calendar}
	for i, c := range s.Columns {
		if slices.Contains(keys, c.Key) {
			kept, out.Columns = append(kept, i), append(out.Columns, c)
		}
	}
	out.each = func(do func([]cell.Cell) error) error {
		part := make([]cell.Cell, len(kept))
		return s.Each(func(row []cell.Cell) error {
			for to, from := range kept {
				part[to] = row[from]
			}
			return do(part)
		})
	}
	return out, nil
}

// counted counts rows as they go by: tell hears now and then how many, and after the first so
// many, if not 0, no more come.
func (s Sheet) counted(first int, tell func(rows int)) Sheet {
	each := s.each
	s.each = func(do func([]cell.Cell) error) error {
		c := &counter{first: first, tell: tell}
		return c.end(each(func(row []cell.Cell) error {
			if err := do(row); err != nil {
				return err
			}
			return c.next()
		}))
	}
	return s
}

// counter counts the lines of one export.
type counter struct {
	n, first int
	tell     func(lines int)
}

// errEnough ends a walk over lines of which no more are wanted.
var errEnough = errors.New("enough lines")

// next counts a line.
func (c *counter) next() error {
	if c.n++; c.tell != nil && c.n%tellRows == 0 {
		c.tell(c.n)
	}
	if c.n == c.first {
		return errEnough
	}
	return nil
}

// end tells of the last lines, and is the error of a walk over them.
func (c *counter) end(err error) error {
	if c.tell != nil {
		c.tell(c.n)
	}
	if errors.Is(err, errEnough) {
		return nil
	}
	return err
}

// tellRows is after how many rows it is said how far an export is.
const tellRows = 1 << 10

// add adds a column; what has its key or heading already gets a number behind them.
func (s *Sheet) add(c Column) {
	if s.taken == nil {
		s.taken = map[string]bool{}
	}
	c.Key = s.alone("key ", c.Key, "_%d")
	c.Heading = s.alone("heading ", c.Heading, " (%d)")
	s.Columns = append(s.Columns, c)
}

// alone is a name of a kind that no other column has, without regard to case.
func (s *Sheet) alone(kind, name, numbered string) string {
	out := name
	for n := 2; s.taken[kind+strings.ToLower(out)]; n++ {
		out = name + fmt.Sprintf(numbered, n)
	}
	s.taken[kind+strings.ToLower(out)] = true
	return out
}
