package records

import (
	"context"
	"fmt"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/reading"
	"gavrik/internal/core/table"
)

// assemble makes tables of the fetched columns, turns foreign keys into links, and keeps what the next load
// can go on from.
func (l *loader) assemble(ctx context.Context, got []fetched) error {
	l.tables, l.kept = map[string]*table.Table{}, map[TableName]*kept{}
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
		if got[i].asOf.Before(s.from.asOf) {
			t.AsOf = got[i].asOf
		}
		l.tables[s.set] = t
		l.kept[s.full] = newKept(s, &got[i])
	}
	for i, s := range l.sources {
		for _, link := range s.links {
			if l.tables[s.set] == nil {
				continue
			}
			rows, err := l.link(ctx, got, i, number[link.to], link)
			if err != nil {
				return err
			}
			l.tables[s.set].AddLink(link.key, rows)
			l.kept[s.full].links[link.name()] = rows
		}
	}
	// What leads elsewhere is no field, and was needed to find where only.
	for i, s := range l.sources {
		if k := l.kept[s.full]; k != nil {
			k.forget(l.catalog.Set(s.set), l.leadsTo(i))
		}
	}
	return nil
}

// link finds the rows that a table's records lead to. What has not changed leads where it did.
func (l *loader) link(ctx context.Context, got []fetched, i, to int, link sourceLink) (*table.Links, error) {
	s, mine, theirs := l.sources[i], &got[i], &got[to]
	was := l.before[s.full]
	columns := func(of *fetched, from map[string]table.Column) (here, there []table.Column) {
		for j, name := range link.columns {
			here = append(here, table.Rescaled(from[name], l.scale(i, name), l.scale(to, link.toColumns[j])))
			there = append(there, theirs.columns[link.toColumns[j]])
		}
		return here, there
	}
	if mine.whole {
		here, there := columns(mine, mine.columns)
		rows, shared, err := table.Match(ctx, here, there)
		if err == nil && shared >= 0 { // a constraint that was never checked
			rows = make([]int32, mine.rows)
			for row := range rows {
				rows[row] = -1
			}
			l.notices = append(l.notices, fmt.Sprintf(
				"The link %s of %s leads nowhere: several records of %s share what it goes by.", link.key, s, link.to))
		}
		return &table.Links{To: link.to.set, Rows: rows}, err
	}
	patch := mine.patch
	var fresh []int32
	if patch == nil {
		patch = &table.Patch{Rows: mine.rows}
	} else {
		here, there := columns(mine, mine.fresh)
		var err error
		if fresh, err = table.MatchFew(ctx, here, there); err != nil {
			return nil, err
		}
	}
	moved, err := l.moved(ctx, s.full, theirs, link)
	if err != nil {
		return nil, err
	}
	rows := was.links[link.name()].Patched(patch, fresh, moved)
	if rows.To != link.to.set {
		rows = &table.Links{To: link.to.set, Rows: rows.Rows}
	}
	return rows, nil
}

// moved tells where the rows that a link leads to have gone; nil if all stay.
func (l *loader) moved(ctx context.Context, s TableName, theirs *fetched, link sourceLink) ([]int32, error) {
	if theirs.patch != nil {
		return theirs.patch.Moved(), nil
	}
	if !theirs.whole {
		return nil, nil
	}
	var old, now []table.Column
	for _, name := range link.toColumns {
		old, now = append(old, l.before[link.to.full].columns[name]), append(now, theirs.columns[name])
	}
	moved, shared, err := table.Match(ctx, old, now)
	if err != nil {
		return nil, err
	}
	if shared >= 0 {
		return nil, wholly{s}
	}
	for row, to := range moved {
		if int(to) != row {
			return moved, nil
		}
	}
	return nil, nil
}

// leadsTo are the columns of a table that links lead to.
func (l *loader) leadsTo(i int) map[string]bool {
	out := map[string]bool{}
	for _, s := range l.sources {
		for _, link := range s.links {
			if link.to == l.sources[i] {
				for _, name := range link.toColumns {
					out[name] = true
				}
			}
		}
	}
	return out
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
