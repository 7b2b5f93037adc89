package pgreader

import (
	"slices"
	"sync"

	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/records"
)

// cuts are columns as somebody sees them who does not see all records of their sets.
type cuts struct {
	mu   sync.Mutex // protects made
	made map[[2]string]table.Column
}

// linksOf are the links of a record set, those that people have declared among them.
func (r *Reader) linksOf(set string) []records.AwayLink {
	out := r.Loaded.LinksOf(set)
	for _, l := range r.Links {
		if l.From == set {
			out = append(out, l)
		}
	}
	return out
}

// linkOf is a link of a record set by its key.
func (r *Reader) linkOf(set, key string) (link records.AwayLink, ok bool) {
	all := r.linksOf(set)
	i := slices.IndexFunc(all, func(l records.AwayLink) bool { return l.Key == key })
	if i < 0 {
		return link, false
	}
	return all[i], true
}

// held is a column of records in memory, by the name of a field or of what a link goes by, in the rows that
// are seen; nil if there is none.
func (r *Reader) held(set, column string) table.Column {
	c := r.whole(set, column)
	rows := r.Rows[set]
	if c == nil || rows == nil {
		return c
	}
	r.cut.mu.Lock()
	defer r.cut.mu.Unlock()
	key := [2]string{set, column}
	if r.cut.made == nil {
		r.cut.made = map[[2]string]table.Column{}
	}
	if r.cut.made[key] == nil {
		r.cut.made[key] = c.Gather(rows)
	}
	return r.cut.made[key]
}

// held is the Reader's, and of records that stand already, too.
func (q *question) held(set, column string) table.Column {
	if c := q.stood[set][column]; c != nil {
		return c
	}
	return q.Reader.held(set, column)
}

// stand notes the columns of the question's own records.
func (q *question) stand(columns map[string]table.Column) {
	if q.stood == nil {
		q.stood = stood{}
	}
	q.stood[q.away.Set] = columns
}

// whole is held of all rows.
func (r *Reader) whole(set, column string) table.Column {
	if c := r.Loaded.Held(set, column); c != nil {
		return c
	}
	if r.All != nil {
		return r.All.whole(set, column)
	}
	if t := r.Memory.Snapshot().Tables[set]; t != nil {
		return t.Column(column)
	}
	return nil
}

// Asks says whether a plan asks a database, and not memory alone.
func (r *Reader) Asks(p *plan.Plan) bool {
	return r.Loaded.Away[p.Records] != nil || len(others(r.reached(p, nil), p.Records)) > 0
}

// Limited says whether somebody sees a part of a set alone that stays.
func (r *Reader) Limited(set string) bool {
	return r.limited(set, map[string]bool{})
}

func (r *Reader) limited(set string, been map[string]bool) bool {
	if been[set] {
		return false
	}
	if been[set] = true; len(r.Rules[set]) > 0 {
		return true
	}
	return slices.ContainsFunc(r.linksOf(set), func(l records.AwayLink) bool {
		return r.Rows[l.To] != nil || r.Loaded.Away[l.To] != nil && r.limited(l.To, been)
	})
}
