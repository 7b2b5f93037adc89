package pgreader

import (
	"cmp"
	"context"
	"fmt"
	"strings"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
)

// test is a condition as the database decides it.
type test struct {
	of *plan.Predicate
	// met says, in SQL and never with a null, that a record meets it, its negation set aside; blank, that the
	// field has no value.
	met, blank string
	// step says which listed values no record has.
	step result.Step
}

// deciding turns the conditions of a plan into SQL.
type deciding struct {
	*question
	tx   pgx.Tx
	pool *pgxpool.Pool
	// asked tells others how far it is.
	asked *asked
	// seen says in SQL which records are seen; empty for all.
	seen  string
	tests []*test
	by    map[*plan.Node]int
	known []part // of the table
	// valuesOf are the different values of text columns that have few, by what they are read by.
	valuesOf map[string][]string
}

// undecided says that the database cannot decide a condition exactly; the engine will.
type undecided struct{ why string }

func (e *undecided) Error() string { return "pgreader: " + e.why }

// tree decides all conditions of a filter.
func (d *deciding) tree(ctx context.Context, n *plan.Node) error {
	switch {
	case n == nil || n.Kind == plan.Open:
		return nil
	case n.Kind == plan.Links:
		return &undecided{"linked records"}
	case n.Kind == plan.Leaf:
		t, err := d.leaf(ctx, n.Predicate)
		if err != nil {
			return err
		}
		d.by[n] = len(d.tests)
		d.tests = append(d.tests, t)
		return nil
	}
	for _, c := range n.Children {
		if err := d.tree(ctx, c); err != nil {
			return err
		}
	}
	return nil
}

// filter is one over the outcomes of its tests, which are called c0, c1 and so on.
func (d *deciding) filter(n *plan.Node) string {
	return d.says(n, func(i int) string { return fmt.Sprint("c", i) })
}

// says is a filter over its tests, as they are called.
func (d *deciding) says(n *plan.Node, called func(i int) string) string {
	switch {
	case n == nil || n.Kind == plan.Open:
		return "true"
	case n.Kind == plan.Leaf:
		i := d.by[n]
		if d.tests[i].of.Negate {
			return "NOT " + called(i)
		}
		return called(i)
	}
	var parts []string
	for _, c := range n.Children {
		if c.Kind != plan.Open {
			parts = append(parts, d.says(c, called))
		}
	}
	switch {
	case len(parts) == 0:
		return "true"
	case n.Kind == plan.Any:
		return "(" + strings.Join(parts, " OR ") + ")"
	case n.Kind == plan.None:
		return "NOT (" + strings.Join(parts, " OR ") + ")"
	}
	return "(" + strings.Join(parts, " AND ") + ")"
}

// leaf decides one condition.
func (d *deciding) leaf(ctx context.Context, t *plan.Predicate) (*test, error) {
	switch made := d.plan.Derived[t.Ref.Path]; {
	case made == nil:
	case made.Bucket != nil:
		return d.inBands(ctx, t, made.Bucket)
	default:
		return nil, &undecided{"a field that the view calculates"}
	}
	if len(t.Ref.Links) > 0 {
		return d.linked(ctx, t)
	}
	c, ok := d.away.Column(t.Ref.Field.Key)
	if !ok {
		return nil, &undecided{"a field that is not in the database"}
	}
	out := &test{of: t, blank: "(" + c.Expr + ") IS NULL"}
	if c.Field.Type == catalog.Text {
		return out, d.text(ctx, out, c.Expr, t)
	}
	if !c.Whole && !bounded(c.Type) {
		return nil, &undecided{"numbers that may be beyond what is kept"}
	}
	if lo := least[c.Type]; lo != "" {
		hi := cmp.Or(most[c.Type], "9223372036854775807")
		out.blank = fmt.Sprintf("CASE WHEN (%s) BETWEEN %s AND %s THEN false ELSE true END", c.Expr, lo, hi)
	}
	if c.Infinite {
		out.blank = fmt.Sprintf("((%[1]s) IS NULL OR NOT isfinite(%[1]s))", c.Expr)
	}
	var parts []string
	switch t.Match {
	case plan.MatchBlank:
		parts = append(parts, out.blank)
	case plan.MatchSet:
		for _, r := range t.Ranges {
			part, err := within(c, r)
			if err != nil {
				return nil, err
			}
			parts = append(parts, part)
		}
		for _, r := range t.Floats {
			parts = append(parts, fmt.Sprintf("(%s) BETWEEN %s AND %s", c.Expr, float(r.Lo), float(r.Hi)))
		}
		if t.Blank {
			parts = append(parts, out.blank)
		}
	default:
		return nil, &undecided{"a condition of its kind"}
	}
	out.met = anyOf(parts)
	return out, nil
}

// bounded says of a type that all of its values but the infinite ones are kept, and those lie beyond all
// bounds.
func bounded(kind string) bool {
	return kind == "date" || kind == "timestamptz" || kind == "timestamp" || kind == "int8" || kind == "money"
}

// anyOf is true if one of some parts is, and false otherwise.
func anyOf(parts []string) string {
	if len(parts) == 0 {
		return "false"
	}
	// More servers carry out a CASE for another one than a coalesce.
	return "CASE WHEN " + strings.Join(parts, " OR ") + " THEN true ELSE false END"
}
