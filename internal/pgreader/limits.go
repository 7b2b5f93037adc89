package pgreader

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/records"
)

// of is a table, or a part of one, as it is seen: no query asks for anything else.
func (d *deciding) of(table string) string {
	if d.seen == "" {
		return table
	}
	return fmt.Sprintf("(SELECT %s FROM %s WHERE %s) s", strings.Join(d.away.Selectable(), ", "), table, d.seen)
}

// see compiles what is seen of the records: those that meet all rules, and belong to none that is not seen.
// What cannot be said of that in the database shows nothing.
func (d *deciding) see(ctx context.Context) error {
	var parts []string
	if d.only != "" {
		parts = append(parts, d.only)
	}
	if d.All != nil {
		for _, rule := range d.Rules[d.away.Set] {
			if rule == nil { // it has a fault, and keeps nothing
				parts = append(parts, "false")
				continue
			}
			text, err := d.rule(ctx, rule)
			if err != nil {
				return d.unseen(err)
			}
			parts = append(parts, text)
		}
		for _, link := range d.links {
			if d.Rows[link.To] == nil {
				continue
			}
			text, err := d.belongs(link)
			if err != nil {
				return d.unseen(err)
			}
			parts = append(parts, text)
		}
		for _, link := range d.links {
			if d.Loaded.Away[link.To] == nil || !d.Limited(link.To) {
				continue
			}
			text, err := d.belongsThere(ctx, link)
			if err != nil {
				return err
			}
			parts = append(parts, text)
		}
	}
	for _, in := range d.within {
		text, err := d.inGroup(ctx, in)
		if err != nil {
			return err
		}
		parts = append(parts, text)
	}
	d.valuesOf = nil // of records that are not seen, too
	d.seen = strings.Join(parts, " AND ")
	return nil
}

// unseen refuses what cannot be limited.
func (d *deciding) unseen(err error) error {
	var not *undecided
	if !errors.As(err, &not) {
		return err
	}
	return &Refused{
		fmt.Sprintf("which %s you may see cannot be told where they stay", d.plan.Many),
		"ask an administrator to limit them by conditions on their own fields, or to have them in memory",
	}
}

// rule is the filter of a rule in SQL. It is decided over all records, as rules are.
func (d *deciding) rule(ctx context.Context, rule *plan.Plan) (string, error) {
	all := d.All.question(rule)
	r := &deciding{question: all, tx: d.tx, pool: d.pool, by: map[*plan.Node]int{}, known: d.known}
	if err := r.tree(ctx, rule.Filter); err != nil {
		return "", err
	}
	return "(" + r.says(rule.Filter, func(i int) string { return "(" + r.tests[i].met + ")" }) + ")", nil
}

// belongs says that a record links to none that is not seen. One that links to nothing is seen.
func (d *deciding) belongs(link records.AwayLink) (string, error) {
	keys := d.whole(link.To, link.ToColumns[0])
	if len(link.Columns) != 1 || keys == nil {
		return "", &undecided{"a link of several columns"}
	}
	c, ok := d.away.Column(link.Columns[0])
	if !ok {
		return "", &undecided{"a link by what is not kept"}
	}
	var hidden []int32
	rows := d.Rows[link.To]
	for row := range int32(keys.Len()) {
		if _, seen := slices.BinarySearch(rows, row); !seen {
			hidden = append(hidden, row)
		}
	}
	if len(hidden) <= mostKeys || !link.Checked {
		list, err := keysOf(keys, hidden)
		return fmt.Sprintf("CASE WHEN (%s) = ANY(%s) THEN false ELSE true END", c.Expr, list), err
	}
	list, err := keysOf(keys, rows)
	return fmt.Sprintf("CASE WHEN (%s) IS NULL OR (%[1]s) = ANY(%s) THEN true ELSE false END", c.Expr, list), err
}

// belongsThere is belongs of a link to records that stay, too.
func (d *deciding) belongsThere(ctx context.Context, link records.AwayLink) (string, error) {
	words := d.Catalog.Set(link.To)
	if words == nil || !d.TellsBelonging(link.From, link.Key) {
		return "", d.unseen(&undecided{"a link that cannot be followed there"})
	}
	p := &plan.Plan{Records: link.To, One: words.One, Many: words.Many, Calendar: d.plan.Calendar}
	there := &deciding{question: d.Reader.question(p), tx: d.tx, pool: d.pool, by: map[*plan.Node]int{}}
	if err := there.see(ctx); err != nil {
		return "", err
	}
	from, _ := d.away.Column(link.Columns[0])
	to, _ := there.away.Column(link.ToColumns[0])
	return fmt.Sprintf(
		"CASE WHEN (%[1]s) IS NULL OR (%[1]s) IN (SELECT %[2]s FROM %[3]s) THEN true ELSE false END",
		from.Expr, to.Expr, there.of(there.away.Table()),
	), nil
}

// TellsBelonging says that a database tells which records that stay belong by a link to others which stay
// there, too, and do not lead back.
func (r *Reader) TellsBelonging(set, link string) bool {
	by, ok := r.linkOf(set, link)
	if !ok || len(by.Columns) != 1 {
		return false
	}
	from, to := r.Loaded.Away[set], r.Loaded.Away[by.To]
	if from == nil || to == nil || from.URL() != to.URL() {
		return false
	}
	_, here := from.Column(by.Columns[0])
	_, there := to.Column(by.ToColumns[0])
	return here && there && !r.leads(by.To, set, map[string]bool{})
}

// leads says that links lead from a set to another one by way of sets that stay.
func (r *Reader) leads(from, to string, been map[string]bool) bool {
	if from == to {
		return true
	}
	if been[from] || r.Loaded.Away[from] == nil {
		return false
	}
	been[from] = true
	return slices.ContainsFunc(r.linksOf(from), func(l records.AwayLink) bool { return r.leads(l.To, to, been) })
}

// Unseen marks the records in memory of a set that a link of theirs leads to records that stay and are not
// seen. It refuses what cannot be told.
func (r *Reader) Unseen(ctx context.Context, set, link string) ([]bool, error) {
	by, ok := r.linkOf(set, link)
	if !ok || len(by.Columns) != 1 || r.All == nil || r.Loaded.Away[by.To] == nil {
		return nil, refused("what %s lead to", set)
	}
	return asking(ctx, func(ctx context.Context) ([]bool, error) {
		words, column := r.All.Catalog.Set(by.To), r.whole(set, by.Columns[0])
		q := r.question(&plan.Plan{Records: by.To, One: words.One, Many: words.Many})
		c, ok := q.away.Column(by.ToColumns[0])
		if column == nil || !ok {
			return nil, refused("what %s lead to", set)
		}
		keys, err := differentKeys(column)
		if err != nil {
			return nil, refused("more %s than can be listed", words.Many)
		}
		q.only = fmt.Sprintf("(%s) = ANY(%s)", c.Expr, keys)
		var seen []table.Column
		d := &deciding{question: q, by: map[*plan.Node]int{}}
		err = d.reading(ctx, func() error {
			in := &query{inner: []string{c.Expr + " AS k"}, kept: "true"}
			in.add("k", q.away.Reads(by.ToColumns[0]), nil)
			seen, err = d.fetch(ctx, in.as, in.of)
			return err
		})
		if err != nil {
			return nil, err
		}
		return notAmong(column, seen[0]), nil
	})
}

// notAmong marks the values of a column that another one does not have; none is a blank.
func notAmong(of, others table.Column) []bool {
	have := map[string]bool{}
	value := func(c table.Column, row int) string {
		if texts, ok := c.(*table.Texts); ok {
			return texts.Dict.Value(texts.Codes[row])
		}
		if v := numbersOf(c)[row]; v != table.Blank {
			return strconv.FormatInt(v, 10)
		}
		return ""
	}
	for row := range others.Len() {
		have[value(others, row)] = true
	}
	out := make([]bool, of.Len())
	for row := range out {
		v := value(of, row)
		out[row] = v != "" && !have[v]
	}
	return out
}
