package pgreader

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/records"
)

// place is one of a view's records in its order: the values that it is sorted by, and those of the key.
type place []int64

// orderedBy is a column that a place has a value of.
type orderedBy struct {
	name string
	desc bool
	// raw says that the order is that of the column as the table has it, so that its index serves.
	raw bool
}

func (q *question) viewOrder() (out []orderedBy) {
	for _, s := range q.plan.Sort {
		out = append(out, orderedBy{name: s.Ref.Field.Key, desc: s.Desc})
	}
	for _, name := range q.keyOf() {
		out = append(out, orderedBy{name: name, raw: true})
	}
	return out
}

// unordered says what keeps the database from telling the order of a view's records; empty if nothing does. It
// tells that of numbers and days, and of a key that is one.
func (q *question) unordered() string {
	ordered := func(name string) bool {
		c, ok := q.away.Column(name)
		plain := c.Whole && c.Field.Type != catalog.Text
		return ok && !c.Field.Approx && (plain || bounded(c.Type) && c.Type != "money")
	}
	for _, s := range q.plan.Sort {
		if len(s.Ref.Links) > 0 || q.plan.Derived[s.Ref.Path] != nil || !ordered(s.Ref.Field.Key) {
			return "the order of " + s.Ref.Label
		}
	}
	if key := q.keyOf(); len(key) == 0 || slices.ContainsFunc(key, func(name string) bool { return !ordered(name) }) {
		return "the order of their key"
	}
	return ""
}

// orderOf is the order of the view over columns that it adds within a query, which are called o0, o1 and so on.
func (d *deciding) orderOf(q *query) string {
	var by []string
	for i, o := range d.viewOrder() {
		c, _ := d.away.Column(o.name)
		expr, way := finite(c), ""
		if o.raw {
			expr = pgx.Identifier{o.name}.Sanitize()
		}
		if o.desc {
			way = " DESC"
		}
		if !o.raw {
			way += " NULLS LAST"
		}
		q.inner = append(q.inner, fmt.Sprintf("%s AS o%d", expr, i))
		by = append(by, fmt.Sprintf("o%d%s", i, way))
	}
	return strings.Join(by, ", ")
}

// behind says of a record, by what orderOf adds, that it comes behind a place; true of none.
func (d *deciding) behind(p place) (string, error) {
	if p == nil {
		return "true", nil
	}
	var any, same []string
	for i, o := range d.viewOrder() {
		c, _ := d.away.Column(o.name)
		name := fmt.Sprint("o", i)
		if p[i] == table.Blank { // nothing comes behind blanks but others
			same = append(same, name+" IS NULL")
			continue
		}
		value, err := stored(c, p[i])
		if err != nil {
			return "", err
		}
		way := " > "
		if o.desc {
			way = " < "
		}
		further := name + way + value
		if !o.raw {
			further = "(" + further + " OR " + name + " IS NULL)"
		}
		any = append(any, strings.Join(append(slices.Clone(same), further), " AND "))
		same = append(same, name+" = "+value)
	}
	return "(" + strings.Join(any, " OR ") + ")", nil
}

// inView is the order of lines that the database brought in the view's order, from each part its first: the
// first of all.
func (s *standing) inView() ([]int, error) {
	out := make([]int, len(s.many))
	for i := range out {
		out[i] = i
	}
	by := s.viewOrder()
	columns := make([][]int64, len(by))
	for i, o := range by {
		columns[i] = numbersOf(s.alone[o.name])
	}
	compare := func(a, b int) int {
		for i, o := range by {
			if c := o.compare(columns[i][a], columns[i][b]); c != 0 {
				return c
			}
		}
		return 0
	}
	slices.SortFunc(out, compare)
	for i := range out[:max(0, min(len(out)-1, s.sample))] {
		if compare(out[i], out[i+1]) == 0 {
			return nil, s.oneKey()
		}
	}
	if out = out[:min(len(out), s.sample)]; len(out) > 0 {
		for i := range by {
			s.last = append(s.last, columns[i][out[len(out)-1]])
		}
	}
	return out, nil
}

// oneKey refuses what needs records told apart that are not.
func (q *question) oneKey() error {
	return refused("what depends on single records of %s, several of which have one key", q.plan.Many)
}

// compare orders two values as the database does.
func (o orderedBy) compare(a, b int64) int {
	switch {
	case a == b:
		return 0
	case a == table.Blank:
		return 1
	case b == table.Blank:
		return -1
	case (a < b) != o.desc:
		return -1
	}
	return 1
}

// marks are places of a view's records at equal distances: behind each so many of them in one part of the table.
type marks struct {
	places []place
	step   int
	parts  int
}

// mark asks for the marks of the records that the filter keeps.
func (q *question) mark(ctx context.Context, step int) (*marks, error) {
	out := &marks{step: step}
	err := q.ordering(ctx, func(d *deciding, in *query) error {
		by := d.orderOf(in)
		var names []string
		for i, o := range d.viewOrder() {
			c, _ := d.away.Column(o.name)
			name := fmt.Sprint("p", i)
			in.inner = append(in.inner, c.Expr+" AS "+name)
			in.add(name, d.away.Reads(o.name), nil)
			names = append(names, name)
		}
		in.outer = append(in.outer, "row_number() OVER (ORDER BY "+by+") AS place")
		in.behind = " WHERE " + in.kept
		columns, err := d.fetch(ctx, in.as, func(of string) string {
			return fmt.Sprintf(
				"SELECT %s FROM (%s) m WHERE place %% %d = 0", strings.Join(names, ", "), in.of(of), step,
			)
		})
		if err != nil {
			return err
		}
		parts, err := d.parts(ctx)
		out.parts = len(parts)
		for i := range columns[0].Len() {
			p := make(place, len(columns))
			for c, column := range columns {
				p[c] = numbersOf(column)[i]
			}
			out.places = append(out.places, p)
		}
		slices.SortFunc(out.places, func(a, b place) int {
			for i, o := range d.viewOrder() {
				if c := o.compare(a[i], b[i]); c != 0 {
					return c
				}
			}
			return 0
		})
		return err
	})
	return out, err
}

// before is the last mark that surely comes before so many records, or nil. It is known how many come before it if
// all records lie in one part.
func (m *marks) before(n int) (p place, at int, exact bool) {
	i := n/m.step - 1
	if m.parts > 1 {
		i -= m.parts // as many at most beside those that marks tell of
	}
	if i = min(i, len(m.places)-1); i < 0 {
		return nil, 0, true
	}
	return m.places[i], (i + 1) * m.step, m.parts == 1
}

// upTo counts the records that the filter keeps up to a place.
func (q *question) upTo(ctx context.Context, p place) (n int, err error) {
	err = q.ordering(ctx, func(d *deciding, in *query) error {
		d.orderOf(in)
		behind, err := d.behind(p)
		if err != nil {
			return err
		}
		in.add("count(*)", records.ReadsWhole(), nil)
		in.behind = " WHERE " + in.kept + " AND NOT " + behind
		columns, err := d.fetch(ctx, in.as, in.of)
		if err == nil {
			n = int(total(numbersOf(columns[0])))
		}
		return err
	})
	return n, err
}

// ordering asks about the order of the records that the filter keeps, which the query says.
func (q *question) ordering(ctx context.Context, ask func(d *deciding, in *query) error) error {
	d := &deciding{question: q, by: map[*plan.Node]int{}}
	return d.reading(ctx, func() error {
		decided, err := d.conditions(ctx)
		if err != nil {
			return err
		}
		if !decided {
			return errUndecided
		}
		in := &query{}
		for i, t := range d.tests {
			in.inner = append(in.inner, fmt.Sprintf("%s AS c%d", t.met, i))
		}
		in.kept = d.filter(d.plan.Filter)
		return ask(d, in)
	})
}
