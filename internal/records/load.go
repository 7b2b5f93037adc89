package records

import (
	"context"
	"errors"
	"fmt"
	"runtime"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"golang.org/x/sync/errgroup"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/fault"
	"gavrik/internal/core/reading"
	"gavrik/internal/core/table"
)

// Loaded is what a load brings: what can be asked for, and the records.
type Loaded struct {
	Catalog  *catalog.Catalog
	Snapshot *table.Snapshot
	// Keys are the keys of the record sets of all tables.
	Keys map[TableName]string
}

// LoadFile reads the table of one file that was brought in, of the source where those lie; there is no
// record set if it is not there any more.
func LoadFile(ctx context.Context, from Source, table string, set Settings) (*Loaded, error) {
	from.Schemas = nil
	set.file = table
	return Load(ctx, []Source{from}, set)
}

// Load reads every table and view of the sources' schemas, each source as of one moment: all
// connections to it share one exported snapshot, so that a booking and its payments belong
// together.
func Load(ctx context.Context, from []Source, set Settings) (*Loaded, error) {
	l := &loader{progress: set.Progress}
	if l.progress == nil {
		l.progress = &Progress{}
	}
	var tables []*source
	var notices []string
	var moments []catalog.Source
	for _, one := range from {
		at, err := open(ctx, one)
		if err != nil {
			return nil, err
		}
		defer at.close(ctx)
		found, more, err := introspect(ctx, at, set.file)
		if err != nil {
			return nil, one.blamed(err)
		}
		tables, notices = append(tables, found...), append(notices, more...)
		if len(one.Schemas) > 0 || len(from) == 1 {
			moments = append(moments, catalog.Source{Name: one.Name, AsOf: at.asOf})
		}
	}
	keys := nameSets(tables, set.Keys)
	for _, s := range tables {
		scales, err := openScales(ctx, s)
		if why := s.own(ctx, err); why != "" {
			notices = append(notices, why)
			continue
		}
		if err != nil {
			return nil, err
		}
		var readings []columnReading
		for _, c := range s.columns {
			readings = append(readings, read(c, set, func(string) int { return scales[c.Name] }))
		}
		l.sources, l.readings = append(l.sources, s), append(l.readings, readings)
	}
	cat, more := describe(l.sources, l.readings)
	l.catalog = cat
	cat.Sources = moments
	l.progress.sets.Store(int64(len(l.sources)))
	for _, s := range l.sources {
		l.progress.expected.Add(s.rows)
	}
	if err := l.load(ctx); err != nil {
		return nil, err
	}
	cat.Notices = append(append(notices, more...), l.notices...)
	asOf := moments[0].AsOf
	for _, m := range moments {
		if m.AsOf.Before(asOf) {
			asOf = m.AsOf
		}
	}
	return &Loaded{cat, &table.Snapshot{AsOf: asOf, Tables: l.tables}, keys}, nil
}

// own says why a view could not be read, if the error is its own: it fails, or takes too long, and
// the other records can be read all the same.
func (s *source) own(ctx context.Context, err error) string {
	var said *pgconn.PgError
	if !s.computed || ctx.Err() != nil || !errors.As(err, &said) {
		return ""
	}
	return fmt.Sprintf("%s could not be read and is not offered: %s. Run SELECT * FROM %s to see it fail, and mend it.",
		s, said.Message, s.identifier())
}

// maxScale is the most decimals kept exactly: nine leave nine digits before the
// point.
const maxScale = 9

type loader struct {
	progress *Progress
	sources  []*source
	readings [][]columnReading
	catalog  *catalog.Catalog
	tables   map[string]*table.Table
	notices  []string
}

// fetched is what one table gave.
type fetched struct {
	columns map[string]table.Column // by column name; nil if it could not be read
	rows    int
	notices []string
}

func (l *loader) load(ctx context.Context) error {
	got := make([]fetched, len(l.sources))
	// The largest first, so that no core waits long for the last.
	order := make([]int, len(l.sources))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return int(l.sources[b].rows - l.sources[a].rows) })
	group, working := errgroup.WithContext(ctx)
	next := make(chan int, len(order))
	for _, i := range order {
		next <- i
	}
	close(next)
	for range min(runtime.GOMAXPROCS(0), len(order)) {
		group.Go(func() error {
			return fault.Caught(func() error {
				conns := map[*snapshot]*pgx.Conn{}
				defer func() {
					for _, conn := range conns {
						_ = conn.Close(context.WithoutCancel(working))
					}
				}()
				for i := range next {
					s := l.sources[i]
					if conns[s.from] == nil {
						conn, err := s.from.another(working)
						if err != nil {
							return err
						}
						conns[s.from] = conn
					}
					if err := l.fetch(working, conns[s.from], i, &got[i]); err != nil {
						return fmt.Errorf("records: loading %s: %w", s, err)
					}
					l.progress.setsDone.Add(1)
				}
				return nil
			})
		})
	}
	if err := group.Wait(); err != nil {
		return err
	}
	for _, g := range got {
		l.notices = append(l.notices, g.notices...)
	}
	l.leaveOut(got)
	return l.assemble(ctx, got)
}

// fetch copies one table's columns. A view that fails is told about, and is no error.
func (l *loader) fetch(ctx context.Context, conn *pgx.Conn, i int, into *fetched) error {
	s := l.sources[i]
	if !s.computed {
		return l.copyTable(ctx, conn, i, into)
	}
	if _, err := conn.Exec(ctx, "SAVEPOINT view"); err != nil {
		return err
	}
	err := s.hurry(ctx, conn)
	if err == nil {
		err = l.copyTable(ctx, conn, i, into)
	}
	if why := s.own(ctx, err); why != "" {
		*into = fetched{notices: []string{why}}
		_, err = conn.Exec(ctx, "ROLLBACK TO SAVEPOINT view")
		return err
	}
	if err == nil {
		_, err = conn.Exec(ctx, "RELEASE SAVEPOINT view; SET LOCAL statement_timeout TO DEFAULT")
	}
	return err
}

// copyTable fetches one table's columns.
func (l *loader) copyTable(ctx context.Context, conn *pgx.Conn, i int, into *fetched) error {
	s, readings := l.sources[i], l.readings[i]
	r := &copyReader{progress: l.progress}
	exprs := make([]string, len(readings))
	for j, rd := range readings {
		exprs[j] = rd.expr
		r.builders = append(r.builders, rd.builder(max(0, int(s.rows))+int(s.rows)/64, s.unique[rd.column.Name]))
	}
	query := fmt.Sprintf(
		"COPY (SELECT %s FROM %s) TO STDOUT (FORMAT binary)", strings.Join(exprs, ", "), s.identifier(),
	)
	if _, err := conn.PgConn().CopyTo(ctx, r, query); err != nil {
		return err
	}
	// Sorting the texts of a column takes as long as fetching them.
	columns := make([]table.Column, len(readings))
	var group errgroup.Group
	group.SetLimit(runtime.GOMAXPROCS(0))
	for j, b := range r.builders {
		group.Go(func() error {
			return fault.Caught(func() error { columns[j] = b.column(); return nil })
		})
	}
	if err := group.Wait(); err != nil {
		return err
	}
	into.columns, into.rows = map[string]table.Column{}, r.rows
	for j, rd := range readings {
		into.columns[rd.column.Name] = columns[j]
		if n, why := r.builders[j].refused(); n > 0 {
			into.notices = append(
				into.notices, fmt.Sprintf("%d values of %s.%s %s; they are shown as blank.", n, s.set, rd.column.Name, why),
			)
			l.noteLost(i, rd, n, why)
		}
	}
	return nil
}

// noteLost keeps with a field how many of its values could not be kept. Each source has
// fields of its own, so that several can be loaded at once.
func (l *loader) noteLost(source int, rd columnReading, n int, why string) {
	set := l.catalog.Sets[source]
	if f := set.Field(rd.column.Name); f != nil {
		values := "values"
		if n == 1 {
			values = "value"
		}
		f.Lost = fmt.Sprintf("%d %s of %s of all %s %s, and count as blank", n, values, f.Label, set.Many, why)
	}
}

// leaveOut takes the views out that could not be read. No key of the database leads to them.
func (l *loader) leaveOut(got []fetched) {
	var sets []*catalog.RecordSet
	for i, set := range l.catalog.Sets {
		if got[i].columns != nil {
			sets = append(sets, set)
		}
	}
	l.catalog.Sets = sets
}

// assemble makes tables of the fetched columns and turns foreign keys into links.
func (l *loader) assemble(ctx context.Context, got []fetched) error {
	l.tables = map[string]*table.Table{}
	number := map[*source]int{}
	for i, s := range l.sources {
		number[s] = i
		set := l.catalog.Set(s.set)
		if set == nil {
			continue
		}
		t := table.New(s.set, got[i].rows)
		for j := range set.Fields {
			f := &set.Fields[j]
			t.Add(f.Key, got[i].columns[f.Key])
			if c, ok := got[i].columns[f.Key].(*table.Numbers); ok && f.Type == catalog.Duration {
				f.Scale = reading.DurationScale(c.Values)
			}
		}
		l.tables[s.set] = t
	}
	for i, s := range l.sources {
		for _, link := range s.links {
			to := number[link.to]
			var from, into []table.Column
			for j, column := range link.columns {
				from = append(from, table.Rescaled(got[i].columns[column], l.scale(i, column), l.scale(to, link.toColumns[j])))
				into = append(into, got[to].columns[link.toColumns[j]])
			}
			rows, shared, err := table.Match(ctx, from, into)
			switch {
			case err != nil:
				return err
			case shared >= 0: // a constraint that was never checked
				rows = make([]int32, got[i].rows)
				for i := range rows {
					rows[i] = -1
				}
				l.notices = append(l.notices, fmt.Sprintf(
					"The link %s of %s leads nowhere: several records of %s share what it goes by.", link.key, s, link.to))
			}
			l.tables[s.set].AddLink(link.key, &table.Links{To: link.to.set, Rows: rows})
		}
	}
	return nil
}

// scale is how many decimals a column is kept with.
func (l *loader) scale(source int, column string) int {
	for _, r := range l.readings[source] {
		if r.column.Name == column {
			return r.field.Scale
		}
	}
	return 0
}
