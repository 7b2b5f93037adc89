package witness

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
	"gavrik/internal/export"
)

// taken are the fields of claims that values are drawn from; text is only joined and counted,
// because the two order it differently, by intent.
var taken = []string{
	"claimed", "paid", "opened_at", "category", "booking.fare", "booking.passengers", "handler.name",
}

func drawLinkedValue(t *rapid.T, c *catalog.Catalog) view.LinkedValue {
	v := view.LinkedValue{Key: "drawn", Label: "Drawn", Records: "claims", By: "booking.sailing"}
	if rapid.Bool().Draw(t, "some") {
		where := everyField.drawCondition(t, c, 1)
		v.Where = &where
	}
	v.Field = rapid.SampledFrom(taken).Draw(t, "taken")
	ref, err := c.Resolve("claims", v.Field)
	require.NoError(t, err)
	v.Take = rapid.SampledFrom(slices.DeleteFunc(append(view.TakesFor(ref.Field.Type), view.TakeCount, view.TakeAny),
		func(take view.Take) bool {
			ordered := take == view.TakeSmallest || take == view.TakeLargest
			return ordered && ref.Field.Type == catalog.Text || take == view.TakeJoined && ref.Field.Type != catalog.Text
		})).Draw(t, "take")
	if !v.Take.OfField() {
		v.Field = ""
	}
	if v.Take.ByDate() {
		v.Date = rapid.SampledFrom([]string{"opened_at", "closed_at"}).Draw(t, "date")
	}
	return v
}

// linkedValue is what each sailing draws from its claims, in the order of sailings.
func (tr *translator) linkedValue(v view.LinkedValue) string {
	tr.aliases, tr.joins = map[string]string{"": "t0"}, nil
	target := tr.table("claims", []string{"booking", "sailing"}) + ".id"
	where := target + " IS NOT NULL"
	if v.Where != nil {
		where += " AND " + tr.condition("claims", v.Where)
	}
	x, typ, date, held := "1", catalog.Whole, "null", "null::bigint"
	if v.Field != "" {
		column, ref := tr.column("claims", v.Field)
		x, typ = column, ref.Field.Type
		if len(ref.Links) > 0 {
			held = tr.table("claims", ref.Links) + ".id"
		}
	}
	if v.Date != "" {
		date, _ = tr.column("claims", v.Date)
	}
	text := "(%s)::text"
	if typ == catalog.DateTime {
		text = `to_char(%s, 'YYYY-MM-DD"T"HH24:MI:SS')`
	}
	none := map[view.Take]string{view.TakeCount: "0", view.TakeDistinct: "0", view.TakeAny: "false", view.TakeSum: "0"}[v.Take]
	if v.Take == view.TakeSum && typ == catalog.Money {
		none = "0.00"
	}
	const once = " FILTER (WHERE n = 1 OR held IS NULL)" // of a booking that several claims share
	value := map[view.Take]string{
		view.TakeCount: "count(*)::text", view.TakeAny: "'true'", view.TakeSum: "(sum(x)" + once + ")::text",
		view.TakeAverage: "round(avg(x)" + once + ", 2)::text", view.TakeDistinct: "count(DISTINCT x)::text",
		view.TakeSmallest: fmt.Sprintf(text, "min(x)"), view.TakeLargest: fmt.Sprintf(text, "max(x)"),
		view.TakeLatest:   fmt.Sprintf(text, "(array_agg(x ORDER BY at DESC, id DESC) FILTER (WHERE at IS NOT NULL))[1]"),
		view.TakeEarliest: fmt.Sprintf(text, "(array_agg(x ORDER BY at, id) FILTER (WHERE at IS NOT NULL))[1]"),
		view.TakeJoined:   `string_agg(x, ', ' ORDER BY fold(x), x COLLATE "C") FILTER (WHERE first = 1)`,
	}[v.Take]
	return fmt.Sprintf(`WITH b AS (SELECT %s AS target, t0.id, %s AS x, %s AS held, %s AS at FROM claims t0 %s WHERE %s),
		c AS (SELECT *, row_number() OVER (PARTITION BY target, held ORDER BY id) AS n, row_number() OVER (PARTITION BY target, x) AS first FROM b),
		a AS (SELECT target, %s AS v FROM c GROUP BY target)
		SELECT CASE WHEN a.target IS NULL THEN '%s' ELSE coalesce(a.v, '') END FROM sailings s LEFT JOIN a ON a.target = s.id ORDER BY s.id`,
		target, x, held, date, strings.Join(tr.joins, " "), where, value, none)
}

// Values of grandchildren, as columns of each record.
func TestLinkedValuesEqualPostgreSQLs(t *testing.T) {
	conn, loaded, cal := ferry(t)
	_, err := conn.Exec(t.Context(), foldSQL)
	require.NoError(t, err)
	e := engine.New(loaded.Snapshot, loaded.Catalog, engine.Options{})
	rapid.Check(t, func(rt *rapid.T) {
		v := drawLinkedValue(rt, loaded.Catalog)
		d := &view.Document{Gavrik: 1, Records: "sailings", Linked: []view.LinkedValue{v},
			Columns: []view.Column{{Field: "drawn"}}}
		p, err := plan.Check(d, loaded.Catalog, cal)
		if err != nil {
			require.ErrorContains(rt, err, "the range ends before it begins")
			rt.Skip("a range the wrong way round")
		}
		res, err := e.Run(t.Context(), p)
		require.NoError(rt, err)
		tr := &translator{catalog: loaded.Catalog, cal: cal}
		sql := tr.linkedValue(v)
		rows, err := conn.Query(t.Context(), sql, pgx.QueryExecModeSimpleProtocol)
		require.NoError(rt, err, sql)
		want, err := pgx.CollectRows(rows, joined)
		require.NoError(rt, err, sql)
		var got []string
		require.NoError(rt, export.Records(t.Context(), res).EachText(func(row []string) error {
			got = append(got, row[0])
			return nil
		}))
		require.Len(rt, got, len(want))
		for i := range want {
			require.Equal(rt, want[i], got[i], "sailing %d by %s", i, sql)
		}
	})
}
