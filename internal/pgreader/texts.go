package pgreader

import (
	"context"
	"fmt"
	"slices"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgtype"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/records"
)

// mostListed is how many different values a condition is decided by.
const mostListed = 20_000

// text decides a condition on a text by the different values there are, which the engine tells apart: how
// texts are compared is its to say.
func (d *deciding) text(ctx context.Context, out *test, expr string, t *plan.Predicate) error {
	if t.Match == plan.MatchField {
		return &undecided{"two fields"}
	}
	out.blank = "CASE WHEN (" + expr + ") <> '' THEN false ELSE true END"
	if t.Match == plan.MatchBlank {
		out.met = out.blank
		return nil
	}
	values, err := d.different(ctx, expr, t)
	if err != nil {
		return err
	}
	met, step, err := decided(ctx, t, values)
	if err != nil {
		return err
	}
	out.step = step
	var parts []string
	if len(met) > 0 {
		parts = append(parts, "("+expr+") = ANY("+listed(met)+")")
	}
	if t.Blank {
		parts = append(parts, out.blank)
	}
	out.met = anyOf(parts)
	return nil
}

// different are the values of a text column that a condition may be met by: all there are, if those are few.
func (d *deciding) different(ctx context.Context, expr string, t *plan.Predicate) ([]string, error) {
	if values, known := d.valuesOf[expr]; known {
		return values, nil
	}
	many, err := d.manyValues(ctx, expr)
	if err != nil {
		return nil, err
	}
	values := make([]string, mostListed+1)
	if !many {
		if values, err = d.values(ctx, expr, ""); err != nil {
			return nil, err
		}
		if len(values) <= mostListed {
			d.remember(expr, values)
			return values, nil
		}
	}
	// Of texts that are plain in small letters, whatever the database's language, it tells as well which can be
	// meant; the others are looked at in any case.
	plain := "lower(" + expr + ")"
	where := ""
	switch {
	case slices.ContainsFunc(t.Texts, func(s string) bool { return !ascii(s) }):
	case t.Match == plan.MatchSet:
		where = fmt.Sprintf("%s = ANY(%s)", plain, listed(t.Texts))
	case t.Match == plan.MatchContains:
		where = fmt.Sprintf("strpos(%s, %s) > 0", plain, records.Literal(t.Texts[0]))
	case t.Match == plan.MatchStarts:
		where = fmt.Sprintf("left(%s, %d) = %s", plain, len(t.Texts[0]), records.Literal(t.Texts[0]))
	case t.Match == plan.MatchEnds:
		where = fmt.Sprintf("right(%s, %d) = %s", plain, len(t.Texts[0]), records.Literal(t.Texts[0]))
	}
	if where != "" {
		values, err = d.values(
			ctx, expr, fmt.Sprintf(" WHERE %s OR octet_length(%s) <> length(%s)", where, plain, plain),
		)
	}
	if err == nil && len(values) > mostListed {
		err = &undecided{"more different texts than can be listed"}
	}
	return values, err
}

// remember notes all different values of a text column, for further conditions on it.
func (d *deciding) remember(expr string, values []string) {
	if d.valuesOf == nil {
		d.valuesOf = map[string][]string{}
	}
	d.valuesOf[expr] = values
}

// manyValues says whether the first records of a part alone have more different values than can be listed.
func (d *deciding) manyValues(ctx context.Context, expr string) (bool, error) {
	parts, err := d.parts(ctx)
	if err != nil {
		return false, err
	}
	var n int
	err = d.tx.QueryRow(ctx, fmt.Sprintf(
		"SELECT count(DISTINCT v) FROM (SELECT %s AS v FROM %s LIMIT %d) v",
		expr, d.of(parts[0].table), 5*mostListed,
	)).Scan(&n)
	if err != nil {
		return false, d.failed(ctx, parts[0], err)
	}
	return n > mostListed, nil
}

// values are the different ones of a text column, and some more than can be listed if there are that many.
func (d *deciding) values(ctx context.Context, expr, where string) ([]string, error) {
	seen := map[string]bool{}
	var out []string
	err := d.eachPart(ctx, func(of string) string {
		return fmt.Sprintf("SELECT (%s)::text FROM %s%s GROUP BY 1 LIMIT %d", expr, of, where, mostListed+1)
	}, func(row pgx.CollectableRow) error {
		var text pgtype.Text // a null is the blank
		err := row.Scan(&text)
		if err == nil && !seen[text.String] {
			seen[text.String] = true
			out = append(out, text.String)
		}
		return err
	})
	return out, err
}

func ascii(s string) bool {
	for i := range len(s) {
		if s[i] >= 0x80 {
			return false
		}
	}
	return true
}

// decided are the values among some that meet a condition, its negation set aside, as the engine decides it;
// step says what it says of the condition.
func decided(
	ctx context.Context, t *plan.Predicate, values []string,
) (met []string, step result.Step, err error) {
	dict, codes := table.NewDictBuilder(), make([]uint32, len(values))
	for i, v := range values {
		codes[i] = dict.CodeOf(v)
	}
	of := table.New("values", len(values))
	of.Add("value", dict.Build(codes))
	ref := catalog.Ref{Path: "value", Set: "values", Label: t.Ref.Label, Field: t.Ref.Field}
	ref.Field.Key = "value"
	set := &catalog.RecordSet{Key: "values", Fields: []catalog.Field{ref.Field}}
	e := engine.New(
		&table.Snapshot{Tables: map[string]*table.Table{"values": of}},
		&catalog.Catalog{Sets: []*catalog.RecordSet{set}}, engine.Options{Workers: 1},
	)
	rows, step, err := metBy(ctx, e, calendar.Calendar{}, "values", ref, t)
	for _, row := range rows {
		if values[row] != "" {
			met = append(met, values[row])
		}
	}
	return met, step, err
}
