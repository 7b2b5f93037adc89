package records

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"runtime"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"golang.org/x/sync/errgroup"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/fault"
	"gavrik/internal/core/table"
)

// Loaded is what a load brings: what can be asked for, and the records.
type Loaded struct {
	Catalog  *catalog.Catalog
	Snapshot *table.Snapshot
	// Keys are the keys of the record sets of all tables.
	Keys map[TableName]string
	// Away are the record sets whose records stay in their databases, by their keys.
	Away map[string]*Away
	// tables are what the next load can go on from.
	tables map[TableName]*kept
}

// Load reads every table and view of the sources' schemas, each source as of one moment: all
// connections to it share one exported snapshot, so that a booking and its payments belong
// together.
func Load(ctx context.Context, from []Source, set Settings) (*Loaded, error) {
	return Again(ctx, from, set, nil, nil)
}

// Watching says what has changed in the tables of the i-th source since a load, as of a moment of it.
type Watching func(ctx context.Context, i int, at *Moment) (Changes, error)

// Again loads what has changed since a load, as of a later moment, and shares all else with it. The outcome
// is what Load would make of the sources at that moment. Without a load before, all is read.
func Again(
	ctx context.Context, from []Source, set Settings, before *Loaded, changed Watching,
) (*Loaded, error) {
	anew := map[TableName]bool{}
	if before != nil && !before.stayed(set.Away) {
		before = nil // links lead otherwise now
	}
	for {
		l, err := again(ctx, from, set, before, changed, anew)
		var one wholly
		if !errors.As(err, &one) || anew[one.table] {
			return l, err
		}
		anew[one.table] = true
	}
}

func again(
	ctx context.Context, from []Source, set Settings, before *Loaded, changed Watching, anew map[TableName]bool,
) (*Loaded, error) {
	l := &loader{
		most: set.Most, eager: set.EagerViews, progress: set.Progress, before: map[TableName]*kept{}, anew: anew,
		aways: map[string]*Away{},
	}
	if l.progress == nil {
		l.progress = &Progress{}
	}
	if before != nil {
		l.before = before.tables
	}
	var tables []*source
	var notices []string
	var moments []catalog.Source
	changes := Changes{Watched: map[TableName]bool{}, Tables: map[TableName]TableChanges{}}
	for i, one := range from {
		at, err := open(ctx, one)
		if err != nil {
			return nil, err
		}
		defer at.close(ctx)
		at.index = i
		if before != nil && at.dialect.Catalogs {
			if _, err := at.tx.Exec(ctx, "SET LOCAL lock_timeout = '"+lockTime+"'"); err != nil {
				return nil, one.blamed(fmt.Errorf("records: %w", err))
			}
			at.hurried = true
			of, err := changed(ctx, i, at.at)
			if err != nil {
				return nil, one.blamed(err)
			}
			if changes.add(of); of.Anew {
				l.before = maps.Clone(l.before)
				maps.DeleteFunc(l.before, func(name TableName, k *kept) bool { return k.source.index == i })
			}
		}
		found, more, err := introspect(ctx, at)
		if err != nil {
			return nil, one.blamed(err)
		}
		tables, notices = append(tables, found...), append(notices, more...)
		if len(one.Schemas) > 0 || len(from) == 1 {
			moments = append(moments, catalog.Source{Name: one.Name, AsOf: at.asOf})
		}
	}
	keys := nameSets(tables, set.Keys)
	more, err := l.stay(ctx, tables, set, before)
	if err != nil {
		return nil, err
	}
	notices = append(notices, more...)
	l.decide(tables, changes)
	for _, s := range tables {
		scales, err := l.scales(ctx, s)
		if why := s.own(ctx, err); why != "" {
			notices = append(notices, why)
			continue
		}
		if err != nil {
			return nil, err
		}
		s.scales = scales
		l.sources, l.readings = append(l.sources, s), append(l.readings, s.readings(set))
	}
	cat, more := describe(l.sources, l.readings)
	l.catalog = cat
	cat.Sources = moments
	l.progress.sets.Store(int64(len(l.sources)))
	for _, s := range l.sources {
		if !s.away {
			l.progress.expected.Add(s.rows)
		}
	}
	if err := l.load(ctx); err != nil {
		return nil, err
	}
	for i, s := range l.sources {
		if s.away {
			l.aways[s.set] = &Away{
				Set: s.set, Rows: s.size.rows, Unasked: s.unasked, source: s, readings: l.readings[i],
			}
		}
	}
	cat.Notices = append(append(notices, more...), l.notices...)
	asOf := moments[0].AsOf
	for _, m := range moments {
		if m.AsOf.Before(asOf) {
			asOf = m.AsOf
		}
	}
	return &Loaded{cat, &table.Snapshot{AsOf: asOf, Tables: l.tables}, keys, l.aways, l.kept}, nil
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

// lockTime is how long reading again waits for what others have locked; the records of before are there.
const lockTime = "5s"

// maxScale is the most decimals kept exactly: nine leave nine digits before the
// point.
const maxScale = 9

type loader struct {
	most     int64 // bytes that may be read; 0 for no bound
	eager    bool  // views are read again at once
	progress *Progress
	sources  []*source
	readings [][]columnReading
	catalog  *catalog.Catalog
	tables   map[string]*table.Table
	notices  []string
	// aways are the record sets that stay in their databases.
	aways map[string]*Away
	// before is what the load before has kept, kept what the next one can go on from.
	before, kept map[TableName]*kept
	// anew are tables of which all is read, whatever is known of them; steps say what is done with others.
	anew  map[TableName]bool
	steps map[*source]step
}

// fetched is what one table gave.
type fetched struct {
	columns map[string]table.Column // by column name; nil if it could not be read
	rows    int
	notices []string
	// lost says of columns how many of their values could not be kept, and why.
	lost map[string]lost
	// key are the columns that tell the rows apart, in whose order they stand; nil if none do.
	key  []string
	took time.Duration
	asOf time.Time
	// readAt is when all of it was read, by the clock of this machine.
	readAt time.Time
	// patch, if set, is what became of the rows of before; fresh are the columns of its fresh rows.
	patch *table.Patch
	fresh map[string]table.Column
	// whole says that all rows were read.
	whole bool
}

type lost struct {
	n   int
	why string
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
						hangUp(working, conn)
					}
				}()
				for i := range next {
					s := l.sources[i]
					if s.away {
						l.awayTable(i, &got[i])
						l.progress.setsDone.Add(1)
						continue
					}
					if l.takeOver(s, &got[i]) {
						l.progress.setsDone.Add(1)
						continue
					}
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
	for i, g := range got {
		l.notices = append(l.notices, g.notices...)
		l.noteLost(i, g.lost)
	}
	l.leaveOut(got)
	return l.assemble(ctx, got)
}

// takeOver takes a table over that is the same as before, if it is.
func (l *loader) takeOver(s *source, into *fetched) bool {
	step := l.steps[s]
	if !step.same {
		return false
	}
	if l.before[s.full].into(into); step.current {
		into.asOf = s.from.asOf
	}
	return true
}

// fetch copies one table's columns, or what has changed of them. A view that fails is told about, and is no
// error.
func (l *loader) fetch(ctx context.Context, conn *pgx.Conn, i int, into *fetched) error {
	s := l.sources[i]
	if len(l.steps[s].keys) > 0 {
		return l.fetchChanged(ctx, conn, i, into)
	}
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
	began := time.Now()
	r := &copyReader{progress: l.progress, most: l.most}
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
	into.columns, into.rows, into.lost, into.whole = map[string]table.Column{}, r.rows, map[string]lost{}, true
	into.asOf = s.from.asOf
	for j, rd := range readings {
		into.columns[rd.column.Name] = columns[j]
		if n, why := r.builders[j].refused(); n > 0 {
			into.notices = append(
				into.notices, fmt.Sprintf("%d values of %s.%s %s; they are shown as blank.", n, s.set, rd.column.Name, why),
			)
			into.lost[rd.column.Name] = lost{n, why}
		}
	}
	if err := into.stand(ctx, s.key); err != nil {
		return err
	}
	into.took, into.readAt = time.Since(began), time.Now()
	return nil
}

// stand puts rows into the order of their key, so that they stand in the same one however they came.
func (f *fetched) stand(ctx context.Context, by []string) error {
	var columns []table.Column
	for _, name := range by {
		columns = append(columns, f.columns[name])
	}
	key, ok := table.NewKey(columns)
	if !ok {
		return nil
	}
	order, ok := key.Order()
	if !ok {
		return nil
	}
	f.key = by
	if order == nil {
		return nil
	}
	for name, c := range f.columns {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		f.columns[name] = table.Reordered(c, order)
	}
	return nil
}

// noteLost keeps with the fields of a table how many of their values could not be kept.
func (l *loader) noteLost(source int, all map[string]lost) {
	set := l.catalog.Sets[source]
	for name, lost := range all {
		f := set.Field(name)
		if f == nil {
			continue
		}
		values := "values"
		if lost.n == 1 {
			values = "value"
		}
		f.Lost = fmt.Sprintf(
			"%d %s of %s of all %s %s, and count as blank", lost.n, values, f.Label, set.Many, lost.why,
		)
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
