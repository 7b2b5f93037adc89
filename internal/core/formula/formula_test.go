package formula

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
)

// The fields of a booking.
var fields = []catalog.Field{
	{Label: "Fare paid", Type: catalog.Money, Scale: 2, Currency: "EUR"},
	{Label: "Deposit", Type: catalog.Money, Scale: 2, Currency: "GBP"},
	{Label: "Cars", Type: catalog.Whole},
	{Label: "Status", Type: catalog.Text},
	{Label: "Booked", Type: catalog.Date},
	{Label: "Left", Type: catalog.DateTime},
	{Label: "Delay", Type: catalog.Duration},
	{Label: "Photo", Type: catalog.Picture},
}

func lookup(name string) (Found, error) {
	switch name {
	case "Ratio":
		totals, err := Check("SUM('Fare paid') / COUNT(Cars)", lookup)
		return Found{Totals: totals}, err
	case "Broken":
		return Found{}, fmt.Errorf("Broken: %w", ErrReported)
	}
	for i, f := range fields {
		if strings.EqualFold(f.Label, name) {
			f.Key = fmt.Sprint("f", i)
			return Found{Ref: catalog.Ref{Path: f.Key, Label: f.Label, Field: f}}, nil
		}
	}
	return Found{}, fmt.Errorf("there is no field '%s'", name)
}

func TestFaultsNameThePlaceAndTheMend(t *testing.T) {
	for source, want := range map[string]string{
		"":                          "at character 1: the formula is empty; write one such as 'Claimed' - 'Paid'",
		"1 +":                       "at character 4: the formula ends where a field, a number or a text is wanted",
		"(1 + 2":                    "at character 7: a closing bracket is wanted for the one opened at character 1",
		"1 2":                       `at character 3: an operator such as + or & is wanted before "2"`,
		`"open`:                     `at character 1: the " that opens here is never closed`,
		"1 # 2":                     "at character 3: the character '#' has no meaning here",
		"'Fare payed'":              "at character 1: there is no field 'Fare payed'",
		"Status + 1":                "at character 1: + wants numbers; what stands before it is text: use & to join text",
		"DAYS(Booked; Status)":      "at character 14: DAYS wants two dates; 'Status' is text",
		"ROUNDED(1)":                `at character 1: there is no function ROUNDED; did you mean "ROUND"?`,
		"IF(1; 2; 3)":               "at character 4: IF wants a condition, such as 'Paid' > 0; this is a whole number",
		"IF(Cars = 1; Status; 3)":   "at character 1: IF gives one kind of value: text and a whole number do not go together",
		"IF(Cars)":                  "at character 1: IF wants from two to three arguments; write IF(condition; then; otherwise)",
		"'Fare paid' + Deposit":     "at character 1: EUR and GBP are different currencies; convert one of them first",
		"SUM(Cars) / Cars":          "at character 13: in a formula of totals every field stands inside a total; write SUM('Cars') or another total of it",
		"SUM(SUM(Cars))":            "at character 5: SUM stands inside another total; make a calculated field of one of them",
		"SUM(Status)":               "at character 1: SUM does not fit text",
		"Photo & 1":                 "at character 1: 'Photo' holds pictures, which cannot be calculated with",
		"0.1234567890123456789":     "at character 1: the number 0.1234567890123456789 has too many digits; at most 18 are kept",
		"1.0000000001*1.0000000001": "at character 1: the product would need 20 decimals; at most 18 are kept: use ROUND on one of the two",
		"LEFT(Cars; 1)":             "at character 6: LEFT wants text; 'Cars' is a whole number: use TEXT",
		"LEFT(Status; 'Fare paid')": "at character 14: LEFT wants a whole number; 'Fare paid' is an amount of money: use INT or ROUND",
		"SQRT(Delay)":               "at character 6: SQRT wants a number; 'Delay' is a duration: use HOURS, MINUTES or DAYS",
		"YEAR(Status)":              "at character 6: YEAR wants a date; 'Status' is text: use DATEVALUE",
		"HOUR(Booked)":              "at character 6: HOUR wants a date and time; 'Booked' is a date",
		"IFS(Cars > 0; 1; 2)":       "at character 1: IFS wants a value behind each condition; end with TRUE; value for all others",
		`DATEDIF(Booked;Left;"w")`:  `at character 21: DATEDIF wants a unit in quotes: "y", "m", "d", "ym", "md" or "yd"`,
		`TEXT(Cars; "n")`:           `at character 12: the pattern "n" has no place for digits; write one such as "#,##0.00"`,
		`TEXT(Left; "q")`:           `at character 12: the pattern "q" holds "q", which stands for nothing; use y, m, d, h and s`,
		"PERCENTILE(Cars; 90)":      "at character 18: PERCENTILE wants a part from 0 to 1, such as 0.9",
		"SUM(Ratio)":                "at character 5: 'Ratio' is calculated from totals and cannot stand inside one",
		"ROUND(1; Cars)":            "at character 10: ROUND wants the number of decimals as a plain number from −15 to 12",
		strings.Repeat("(", 500):    "nested more than 1000 deep",
		strings.Repeat("1+", 5000):  "nested more than 1000 deep",
		strings.Repeat("1", 20000):  "the formula has 20000 characters; at most 10000 are read",
	} {
		_, err := Check(source, lookup)
		var where *Error
		require.True(t, errors.As(err, &where), "%q: %v", source, err)
		require.Contains(t, err.Error(), want)
		require.LessOrEqual(t, where.From, where.To)
	}
}

func TestATotalIsRecognised(t *testing.T) {
	f, err := Check("SUM('Fare paid' * 2) / COUNT(Cars) + MIN(Cars)", lookup)
	require.NoError(t, err)
	require.True(t, f.PerTotal())
	require.Len(t, f.Totals, 3)
	_, plain := f.Totals[0].Arg.Plain()
	require.False(t, plain)
	ref, plain := f.Totals[1].Arg.Plain()
	require.True(t, plain)
	require.Equal(t, "Cars", ref.Label)
	require.Equal(t, catalog.Money, f.Calculation.Type().Type)
	f, err = Check("COUNT() + PERCENTILE(Cars; 90%) + Ratio * 2", lookup)
	require.NoError(t, err)
	require.Len(t, f.Totals, 4)
	require.Nil(t, f.Totals[0].Arg, "it counts records")
	require.EqualValues(t, 90_000_000, f.Totals[1].Percent)
	f, err = Check("MIN(Cars; 1)", lookup)
	require.NoError(t, err)
	require.False(t, f.PerTotal(), "of several values it is no total")
}

// All faults of a formula are told, each once, marked here with « and »; what is made of one
// says nothing more.
func TestEveryFaultIsTold(t *testing.T) {
	for marked, codes := range map[string][]code.Code{
		`«Fares» + ABS(«'Cost'») * Cars`:                   {code.FormulaName, code.FormulaName},
		`IF(«LEFT(Status)+1»; Status; ROUND(«Fee»; Cars))`: {code.FormulaType, code.FormulaName},
		`SUM(«SUM(Cars)») + «Cars» + «PI()»`:               {code.FormulaType, code.FormulaType, code.FormulaName},
		`LEFT(«Cars»; «"a"»)`:                              {code.FormulaType, code.FormulaType},
		`SWITCH(Cars; «"a"»; 1; «"b"»; 2)`:                 {code.FormulaType, code.FormulaType},
		`Broken + «Fee»`:                                   {code.FormulaName},
	} {
		var wanted [][2]int
		source := []rune{}
		for _, r := range marked {
			switch r {
			case '«':
				wanted = append(wanted, [2]int{len(source)})
			case '»':
				wanted[len(wanted)-1][1] = len(source)
			default:
				source = append(source, r)
			}
		}
		_, err := Check(string(source), lookup)
		var faults Errors
		require.ErrorAs(t, err, &faults, marked)
		var places [][2]int
		var found []code.Code
		for _, f := range faults {
			places, found = append(places, [2]int{f.From, f.To}), append(found, f.Code)
			require.ErrorIs(t, f, sentinels[f.Code])
		}
		require.Equal(t, wanted, places, "%s: %v", marked, err)
		require.Equal(t, codes, found, marked)
	}
	_, err := Check("Broken * 2", lookup)
	require.ErrorIs(t, err, ErrReported)
	require.Equal(t, ErrReported, err, "nothing is told twice")
}
