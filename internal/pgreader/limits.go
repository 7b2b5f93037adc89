package pgreader

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"gavrik/internal/core/plan"
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
	}
	for _, in := range d.within {
		text, err := d.inGroup(ctx, in)
		if err != nil {
			return err
		}
		parts = append(parts, text)
	}
	d.listed = nil // of records that are not seen, too
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
