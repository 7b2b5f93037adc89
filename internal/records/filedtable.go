package records

import (
	"context"
	"errors"
	"fmt"
	"hash/crc32"
	"io"
	"os"
	"path/filepath"
	"slices"
	"time"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
)

// filed lists what is kept.
type filed struct {
	Version int
	// For tells for which databases and settings the records were read.
	For     string
	AsOf    time.Time
	Tables  []filedTable
	Sources []filedSource
}

// filedSource is where the statistics of a source stood before the moment of the records.
type filedSource struct {
	Name     string
	AsOf     time.Time
	Shape    string
	Counters []filedCounter
}

type filedCounter struct {
	Table TableName
	Count string
}

// filedTable is a table with the file of its columns.
type filedTable struct {
	Table      TableName
	Set        string
	Source     int
	Comment    string
	Kind       string
	Definition string
	Reads      []TableName `json:",omitempty"`
	Columns    []filedColumn
	PrimaryKey []string
	Unique     []string
	Links      []filedLink
	Scales     map[string]int

	File    string
	Size    int64
	Sum     uint32 // CRC-32C
	Rows    int
	Key     []string
	Notices []string
	Lost    map[string]filedLost
	AsOf    time.Time
	Took    time.Duration
	Waits   bool
}

type filedColumn struct {
	sourceColumn
	Cast string
}

type filedLink struct {
	Columns, ToColumns []string
	To                 TableName
	Checked            bool
}

type filedLost struct {
	N   int
	Why string
}

// read reads a table from its file.
func (t filedTable) read(dir string) (*kept, error) {
	file, err := os.Open(filepath.Join(dir, filepath.Base(t.File)))
	if err != nil {
		return nil, err
	}
	defer file.Close()
	sum := crc32.New(castagnoli)
	n, err := io.CopyBuffer(struct{ io.Writer }{sum}, file, make([]byte, 1<<20))
	if err != nil || n != t.Size || sum.Sum32() != t.Sum {
		return nil, errors.Join(
			err, fmt.Errorf("the file of %s.%s is not what was written", t.Table.Schema, t.Table.Table),
		)
	}
	s := &source{
		full: t.Table, name: t.Table.Table, set: t.Set, comment: t.Comment, kind: t.Kind,
		definition: t.Definition, reads: t.Reads,
		computed: computed(t.Kind), key: t.PrimaryKey, unique: map[string]bool{},
		scales: t.Scales, index: t.Source, rows: int64(t.Rows),
	}
	for _, name := range t.Unique {
		s.unique[name] = true
	}
	for _, c := range t.Columns {
		c.cast = c.Cast
		s.columns = append(s.columns, c.sourceColumn)
	}
	k := &kept{source: s, waits: t.Waits, fetched: fetched{
		rows: t.Rows, notices: t.Notices, key: t.Key, took: t.Took, asOf: t.AsOf, lost: map[string]lost{},
	}}
	for name, one := range t.Lost {
		k.lost[name] = lost{one.N, one.Why}
	}
	if k.columns, k.links, err = readArrow(file, t.Rows); err != nil {
		return nil, err
	}
	return k, nil
}

// fromKept makes a load of tables that were kept.
func fromKept(ctx context.Context, list *filed, all []*kept, set Settings) (*Loaded, error) {
	byName := map[TableName]*kept{}
	l := &loader{progress: &Progress{}, before: byName}
	keys := map[TableName]string{}
	for _, k := range all {
		byName[k.source.full], keys[k.source.full] = k, k.source.set
	}
	got := make([]fetched, len(all))
	for i, k := range all {
		s := k.source
		for _, link := range list.Tables[i].Links {
			to := byName[link.To]
			if to == nil {
				return nil, errFile
			}
			s.links = append(s.links, sourceLink{
				columns: link.Columns, toColumns: link.ToColumns, to: to.source, checked: link.Checked,
			})
		}
		l.sources, l.readings = append(l.sources, s), append(l.readings, s.readings(set))
		s.from = &snapshot{asOf: list.AsOf} // a view may be of before
		k.into(&got[i])
	}
	cat, more := describe(l.sources, l.readings)
	l.catalog = cat
	for i, k := range all {
		set := cat.Sets[i]
		for _, f := range set.Fields {
			if k.columns[f.Key] == nil {
				return nil, errFile
			}
		}
		for _, link := range k.source.links {
			rows := k.links[link.name()]
			if rows == nil || !leads(rows, byName[link.to.full].rows) {
				return nil, errFile
			}
			rows.To = link.to.set
		}
		l.notices = append(l.notices, k.notices...)
		l.noteLost(i, k.lost)
	}
	if err := l.assemble(ctx, got); err != nil {
		return nil, err
	}
	for _, one := range list.Sources {
		if !one.AsOf.IsZero() {
			cat.Sources = append(cat.Sources, catalog.Source{Name: one.Name, AsOf: one.AsOf})
		}
	}
	cat.Notices = append(more, l.notices...)
	return &Loaded{cat, &table.Snapshot{AsOf: list.AsOf, Tables: l.tables}, keys, nil, l.kept}, nil
}

// leads says that links lead to rows that are there.
func leads(l *table.Links, rows int) bool {
	return !slices.ContainsFunc(l.Rows, func(row int32) bool { return int(row) >= rows })
}
