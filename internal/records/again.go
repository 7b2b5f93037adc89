package records

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"runtime"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
	"golang.org/x/sync/errgroup"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/fault"
	"gavrik/internal/core/table"
)

// Changes say what has changed in the tables of a source since a load.
type Changes struct {
	// Watched are the tables of which it is known: those of them that are not among Tables have not changed.
	// What becomes of the others is found when all is read.
	Watched map[TableName]bool
	Tables  map[TableName]TableChanges
	// Anew says that it is not known what has changed in the source.
	Anew bool
}

func (c *Changes) add(more Changes) {
	maps.Copy(c.Watched, more.Watched)
	maps.Copy(c.Tables, more.Tables)
}

// TableChanges say what has changed in one table.
type TableChanges struct {
	// Keys are the records that were added, changed or removed: the values of the columns KeyColumns, as
	// the database writes them.
	KeyColumns []string
	Keys       [][]string
	// Whole says that nothing finer is known.
	Whole bool
}

// wholly says that what changed of a table cannot be laid over a load: all of it must be read.
type wholly struct{ table TableName }

func (w wholly) Error() string { return "records: all of " + w.table.Table + " must be read again" }

// kept is what a load keeps of one table for the next one to go on from.
type kept struct {
	source *source
	fetched
	links map[string]*table.Links // by sourceLink.name
	// waits says that it is a view whose tables have changed since it was read.
	waits bool
}

func newKept(s *source, f *fetched) *kept {
	k := &kept{source: s, fetched: *f, links: map[string]*table.Links{}, waits: s.waits}
	k.patch, k.fresh, k.whole = nil, nil, false
	return k
}

// into gives what was read before as if it had been fetched.
func (k *kept) into(f *fetched) { *f = k.fetched }

// forget gives up columns that nobody will ask for: no fields, nor what links lead to or rows are known by.
func (k *kept) forget(set *catalog.RecordSet, leadTo map[string]bool) {
	columns := map[string]table.Column{}
	for name, c := range k.columns {
		if set.Field(name) != nil || leadTo[name] || slices.Contains(k.key, name) || k.source.leadsAway(name) {
			columns[name] = c
		}
	}
	k.columns = columns
}

// leadsAway says that a column is what a link goes by to a record set that stays in its database: where it
// leads is found with every question.
func (s *source) leadsAway(name string) bool {
	return slices.ContainsFunc(
		s.links, func(l sourceLink) bool { return l.to.away && slices.Contains(l.columns, name) },
	)
}

// step is what a load does with a table: nothing if it is the same, the records of some keys, or all of it.
type step struct {
	same bool
	// current says that it is known to be the same, and not only not known to be another.
	current bool
	columns []string
	keys    [][]string
}

// mostKeys is how many records of one table are asked for by their keys; beyond it, or beyond a part of
// the table, all are read.
const mostKeys = 20_000

// decide says what is done with each table.
func (l *loader) decide(tables []*source, changes Changes) {
	l.steps = map[*source]step{}
	var views []*source
	for _, s := range tables {
		was := l.before[s.full]
		if was == nil || !was.source.sameShape(s) || l.anew[s.full] || s.away || was.source.away {
			continue
		}
		if s.kind == "v" {
			views = append(views, s)
			continue
		}
		c, changed := changes.Tables[s.full]
		known := changes.Watched[s.full]
		byKeys := !c.Whole && was.key != nil && slices.Equal(c.KeyColumns, was.key) &&
			len(c.Keys) <= min(mostKeys, was.rows/4+100)
		switch {
		case !changed:
			l.steps[s] = step{same: true, current: known}
		case byKeys:
			l.steps[s] = step{columns: c.KeyColumns, keys: c.Keys}
		}
	}
	for l.drop(tables) {
	}
	written := map[TableName]bool{}
	for _, s := range tables {
		written[s.full] = !l.steps[s].same
	}
	for _, s := range views {
		was := l.before[s.full]
		changed, known := was.waits, true
		for _, name := range s.reads {
			_, one := changes.Tables[name]
			changed = changed || one || written[name]
			known = known && changes.Watched[name]
		}
		switch {
		case changed && !l.eager && was.settles():
			s.waits = true
			l.steps[s] = step{same: true}
		case !changed:
			l.steps[s] = step{same: true, current: known}
		}
	}
	for s := range l.steps { // what stays takes its place, too
		for _, c := range l.before[s.full].columns {
			l.progress.bytes.Add(c.Bytes())
		}
	}
}

// drop has tables read whole whose links must be found anew, or that links lead to by what was not kept; it
// says whether there was one.
func (l *loader) drop(tables []*source) (dropped bool) {
	for _, s := range tables {
		_, going := l.steps[s]
		for _, link := range s.links {
			there, on := l.steps[link.to]
			was := l.before[link.to.full]
			if on && slices.ContainsFunc(link.toColumns, func(name string) bool { return was.columns[name] == nil }) {
				delete(l.steps, link.to)
				dropped, on = true, false
			}
			// What led nowhere may lead somewhere now, unless the database has seen to it that nothing did.
			another := !on && (was == nil || !was.source.sameShape(link.to))
			if going && (another || !link.checked && !there.same) {
				delete(l.steps, s)
				dropped, going = true, false
			}
		}
	}
	return dropped
}

// ordered are the tables in an order that is the same every time: that of their sources.
func (l *Loaded) ordered() []*kept {
	out := make([]*kept, 0, len(l.tables))
	for _, set := range l.Catalog.Sets {
		for _, k := range l.tables {
			if k.source.set == set.Key {
				out = append(out, k)
			}
		}
	}
	return out
}

// overdue says that a view may be read again whose tables have changed since it was.
func (l *Loaded) overdue() bool {
	for _, k := range l.tables {
		if k.waits && !k.settles() {
			return true
		}
	}
	return false
}

// settles says that a view was read too recently to be read again: reading it may take a tenth of the time.
func (k *kept) settles() bool {
	const quick = 50 * time.Millisecond
	return k.took > quick && time.Since(k.readAt) < 10*k.took
}

// sameShape says that two descriptions of a table differ in nothing that its columns and links are read by.
func (s *source) sameShape(o *source) bool {
	sameColumn := func(a, b sourceColumn) bool {
		return a.Name == b.Name && a.Type == b.Type && a.Mod == b.Mod && a.Kind == b.Kind && a.cast == b.cast
	}
	sameLink := func(a, b sourceLink) bool {
		return slices.Equal(a.columns, b.columns) && slices.Equal(
			a.toColumns, b.toColumns,
		) && a.to.full == b.to.full
	}
	return s.kind == o.kind && s.definition == o.definition && slices.Equal(s.key, o.key) &&
		slices.EqualFunc(s.columns, o.columns, sameColumn) && slices.EqualFunc(s.links, o.links, sameLink)
}

// scales are those of a table's decimals; what has not been read again keeps its own.
func (l *loader) scales(ctx context.Context, s *source) (map[string]int, error) {
	if _, going := l.steps[s]; going {
		return l.before[s.full].source.scales, nil
	}
	return openScales(ctx, s)
}

// fetchChanged reads the records of a table that have changed, and lays them over those of before.
func (l *loader) fetchChanged(ctx context.Context, conn *pgx.Conn, i int, into *fetched) error {
	s, was, asked := l.sources[i], l.before[l.sources[i].full], l.steps[l.sources[i]]
	if len(was.lost) > 0 { // which rows lost theirs is not known
		return wholly{s.full}
	}
	r := &copyReader{progress: l.progress}
	query := l.changedSQL(i, asked, func(b builder) {
		b.reserve(len(asked.keys))
		r.builders = append(r.builders, b)
	})
	if _, err := conn.PgConn().CopyTo(ctx, r, query); err != nil {
		return err
	}
	columns := make([]table.Column, len(r.builders))
	for j, b := range r.builders {
		if n, _ := b.refused(); n > 0 {
			return wholly{s.full}
		}
		columns[j] = b.column()
	}
	n := len(asked.columns)
	patch, order := patchOf(was, columns[:n], columns[n].(*table.Numbers).Values)
	if patch == nil {
		return wholly{s.full}
	}
	was.into(into)
	if into.asOf = s.from.asOf; patch.Empty() {
		return nil
	}
	into.patch, into.rows, into.fresh = patch, patch.After(), map[string]table.Column{}
	for j, rd := range l.readings[i] {
		into.fresh[rd.column.Name] = table.Reordered(columns[n+1+j], order)
	}
	into.columns = map[string]table.Column{}
	var mu sync.Mutex // protects into.columns
	var group errgroup.Group
	group.SetLimit(runtime.GOMAXPROCS(0))
	for name, c := range was.columns {
		group.Go(func() error {
			return fault.Caught(func() error {
				after := patch.Patched(c, into.fresh[name])
				mu.Lock()
				defer mu.Unlock()
				into.columns[name] = after
				return ctx.Err()
			})
		})
	}
	if err := group.Wait(); err != nil {
		return err
	}
	return s.keepsScales(ctx, conn, into)
}

// keepsScales finds whether columns that do not declare how many decimals they have still have as many: else
// all is read again. Where values need them all, the database is not asked.
func (s *source) keepsScales(ctx context.Context, conn *pgx.Conn, f *fetched) error {
	for name, scale := range s.scales {
		if scale == 0 || s.declares(name) || !shorter(f.columns[name]) {
			continue
		}
		var now int
		query := fmt.Sprintf("SELECT coalesce(max(scale(%s)), 0) FROM %s", quote(name), s.identifier())
		if err := conn.QueryRow(ctx, query).Scan(&now); err != nil {
			return err
		}
		if min(now, maxScale) != scale {
			return wholly{s.full}
		}
	}
	return nil
}

// shorter says that no number of a column needs its last decimal.
func shorter(c table.Column) bool {
	numbers, ok := c.(*table.Numbers)
	return ok && !slices.ContainsFunc(
		numbers.Values, func(v int64) bool { return v != table.Blank && v%10 != 0 },
	)
}

// changedSQL asks for the records of some keys: for each its key, whether it is there, and its values.
func (l *loader) changedSQL(i int, asked step, add func(builder)) string {
	s := l.sources[i]
	var names, arrays, keyExprs, same, exprs []string
	for k, name := range asked.columns {
		values := make([]string, len(asked.keys))
		for j, key := range asked.keys {
			values[j] = Literal(key[k])
		}
		names = append(names, quote(name))
		arrays = append(arrays, "ARRAY["+strings.Join(values, ",")+"]::text[]::"+s.column(name).cast+"[]")
		same = append(same, "t."+quote(name)+" = k."+quote(name))
		for _, rd := range l.readings[i] {
			if rd.column.Name == name {
				keyExprs = append(keyExprs, rd.expr)
				add(rd.build())
			}
		}
	}
	add(newBools())
	for j, rd := range l.readings[i] {
		exprs = append(exprs, fmt.Sprintf("%s AS e%d", rd.expr, j))
		b := rd.build()
		if n, ok := b.(*numbers); ok && rd.column.Type == "numeric" && rd.field.Scale < maxScale {
			n.asWritten(rd.field.Scale)
		}
		add(b)
	}
	// Within the innermost query, a name of a column is that of the table.
	return fmt.Sprintf(`COPY (SELECT %s, v.* FROM (SELECT DISTINCT * FROM unnest(%s) AS k(%s)) k
		LEFT JOIN LATERAL (SELECT true AS there, %s FROM %s t WHERE %s) v ON true) TO STDOUT (FORMAT binary)`,
		strings.Join(keyExprs, ", "), strings.Join(arrays, ", "), strings.Join(names, ", "),
		strings.Join(exprs, ", "), s.identifier(), strings.Join(same, " AND "))
}

// patchOf is what records that were asked for by their keys make of those of before, and in which order the
// patch wants the asked ones. It is nil if the keys do not tell the records apart.
func patchOf(was *kept, keys []table.Column, there []int64) (*table.Patch, []int32) {
	if asked, ok := table.NewKey(keys); !ok {
		return nil, nil
	} else if _, ok := asked.Order(); !ok {
		return nil, nil
	}
	var columns []table.Column
	for _, name := range was.key {
		columns = append(columns, was.columns[name])
	}
	key, ok := table.NewKey(columns)
	if !ok && was.rows > 0 {
		return nil, nil
	}
	rows, places := key.Find(keys)
	p := &table.Patch{Rows: was.rows}
	var changed, added []int32
	for i, row := range rows {
		switch is := there[i] == 1; {
		case row >= 0 && is:
			changed = append(changed, int32(i))
		case row >= 0:
			p.Gone = append(p.Gone, row)
		case is:
			added = append(added, int32(i))
		}
	}
	slices.Sort(p.Gone)
	slices.SortFunc(changed, func(a, b int32) int { return cmp.Compare(rows[a], rows[b]) })
	for _, i := range changed {
		p.Changed = append(p.Changed, rows[i])
	}
	// Those that come in, in the order of their keys.
	var fresh []table.Column
	for _, c := range keys {
		fresh = append(fresh, table.Reordered(c, added))
	}
	if of, ok := table.NewKey(fresh); ok {
		if order, _ := of.Order(); order != nil {
			sorted := make([]int32, len(added))
			for i, at := range order {
				sorted[i] = added[at]
			}
			added = sorted
		}
	}
	for _, i := range added {
		p.Added = append(p.Added, places[i])
	}
	return p, append(changed, added...)
}
