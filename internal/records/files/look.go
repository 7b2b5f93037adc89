package files

import (
	"context"
	"errors"
	"hash/maphash"
	"io"
	"slices"
	"strings"

	"golang.org/x/text/currency"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/reading"
	"gavrik/internal/core/turn"
)

// Look is what a file would become, before anything is written.
type Look struct {
	File   *File
	Recipe *Recipe
	// Rows are those that were looked at: all of them, if Whole. Aside counts those that do
	// not fit; Rejects are the first.
	Rows    int
	Whole   bool
	Aside   int
	Rejects []Reject
	// Fields are those of the recipe.
	Fields []FieldLook
	// Repeats counts rows whose key stands above already; Repeated are the first such keys.
	Repeats  int
	Repeated []string
}

// FieldLook is what a column holds, as far as it was looked at.
type FieldLook struct {
	// There says that the file has the column; New that the recipe did not know it.
	There, New      bool
	Filled, Misfits int
	// Examples are the first values that do not fit, Samples the first different ones that do.
	Examples []Misfit
	Samples  []string
	// Open are ways that fit equally well: somebody must choose.
	Open []reading.As
	// Apart says that it is filled everywhere, and nowhere the same.
	Apart bool
}

// Misfit is a value that does not fit.
type Misfit struct {
	Line   int    `json:"line"`
	Text   string `json:"text"`
	Reason string `json:"reason"`
}

// Reject is a row that is kept aside.
type Reject struct {
	Line    int    `json:"line"`
	Reason  string `json:"reason"`
	Content string `json:"content"`
}

const (
	// wholly is up to which size all rows of a file are looked at; of a larger one, so many.
	wholly     = 32 << 20
	lookedRows = 30_000
	places     = 10
	// guessedRows are those that types are guessed from.
	guessedRows = 20_000
	// guessedTexts bounds the texts of all columns that are kept for it.
	guessedTexts = 1_000_000
	// lookBytes is about what a look holds at most.
	lookBytes = 160 << 20
	shown     = 5
	shownRows = 100
	shownText = 120
)

// Look looks a file over. Known, if not nil, is how its records were made before, or how somebody
// wants them; columns that it does not know are guessed.
func (f *File) Look(ctx context.Context, known *Recipe, cal calendar.Calendar) (*Look, error) {
	l := &Look{File: f, Whole: f.in.Size() <= wholly, Recipe: &Recipe{Settings: f.Settings}}
	if known != nil {
		l.Recipe.Fields, l.Recipe.By, l.Recipe.Links = slices.Clone(known.Fields), known.By, known.Links
	}
	if err := turn.Of(ctx).Book(ctx, lookBytes); err != nil {
		return nil, err
	}
	defer func() { _ = turn.Of(ctx).Book(context.WithoutCancel(ctx), -lookBytes) }() // giving back does not fail
	g := newGuesser(len(f.Headings))
	if err := f.each(ctx, func(row Row) { g.take(row) }); err != nil {
		return nil, err
	}
	otherwise := known != nil && known.Settings.Format != "" &&
		(known.Settings.Format == Separated) != (f.Format == Separated)
	l.settle(g, cal, otherwise)
	if err := l.Recipe.Check(); err != nil {
		return nil, err
	}
	return l, l.count(ctx, cal)
}

// each hands over the rows that are looked at: all, or those at the beginning and, where a file can
// be read from any place on, at others.
func (f *File) each(ctx context.Context, do func(Row)) error {
	whole := f.in.Size() <= wholly
	for place := range places {
		rows, err := f.from(ctx, place)
		if err != nil || rows == nil {
			return err
		}
		for n := 0; whole || n < lookedRows/places; n++ {
			if n%1000 == 0 {
				if err := turn.Of(ctx).Wait(ctx); err != nil {
					return errors.Join(err, rows.Close())
				}
			}
			row, err := rows.Next()
			if errors.Is(err, io.EOF) {
				break
			}
			if err != nil {
				return errors.Join(err, rows.Close())
			}
			if place == 0 || n > 0 && row.Wrong == nil { // a place is likely to lie within a row
				do(row)
			}
		}
		if err := rows.Close(); err != nil || whole {
			return err
		}
	}
	return nil
}

// from reads rows from one of several places of a file on; nil if it can only be read from its
// beginning.
func (f *File) from(ctx context.Context, place int) (Rows, error) {
	if place == 0 {
		return f.Rows(ctx)
	}
	if f.Format != Separated {
		return nil, nil
	}
	at := f.in.Size() / places * int64(place) &^ 1 // letters of UTF-16 have two bytes
	later := *f
	later.in = io.NewSectionReader(f.in, at, f.in.Size()-at)
	later.Heading = NoHeading
	if err := later.openSeparatedAt(); err != nil {
		return nil, err
	}
	return later.Rows(ctx)
}

// settle guesses what the recipe does not say: columns that it does not know and, if it was made for a
// file that wrote values otherwise, how they are written. Spreadsheets, JSON and Parquet have no habits
// of writing numbers and dates.
func (l *Look) settle(g *guesser, cal calendar.Calendar, otherwise bool) {
	fresh := len(l.Recipe.Fields) == 0
	l.Fields = make([]FieldLook, len(l.Recipe.Fields))
	known := map[int]int{} // places in the recipe by column
	for i, f := range l.Recipe.Fields {
		if at := l.File.column(f.Heading); at >= 0 {
			known[at] = i
			l.Fields[i].There = true
		} else if !slices.Contains(l.Recipe.By, f.Key) {
			l.Recipe.Fields[i].Out = true // what the file does not say stays as it is
		}
	}
	for column, heading := range l.File.Headings {
		at, ok := known[column]
		guess := reading.Guessed(g.texts[column], cal)
		if !ok {
			at = len(l.Recipe.Fields)
			named, unit := heading, ""
			if guess.Type == catalog.Decimal || guess.Type == catalog.Whole {
				named, unit = currencyOf(heading)
			}
			f := l.Recipe.fieldFor(named)
			f.Heading, f.Type, f.Way = heading, guess.Type, guess.Way
			if unit != "" {
				f.Type, f.Currency = catalog.Money, unit
				if guess.Type == catalog.Whole {
					f.Way = "point"
				}
			}
			l.Recipe.Fields = append(l.Recipe.Fields, f)
			l.Fields = append(l.Fields, FieldLook{There: true, New: !fresh})
		}
		l.Fields[at].Apart = g.apart(column)
		f := &l.Recipe.Fields[at]
		switch {
		case f.Type == catalog.Text:
			l.Fields[at].Open = guess.Open
		case ok && otherwise && l.File.Format != Separated:
			f.Way = plainWay(f.Type)
		case ok && otherwise:
			l.Fields[at].Open = written(f, guess)
		}
	}
}

// plainWay is how a type is written where there are no habits.
func plainWay(t catalog.Type) string {
	for _, w := range reading.Ways(catalog.Text, t) {
		if w.Key == "point" || w.Key == "iso" {
			return w.Key
		}
	}
	return ""
}

// written takes over how values of a field look to be written; where they fit several ways, the first,
// and all are returned.
func written(f *RecipeField, guess reading.Guess) (open []reading.As) {
	if len(guess.Open) > 0 {
		for _, as := range guess.Open {
			if _, ok := reading.Find(catalog.Text, f.Type, as.Way); ok {
				open = append(open, reading.As{Type: f.Type, Way: as.Way})
			}
		}
	} else if _, ok := reading.Find(catalog.Text, f.Type, guess.Way); ok && guess.Way != "" {
		f.Way = guess.Way
	}
	if len(open) > 0 {
		f.Way = open[0].Way
	}
	return open
}

// currencyOf parts a heading from the ISO 4217 code that it ends in: "Price EUR", "Price (EUR)".
func currencyOf(heading string) (name, unit string) {
	words := strings.FieldsFunc(heading, func(r rune) bool { return strings.ContainsRune(" ()[],", r) })
	if len(words) < 2 {
		return heading, ""
	}
	last := words[len(words)-1]
	if unit, err := currency.ParseISO(last); err == nil && unit.String() == last {
		return strings.Join(words[:len(words)-1], " "), last
	}
	return heading, ""
}

// count counts what fits.
func (l *Look) count(ctx context.Context, cal calendar.Calendar) error {
	c, err := l.Recipe.Converter(l.File, cal)
	if err != nil {
		return err
	}
	places := map[int]int{} // of a converter's columns in the recipe
	for i, n := 0, 0; i < len(l.Recipe.Fields); i++ {
		if !l.Recipe.Fields[i].Out {
			places[n] = i
			n++
		}
	}
	keys := &keyCounter{seed: maphash.MakeSeed(), seen: map[uint64]bool{}}
	var values []Value
	err = l.File.each(ctx, func(row Row) {
		l.Rows++
		if row.Wrong == nil {
			for n, column := range c.columns {
				l.Fields[places[n]].look(c, column, row)
			}
		}
		var err error
		if values, err = c.Convert(row, values); err != nil {
			l.aside(row, err)
		} else if len(c.by) > 0 {
			keys.add(row, c)
		}
	})
	l.Repeats, l.Repeated = keys.n, keys.some
	return err
}

func (l *Look) aside(row Row, why error) {
	if l.Aside++; len(l.Rejects) < shownRows {
		l.Rejects = append(l.Rejects, Reject{row.Line, why.Error(), Content(row, l.File.Settings)})
	}
}

func (f *FieldLook) look(c *Converter, column convertedColumn, row Row) {
	v, err := c.value(column, row)
	if err != nil {
		if f.Misfits++; len(f.Examples) < shown {
			f.Examples = append(f.Examples, Misfit{row.Line, cut(row.Cells[column.place]), err.Error()})
		}
		return
	}
	if !v.Filled {
		return
	}
	f.Filled++
	if len(f.Samples) == shown {
		return
	}
	if text := cut(strings.TrimSpace(row.Cells[column.place])); !slices.Contains(f.Samples, text) {
		f.Samples = append(f.Samples, text)
	}
}

func cut(s string) string {
	if len(s) <= shownText {
		return strings.Clone(strings.ToValidUTF8(s, "�"))
	}
	return strings.ToValidUTF8(s[:shownText], "") + " …"
}
