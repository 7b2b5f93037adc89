package witness

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/description"
	"gavrik/internal/core/table"
	"gavrik/internal/localpg/pgtest"
	"gavrik/internal/records"
)

// A kept value, how people say to read it, and what PostgreSQL makes of it.
var readings = []struct {
	name, kept string // column and its type
	draw       func(t *rapid.T, label string) string
	words      description.FieldWords
	meant      string // expression over the column
	lost       string // condition of values that cannot be read
}{
	{"whole", "text", pattern("-?[0-9]{1,17}", "x7", "1.5"), retyped(catalog.Whole, ""), "%s::bigint", "%s !~ '^-?[0-9]+$'"},
	{"point", "text", pattern(`-?[0-9]{1,9}(\.[0-9]{1,6})?`, "1,234.5", "12,34"), retyped(catalog.Decimal, "point"),
		"replace(%s, ',', '')::numeric(20,6)", "%s = '12,34'"},
	{"comma", "text", pattern(`-?[0-9]{1,9}(,[0-9]{1,4})?`, "1.234,5", "1.2"), retyped(catalog.Money, "comma"),
		"replace(replace(%s, '.', ''), ',', '.')::numeric(20,4)", "%s = '1.2'"},
	{"dotted", "text", pattern(`(0[1-9]|1[0-9]|2[0-8])\.(0[1-9]|1[0-2])\.20[0-9]{2}`, "30.2.2026", "soon"),
		retyped(catalog.Date, "day.month.year"), "to_date(%s, 'DD.MM.YYYY')", "%s IN ('30.2.2026', 'soon')"},
	{"american", "text", pattern(`(0[1-9]|1[0-2])/(0[1-9]|1[0-9]|2[0-8])/20[0-9]{2}`, "13/13/2026"),
		retyped(catalog.Date, "month/day/year"), "to_date(%s, 'MM/DD/YYYY')", "%s = '13/13/2026'"},
	{"local", "text", pattern(`20[0-3][0-9]-(0[1-9]|1[0-2])-(0[1-9]|1[0-9]|2[0-8])[T ]([01][0-9]|2[0-3]):[0-5][0-9](:[0-5][0-9](\.[0-9]{1,6})?)?`,
		"2026-03-29T02:30", "2026-10-25 02:30", "2026-06-01T12:00:00Z", "2026-06-01 12:00:00+05:30", "noon"),
		retyped(catalog.DateTime, ""), "%s::timestamptz", "%s = 'noon'"},
	{"clock", "text", pattern(`-?[0-9]{1,3}:[0-5][0-9](:[0-5][0-9])?`, "P1DT2H", "PT90M", "90 min", "P1Y"), retyped(catalog.Duration, ""),
		"%s::interval", "%s = 'P1Y'"},
	{"answer", "text", pattern(`yes|no|true|false|Y|N|1|0`, "maybe"), retyped(catalog.YesNo, ""), "%s::boolean", "%s = 'maybe'"},
	{"minutes", "bigint", pattern(`-?[0-9]{1,9}`), retyped(catalog.Duration, "minutes"), "%s * interval '1 minute'", "false"},
	{"hours", "numeric(9,3)", pattern(`-?[0-9]{1,4}\.[0-9]{3}`), retyped(catalog.Duration, "hours"), "%s * interval '1 hour'", "false"},
	{"unix", "bigint", pattern(`[0-9]{1,10}`), retyped(catalog.DateTime, "seconds"), "to_timestamp(%s)", "false"},
	{"digits", "int", pattern(`20[0-9]{2}(0[1-9]|1[0-2])(0[1-9]|1[0-9]|2[0-8])`, "20260230", "7"), retyped(catalog.Date, "yearmonthday"),
		"to_date(%s::text, 'YYYYMMDD')", "%s IN (20260230, 7)"},
	{"cents", "int", pattern(`-?[0-9]{1,8}`), retyped(catalog.Money, "cents"), "(%s / 100.0)::numeric(12,2)", "false"},
	{"share", "numeric(8,4)", pattern(`-?[0-9]{1,3}\.[0-9]{4}`), retyped(catalog.Percent, "share"), "(%s * 100)::numeric(12,2)", "false"},
	{"flag", "smallint", pattern(`0|1`, "2"), retyped(catalog.YesNo, ""), "(%s = 1)", "%s = 2"},
	{"tidy", "numeric(12,2)", pattern(`-?[0-9]{1,6}\.00`, "1.50"), retyped(catalog.Whole, ""), "%s::bigint", "%s <> round(%s)"},
	{"day", "timestamptz", pattern(`20[0-3][0-9]-(0[1-9]|1[0-2])-(0[1-9]|1[0-9]|2[0-8])T([01][0-9]|2[0-3]):[0-5][0-9]Z`),
		retyped(catalog.Date, ""), "%s::date", "false"},
}

func retyped(to catalog.Type, way string) description.FieldWords {
	return description.FieldWords{Type: to, Read: way}
}

// pattern draws texts of a pattern, and now and then one that is out of the ordinary.
func pattern(of string, odd ...string) func(*rapid.T, string) string {
	return func(t *rapid.T, label string) string {
		if len(odd) > 0 && rapid.IntRange(0, 4).Draw(t, label+" odd") == 0 {
			return rapid.SampledFrom(odd).Draw(t, label)
		}
		return rapid.StringMatching(of).Draw(t, label)
	}
}

// What values are read as is what PostgreSQL makes of them, value by value, and what it cannot read
// is counted.
func TestValuesReadAsOtherTypesAreThoseOfPostgreSQL(t *testing.T) {
	url := pgtest.Database(t)
	conn, err := records.Connect(t.Context(), url)
	require.NoError(t, err)
	defer conn.Close(t.Context())
	zone, err := time.LoadLocation("Europe/Lisbon")
	require.NoError(t, err)
	rapid.Check(t, func(t *rapid.T) {
		rows := make([]string, rapid.IntRange(1, 12).Draw(t, "rows"))
		for i := range rows {
			var values []string
			for _, r := range readings {
				v := "NULL"
				if rapid.IntRange(0, 9).Draw(t, "blank") > 0 {
					v = "'" + r.draw(t, r.name) + "'"
				}
				values = append(values, v+"::"+r.kept)
			}
			rows[i] = "(" + strings.Join(values, ", ") + ")"
		}
		var columns, names, meant, lost []string
		said := map[string]*description.FieldWords{}
		for _, r := range readings {
			of := func(sql string) string { return strings.ReplaceAll(sql, "%s", r.name) }
			columns, names = append(columns, r.name+" "+r.kept), append(names, r.name)
			meant = append(meant, fmt.Sprintf("CASE WHEN NOT (%s) THEN %s END AS %s", of(r.lost), of(r.meant), r.name))
			lost = append(lost, fmt.Sprintf("count(*) FILTER (WHERE %s)", of(r.lost)))
			said[r.name] = &r.words
		}
		_, err := conn.Exec(t.Context(), fmt.Sprintf(`SET timezone = 'Europe/Lisbon';
			DROP VIEW IF EXISTS meant; DROP TABLE IF EXISTS had; CREATE TABLE had (n serial, %s);
			INSERT INTO had (%s) VALUES %s; CREATE VIEW meant AS SELECT n, %s FROM had`,
			strings.Join(columns, ", "), strings.Join(names, ", "), strings.Join(rows, ", "), strings.Join(meant, ", ")))
		require.NoError(t, err)
		counts := make([]int, len(lost))
		into := make([]any, len(lost))
		for i := range counts {
			into[i] = &counts[i]
		}
		require.NoError(t, conn.QueryRow(t.Context(), "SELECT "+strings.Join(lost, ", ")+" FROM had").Scan(into...))
		l, err := records.Load(t.Context(), lisbon(url), records.Settings{Zone: zone.String()})
		require.NoError(t, err)
		made, err := description.Apply(
			t.Context(), description.Records{Catalog: l.Catalog, Snapshot: l.Snapshot},
			&description.Description{Sets: map[string]*description.SetWords{"had": {Fields: said}}},
			calendar.Calendar{Zone: zone}, description.Read{},
		)
		require.NoError(t, err)
		require.Empty(t, made.Problems)
		values := func(s *table.Snapshot, set, key string, from, to int) []int64 {
			return table.Rescaled(s.Tables[set].Column(key), from, to).(*table.Numbers).Values
		}
		for i, r := range readings {
			got, want := made.Catalog.Set("had").Field(r.name), l.Catalog.Set("meant").Field(r.name)
			require.Equal(t, r.words.Type, got.Type)
			scale := max(got.Scale, want.Scale)
			if got.Type == catalog.Duration {
				scale, got.Scale, want.Scale = 0, 0, 0 // microseconds, whatever their scale says
			}
			require.Equal(t, values(l.Snapshot, "meant", r.name, want.Scale, scale),
				values(made.Snapshot, "had", r.name, got.Scale, scale), "%s of %v", r.name, rows)
			require.Equal(t, counts[i] > 0, strings.HasPrefix(got.Lost, fmt.Sprint(counts[i], " values of ")), r.name)
		}
	})
}

// lisbon reads a database in which times without a zone are those of Lisbon.
func lisbon(url string) []records.Source {
	return records.Database(url+"&options=-c%20timezone%3DEurope/Lisbon", "public")
}
