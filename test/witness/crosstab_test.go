package witness

import (
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/engine"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// The cells of a random crosstab are the groups that PostgreSQL makes of the same
// levels one within the other.
func TestRandomCrosstabsEqualPostgreSQLs(t *testing.T) {
	conn, loaded, cal := ferry(t)
	_, err := conn.Exec(t.Context(), foldSQL)
	require.NoError(t, err)
	e := engine.New(loaded.Snapshot, loaded.Catalog, engine.Options{MaxColumns: 1 << 20})
	rapid.Check(t, func(rt *rapid.T) {
		d := everyField.drawDocument(rt, loaded.Catalog)
		across := view.Group{
			Field: rapid.SampledFrom([]string{
				"status", "category", "booking.channel", "handler.name",
			}).Draw(rt, "across"),
		}
		crossed := *d
		crossed.Across = []view.Group{across}
		p, err := plan.Check(&crossed, loaded.Catalog, cal)
		if err != nil {
			rt.Skip("a range the wrong way round")
		}
		res, err := e.Run(t.Context(), p)
		require.NoError(rt, err)
		totals := 0 // columns for each group across
		for _, c := range p.Columns {
			if c.Measure >= 0 {
				totals++
			}
		}
		// The lines of the innermost groups down, cut into their cells.
		got := map[string]string{}
		plain, people := res.Pen(format.Plain), res.Pen(format.People)
		require.NoError(rt, res.EachGroup(t.Context(), result.Groups{}, func(g result.GroupLine) error {
			if g.Level != len(d.Groups) {
				return nil
			}
			for i := 0; i < len(res.Heads); i += totals {
				if len(res.Heads[i].Across) == 1 {
					key := strings.Join(append(plain.Labels(g.Keys), people.Across(res.Heads[i].Across)...), "|")
					got[key] = strings.Join(plain.Cells(g.Line)[i:i+totals], "|")
				}
			}
			return nil
		}))
		nested := *d
		nested.Groups = append(append([]view.Group{}, d.Groups...), across)
		sql := (&translator{catalog: loaded.Catalog, cal: cal}).totals(&nested)
		rows, err := conn.Query(t.Context(), sql, pgx.QueryExecModeSimpleProtocol)
		require.NoError(rt, err, sql)
		want, err := pgx.CollectRows(rows, joined)
		require.NoError(rt, err, sql)
		cells := 0
		for _, line := range want {
			parts := strings.Split(line, "|")
			if parts[0] != string(rune('0'+len(nested.Groups))) {
				continue
			}
			cells++
			labels, figures := parts[1:1+len(nested.Groups)], parts[1+len(nested.Groups):]
			if len(d.Columns) > 0 {
				figures = figures[1:] // without the count of records, which is shown where no total is
			}
			require.Equal(rt, strings.Join(figures, "|"), got[strings.Join(labels, "|")], "%s\n%s", line, sql)
		}
		filled := 0
		for _, cell := range got {
			if strings.Trim(cell, "|") != "" {
				filled++
			}
		}
		require.LessOrEqual(rt, filled, cells, "no cell that PostgreSQL does not have")
	})
}
