package pgreader

import (
	"context"
	"fmt"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/core/plan"
)

// keyOf are the columns that tell the question's records apart: the primary key or, where the database
// declares none, as a table that is spread over servers cannot, what people say; none if nobody does.
func (q *question) keyOf() []string {
	if key := q.away.Key(); len(key) > 0 {
		return key
	}
	if name := q.Keys[q.away.Set]; name != "" {
		if _, ok := q.away.Column(name); ok {
			return []string{name}
		}
	}
	return nil
}

// TellsApart says whether no two records of a set that stays share a value of a field, and all have one.
func (r *Reader) TellsApart(ctx context.Context, set, field string) (is bool, err error) {
	words := r.Catalog.Set(set)
	c, ok := r.Loaded.Away[set].Column(field)
	if words == nil || !ok {
		return false, refused("%s as a key", field)
	}
	d := &deciding{question: r.question(&plan.Plan{Records: set, One: words.One, Many: words.Many})}
	err = d.reading(ctx, func() error {
		rows, _ := d.tx.Query(ctx, fmt.Sprintf( // CollectRows returns its error
			"SELECT 1 FROM (SELECT (%s) AS v FROM %s) q GROUP BY v HAVING count(*) > 1 OR v IS NULL LIMIT 1",
			c.Expr, d.away.Table(),
		))
		found, err := pgx.CollectRows(rows, pgx.RowTo[int])
		is = len(found) == 0
		return err
	})
	return is, err
}
