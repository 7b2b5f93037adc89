// Package witness holds Gavrik's answers against PostgreSQL's own to equivalent
// queries over the ferry company's records.
package witness

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
	"gavrik/internal/demo"
	"gavrik/internal/export"
	"gavrik/internal/localpg/pgtest"
	"gavrik/internal/records"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

// today is the day the records are made for and the views run on.
var today = time.Date(2026, 11, 23, 9, 0, 0, 0, time.UTC)

// hms writes an interval as a plain cell.
const helpers = `
CREATE FUNCTION hms(i interval) RETURNS text LANGUAGE sql AS $$
  SELECT CASE WHEN s < 0 THEN '-' ELSE '' END || (e / 3600)::text || ':' || lpad((e / 60 % 60)::text, 2, '0') || ':' || lpad((e % 60)::text, 2, '0')
  FROM (SELECT s, abs(s) AS e FROM (SELECT round(extract(epoch FROM i))::bigint AS s) x) y $$;
SET search_path = ferry, public;
SET timezone = 'Europe/Lisbon';`

// A question is asked of both. totals asks for the group lines, else for the
// records; ordered compares the order too.
type question struct {
	name            string
	view            string
	totals, ordered bool
	sql             string
}

var questions = []question{
	{
		name: "filter with all, any and none", totals: true,
		view: `{"gavrik":1,"records":"bookings","columns":[{"field":"fare","totals":[{"fn":"sum"}]}],"filter":{"all":[
			{"field":"status","op":"none_of","values":["Cancelled","no-show"]},
			{"any":[{"field":"fare","op":"over","value":"499.995"},{"field":"discount","op":"at_least","value":"15"}]},
			{"none":[{"field":"channel","op":"is","value":"WEB"},{"field":"note","op":"contains","value":"wheelchair"}]}]}}`,
		sql: `SELECT '0', count(*)::text, sum(fare)::text FROM bookings WHERE status NOT IN ('Cancelled', 'No-show')
			AND (fare > 499.995 OR coalesce(discount, 0) >= 15) AND NOT (channel = 'Web' OR coalesce(note, '') ILIKE '%wheelchair%')`,
	},
	{
		name: "negative tests keep blanks", totals: true,
		view: `{"gavrik":1,"records":"claims","columns":[],"filter":{"all":[{"field":"status","op":"is_not","value":"Settled"},{"field":"handler.name","op":"not_contains","value":"a"}]}}`,
		sql: `SELECT '0', count(*)::text FROM claims c LEFT JOIN staff s ON s.id = c.handler_id
			WHERE c.status IS DISTINCT FROM 'Settled' AND (s.name IS NULL OR translate(lower(s.name), 'àáâãäåéöøô', 'aaaaaaeooo') NOT LIKE '%a%')`,
	},
	{
		name: "three levels with every kind of total", totals: true,
		view: `{"gavrik":1,"records":"bookings","groups":[{"field":"sailing.route.name"},{"field":"channel"},{"field":"status"}],"columns":[
			{"field":"fare","totals":[{"fn":"sum"},{"fn":"average"},{"fn":"median"},{"fn":"smallest"},{"fn":"largest"}]},
			{"field":"customer.ref","totals":[{"fn":"distinct"}]},{"field":"discount","totals":[{"fn":"filled"},{"fn":"blanks"},{"fn":"average"}]}]}`,
		sql: `SELECT (3 - (grouping(r.name) + grouping(channel) + grouping(b.status)))::text, coalesce(r.name, ''), coalesce(channel, ''), coalesce(b.status, ''), count(*)::text,
			sum(fare)::text, round(avg(fare), 2)::text, round((percentile_cont(0.5) WITHIN GROUP (ORDER BY fare))::numeric, 2)::text,
			min(fare)::text, max(fare)::text, count(DISTINCT customer_id)::text, count(discount)::text, (count(*) - count(discount))::text,
			coalesce(round(avg(discount), 2)::text, '')
			FROM bookings b JOIN sailings s ON s.id = sailing_id JOIN routes r ON r.id = route_id GROUP BY ROLLUP (r.name, channel, b.status)`,
	},
	{
		name: "months of moments in the workspace's zone", totals: true, ordered: true,
		view: `{"gavrik":1,"records":"payments","groups":[{"field":"paid_at","unit":"month"}],"columns":[{"field":"amount","totals":[{"fn":"sum"}]}]}`,
		sql: `(SELECT '1', date_trunc('month', paid_at)::date::text, count(*)::text, sum(amount)::text FROM payments GROUP BY 2 ORDER BY 2)
			UNION ALL SELECT '0', '', count(*)::text, sum(amount)::text FROM payments`,
	},
	{
		name: "weeks", totals: true,
		view: `{"gavrik":1,"records":"inspections","groups":[{"field":"inspected_on","unit":"week"}],"columns":[{"field":"score","totals":[{"fn":"average"}]}]}`,
		sql: `SELECT (1 - grouping(w))::text, coalesce(w, ''), count(*)::text, coalesce(round(avg(score), 2)::text, '')
			FROM (SELECT date_trunc('week', inspected_on)::date::text AS w, score FROM inspections) x GROUP BY GROUPING SETS ((w), ())`,
	},
	{
		name: "fiscal quarters from April", totals: true,
		view: `{"gavrik":1,"records":"claims","groups":[{"field":"opened_at","unit":"fiscal_year"},{"field":"opened_at","unit":"fiscal_quarter"}],"columns":[]}`,
		sql: `WITH q AS (SELECT (date_trunc('year', opened_at - interval '3 months') + interval '3 months')::date::text AS y,
			date_trunc('quarter', opened_at)::date::text AS q FROM claims)
			SELECT (2 - grouping(y) - grouping(q))::text, coalesce(y, ''), coalesce(q, ''), count(*)::text FROM q GROUP BY ROLLUP (y, q)`,
	},
	{
		name: "the last six full months", totals: true,
		view: `{"gavrik":1,"records":"bookings","columns":[{"field":"passengers","totals":[{"fn":"sum"}]}],"filter":{"field":"sailing.departs_at","op":"in","period":{"which":"past","unit":"month","n":6}}}`,
		sql: `SELECT '0', count(*)::text, sum(b.passengers)::text FROM bookings b JOIN sailings s ON s.id = sailing_id
			WHERE departs_at >= '2026-05-01' AND departs_at < '2026-11-01'`,
	},
	{
		name: "before the last 90 days, blanks not in it", totals: true,
		view: `{"gavrik":1,"records":"claims","columns":[],"filter":{"all":[{"field":"opened_at","op":"in","period":{"which":"older","unit":"day","n":90}},{"field":"closed_at","op":"not_in","period":{"which":"this","unit":"year"}}]}}`,
		sql: `SELECT '0', count(*)::text FROM claims WHERE opened_at < date '2026-11-23' - 89
			AND (closed_at IS NULL OR NOT (closed_at >= '2026-01-01' AND closed_at < '2027-01-01'))`,
	},
	{
		name: "durations", totals: true,
		view: `{"gavrik":1,"records":"sailings","groups":[{"field":"vessel.name"}],"columns":[{"field":"delay","totals":[{"fn":"sum"},{"fn":"average"},{"fn":"largest"}]}],"filter":{"field":"delay","op":"over","value":"0:15"}}`,
		sql: `SELECT (1 - grouping(name))::text, coalesce(name, ''), count(*)::text, hms(sum(delay)), hms(avg(delay)), hms(max(delay))
			FROM sailings JOIN vessels v ON v.id = vessel_id WHERE delay > '15 minutes' GROUP BY GROUPING SETS ((name), ())`,
	},
	{
		name: "a booking's fare counts once however many lines it has", totals: true,
		view: `{"gavrik":1,"records":"booking_lines","groups":[{"field":"kind"}],"columns":[{"field":"booking.fare","totals":[{"fn":"sum"},{"fn":"average"}]},{"field":"amount","totals":[{"fn":"sum"}]}]}`,
		sql: `WITH l AS (SELECT l.kind, l.amount, b.id, b.fare FROM booking_lines l JOIN bookings b ON b.id = booking_id),
			once AS (SELECT DISTINCT ON (kind, id) kind, fare FROM l), ever AS (SELECT DISTINCT ON (id) fare FROM l)
			SELECT '1', l.kind, count(*)::text, (SELECT sum(fare) FROM once o WHERE o.kind = l.kind)::text, (SELECT round(avg(fare), 2) FROM once o WHERE o.kind = l.kind)::text, sum(amount)::text FROM l GROUP BY l.kind
			UNION ALL SELECT '0', '', count(*)::text, (SELECT sum(fare) FROM ever)::text, (SELECT round(avg(fare), 2) FROM ever)::text, sum(amount)::text FROM l`,
	},
	{
		name: "groups by a total, largest first", totals: true, ordered: true,
		view: `{"gavrik":1,"records":"claims","groups":[{"field":"category","order":{"by":"total","field":"claimed","fn":"sum","desc":true}}],"columns":[{"field":"claimed","totals":[{"fn":"sum"}]}]}`,
		sql: `(SELECT '1', category, count(*)::text, sum(claimed)::text FROM claims GROUP BY 2 ORDER BY sum(claimed) DESC)
			UNION ALL SELECT '0', '', count(*)::text, sum(claimed)::text FROM claims`,
	},
	{
		name: "records by two keys, blanks last", ordered: true,
		view: `{"gavrik":1,"records":"claims","columns":[{"field":"ref"},{"field":"closed_at"},{"field":"claimed"}],"sort":[{"field":"closed_at","desc":true},{"field":"claimed"},{"field":"ref"}]}`,
		sql:  `SELECT ref, coalesce(to_char(closed_at, 'YYYY-MM-DD"T"HH24:MI:SS'), ''), claimed::text FROM claims ORDER BY claims.closed_at DESC NULLS LAST, claims.claimed, ref`,
	},
	{
		name: "numbers in texts order as numbers",
		view: `{"gavrik":1,"records":"vessels","columns":[{"field":"name"},{"field":"built_on"},{"field":"in_service"},{"field":"certificate_expires_on"}]}`,
		sql:  `SELECT name, built_on::text, in_service::text, coalesce(certificate_expires_on::text, '') FROM vessels`,
	},
	{
		name: "four links away, compared field with field",
		view: `{"gavrik":1,"records":"claims","columns":[{"field":"ref"},{"field":"booking.sailing.route.from_port.country"},{"field":"booking.customer.country"}],"filter":{"all":[
			{"field":"booking.customer.country","op":"is","other":"booking.sailing.route.from_port.country"},{"field":"paid","op":"under","other":"claimed"}]}}`,
		sql: `SELECT c.ref, p.country, u.country FROM claims c JOIN bookings b ON b.id = booking_id JOIN customers u ON u.id = customer_id JOIN sailings s ON s.id = sailing_id
			JOIN routes r ON r.id = route_id JOIN ports p ON p.id = from_port_id WHERE u.country = p.country AND c.paid < c.claimed`,
	},
	{
		name: "summer and winter days", totals: true,
		view: `{"gavrik":1,"records":"sailings","groups":[{"field":"departs_at","unit":"day"}],"columns":[{"field":"passengers","totals":[{"fn":"largest"}]}],"filter":{"field":"departs_at","op":"between","value":"2026-03-20","to":"2026-04-10"}}`,
		sql: `SELECT (1 - grouping(d))::text, coalesce(d, ''), count(*)::text, max(passengers)::text FROM (SELECT departs_at::date::text AS d, passengers FROM sailings
			WHERE departs_at >= '2026-03-20' AND departs_at < '2026-04-11') x GROUP BY GROUPING SETS ((d), ())`,
	},
}

// ferry makes and loads a smaller ferry company, read in a zone with summer time.
func ferry(t *testing.T) (*pgx.Conn, *records.Loaded, calendar.Calendar) {
	t.Helper()
	url := pgtest.Database(t)
	conn, err := records.Connect(t.Context(), url)
	require.NoError(t, err)
	t.Cleanup(func() { _ = conn.Close(context.Background()) })
	made, err := demo.Ensure(t.Context(), conn, today, demo.Size{
		Sailings: 2500, Customers: 7000, Bookings: 24_000, Claims: 2500,
	})
	require.NoError(t, err)
	require.True(t, made)
	_, err = conn.Exec(t.Context(), helpers)
	require.NoError(t, err)
	zone, err := time.LoadLocation("Europe/Lisbon")
	require.NoError(t, err)
	loaded, err := records.Load(t.Context(), records.Database(url, demo.Schema), records.Settings{Zone: "Europe/Lisbon"})
	require.NoError(t, err)
	return conn, loaded, calendar.Calendar{
		Now: today, Zone: zone, WeekStart: time.Monday, FiscalStart: time.April,
	}
}

func TestAnswersEqualPostgreSQLs(t *testing.T) {
	conn, loaded, cal := ferry(t)
	e := engine.New(loaded.Snapshot, loaded.Catalog, engine.Options{})
	for _, q := range slices.Concat(questions, shapes) {
		t.Run(q.name, func(t *testing.T) {
			doc, err := view.Parse([]byte(q.view))
			require.NoError(t, err)
			p, err := plan.Check(doc, loaded.Catalog, cal)
			require.NoError(t, err)
			res, err := e.Run(t.Context(), p)
			require.NoError(t, err)
			require.Empty(t, res.Check.Wrong)
			sheet := export.Records(t.Context(), res)
			if q.totals {
				sheet = export.Totals(t.Context(), res)
			}
			var got []string
			require.NoError(t, sheet.EachText(func(row []string) error {
				got = append(got, strings.Join(row, "|"))
				return nil
			}))
			want := ask(t, conn, q.sql)
			require.NotEmpty(t, want)
			if !q.ordered {
				slices.Sort(got)
				slices.Sort(want)
			}
			for i := range min(len(want), len(got)) {
				require.Equal(t, want[i], got[i], "line %d", i) // the first is enough to read
			}
			require.Len(t, got, len(want))
		})
	}
}

// ask returns the rows of a query of texts, each joined like a sheet's.
func ask(t *testing.T, conn *pgx.Conn, sql string) []string {
	rows, err := conn.Query(t.Context(), sql)
	require.NoError(t, err)
	out, err := pgx.CollectRows(rows, joined)
	require.NoError(t, err)
	return out
}

// joined writes a row of texts as a sheet's row is written here.
func joined(row pgx.CollectableRow) (string, error) {
	values, err := row.Values()
	var cells []string
	for _, v := range values {
		cells = append(cells, fmt.Sprint(v))
	}
	return strings.Join(cells, "|"), err
}
