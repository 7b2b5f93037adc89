package witness

import (
	"fmt"
	"regexp"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
	"gavrik/internal/export"
)

// An expression in both languages. Its values are exact in both; a condition may be
// blank, and counts as no.
type expression struct{ formula, sql string }

func drawNumber(t *rapid.T, depth int) expression {
	fields := []expression{
		{"Claimed", "claimed"}, {"Paid", "paid"}, {"'Booking passengers'", "b.passengers"},
		{"'Booking fare'", "fare"},
	}
	kind := rapid.IntRange(0, 10).Draw(t, "number")
	if depth == 0 || kind < 3 {
		if kind == 0 {
			n := rapid.IntRange(0, 500).Draw(t, "literal")
			text := fmt.Sprintf("%d.%02d", n/100, n%100)
			return expression{text, text}
		}
		return rapid.SampledFrom(fields).Draw(t, "field")
	}
	x, y := drawNumber(t, depth-1), drawNumber(t, depth-1)
	same := func(format string) expression {
		return expression{fmt.Sprintf(format, x.formula, y.formula), fmt.Sprintf(format, x.sql, y.sql)}
	}
	switch kind {
	case 3, 4:
		return same("(%s + %s)")
	case 5:
		return same("(%s - %s)")
	case 6:
		return expression{
			"ROUND(" + x.formula + " * " + y.formula + "; 2)", "round((" + x.sql + " * " + y.sql + ")::numeric, 2)",
		}
	case 7:
		c := drawTruth(t, depth-1)
		return expression{
			fmt.Sprintf("IF(%s; %s; %s)", c.formula, x.formula, y.formula),
			fmt.Sprintf("CASE WHEN %s THEN %s ELSE %s END", c.sql, x.sql, y.sql),
		}
	case 8:
		return same("COALESCE(%s, %s)")
	case 9: // PostgreSQL's pass over nulls as ours pass over blanks
		return expression{"MAX(" + x.formula + "; " + y.formula + ")", "greatest(" + x.sql + ", " + y.sql + ")"}
	}
	return expression{"ABS(-" + x.formula + ")", "abs(-" + x.sql + ")"}
}

func drawTruth(t *rapid.T, depth int) expression {
	x, y := drawNumber(t, 0), drawNumber(t, 0)
	switch rapid.IntRange(0, 4).Draw(t, "truth") {
	case 0:
		return expression{x.formula + " > " + y.formula, "coalesce(" + x.sql + " > " + y.sql + ", false)"}
	case 1:
		return expression{"ISBLANK(" + x.formula + ")", "(" + x.sql + " IS NULL)"}
	case 2:
		return expression{
			"YEAR('Opened at') * 100 + MONTH('Opened at') < 202609",
			"(extract(year FROM opened_at) * 100 + extract(month FROM opened_at) < 202609)",
		}
	case 3:
		return expression{`Status = "open"`, "coalesce(status = 'Open', false)"}
	}
	a := expression{x.formula + " <= " + y.formula, "coalesce(" + x.sql + " <= " + y.sql + ", false)"}
	if depth > 0 {
		b := drawTruth(t, depth-1)
		return expression{"AND(" + a.formula + "; NOT(" + b.formula + "))", "(" + a.sql + " AND NOT " + b.sql + ")"}
	}
	return a
}

// ofClaims finds the claims' own fields in a formula.
var ofClaims = regexp.MustCompile(`Claimed|Paid|Status|Opened at`)

// Formulas worked out by Gavrik give what PostgreSQL gives for the same in SQL, for
// every claim and as totals of every category.
func TestRandomFormulasEqualPostgreSQLs(t *testing.T) {
	conn, loaded, cal := ferry(t)
	e := engine.New(loaded.Snapshot, loaded.Catalog, engine.Options{})
	rapid.Check(t, func(rt *rapid.T) {
		x := drawNumber(rt, 3)
		d := &view.Document{
			Gavrik: 1, Records: "claims", Groups: []view.Group{{Field: "category"}},
			Calculated: []view.Calculated{
				{Key: "made", Label: "Made", Formula: "ROUND(" + x.formula + "; 4)"},
				{Key: "ratio", Label: "Ratio", Formula: "ROUND(SUM(made) / COUNT(Claimed); 3)"},
			},
			Columns: []view.Column{
				{Field: "made", Totals: []view.Total{{Fn: view.Sum}, {Fn: view.Blanks}}}, {Field: "ratio"},
			},
		}
		p, err := plan.Check(d, loaded.Catalog, cal)
		require.NoError(rt, err, x.formula)
		res, err := e.Run(t.Context(), p)
		require.NoError(rt, err)
		require.Empty(rt, res.Problems, "nothing here overflows")
		var got []string
		require.NoError(rt, export.Totals(t.Context(), res).EachText(func(row []string) error {
			got = append(got, strings.Join(row, "|"))
			return nil
		}))
		// What is made of a booking's fields alone counts once for each booking.
		summed := "x"
		if strings.Contains(x.formula, "Booking") && !ofClaims.MatchString(x.formula) {
			summed = "(SELECT DISTINCT ON (x.level, x.category, id) * FROM x)"
		}
		sql := `WITH r AS (SELECT category, b.id, round((` + x.sql + `)::numeric, 4) AS v FROM claims c JOIN bookings b ON b.id = booking_id),
			x AS (SELECT '1' AS level, category, id, v FROM r UNION ALL SELECT '0', '', id, v FROM r),
			s AS (SELECT level, category, sum(v) AS s FROM ` + summed + ` o GROUP BY 1, 2)
			SELECT level, category, count(*)::text, coalesce(s::numeric(30,4)::text, ''), (count(*) - count(v))::text, coalesce(round(s::numeric(60, 20) / count(*), 3)::text, '')
			FROM x JOIN s USING (level, category) GROUP BY level, category, s ORDER BY 1 DESC, 2`
		rows, err := conn.Query(
			t.Context(), strings.ReplaceAll(sql, "status =", "c.status ="), pgx.QueryExecModeSimpleProtocol,
		)
		require.NoError(rt, err, sql)
		want, err := pgx.CollectRows(rows, joined)
		require.NoError(rt, err, sql)
		require.Equal(rt, certain(want), certain(got), "%s\n%s", x.formula, sql)
	})
}

// certain are rows without those of their quotients, which stand last, that are too large for a double to hold
// their third decimal for certain: formulas divide as doubles.
func certain(rows []string) (out []string) {
	const digits = 9 // before the point; a double has 15 that are certain
	for _, row := range rows {
		at := strings.LastIndex(row, "|")
		whole, _, _ := strings.Cut(strings.TrimPrefix(row[at+1:], "-"), ".")
		if len(whole) > digits {
			row = row[:at+1] + "large"
		}
		out = append(out, row)
	}
	return out
}
