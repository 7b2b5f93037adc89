package pgreader

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
	"gavrik/internal/records"
)

// lines is what the database answers: a line for records that are not told apart.
type lines struct {
	asOf time.Time
	// many is how many records each line stands for, met which of the tests they meet; blank which of the fields
	// tested have no value.
	many       []int64
	met, blank [][]int64
	// alone are the columns that records are told apart by; filled, of others, how many values there are, and
	// sum, of numbers, what they come to.
	alone       map[string]table.Column
	sum, filled map[string][]int64
}

// query is what is asked of each part: columns of records within, and what is made of them without.
type query struct {
	inner, outer []string
	// by are the places of the outer ones that lines are told apart by.
	by []string
	// as is how each outer one is read, and take what becomes of it.
	as   []records.Reading
	take []func(table.Column)
	// kept says in SQL, over the inner ones, which records count; "true" for all.
	kept string
	// behind stands behind all of it.
	behind string
}

// of is the query over a table. Texts in it may hold anything, so it is no pattern.
func (q *query) of(table string) string {
	inner := cmp.Or(strings.Join(q.inner, ", "), "1")
	outer := strings.Join(q.outer, ", ")
	return "SELECT " + outer + " FROM (SELECT " + inner + " FROM " + table + ") q" + q.behind
}

func (q *query) add(expr string, as records.Reading, take func(table.Column)) {
	q.outer, q.as, q.take = append(q.outer, expr), append(q.as, as), append(q.take, take)
}

// apart adds what lines are told apart by.
func (q *query) apart(expr string, as records.Reading, take func(table.Column)) {
	q.add(expr, as, take)
	q.by = append(q.by, fmt.Sprint(len(q.outer)))
}

// when is an expression for the records that count alone, so that the others are told apart by their tests
// only.
func (q *query) when(expr string) string {
	if q.kept == "true" {
		return expr
	}
	return "CASE WHEN " + q.kept + " THEN " + expr + " END"
}

// ask carries out the query.
func (d *deciding) ask(ctx context.Context, decided bool) (*lines, error) {
	out := &lines{alone: map[string]table.Column{}, sum: map[string][]int64{}, filled: map[string][]int64{}}
	if err := d.tx.QueryRow(ctx, "SELECT now()").Scan(&out.asOf); err != nil {
		return nil, fmt.Errorf("pgreader: %w", err)
	}
	q := &query{kept: "true"}
	d.askTests(q, out)
	if decided && !d.counted {
		if q.kept = d.filter(d.plan.Filter); d.plan.Compare != nil {
			q.kept = "(" + q.kept + " OR " + d.filter(d.plan.Compare.Filter) + ")"
		}
	}
	names := slices.Sorted(maps.Keys(d.uses))
	for i, name := range names {
		var err error
		if d.uses[name].alone {
			err = d.askAlone(ctx, q, out, fmt.Sprint("v", i), name)
		} else {
			d.askSummed(q, out, fmt.Sprint("v", i), name)
		}
		if err != nil {
			return nil, err
		}
	}
	many := "count(*)"
	if d.sample > 0 {
		many = "1::bigint"
	}
	q.add(many, records.ReadsWhole(), func(c table.Column) { out.many = numbersOf(c) })
	switch {
	case d.sample > 0:
		by := d.inOrder(q, names)
		behind, err := d.behind(d.after)
		if err != nil {
			return nil, err
		}
		if d.until != nil {
			further, err := d.behind(d.until)
			if err != nil {
				return nil, err
			}
			behind += " AND NOT " + further
		}
		most := d.sample
		if d.page {
			most++ // so that two of one key are seen where a stretch ends, too
		}
		q.behind = " WHERE " + q.kept + " AND " + behind + by + fmt.Sprintf(" LIMIT %d", most)
	case len(q.by) > 0:
		q.behind = " GROUP BY " + strings.Join(q.by, ", ")
	}
	if d.sample == 0 {
		if err := d.estimate(ctx, q); err != nil {
			return nil, err
		}
	}
	columns, err := d.fetch(ctx, q.as, q.of)
	if err != nil {
		return nil, err
	}
	for i, c := range columns {
		q.take[i](c)
	}
	return out, nil
}

func numbersOf(c table.Column) []int64 { return c.(*table.Numbers).Values }

// askTests asks which tests a record meets, and where the fields tested have no value.
func (d *deciding) askTests(q *query, out *lines) {
	out.met, out.blank = make([][]int64, len(d.tests)), make([][]int64, len(d.tests))
	for i, t := range d.tests {
		q.inner = append(q.inner, fmt.Sprintf("%s AS c%d, %s AS b%d", t.met, i, t.blank, i))
		q.apart(fmt.Sprint("c", i), records.ReadsYesNo(), func(c table.Column) { out.met[i] = numbersOf(c) })
		q.apart(fmt.Sprint("b", i), records.ReadsYesNo(), func(c table.Column) { out.blank[i] = numbersOf(c) })
	}
}

// askAlone asks for a column that records are told apart by.
func (d *deciding) askAlone(ctx context.Context, q *query, out *lines, as, name string) error {
	c, _ := d.away.Column(name)
	u, expr := d.uses[name], c.Expr
	if c.Field.Type == catalog.DateTime && u.grain != exactly {
		var err error
		if expr, err = d.coarser(ctx, c, u.grain); err != nil {
			return err
		}
	}
	if u.among != "" {
		expr = "CASE WHEN " + u.among + " THEN " + expr + " END"
	}
	q.inner = append(q.inner, expr+" AS "+as)
	value := as
	if !u.everywhere {
		value = q.when(as)
	}
	q.apart(value, d.away.Reads(name), func(c table.Column) { out.alone[name] = c })
	return nil
}

// askSummed asks how many values of a column there are and, of numbers, what they come to.
func (d *deciding) askSummed(q *query, out *lines, as, name string) {
	c, _ := d.away.Column(name)
	q.inner = append(q.inner, finite(c)+" AS "+as)
	filter, filled := "", as
	if q.kept != "true" {
		filter = " FILTER (WHERE " + q.kept + ")"
	}
	if c.Field.Type == catalog.Text {
		filled = "nullif(" + as + ", '')"
	}
	q.add("count("+filled+")"+filter, records.ReadsWhole(), func(c table.Column) { out.filled[name] = numbersOf(c) })
	if !c.Field.Type.Numeric() {
		return
	}
	sum, reading := "(sum("+as+")"+filter+")::numeric", records.ReadsNumeric(c.Field.Scale)
	if c.Field.Type == catalog.Duration {
		sum, reading = "sum("+as+")"+filter, records.ReadsDuration()
	}
	q.add(sum, reading, func(c table.Column) { out.sum[name] = numbersOf(c) })
}

// inOrder puts a sample into the order of the records' key, if they have one, and a stretch of a view into
// that of the view.
func (d *deciding) inOrder(q *query, names []string) string {
	if d.page {
		return " ORDER BY " + d.orderOf(q)
	}
	if !d.each {
		return ""
	}
	var by []string
	for _, name := range d.key {
		by = append(by, fmt.Sprint("v", slices.Index(names, name)))
	}
	return " ORDER BY " + strings.Join(by, ", ")
}

// finite is a column without the values of it that no load keeps.
func finite(c records.AwayColumn) string {
	switch {
	case c.Infinite:
		return fmt.Sprintf("CASE WHEN isfinite(%[1]s) THEN %[1]s END", c.Expr)
	case c.Type == "int8":
		return fmt.Sprintf("nullif(%s, (-9223372036854775808)::int8)", c.Expr)
	}
	return c.Expr
}
