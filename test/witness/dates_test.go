package witness

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/format"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/program"
	"gavrik/internal/core/table"
)

// workedOut is what a formula without fields gives, as text for programs.
func workedOut(t *testing.T, source string) string {
	t.Helper()
	f, err := formula.Check(source, func(name string) (formula.Found, error) {
		return formula.Found{}, fmt.Errorf("there is no field %q", name)
	})
	require.NoError(t, err, source)
	cal := calendar.Calendar{Zone: time.UTC}
	p, err := program.Compile(f.Calculation)
	require.NoError(t, err, source)
	out, failures := p.Make(1), program.NewFailures(1)
	require.NoError(t, p.Machine([]table.Column{}, cal, failures, nil).Run(out, 0, 1))
	for _, marked := range failures.Rows {
		require.Zero(t, marked[0], source)
	}
	w, field := format.NewWriter(format.Plain, cal), p.Type.Field("", "")
	switch {
	case out.Texts != nil:
		return out.Texts[0]
	case out.Floats != nil:
		return w.Float(out.Floats[0], field)
	}
	return w.Number(out.Ints[0], field)
}

// Days far from the demo's, leap days and ends of months among them: the calendar of
// formulas is PostgreSQL's.
func TestTheCalendarOfFormulasIsPostgreSQLs(t *testing.T) {
	conn, _, _ := ferry(t)
	dice := rand.New(rand.NewPCG(7, 2026))
	day := func() (string, string) {
		first := time.Date(1600+dice.IntN(800), time.Month(1+dice.IntN(12)), 1, 0, 0, 0, 0, time.UTC)
		d := first.AddDate(0, 0, dice.IntN(28))
		switch dice.IntN(4) {
		case 0:
			d = first.AddDate(0, 1, -1) // the last of a month
		case 1:
			d = time.Date(4*(400+dice.IntN(200)), 2, 28+dice.IntN(2), 0, 0, 0, 0, time.UTC)
		}
		return fmt.Sprintf("DATE(%d; %d; %d)", d.Year(), d.Month(), d.Day()), d.Format("'2006-01-02'::date")
	}
	for range 150 {
		a, sqlA := day()
		b, sqlB := day()
		n := dice.IntN(4000) - 2000
		// PostgreSQL counts from the earlier to the later, as DATEDIF does but for its sign.
		age := fmt.Sprintf("age(greatest(%s, %s), least(%s, %s))", sqlA, sqlB, sqlA, sqlB)
		months := "(extract(year FROM " + age + ") * 12 + extract(month FROM " + age + "))"
		sign := fmt.Sprintf("CASE WHEN %s < %s THEN -1 ELSE 1 END", sqlB, sqlA)
		for source, sql := range map[string]string{
			fmt.Sprintf("DAYS(%s; %s)", b, a): sqlB + " - " + sqlA,
			fmt.Sprintf("EDATE(%s; %d)", a, n): fmt.Sprintf(
				"(%s + make_interval(months => %d))::date", sqlA, n,
			),
			fmt.Sprintf("EOMONTH(%s; %d)", a, n): fmt.Sprintf(
				"(date_trunc('month', %s) + make_interval(months => %d + 1))::date - 1", sqlA, n,
			),
			fmt.Sprintf(
				`DATEDIF(%s; %s; "m")`, a, b,
			): "(" + months + " * " + sign + ")::int",
			fmt.Sprintf(
				`DATEDIF(%s; %s; "y")`, a, b,
			): "(extract(year FROM " + age + ") * " + sign + ")::int",
			fmt.Sprintf(
				`DATEDIF(%s; %s; "ym")`, a, b,
			): "(extract(month FROM " + age + ") * " + sign + ")::int",
			fmt.Sprintf(
				"ISOWEEKNUM(%s)", a,
			): "extract(week FROM " + sqlA + ")::int",
			fmt.Sprintf(
				"WEEKDAY(%s; 3)", a,
			): "extract(isodow FROM " + sqlA + ")::int - 1",
			fmt.Sprintf(
				"NETWORKDAYS(%s; %s + 400)", a, a,
			): "(SELECT count(*) FROM generate_series(" + sqlA + "::timestamp, " + sqlA + " + 400, interval '1 day') d WHERE extract(isodow FROM d) < 6)",
			fmt.Sprintf(
				`TEXT(%s; "dddd, d mmmm yyyy")`, a,
			): "to_char(" + sqlA + ", 'FMDay, FMDD FMMonth YYYY')",
			fmt.Sprintf(
				"YEAR(%s) * 372 + MONTH(%s)", a, a,
			): "(extract(year FROM " + sqlA + ") * 372 + extract(month FROM " + sqlA + "))::int",
			fmt.Sprintf("(%s + TIME(30; 0; 0)) - (%s - TIME(0; 30; 15))", a, a): "'30:30:15'::interval",
			fmt.Sprintf("DATEVALUE(TEXT(%s; \"yyyy-mm-dd\"))", a):               sqlA,
		} {
			var want string
			require.NoError(t, conn.QueryRow(t.Context(), "SELECT ("+sql+")::text").Scan(&want), sql)
			require.Equal(t, want, workedOut(t, source), "%s\n%s", source, sql)
		}
	}
}

// Numbers written after a pattern are to_char's, but for the sign that people read.
func TestPatternsOfNumbersArePostgreSQLs(t *testing.T) {
	conn, _, _ := ferry(t)
	dice := rand.New(rand.NewPCG(11, 2026))
	for range 200 {
		n := fmt.Sprintf("%d.%0*d", dice.IntN(2_000_000), 1+dice.IntN(4), dice.IntN(10))
		for pattern, to := range map[string]string{
			"0": "FM9999999990", "#,##0.00": "FM9,999,999,990.00", "0.0": "FM9999999990.0",
			"0000000000.000": "FM0000000000.000", "#,##0.00##": "FM9,999,999,990.0099",
		} {
			var want string
			require.NoError(t, conn.QueryRow(t.Context(), "SELECT to_char("+n+"::numeric, '"+to+"')").Scan(&want))
			require.Equal(t, want, workedOut(t, fmt.Sprintf("TEXT(%s; %q)", n, pattern)), "%s as %s", n, pattern)
			require.Equal(
				t, "−"+want, workedOut(t, fmt.Sprintf("TEXT(-%s - 0; %q)", n, pattern)), "%s as %s", n, pattern,
			)
		}
	}
}
