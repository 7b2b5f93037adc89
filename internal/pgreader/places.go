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

// place is one in a view's order: the values of what the database orders its records by. Records that share
// them lie at one place, and the engine puts them in order.
type place []int64

// orderedBy is a column that a place has a value of.
type orderedBy struct {
	name string
	desc bool
	// raw says that the order is that of the column as the table has it, so that its index serves.
	raw bool
}

// viewOrder is what the database orders a view's records by: as many of the fields that they are sorted by,
// from the first on, as are numbers or days of their own; behind all of them, the key, if it is one of
// such. What cannot be ordered at all is ordered by nothing.
func (q *question) viewOrder() (out []orderedBy) {
	known := func(name string) bool {
		c, ok := q.away.Column(name)
		plain := c.Whole && c.Field.Type != catalog.Text
		return ok && !c.Field.Approx && (plain || bounded(c.Type) && c.Type != "money")
	}
	for _, s := range q.plan.Sort {
		if len(s.Ref.Links) > 0 || q.plan.Derived[s.Ref.Path] != nil || !known(s.Ref.Field.Key) {
			return out
		}
		out = append(out, orderedBy{name: s.Ref.Field.Key, desc: s.Desc})
	}
	key := q.keyOf()
	if slices.ContainsFunc(key, func(name string) bool { return !known(name) }) {
		return out
	}
	for _, name := range key {
		out = append(out, orderedBy{name: name, raw: true})
	}
	return out
}

// singled says that no two records lie at one place.
func singled(order []orderedBy) bool { return len(order) > 0 && order[len(order)-1].raw }

// orderOf is the order of the view over columns that it adds within a query, which are called o0, o1 and so
// on.
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
	if any == nil {
		return "false", nil
	}
	return "(" + strings.Join(any, " OR ") + ")", nil
}

// inView are the lines of a stretch of the view, of which each part of the table brought its first: the
// first of all.
func (s *standing) inView() ([]int, error) {
	by := s.viewOrder()
	columns := make([]table.Column, len(by))
	for i, o := range by {
		columns[i] = s.alone[o.name]
	}
	out := inOrder(columns, by)
	end := min(len(out), s.sample)
	if end > 0 {
		s.last = placeOf(columns, out[end-1])
	}
	if end < len(out) && slices.Equal(s.last, placeOf(columns, out[end])) {
		return nil, s.oneKey()
	}
	return out[:end], nil
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

// marks are places of a view's records at equal distances in each part of the table.
type marks struct {
	places []place
	step   int
	// upTo is how many records lie up to each, if all lie in one part; else nobody knows yet.
	upTo  []int
	parts int
}

// mark asks for the marks of the records that the filter keeps.
func (q *question) mark(ctx context.Context, step int) (*marks, error) {
	out := &marks{step: step}
	err := q.ordering(ctx, func(d *deciding, in *query) error {
		by := d.orderOf(in)
		names := d.placesOf(in)
		in.add("count(*) OVER (ORDER BY "+by+") AS up_to", records.ReadsWhole(), nil) // those at one place together
		in.outer = append(in.outer, "row_number() OVER (ORDER BY "+by+") AS place")
		in.behind = " WHERE " + in.kept
		columns, err := d.fetch(ctx, in.as, func(of string) string {
			return fmt.Sprintf(
				"SELECT %s, up_to FROM (%s) m WHERE place %% %d = 0", strings.Join(names, ", "), in.of(of), step,
			)
		})
		if err != nil {
			return err
		}
		parts, err := d.parts(ctx)
		out.parts = len(parts)
		order := d.viewOrder()
		upTo := numbersOf(columns[len(order)])
		for _, i := range inOrder(columns[:len(order)], order) {
			out.places = append(out.places, placeOf(columns[:len(order)], i))
			if out.parts == 1 {
				out.upTo = append(out.upTo, int(upTo[i]))
			}
		}
		return err
	})
	return out, err
}

// placesOf asks for the places of records, by columns that it names.
func (d *deciding) placesOf(in *query) (names []string) {
	for i, o := range d.viewOrder() {
		c, _ := d.away.Column(o.name)
		name := fmt.Sprint("p", i)
		in.inner = append(in.inner, c.Expr+" AS "+name)
		in.add(name, d.away.Reads(o.name), nil)
		names = append(names, name)
	}
	return names
}

// placeOf is a line's among columns of places.
func placeOf(columns []table.Column, line int) (p place) {
	for _, c := range columns {
		p = append(p, numbersOf(c)[line])
	}
	return p
}

// inOrder are the lines of columns of places in their order.
func inOrder(columns []table.Column, by []orderedBy) []int {
	out := make([]int, columns[0].Len())
	values := make([][]int64, len(columns))
	for i, c := range columns {
		values[i] = numbersOf(c)
	}
	for i := range out {
		out[i] = i
	}
	slices.SortFunc(out, func(a, b int) int {
		for i, o := range by {
			if c := o.compare(values[i][a], values[i][b]); c != 0 {
				return c
			}
		}
		return 0
	})
	return out
}

// ahead is the place so many records behind one, which others may share; nil if there are no more.
func (q *question) ahead(ctx context.Context, from place, n int) (out place, err error) {
	err = q.ordering(ctx, func(d *deciding, in *query) error {
		by := d.orderOf(in)
		d.placesOf(in)
		behind, err := d.behind(from)
		if err != nil {
			return err
		}
		in.behind = fmt.Sprintf(" WHERE %s AND %s ORDER BY %s LIMIT %d", in.kept, behind, by, n)
		columns, err := d.fetch(ctx, in.as, in.of)
		if err != nil {
			return err
		}
		if lines := inOrder(columns, d.viewOrder()); len(lines) >= n {
			out = placeOf(columns, lines[n-1])
		}
		return nil
	})
	return out, err
}

// before is the last mark up to which no more than so many records lie, and how many do; nil if there is
// none.
func (m *marks) before(n int, count func(p place) (int, error)) (place, int, error) {
	if m.parts == 1 {
		i, is := slices.BinarySearch(m.upTo, n)
		for is && i+1 < len(m.upTo) && m.upTo[i+1] == n {
			i++
		}
		if !is {
			i--
		}
		if i < 0 {
			return nil, 0, nil
		}
		return m.places[i], m.upTo[i], nil
	}
	// Of each part so many at most lie up to a mark that no mark tells of; and those that share its place.
	for i := min(n/m.step-1-m.parts, len(m.places)-1); i >= 0; i -= 1 + m.parts {
		at, err := count(m.places[i])
		if err != nil || at <= n {
			return m.places[i], at, err
		}
	}
	return nil, 0, nil
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
