package witness

import (
	"fmt"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"gavrik/internal/core/engine"
	"gavrik/internal/core/format"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// Each function gives, for every claim, what PostgreSQL gives for the same said in SQL.
// Where a function has no like in SQL, it is said by its definition.
func TestFunctionsEqualPostgreSQLs(t *testing.T) {
	conn, loaded, cal := ferry(t)
	e := engine.New(loaded.Snapshot, loaded.Catalog, engine.Options{})
	opened, closed := "opened_at::date", "closed_at::date"
	months := "(extract(year FROM age(" + closed + ", " + opened + ")) * 12 + extract(month FROM age(" + closed + ", " + opened + ")))"
	for source, sql := range map[string]string{
		"SIGN(Claimed - 80)":                      "sign(claimed - 80)::int",
		"INT(40 - Claimed)":                       "floor(40 - claimed)::int",
		"CEILING(Claimed; 25)":                    "(ceil(claimed / 25) * 25)::numeric(20,2)",
		"FLOOR(40 - Claimed; 2.5)":                "(floor((40 - claimed) / 2.5) * 2.5)::numeric(20,2)",
		"ROUNDUP(Claimed; 1)":                     "(ceil(claimed * 10) / 10)::numeric(20,1)",
		"ROUNDDOWN(Claimed; 1)":                   "trunc(claimed, 1)",
		"MOD(Claimed; 7)":                         "mod(claimed, 7)",
		"ROUND(LN(Claimed); 6)":                   "round(ln(claimed), 6)",
		"ROUND(LOG(Claimed; 2); 6)":               "round(log(2, claimed), 6)",
		"ROUND(EXP(Claimed / 500); 6)":            "round(exp(claimed / 500), 6)",
		"ROUND(POWER(Claimed; 0.5); 6)":           "round(sqrt(claimed), 6)",
		"LEFT(Ref; 3) & RIGHT(Ref; 2)":            "left(ref, 3) || right(ref, 2)",
		"MID(Category; 3; 4)":                     "substr(category, 3, 4)",
		"LEN(Note)":                               "nullif(length(note), 0)",
		"UPPER(Category) & LOWER(Status)":         "upper(category) || coalesce(lower(c.status), '')",
		"PROPER(Note)":                            "initcap(note)",
		`FIND("e"; Category)`:                     "nullif(position('e' IN category), 0)",
		`SEARCH("L"; Category)`:                   "nullif(position('l' IN lower(category)), 0)",
		`SUBSTITUTE(Category; "a"; "oo")`:         "replace(category, 'a', 'oo')",
		`REPLACE(Ref; 2; 3; "-")`:                 "overlay(ref PLACING '-' FROM 2 FOR 3)",
		`CONTAINS(Note; "the")`:                   "note ILIKE '%the%'",
		`STARTSWITH(Category; "l")`:               "category ILIKE 'l%'",
		"VALUE(RIGHT(Ref; 3)) + 0":                "right(ref, 3)::int",
		`SWITCH(Status; "open"; 1; "PAID"; 2; 0)`: "CASE lower(c.status) WHEN 'open' THEN 1 WHEN 'paid' THEN 2 ELSE 0 END",
		"IFS(Claimed > 200; 3; Claimed > 50; 2)":  "CASE WHEN claimed > 200 THEN 3 WHEN claimed > 50 THEN 2 END",
		"HOUR('Opened at') * 10000 + MINUTE('Opened at') * 100 + SECOND('Opened at')": "to_char(opened_at, 'HH24MISS')::int",
		"WEEKDAY('Opened at'; 2) * 100 + ISOWEEKNUM('Opened at')":                     "extract(isodow FROM opened_at)::int * 100 + extract(week FROM opened_at)::int",
		"WEEKDAY('Opened at')":                                "extract(dow FROM opened_at)::int + 1",
		"DATE(YEAR('Opened at'); MONTH('Opened at'); 1)":      "date_trunc('month', opened_at)::date",
		"EDATE('Opened at'; -13)":                             "(" + opened + " - interval '13 months')::date",
		"EOMONTH('Opened at'; 2)":                             "(date_trunc('month', opened_at) + interval '3 months')::date - 1",
		"DAYS('Closed at'; 'Opened at')":                      closed + " - " + opened,
		`DATEDIF('Opened at'; 'Closed at'; "m")`:              months + "::int",
		`DATEDIF('Opened at'; 'Closed at'; "md")`:             closed + " - (" + opened + " + make_interval(months => " + months + "::int))::date",
		`DATEDIF(EDATE('Opened at'; -500); 'Opened at'; "y")`: "extract(year FROM age(" + opened + ", (" + opened + " - interval '500 months')::date))::int",
		"NETWORKDAYS('Opened at'; 'Closed at')":               "CASE WHEN closed_at IS NOT NULL THEN (SELECT count(*)::int FROM generate_series(" + opened + ", " + closed + ", interval '1 day') d WHERE extract(isodow FROM d) < 6) END",
		"ROUND(HOURS('Closed at' - 'Opened at'); 4)":          "round(extract(epoch FROM closed_at - opened_at) / 3600, 4)",
		`TEXT('Opened at'; "yyyy-mm-dd hh:mm")`:               "to_char(opened_at, 'YYYY-MM-DD HH24:MI')",
		`TEXT('Opened at'; "ddd d mmmm yy")`:                  "to_char(opened_at, 'Dy FMDD FMMonth YY')",
		`TEXT(Claimed * 10; "#,##0.0")`:                       "to_char(claimed * 10, 'FM999,999,990.0')",
	} {
		p, err := plan.Check(&view.Document{
			Gavrik: 1, Records: "claims", Sort: []view.Sort{{Field: "ref"}},
			Calculated: []view.Calculated{{Key: "made", Label: "Made", Formula: source}},
			Columns:    []view.Column{{Field: "ref"}, {Field: "made"}},
		}, loaded.Catalog, cal)
		require.NoError(t, err, source)
		res, err := e.Run(t.Context(), p)
		require.NoError(t, err)
		require.Empty(t, res.Problems, source)
		win, err := res.Window(t.Context(), result.Open{}, 0, res.Kept)
		require.NoError(t, err)
		pen := res.Pen(format.Plain)
		got := make([]string, 0, res.Kept)
		for _, l := range win.Lines {
			got = append(got, strings.Join(pen.Cells(l), "|"))
		}
		rows, err := conn.Query(
			t.Context(), "SELECT ref, coalesce(("+sql+")::text, '') FROM claims c ORDER BY ref",
			pgx.QueryExecModeSimpleProtocol,
		)
		require.NoError(t, err, sql)
		want, err := pgx.CollectRows(rows, joined)
		require.NoError(t, err, sql)
		require.Len(t, got, len(want))
		for i := range want { // one line says enough
			require.Equal(t, want[i], got[i], "%s\n%s", source, sql)
		}
	}
}

// Every example of the reference is a formula that works over some record set of the
// ferry company.
func TestExamplesOfTheReferenceCompile(t *testing.T) {
	_, loaded, cal := ferry(t)
	for _, c := range formula.Chapters() {
		for _, f := range c.Functions {
			var faults []string
			for _, set := range []string{"claims", "bookings", "sailings", "customers"} {
				_, err := plan.Check(&view.Document{
					Gavrik: 1, Records: set, Calculated: []view.Calculated{{Key: "made", Label: "Made", Formula: f.Example}},
				}, loaded.Catalog, cal)
				if err == nil {
					faults = nil
					break
				}
				faults = append(faults, fmt.Sprintf("%s: %v", set, err))
			}
			require.Empty(t, faults, "%s: %s", f.Name, f.Example)
			require.Contains(t, f.Example, f.Name+"(")
		}
	}
}

// A definition of a linked record set counts each of its records once, and can be
// filtered and grouped by, as PostgreSQL does by a join.
func TestADefinitionThroughLinks(t *testing.T) {
	conn, loaded, cal := ferry(t)
	defs := plan.Definitions{"bookings": plan.DefinedBy(view.Document{
		Calculated: []view.Calculated{{Key: "each", Label: "Fare each", Formula: "ROUND(Fare / Passengers; 2)"}},
		Buckets: []view.Bucket{
			{
				Key: "party", Label: "Party", Of: "passengers",
				Bands: []view.Band{{Below: "2"}, {From: "2", Below: "5"}, {From: "5"}},
			},
		},
	})}
	p, err := plan.CheckWith(&view.Document{
		Gavrik: 1, Records: "claims", Filter: &view.Condition{Field: "booking.each", Op: view.Over, Value: "30"},
		Calculated: []view.Calculated{{Key: "part", Label: "Part", Formula: "Claimed / 'Booking fare each'"}},
		Groups:     []view.Group{{Field: "booking.party"}},
		Columns: []view.Column{
			{Field: "booking.each", Totals: []view.Total{{Fn: view.Sum}}},
			{Field: "part", Totals: []view.Total{{Fn: view.CountFilled}}},
		},
	}, loaded.Catalog, defs, cal)
	require.NoError(t, err)
	require.Equal(t, [][2]string{{"bookings", "each"}, {"bookings", "party"}}, p.Uses())
	res, err := engine.New(loaded.Snapshot, loaded.Catalog, engine.Options{}).Run(t.Context(), p)
	require.NoError(t, err)
	var got []string
	pen := res.Pen(format.Plain)
	require.NoError(t, res.EachGroup(t.Context(), result.Groups{}, func(g result.GroupLine) error {
		if g.Level == 1 {
			got = append(
				got, strings.Join(append([]string{pen.Label(g.Line), fmt.Sprint(g.Count)}, pen.Cells(g.Line)...), "|"),
			)
		}
		return nil
	}))
	rows, err := conn.Query(t.Context(), `WITH b AS (SELECT id, round(fare / passengers, 2) AS each, CASE WHEN passengers < 2 THEN 'under 2' WHEN passengers < 5 THEN '2 to 4' ELSE '5 and over' END AS party FROM bookings),
		x AS (SELECT b.* FROM claims JOIN b ON b.id = booking_id WHERE each > 30)
		SELECT party, count(*)::text, (SELECT sum(each) FROM (SELECT DISTINCT id, each FROM x y WHERE y.party = x.party) once)::text, count(each)::text
		FROM x GROUP BY party ORDER BY CASE party WHEN 'under 2' THEN 1 WHEN '2 to 4' THEN 2 ELSE 3 END`, pgx.QueryExecModeSimpleProtocol)
	require.NoError(t, err)
	want, err := pgx.CollectRows(rows, joined)
	require.NoError(t, err)
	require.Equal(t, want, got)
}
