package pgreader

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
)

// mostKeys is how many records are named by their keys.
const mostKeys = 200_000

// metBy are the rows of a set that meet a condition on a field of theirs, its negation set aside.
func metBy(
	ctx context.Context, e *engine.Engine, cal calendar.Calendar, set string, ref catalog.Ref, t *plan.Predicate,
) (rows []int32, step result.Step, err error) {
	positive := *t
	positive.Ref, positive.Negate = ref, false
	p := &plan.Plan{Records: set, Calendar: cal, Filter: &plan.Node{Kind: plan.Leaf, Predicate: &positive}}
	rows, steps, err := e.Select(ctx, p)
	if err != nil {
		return nil, step, err
	}
	return rows, steps[0], nil
}

// linked decides a condition on a field of linked records by the records in memory that meet it, of which the
// database is told the keys.
func (d *deciding) linked(ctx context.Context, t *plan.Predicate) (*test, error) {
	if t.Match == plan.MatchField {
		return nil, &undecided{"two fields"}
	}
	link, there := d.linkOf(d.away.Set, t.Ref.Links[0])
	if !there || len(link.Columns) != 1 || d.leadsAway(t.Ref) {
		return nil, &undecided{"a link of several columns, or to records that are not in memory"}
	}
	c, ok := d.away.Column(link.Columns[0])
	keys := d.held(link.To, link.ToColumns[0])
	if !ok || keys == nil {
		return nil, &undecided{"a link by what is not kept"}
	}
	ref, err := d.Catalog.Resolve(link.To, strings.TrimPrefix(t.Ref.Path, link.Key+"."))
	if err != nil {
		return nil, &undecided{err.Error()}
	}
	out := &test{of: t}
	rows, step, err := metBy(ctx, d.Memory, d.plan.Calendar, link.To, ref, t)
	if err != nil {
		return nil, err
	}
	out.step = step
	met, err := keysOf(keys, rows)
	if err != nil {
		return nil, err
	}
	empty, _, err := metBy(ctx, d.Memory, d.plan.Calendar, link.To, ref, &plan.Predicate{Match: plan.MatchBlank})
	if err != nil {
		return nil, err
	}
	without, err := keysOf(keys, empty)
	if err != nil {
		return nil, err
	}
	none := "(" + c.Expr + ") IS NULL"
	if !link.Checked {
		every := make([]int32, keys.Len())
		for i := range every {
			every[i] = int32(i)
		}
		all, err := keysOf(keys, every)
		if err != nil {
			return nil, err
		}
		none = fmt.Sprintf("CASE WHEN (%s) = ANY(%s) THEN false ELSE true END", c.Expr, all)
	}
	out.blank = fmt.Sprintf("CASE WHEN %s OR (%s) = ANY(%s) THEN true ELSE false END", none, c.Expr, without)
	if t.Match == plan.MatchBlank {
		out.met = out.blank
		return out, nil
	}
	out.met = anyOf([]string{fmt.Sprintf("(%s) = ANY(%s)", c.Expr, met)})
	if t.Blank {
		out.met = fmt.Sprintf("(%s OR %s)", out.met, none)
	}
	return out, nil
}

// leadsAway says that the links of a field lead to records that are not in memory, or by way of them.
func (q *question) leadsAway(ref catalog.Ref) bool {
	at := q.away.Set
	for _, key := range ref.Links {
		link, ok := q.linkOf(at, key)
		if !ok || q.Loaded.Away[link.To] != nil {
			return true
		}
		at = link.To
	}
	return false
}

// keysOf are the values of some rows of a key, as an array of SQL.
func keysOf(keys table.Column, rows []int32) (string, error) {
	if len(rows) > mostKeys {
		return "", &undecided{"more linked records than can be listed"}
	}
	switch c := keys.(type) {
	case *table.Numbers:
		out := make([]string, 0, len(rows))
		for _, row := range rows {
			if v := c.Values[row]; v != table.Blank {
				out = append(out, strconv.FormatInt(v, 10))
			}
		}
		return "ARRAY[" + strings.Join(out, ",") + "]::int8[]", nil
	case *table.Texts:
		out := make([]string, 0, len(rows))
		for _, row := range rows {
			if text := c.Dict.Value(c.Codes[row]); text != "" {
				out = append(out, text)
			}
		}
		return listed(out), nil
	}
	return "", &undecided{"a key of its kind"}
}

// differentKeys are the different values of a column, as an array of SQL.
func differentKeys(c table.Column) (string, error) {
	seen := map[any]bool{}
	var rows []int32
	for row := range c.Len() {
		var v any
		switch c := c.(type) {
		case *table.Numbers:
			v = c.Values[row]
		case *table.Texts:
			v = c.Codes[row]
		default:
			return "", &undecided{"a key of its kind"}
		}
		if !seen[v] {
			seen[v] = true
			if rows = append(rows, int32(row)); len(rows) > mostKeys {
				break
			}
		}
	}
	return keysOf(c, rows)
}
