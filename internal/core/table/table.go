// Package table holds the records of one moment as immutable columns.
//
// A Snapshot is built once, by the loader, and then read by any number of
// goroutines without locks. Each record set is one Table; each field of it is
// one Column of a single physical kind. A blank has no bitmap of its own: every
// kind reserves one value for it (see Blank), so that gathering a column
// through a link is a plain copy.
package table

import (
	"fmt"
	"maps"
	"slices"
	"time"
)

// Table is one record set: columns of equal length, found by field key.
type Table struct {
	Name string
	Rows int
	// AsOf is the moment of its records, if it is not that of the snapshot.
	AsOf time.Time
	// Weights are how many records each row stands for, which are all alike; nil if each is one. Of such rows
	// totals, counts and values are those of the records; they have no order, and none can be shown.
	Weights []int64
	columns map[string]Column
	links   map[string]*Links
}

// New returns an empty table of a fixed number of rows.
func New(name string, rows int) *Table {
	return &Table{Name: name, Rows: rows, columns: map[string]Column{}, links: map[string]*Links{}}
}

// Add puts a column under a field key. A length other than the table's rows is
// a mistake of the loader and panics.
func (t *Table) Add(key string, c Column) {
	if c.Len() != t.Rows {
		panic(fmt.Sprintf("table: column %s.%s has %d rows, its table %d", t.Name, key, c.Len(), t.Rows))
	}
	t.columns[key] = c
}

// AddLink puts a link under its key.
func (t *Table) AddLink(key string, l *Links) {
	if len(l.Rows) != t.Rows {
		panic(fmt.Sprintf("table: link %s.%s has %d rows, its table %d", t.Name, key, len(l.Rows), t.Rows))
	}
	t.links[key] = l
}

// With is the table with another column under a field key; all else is shared.
func (t *Table) With(key string, c Column) *Table {
	out := t.copied()
	out.Add(key, c)
	return out
}

// WithLink is the table with a link of a key; all else is shared.
func (t *Table) WithLink(key string, l *Links) *Table {
	out := t.copied()
	out.AddLink(key, l)
	return out
}

func (t *Table) copied() *Table {
	return &Table{t.Name, t.Rows, t.AsOf, t.Weights, maps.Clone(t.columns), maps.Clone(t.links)}
}

// Fields are the keys of its columns, in order.
func (t *Table) Fields() []string { return slices.Sorted(maps.Keys(t.columns)) }

// Ways are the keys of its links, in order.
func (t *Table) Ways() []string { return slices.Sorted(maps.Keys(t.links)) }

// Column returns the column of a field key, or nil.
func (t *Table) Column(key string) Column { return t.columns[key] }

// Link returns the link of a key, or nil.
func (t *Table) Link(key string) *Links { return t.links[key] }

// Bytes estimates the memory the table's columns hold.
func (t *Table) Bytes() int64 {
	var n int64
	for _, c := range t.columns {
		n += c.Bytes()
	}
	for _, l := range t.links {
		n += int64(len(l.Rows)) * 4
	}
	return n
}

// Snapshot is every record set as it stood at one moment.
type Snapshot struct {
	AsOf   time.Time
	Tables map[string]*Table
}
