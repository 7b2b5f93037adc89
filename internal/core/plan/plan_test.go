package plan

import (
	"math/big"
	"reflect"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/view"
)

var ferry = &catalog.Catalog{Sets: []*catalog.RecordSet{
	{
		Key: "claims", Label: "Claims", One: "claim", Many: "claims", Name: "ref",
		Fields: []catalog.Field{
			{Key: "ref", Label: "Ref", Type: catalog.Text},
			{Key: "claimed", Label: "Claimed", Type: catalog.Money, Scale: 2},
			{Key: "opened_at", Label: "Opened at", Type: catalog.DateTime},
			{Key: "took", Label: "Took", Type: catalog.Duration},
			{Key: "urgent", Label: "Urgent", Type: catalog.YesNo},
			{Key: "photo", Label: "Photo", Type: catalog.Picture},
			{Key: "rate", Label: "Rate", Type: catalog.Percent, Scale: 1},
		},
		Links: []catalog.Link{{Key: "claim", Label: "Earlier claim", To: "claims"}},
	},
}}

func check(t *testing.T, text string) (*Plan, error) {
	t.Helper()
	doc, err := view.Parse([]byte(text))
	if err != nil {
		return nil, err
	}
	return Check(doc, ferry, calendar.Calendar{Now: time.Date(2026, 11, 23, 9, 0, 0, 0, time.UTC)})
}

func TestLinksInACircleEndByThemselves(t *testing.T) {
	p, err := check(
		t, `{"gavrik":1,"records":"claims","columns":[{"field":"claim.claim.ref"},{"field":"claim.claimed"}]}`,
	)
	require.NoError(t, err)
	require.Equal(
		t, []string{"Earlier claim", "Earlier claim claimed"}, []string{p.Columns[0].Heading, p.Columns[1].Heading},
	)
	require.Len(
		t, ferry.Reach("claims", 4), 2*len(ferry.Sets[0].Fields), "a link to the same set is followed once",
	)
}

func TestSeveralTotalsOfOneColumn(t *testing.T) {
	p, err := check(t, `{"gavrik":1,"records":"claims","columns":[{"field":"claimed","totals":[{"fn":"sum"},{"fn":"average","label":"Mean"}]},{"field":"claim.claimed","totals":[{"fn":"sum"}]}],
		"groups":[{"field":"opened_at","unit":"month","order":{"by":"total","field":"claimed","fn":"sum"}}]}`)
	require.NoError(t, err)
	require.Len(t, p.Columns, 3)
	require.Equal(
		t, []bool{true, false, true}, []bool{p.Columns[0].Values, p.Columns[1].Values, p.Columns[2].Values},
	)
	require.Len(t, p.Measures, 3, "the order uses the total that is there")
	require.Equal(t, "Mean", p.Measures[1].Label)
	require.Equal(
		t, []bool{false, false, true},
		[]bool{p.Measures[0].PerLinked, p.Measures[1].PerLinked, p.Measures[2].PerLinked},
	)
	require.Equal(t, "Month opened", p.Groups[0].Label())
}

// An operand is bracketed by the stored values next to it.
func TestNumbersAreBracketed(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		scale := rapid.IntRange(0, 6).Draw(t, "scale")
		s := rapid.StringMatching(`-?[0-9]{1,9}(\.[0-9]{0,8})?`).Draw(t, "number")
		got, err := ParseNumber(s, scale)
		require.NoError(t, err)
		r, _ := new(big.Rat).SetString(strings.TrimSuffix(s, "."))
		unit := new(big.Rat).SetInt(new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(scale)), nil))
		r.Mul(r, unit)
		below, above := new(big.Rat).SetInt64(got.Hi), new(big.Rat).SetInt64(got.Lo)
		require.LessOrEqual(t, below.Cmp(r), 0)
		require.GreaterOrEqual(t, above.Cmp(r), 0)
		if r.IsInt() {
			require.Equal(t, got.Lo, got.Hi)
		} else {
			require.Equal(t, got.Hi+1, got.Lo)
		}
	})
}

func TestNumbersAsPeopleTypeThem(t *testing.T) {
	for s, want := range map[string]int64{"1,234.50": 123450, "−7": -700, " 8. ": 800, ".5": 50, "-0.01": -1} {
		got, err := ParseNumber(s, 2)
		require.NoError(t, err, s)
		require.Equal(t, Interval{want, want}, got, s)
	}
	for _, s := range []string{
		"", ".", "-", "1,23", "12,34", "0x10", "1e9", "1 000", "½", strings.Repeat("9", 70),
	} {
		_, err := ParseNumber(s, 2)
		require.Error(t, err, s)
	}
	for s, want := range map[string]calendar.Micros{
		"1:30": 90 * calendar.Minute, "-0:05:30": -330 * calendar.Second, "90 min": 90 * calendar.Minute,
		"1.5h": 90 * calendar.Minute, "2 days": 48 * calendar.Hour, "10s": 10 * calendar.Second,
	} {
		got, err := ParseDuration(s)
		require.NoError(t, err, s)
		require.Equal(t, want, got, s)
	}
	for _, s := range []string{"", "1:60", "90", "1:2:3", "five minutes"} {
		_, err := ParseDuration(s)
		require.Error(t, err, s)
	}
}

// A plan is plain data: nothing in it is unexported, and nothing is code or behind an
// interface, so that it can be written down and read by another program.
func TestAPlanIsPlainData(t *testing.T) {
	seen := map[reflect.Type]bool{reflect.TypeFor[calendar.Calendar](): true} // has JSON of its own
	var walk func(way string, of reflect.Type)
	walk = func(way string, of reflect.Type) {
		if seen[of] {
			return
		}
		seen[of] = true
		switch of.Kind() {
		case reflect.Pointer, reflect.Slice, reflect.Array:
			walk(way, of.Elem())
		case reflect.Map:
			walk(way, of.Key())
			walk(way, of.Elem())
		case reflect.Struct:
			for f := range of.NumField() {
				field := of.Field(f)
				at := way + "." + field.Name
				require.True(t, field.IsExported(), at)
				require.NotEqual(t, "-", field.Tag.Get("json"), at)
				walk(at, field.Type)
			}
		case reflect.Func, reflect.Chan, reflect.Interface, reflect.UnsafePointer:
			t.Errorf("%s is %s", way, of)
		}
	}
	walk("Plan", reflect.TypeFor[Plan]())
}
