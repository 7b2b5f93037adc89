package witness

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
	"gavrik/internal/export"
	"gavrik/internal/localpg/pgtest"
	"gavrik/internal/records"
)

// Databases made at random of what is seldom in one: two schemas with tables of one name,
// keys of texts and of two columns, a table that links to itself, amounts in several
// currencies, long decimals, percentages, names with accents, and moments around the changes
// of a zone's clocks.
const worldSchema = `
CREATE SCHEMA harbour; CREATE SCHEMA archive;
CREATE TABLE archive.piers (code text PRIMARY KEY, label text, toll numeric(8,2));
CREATE TABLE harbour.coins (code text PRIMARY KEY);
CREATE TABLE harbour.piers (code text PRIMARY KEY, label text, coin text REFERENCES harbour.coins, rent numeric(9,2));
COMMENT ON COLUMN harbour.piers.rent IS '(money, coin)';
CREATE TABLE harbour.trips (ref text NOT NULL, leg int, PRIMARY KEY (ref, leg), number text UNIQUE, back text REFERENCES harbour.trips (number),
  pier text REFERENCES harbour.piers, old_pier text REFERENCES archive.piers, left_at timestamptz, état text, coin text,
  paid numeric(9,2), écart numeric, part numeric(5,1));
COMMENT ON COLUMN harbour.trips.paid IS '(money, coin)';
COMMENT ON COLUMN harbour.trips.part IS '(percent)';`

type worldQuestion struct {
	name, view, sql string
}

// amounts writes the sums of amounts by currency as a sheet does: one and its currency, or none
// and all of them, one behind the other.
const amounts = `CASE count(s) WHEN 0 THEN '|' WHEN 1 THEN max(s)::text || '|' || max(coin) FILTER (WHERE s IS NOT NULL)
	ELSE '|' || string_agg(trim(s::text || ' ' || coin), ' + ' ORDER BY coin COLLATE "C") FILTER (WHERE s IS NOT NULL) END`

var worldQuestions = []worldQuestion{
	{"sums of one currency each",
		`"groups":[{"field":"coin"}],"columns":[{"field":"paid","totals":[{"fn":"sum"}]}]`,
		`SELECT '1', coalesce(coin, ''), sum(n)::text, coalesce(` + amounts + `, '') FROM (SELECT coin AS g, coalesce(coin, '') AS coin, sum(paid) AS s, count(*) AS n FROM trips GROUP BY trips.coin) x GROUP BY x.g, x.coin`},
	{"sums of several currencies",
		`"groups":[{"field":"état"}],"columns":[{"field":"paid","totals":[{"fn":"sum"}]}]`,
		`SELECT '1', coalesce(g, ''), sum(n)::text, coalesce(` + amounts + `, '') FROM (SELECT état AS g, coalesce(coin, '') AS coin, sum(paid) AS s, count(*) AS n FROM trips GROUP BY 1, 2) x GROUP BY g`},
	{"a linked amount once, by currency, in a formula",
		`"groups":[{"field":"état"}],"columns":[{"field":"twice"}],"calculated":[{"key":"twice","label":"Twice","formula":"SUM('Pier rent' * 2)"}]`,
		`WITH once AS (SELECT DISTINCT état, p.code, coalesce(p.coin, '') AS coin, p.rent FROM trips LEFT JOIN piers p ON p.code = pier),
			sums AS (SELECT état, coin, 2 * sum(rent) AS s FROM once WHERE rent IS NOT NULL GROUP BY 1, 2)
			SELECT '1', coalesce(t.état, ''), count(*)::text, coalesce((SELECT replace(` + amounts + `, ' + ', ' and ') FROM sums WHERE sums.état IS NOT DISTINCT FROM t.état), '') FROM trips t GROUP BY t.état`},
	{"a table of the other schema",
		`"groups":[{"field":"old_pier.label"}],"columns":[{"field":"toll"}],"calculated":[{"key":"toll","label":"Toll a pier","formula":"SUM('Old pier toll') / COUNT('Old pier toll') - AVERAGE('Old pier toll') + SUM('Old pier toll')","decimals":2}]`,
		`WITH once AS (SELECT DISTINCT p.label, p.code, p.toll FROM trips LEFT JOIN archive.piers p ON p.code = old_pier)
			SELECT '1', coalesce(p.label, ''), count(*)::text, coalesce((SELECT round(avg(toll) - round(avg(toll), 2) + sum(toll), 2) FROM once o WHERE o.label IS NOT DISTINCT FROM p.label)::text, '')
			FROM trips LEFT JOIN archive.piers p ON p.code = old_pier GROUP BY p.label`},
	{"a trip's way back",
		`"groups":[{"field":"back.état"}],"columns":[{"field":"later"}],"calculated":[{"key":"later","label":"Later","formula":"COUNT(IF('Back left at' > 'Left at'; 1))"}]`,
		`SELECT '1', coalesce(b.état, ''), count(*)::text, count(*) FILTER (WHERE b.left_at > t.left_at)::text FROM trips t LEFT JOIN trips b ON b.number = t.back GROUP BY b.état`},
	{"days of the clock", `"groups":[{"field":"left_at","unit":"day"}],"columns":[]`,
		`SELECT '1', coalesce((left_at AT TIME ZONE zone())::date::text, ''), count(*)::text FROM trips GROUP BY 2`},
	{"weekdays", `"groups":[{"field":"left_at","unit":"weekday"}],"columns":[]`,
		`SELECT '1', coalesce(to_char(left_at AT TIME ZONE zone(), 'FMDay'), ''), count(*)::text FROM trips GROUP BY 2`},
	{"hours", `"groups":[{"field":"left_at","unit":"hour"}],"columns":[]`,
		`SELECT '1', coalesce(extract(hour FROM left_at AT TIME ZONE zone())::int::text, ''), count(*)::text FROM trips GROUP BY 2`},
	{"long decimals",
		`"groups":[{"field":"état"}],"columns":[{"field":"écart","totals":[{"fn":"filled"},{"fn":"sum"}]}]`,
		`SELECT '1', coalesce(état, ''), count(*)::text, count(écart) FILTER (WHERE scale(trim_scale(écart)) <= 9)::text,
			coalesce(round(sum(écart) FILTER (WHERE scale(trim_scale(écart)) <= 9), least(9, (SELECT max(scale(écart)) FROM trips)))::text, '') FROM trips GROUP BY état`},
	{"percentages",
		`"groups":[{"field":"état"}],"columns":[{"field":"rounded"}],"calculated":[{"key":"rounded","label":"Rounded","formula":"SUM(ROUND(Part; 1) + MOD(Part; 1))"}]`,
		`SELECT '1', coalesce(état, ''), count(*)::text, coalesce(sum(round(part / 100, 1) + (part / 100 - floor(part / 100)))::numeric(20,3)::text, '') FROM trips GROUP BY état`},
}

// asked is the rows of a view's totals but the grand total, as texts.
func asked(t *testing.T, e *engine.Engine, l *records.Loaded, cal calendar.Calendar, text string) []string {
	doc, err := view.Parse([]byte(text))
	require.NoError(t, err)
	p, err := plan.Check(doc, l.Catalog, cal)
	require.NoError(t, err)
	res, err := e.Run(t.Context(), p)
	require.NoError(t, err)
	var out []string
	require.NoError(t, export.Totals(t.Context(), res).EachText(func(row []string) error {
		if row[0] != "0" {
			out = append(out, strings.Join(row, "|"))
		}
		return nil
	}))
	return out
}

func TestRandomDatabasesGiveWhatPostgreSQLGives(t *testing.T) {
	zones := []string{
		"Atlantic/Azores", "America/Havana", "America/Santiago", "America/Asuncion", "America/Sao_Paulo",
		"America/St_Johns",
	}
	for seed, name := range zones {
		t.Run(name, func(t *testing.T) {
			r := rand.New(rand.NewPCG(uint64(seed), 2))
			zone, err := time.LoadLocation(name)
			require.NoError(t, err)
			url := pgtest.Database(t)
			conn, err := pgx.Connect(t.Context(), url)
			require.NoError(t, err)
			defer conn.Close(t.Context())
			_, err = conn.Exec(
				t.Context(),
				worldSchema+"SET search_path = harbour; CREATE FUNCTION zone() RETURNS text LANGUAGE sql IMMUTABLE AS $$ SELECT '"+name+"' $$;",
			)
			require.NoError(t, err)
			fillWorld(t, conn, r, zone)
			l, err := records.Load(t.Context(), records.Database(url, "harbour", "archive"), records.Settings{Zone: name})
			require.NoError(t, err)
			e := engine.New(l.Snapshot, l.Catalog, engine.Options{})
			cal := calendar.Calendar{
				Now: time.Date(2010, 11, 23, 9, 0, 0, 0, time.UTC), Zone: zone, WeekStart: time.Monday,
			}
			for _, q := range worldQuestions {
				got := asked(t, e, l, cal, `{"gavrik":1,"records":"trips",`+q.view+`}`)
				rows, _ := conn.Query(t.Context(), q.sql) // CollectRows returns its error
				want, err := pgx.CollectRows(rows, func(row pgx.CollectableRow) (string, error) {
					values, err := row.Values()
					cells := make([]string, len(values))
					for i, v := range values {
						cells[i] = fmt.Sprint(v)
					}
					return strings.Join(cells, "|"), err
				})
				require.NoError(t, err, q.name)
				require.ElementsMatch(t, want, got, q.name)
			}
			theDaysAgree(t, e, l, cal)
			linkedSums(t, conn, e, l, cal)
		})
	}
}

// theDaysAgree holds the filter for each day against the group of that day.
func theDaysAgree(t *testing.T, e *engine.Engine, l *records.Loaded, cal calendar.Calendar) {
	for _, line := range asked(
		t, e, l, cal, `{"gavrik":1,"records":"trips","columns":[],"groups":[{"field":"left_at","unit":"day"}]}`,
	) {
		cells := strings.Split(line, "|")
		if cells[1] == "" {
			continue
		}
		of := asked(
			t, e, l, cal,
			`{"gavrik":1,"records":"trips","columns":[],"groups":[{"field":"left_at","unit":"day"}],"filter":{"field":"left_at","op":"is","value":"`+cells[1]+`"}}`,
		)
		require.Equal(t, []string{line}, of)
	}
}

// linkedSums tests the sums of a pier's trips, which have none in several currencies.
func linkedSums(t *testing.T, conn *pgx.Conn, e *engine.Engine, l *records.Loaded, cal calendar.Calendar) {
	got := asked(
		t, e, l, cal,
		`{"gavrik":1,"records":"piers","columns":[],"groups":[{"field":"code"}],"filter":{"linked":{"records":"trips","by":"pier","test":"sum","field":"paid","op":"over","value":"100"}}}`,
	)
	rows, _ := conn.Query(t.Context(), `SELECT '1|' || pier || '|1' FROM trips WHERE pier IS NOT NULL AND paid IS NOT NULL GROUP BY pier
		HAVING count(DISTINCT coalesce(coin, '')) = 1 AND sum(paid) > 100`)
	want, err := pgx.CollectRows(rows, pgx.RowTo[string])
	require.NoError(t, err)
	require.ElementsMatch(t, want, got)
}

// fillWorld makes random records.
func fillWorld(t *testing.T, conn *pgx.Conn, r *rand.Rand, zone *time.Location) {
	maybe := func(v any) any {
		if r.IntN(6) == 0 {
			return nil
		}
		return v
	}
	one := func(of ...any) any { return maybe(of[r.IntN(len(of))]) }
	_, err := conn.Exec(t.Context(), `INSERT INTO coins VALUES ('EUR'), ('GBP'), ('SEK');
		INSERT INTO archive.piers VALUES ('a''b', 'old one', 2.5), ('É', 'old two', 4.35), ('q', 'old one', NULL);`)
	require.NoError(t, err)
	piers := []any{"a'b", "É", "long pier", "z", "y"}
	for _, code := range piers {
		_, err := conn.Exec(
			t.Context(), "INSERT INTO piers VALUES ($1, $2, $3, $4)", code, one("Quay", "quay", "Été"),
			one("EUR", "GBP"), maybe(float64(r.IntN(90000))/100),
		)
		require.NoError(t, err)
	}
	coins := []any{"EUR", "GBP", "SEK"}[:1+r.IntN(3)]
	for i := range 400 {
		// Around the changes of the clocks in autumn, when most of these zones had them.
		_, change := time.Date(
			2005+r.IntN(6), time.Month(1+r.IntN(12)), 1, 0, 0, 0, 0, time.UTC,
		).In(zone).ZoneBounds()
		if change.IsZero() {
			change = time.Date(2009, 3, 1, 0, 0, 0, 0, time.UTC)
		}
		at := change.Add(time.Duration(r.IntN(2*86400)-86400) * time.Second)
		var back any
		if i > 0 {
			back = maybe(fmt.Sprint("N", r.IntN(i)))
		}
		écart := one("0.5", "1000.000000000999", "-3.123456789", "7", "0.1234567891")
		_, err := conn.Exec(t.Context(), `INSERT INTO trips VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10::text::numeric, $11::text::numeric, $12::text::numeric)`,
			fmt.Sprint("T", i/2), i%2, fmt.Sprint("N", i), back, maybe(piers[r.IntN(len(piers))]),
			one("a'b", "É", "q"), maybe(at),
			one("plein", "Vide"), maybe(coins[r.IntN(len(coins))]), maybe(fmt.Sprintf(
				"%.2f", float64(r.IntN(20000)-2000)/100,
			)), écart, maybe(fmt.Sprintf("%.1f", float64(r.IntN(3000)-500)/10)))
		require.NoError(t, err)
	}
}
