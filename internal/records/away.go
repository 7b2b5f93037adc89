package records

import (
	"context"
	"errors"
	"fmt"
	"sync"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
)

// Away is a record set whose records stay in their database. A load knows its fields and links; in its
// snapshot it has no records. What is asked of it is asked by queries, whose outcome is read as a load would
// read it.
type Away struct {
	Set string
	// Rows is how many records the planner believes there are.
	Rows int64
	// Unasked says that nobody asked for it to stay: in memory it would have taken too much.
	Unasked  bool
	source   *source
	readings []columnReading
}

// Table is what the database calls it, as a query names it.
func (a *Away) Table() string { return a.source.identifier() }

// Dialect is what the server can do where it lies.
func (a *Away) Dialect() Dialect { return a.source.from.dialect }

// URL is its database.
func (a *Away) URL() string { return a.source.from.URL }

// Selectable are its columns as a query names them, but for those that may not be read.
func (a *Away) Selectable() []string {
	out := make([]string, len(a.source.columns))
	for i, c := range a.source.columns {
		out[i] = quote(c.Name)
	}
	return out
}

// Key are the columns of its primary key, none if it has none.
func (a *Away) Key() []string { return a.source.key }

// AwayColumn is a column as queries ask for it.
type AwayColumn struct {
	// Expr is what a load selects for it.
	Expr string
	// Type is the database's.
	Type string
	// Field is how its values are kept.
	Field catalog.Field
	// Whole says that no value of it is beyond what can be kept, so that the database may decide by it alone.
	Whole bool
	// Infinite says that it may hold infinite days or moments, which no load keeps.
	Infinite bool
}

// Column is one by its name, which is a field's key or what a link goes by.
func (a *Away) Column(name string) (AwayColumn, bool) {
	for _, rd := range a.readings {
		if rd.column.Name != name {
			continue
		}
		return AwayColumn{
			Expr: rd.expr, Type: rd.column.Type, Field: *rd.field, Whole: rd.whole(),
			Infinite: a.Dialect().Infinite && rd.field.Type.Temporal(),
		}, true
	}
	return AwayColumn{}, false
}

// whole says that every value of the column can be kept.
func (r columnReading) whole() bool {
	switch r.column.Type {
	case "int2", "int4", "bool", "text", "varchar", "bpchar", "uuid":
		return true
	case "numeric":
		const digits = 18 // that always fit in 64 bits
		scale, declared := declaredScale(r.column.Mod)
		return declared && scale <= maxScale && int(r.column.Mod-4)>>16&0xffff <= digits
	}
	return r.column.Kind == "e"
}

// AwayLink is a link of the record set, or to it.
type AwayLink struct {
	// Key is the link's, From the record set that has it, To the one it leads to.
	Key, From, To string
	// Columns are what it goes by, ToColumns what they are found among.
	Columns, ToColumns []string
	// Checked says that the database has seen to it that every record leads somewhere.
	Checked bool
}

// Reading is how a column of a query's outcome is read.
type Reading struct {
	build func() builder
	// exact says that a value which cannot be kept is a fault, and not a blank.
	exact bool
}

// Reads reads as the column of a name is read.
func (a *Away) Reads(name string) Reading {
	for _, rd := range a.readings {
		if rd.column.Name == name {
			return Reading{build: rd.build}
		}
	}
	panic("records: " + a.Set + " has no column " + name)
}

// ReadsWhole reads bigints, ReadsNumeric numerics with so many decimals, ReadsYesNo booleans; all of them
// must fit.
func ReadsWhole() Reading { return Reading{newInts, true} }

// ReadsNumeric reads numerics with so many decimals.
func ReadsNumeric(scale int) Reading {
	return Reading{func() builder { return newDecimals(scale) }, true}
}

// ReadsYesNo reads booleans.
func ReadsYesNo() Reading { return Reading{newBools, true} }

// ReadsDuration reads intervals.
func ReadsDuration() Reading { return Reading{newDurations, true} }

// BeyondError says that a number of a query's outcome is too large to be kept.
type BeyondError struct{ Column int }

func (e *BeyondError) Error() string {
	return fmt.Sprintf("records: a number in column %d is too large to be kept", e.Column)
}

// Fetching reads the outcomes of several queries, which may be carried out at once, as if they were one. The
// order of their lines is nobody's.
type Fetching struct {
	mu      sync.Mutex // protects following fields
	as      []Reading
	readers []builder
	lines   int
	most    int
}

// NewFetching readies it, with a column for each reading, for so many lines at most.
func NewFetching(as []Reading, most int) *Fetching {
	f := &Fetching{as: as, most: most}
	for _, one := range as {
		f.readers = append(f.readers, one.build())
	}
	return f
}

// Fetch carries out a query, as a binary copy if the server sends some.
func (f *Fetching) Fetch(ctx context.Context, tx pgx.Tx, query string, copies bool) error {
	r := &oneOfSeveral{of: f, copyReader: copyReader{builders: f.readers}}
	if !copies {
		return r.rowsOf(ctx, tx, query)
	}
	_, err := tx.Conn().PgConn().CopyTo(ctx, r, "COPY ("+query+") TO STDOUT (FORMAT binary)")
	return err
}

// Lines is how many there are so far.
func (f *Fetching) Lines() int {
	f.mu.Lock()
	defer f.mu.Unlock()
	return f.lines
}

// oneOfSeveral hands on what one query brings.
type oneOfSeveral struct {
	of *Fetching
	copyReader
}

// rowsOf takes the rows of a query as they come, in the same form as in a copy.
func (r *oneOfSeveral) rowsOf(ctx context.Context, tx pgx.Tx, query string) error {
	rows := tx.Conn().PgConn().ExecParams(ctx, query, nil, nil, nil, []int16{pgx.BinaryFormatCode})
	for rows.NextRow() {
		if err := r.take(rows.Values()); err != nil {
			_, _ = rows.Close() // what is left of it is of no use
			return err
		}
	}
	_, err := rows.Close()
	return err
}

func (r *oneOfSeveral) take(values [][]byte) error {
	r.of.mu.Lock()
	defer r.of.mu.Unlock()
	if r.of.lines++; r.of.lines > r.of.most {
		return ErrManyLines
	}
	return r.add(values)
}

// ErrManyLines says that queries bring more lines than they may.
var ErrManyLines = errors.New("records: more lines than may be")

func (r *oneOfSeveral) Write(p []byte) (int, error) {
	r.of.mu.Lock()
	defer r.of.mu.Unlock()
	before := r.rows
	n, err := r.copyReader.Write(p)
	if r.of.lines += r.rows - before; r.of.lines > r.of.most && err == nil {
		err = ErrManyLines
	}
	return n, err
}

// Columns are what was read, and how many lines there are.
func (f *Fetching) Columns() ([]table.Column, int, error) {
	f.mu.Lock()
	defer f.mu.Unlock()
	out := make([]table.Column, len(f.as))
	for i, b := range f.readers {
		if n, _ := b.refused(); n > 0 && f.as[i].exact {
			return nil, 0, &BeyondError{i}
		}
		out[i] = b.column()
	}
	return out, f.lines, nil
}

// Held is a column of a record set that a load has read, by the name of a field or of what a link goes by;
// nil if it was not kept.
func (l *Loaded) Held(set, column string) table.Column {
	for _, k := range l.tables {
		if k.source.set == set {
			return k.columns[column]
		}
	}
	return nil
}

// LinksOf are the links of a record set.
func (l *Loaded) LinksOf(set string) []AwayLink {
	var out []AwayLink
	for _, k := range l.tables {
		if k.source.set != set {
			continue
		}
		for _, link := range k.source.links {
			out = append(out, AwayLink{link.key, set, link.to.set, link.columns, link.toColumns, link.checked})
		}
	}
	return out
}

// awayTable reads nothing of a table but what it is.
func (l *loader) awayTable(i int, into *fetched) {
	s := l.sources[i]
	into.columns, into.lost = map[string]table.Column{}, map[string]lost{}
	into.whole, into.asOf = true, s.from.asOf
	for _, rd := range l.readings[i] {
		into.columns[rd.column.Name] = rd.build().column()
	}
}
