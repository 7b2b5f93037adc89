package program

import (
	"errors"
	"fmt"
	"math"
	"math/bits"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/table"
)

// The fields of one booking, and a second one that is blank throughout.
var fields = []struct {
	field catalog.Field
	value any
}{
	{catalog.Field{Label: "Fare paid", Type: catalog.Money, Scale: 2, Currency: "EUR"}, int64(12050)},
	{catalog.Field{Label: "Deposit", Type: catalog.Money, Scale: 2, Currency: "GBP"}, int64(2000)},
	{catalog.Field{Label: "Cars", Type: catalog.Whole}, int64(-3)},
	{catalog.Field{Label: "None", Type: catalog.Whole}, int64(0)},
	{catalog.Field{Label: "Discount", Type: catalog.Percent, Scale: 1}, int64(125)}, // 12.5 %
	{catalog.Field{Label: "Wind", Type: catalog.Decimal, Approx: true}, 2.5},
	{catalog.Field{Label: "Status", Type: catalog.Text}, "Été à bord"},
	{catalog.Field{Label: "Port's name", Type: catalog.Text}, "mulberry  quay "},
	{catalog.Field{Label: "Booked", Type: catalog.Date}, calendar.FromDate(2026, 2, 27)},
	{
		catalog.Field{Label: "Left", Type: catalog.DateTime},
		time.Date(2026, 3, 1, 23, 30, 0, 0, time.UTC).UnixMicro(),
	},
	{
		catalog.Field{Label: "Docked", Type: catalog.DateTime},
		time.Date(2026, 3, 2, 1, 15, 0, 0, time.UTC).UnixMicro(),
	},
	{catalog.Field{Label: "Delay", Type: catalog.Duration}, 90 * calendar.Minute},
	{catalog.Field{Label: "Huge", Type: catalog.Whole}, int64(math.MaxInt64)},
	{catalog.Field{Label: "Photo", Type: catalog.Picture}, "data:,"},
}

func lookup(name string) (formula.Found, error) {
	if name == "Ratio" {
		totals, err := formula.Check("SUM('Fare paid') / COUNT(Cars)", lookup)
		return formula.Found{Totals: totals}, err
	}
	for i, f := range fields {
		if strings.EqualFold(f.field.Label, name) {
			f.field.Key = fmt.Sprint("f", i)
			return formula.Found{Ref: catalog.Ref{Path: f.field.Key, Label: f.field.Label, Field: f.field}}, nil
		}
	}
	return formula.Found{}, fmt.Errorf("there is no field '%s'", name)
}

// column holds the booking's value and a blank.
func column(value any) table.Column {
	switch v := value.(type) {
	case string:
		dict := table.NewDictBuilder()
		return dict.Build([]uint32{dict.CodeOf(v), 0})
	case float64:
		return table.NewFloats([]float64{v, math.NaN()})
	}
	return table.NewNumbers([]int64{value.(int64), table.Blank})
}

var setting = calendar.Calendar{Now: time.Date(2026, 11, 23, 9, 0, 0, 0, time.UTC), Zone: time.UTC}

// run works a formula out for the booking and for the blank one, as plain text,
// and counts the failures.
func run(t testing.TB, source string) (results [2]string, failed int) {
	f, err := formula.Check(source, lookup)
	require.NoError(t, err, source)
	p, err := Compile(f.Calculation)
	require.NoError(t, err, source)
	var inputs []table.Column
	for _, in := range f.Calculation.Inputs {
		for i, have := range fields {
			if fmt.Sprint("f", i) == in.Path {
				inputs = append(inputs, column(have.value))
			}
		}
	}
	out, failures := p.Make(2), NewFailures(2)
	require.NoError(t, p.Machine(inputs, setting, failures, nil).Run(out, 0, 2))
	w, field := format.NewWriter(format.Plain, setting), p.Type.Field("", "")
	for i := range results {
		switch {
		case out.Texts != nil:
			results[i] = out.Texts[i]
		case out.Floats != nil:
			results[i] = w.Float(out.Floats[i], field)
		default:
			results[i] = w.Number(out.Ints[i], field)
		}
	}
	for _, marked := range failures.Rows {
		failed += bits.OnesCount64(marked[0])
	}
	return results, failed
}

func TestResults(t *testing.T) {
	for source, want := range map[string][2]string{
		// Operators and their order; a unary minus binds tightest, as in the standard.
		"1 + 2 * 3":                        {"7", "7"},
		"-2^2":                             {"4", "4"},
		"2^3^2":                            {"64", "64"},
		"10 - 2 - 3":                       {"5", "5"},
		"'Fare paid' * 2":                  {"241.00", ""},
		"'Fare paid' - 20.005":             {"100.495", ""},
		"'Fare paid' * Discount":           {"15.06250", ""},
		"'Fare paid' * (1 - 12.5%)":        {"105.43750", ""},
		"Cars * Cars":                      {"9", ""},
		"1 / 8":                            {"0.125", "0.125"},
		"ROUND('Fare paid' / 7; 2)":        {"17.21", ""},
		"0.1 + 0.2 = 0.3":                  {"true", "true"},
		"Wind * 2":                         {"5", ""},
		`Status & " / " & Cars`:            {"Été à bord / −3", " / "},
		`Status = "ETE A BORD"`:            {"true", ""},
		"Cars < None":                      {"true", ""},
		"Cars <> -3":                       {"false", ""},
		"IF(Cars < 0; 1; 2)":               {"1", "2"},
		"IF(Cars > 0, 1)":                  {"", ""},
		"COALESCE(Cars; 7)":                {"-3", "7"},
		"AND(Cars < 0; NOT(None>0))":       {"true", "false"},
		"OR(ISBLANK(Cars); None=0)":        {"true", "true"},
		"ABS(Cars)":                        {"3", ""},
		"ROUND(-2.5)":                      {"-3", "-3"},
		"ROUNDDOWN(-2.59; 1)":              {"-2.5", "-2.5"},
		"ROUNDUP(2.01; 1)":                 {"2.1", "2.1"},
		"ROUND(0.285 * 100 / 1; 0)":        {"29", "29"},
		"MOD(-3; 2)":                       {"1", "1"},
		"MOD('Fare paid'; 100)":            {"20.50", ""},
		"MIN(Cars; 1; None)":               {"-3", "1"},
		"MAX('Fare paid'; 200)":            {"200.00", "200.00"},
		"SQRT(16)":                         {"4", "4"},
		"UPPER(LEFT(Status; 3))":           {"ÉTÉ", ""},
		"TRIM('Port''s name')":             {"mulberry quay", ""},
		"RIGHT(Status; 99)":                {"Été à bord", ""},
		"LEN(Status)":                      {"10", ""},
		"YEAR(Booked) * 100 + MONTH(Left)": {"202603", ""},
		"Booked + 2":                       {"2026-03-01", ""},
		"TODAY() - Booked":                 {"269", ""},
		"DAYS(Docked; Booked)":             {"3", ""},
		"Docked - Left":                    {"1:45:00", ""},
		"Left + Delay":                     {"2026-03-02T01:00:00", ""},
		"Delay * 2":                        {"3:00:00", ""},
		"Delay / 4":                        {"0:22:30", ""},
		"HOURS(Delay)":                     {"1.5", ""},
		"DAYS(Delay)":                      {"0.0625", ""},
		"Booked + TIME(1; 30; 0)":          {"2026-02-27T01:30:00", ""},

		// The rest by the definitions of OpenFormula, part 4, chapter 6.
		`IFS(Cars > 0; "a"; None = 0; "b")`:                     {"b", ""},
		"SWITCH(Cars; 1; 10; -3; 30)":                           {"30", ""},
		`SWITCH(Status; "ETE a bord"; 1; 2)`:                    {"1", "2"},
		"SIGN(Cars) & SIGN(0) & SIGN(Wind)":                     {"−101", "0"},
		"INT(-8.4)":                                             {"-9", "-9"},
		"INT(Wind * -1)":                                        {"-3", ""},
		"CEILING(2.5; 1) + CEILING(-2.5)":                       {"1.0", "1.0"},
		"FLOOR('Fare paid'; 50)":                                {"100.00", ""},
		"FLOOR(-2.5; 2)":                                        {"-4.0", "-4.0"},
		"CEILING(Wind; 0.75)":                                   {"3", ""},
		"POWER(2; 10) + EXP(0) + LN(1)":                         {"1025", "1025"},
		"LOG(8; 2) + LOG(100) + LOG10(1000)":                    {"8", "8"},
		`MID("123456789"; 5; 3) & MID("123"; 3; 9)`:             {"5673", "5673"},
		`PROPER("a quay's QUAY")`:                               {"A Quay'S Quay", "A Quay'S Quay"},
		`FIND("b"; "abcabc"; 3)`:                                {"5", "5"},
		`FIND("E"; Status)`:                                     {"", ""},
		`SEARCH("E"; Status)`:                                   {"1", ""},
		`SUBSTITUTE("121212"; "2"; "ab"; 2)`:                    {"121ab12", "121ab12"},
		`SUBSTITUTE("121212"; "1"; "")`:                         {"222", "222"},
		`REPLACE("123456789"; 5; 2; "Q")`:                       {"1234Q789", "1234Q789"},
		`EXACT(Status; "ÉTÉ à bord")`:                           {"false", ""},
		`CONTAINS(Status; "A b")`:                               {"true", ""},
		`AND(STARTSWITH(Status;"ete");ENDSWITH(Status;"BORD"))`: {"true", "false"},
		`VALUE("−1,234.5 %")`:                                   {"-12.345", "-12.345"},
		`TEXT('Fare paid' * 100; "#,##0.0") & "/" & TEXT(0.5; "0%") & TEXT(7; "000") & TEXT(1.50; "0.##") & TEXT(Discount; "0.00 %")`: {"12,050.0/50%0071.512.50 %", "/50%0071.5"},
		`TEXT(Left; "dddd d mmm yyyy, hh:mm") & TEXT(Delay; " [h]:mm:ss")`:                                                            {"Sunday 1 Mar 2026, 23:30 1:30:00", ""},
		"DATE(2026; 25; 1)":                                                 {"2028-01-01", "2028-01-01"},
		"DATEVALUE(Left) - DATEVALUE(\"2026-02-28\")":                       {"1", ""},
		"HOUR(Docked) * 10000 + MINUTE(Docked) * 100 + SECOND(Docked)":      {"11500", ""},
		"WEEKDAY(Left) * 100 + WEEKDAY(Left; 2) * 10 + WEEKDAY(Left; 3)":    {"176", ""},
		"ISOWEEKNUM(DATE(1995; 1; 1)) * 100 + ISOWEEKNUM(DATE(1996; 1; 1))": {"5201", "5201"},
		"EDATE(DATE(2026; 1; 31); 1)":                                       {"2026-02-28", "2026-02-28"},
		"EOMONTH(Booked; -12)":                                              {"2025-02-28", ""},
		`DATEDIF(DATE(1990;2;15); DATE(1993;9;15); "y") & DATEDIF(DATE(1990;2;15); DATE(1993;9;15); "m") & DATEDIF(DATE(1990;2;15); DATE(1993;9;15); "md")`: {"3430", "3430"},
		`DATEDIF(DATE(1990;2;15); DATE(1993;9;14); "ym") & " " & DATEDIF(DATE(1993;9;15); DATE(1990;2;15); "d")`:                                            {"6 −1,308", "6 −1,308"},
		"NETWORKDAYS(DATE(2026;11;20); DATE(2026;11;23)) & NETWORKDAYS(DATE(2026;11;22); DATE(2026;11;21))":                                                 {"20", "20"},
		"Delay / Delay": {"1", ""},
	} {
		got, failed := run(t, source)
		require.Equal(t, want, got, source)
		require.Zero(t, failed, source)
	}
}

// A row that fails is blank and counted; what it never asked for does not fail it.
func TestFailures(t *testing.T) {
	for source, want := range map[string]int{
		"1 / None":                             1,
		"MOD(1; None)":                         1,
		"Huge + 1":                             1,
		"Huge * 2":                             1,
		"SQRT(Cars)":                           1,
		"LN(None)":                             1,
		"EXP(10000)":                           2, // for the blank booking, too
		"CEILING(1; None)":                     1,
		"CEILING(Huge; 10)":                    1,
		"MID(Status; 0; 1)":                    2,
		"LEFT(Status; Cars)":                   1,
		"VALUE(Status)":                        1,
		`DATEVALUE("2026-02-30")`:              2,
		"DATE(99999; 1; 1)":                    2,
		"EDATE(Booked; 99999)":                 1,
		"TIME(Huge; 0; 0)":                     1,
		"Cars ^ 0.5":                           1,
		"IF(None = 0; 0; 1 / None)":            0,
		"COALESCE(Cars; 1 / None)":             0,
		"COALESCE(1 / None; 5)":                0,
		`COALESCE(1 / None; VALUE("1.234,5"))`: 2,
		"IF(ISBLANK(1 / None); 7; 1)":          0,
		`"none: " & 1 / None`:                  1,
		"MAX(1 / None; 5)":                     1,
		`VALUE("12,34")`:                       2,
		"Booked - 9223372036854775807":         1,
		"NOW() + TIME(999999999; 0; 0)":        2,
		"Booked + TIME(999999999; 0; 0)":       1,
		"IF(Cars < 0; Huge * 2; 1)":            1,
		"IF(Cars > 0; Huge * 2; 1)":            0,
	} {
		got, failed := run(t, source)
		require.Equal(t, want, failed, source)
		if want == 0 {
			require.NotEmpty(t, got[0], source)
		}
	}
}

// Whatever is typed gives a program that runs, or a message at a place within it.
func FuzzCheck(f *testing.F) {
	for _, s := range []string{
		"1 + 2", "'Fare paid' - Deposit", `IF(Cars > 0; "a"; 'Port''s name' & "b")`, "SUM(Cars)/COUNT(Cars)",
		"−3 × 2 %", "((", "\"", "ROUND(Wind; 2)^-1", "Delay*Wind", "Huge*Huge", `TEXT(Left; "[h]:mm yyyy")`,
		"CEILING(Huge; -Huge)", "EDATE(Booked; Huge)", "MID(Status; Huge; Huge)", "Ratio/Ratio",
		`DATEDIF(Left;Booked;"yd")`, "FLOOR(Wind;0)", `SUBSTITUTE(Status;"";"x";Cars)`,
	} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, source string) {
		made, err := formula.Check(source, lookup)
		if tidy, fault := formula.Tidy(source); fault == nil {
			again, err := formula.Tidy(tidy)
			require.NoError(t, err, tidy)
			require.Equal(t, tidy, again, "tidied once, tidied for good")
		}
		if err != nil {
			var faults formula.Errors
			if !errors.As(err, &faults) {
				faults = formula.Errors{{}}
				require.ErrorAs(t, err, &faults[0])
			}
			for _, where := range faults {
				require.GreaterOrEqual(t, where.From, 0)
				require.LessOrEqual(t, where.To, len([]rune(source))+1)
			}
			return
		}
		if !made.PerTotal() {
			run(t, source)
		}
	})
}
