package plan

import (
	"math/big"
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
	require.NoError(t, err)
	return Check(doc, ferry, calendar.Calendar{Now: time.Date(2026, 11, 23, 9, 0, 0, 0, time.UTC)})
}

// Each document has one fault, or several; the words say which, where, and how to
// mend it.
func TestFaults(t *testing.T) {
	filter := func(condition string) string {
		return `{"gavrik":1,"records":"claims","columns":[],"filter":` + condition + `}`
	}
	for given, want := range map[string]string{
		`{"gavrik":1,"records":"claim","columns":[]}`:                                                                             `records: there is no record set "claim"; did you mean "claims"?`,
		`{"gavrik":1,"records":"claims","columns":[{"field":"claimd"}]}`:                                                          `columns[0].field: Claims have no field "claimd"; did you mean "claimed"?`,
		`{"gavrik":1,"records":"claims","columns":[{"field":""}]}`:                                                                `columns[0].field: no field is named; choose one`,
		`{"gavrik":1,"records":"claims","columns":[{"field":"clam.ref"}]}`:                                                        `columns[0].field: Claims have no link "clam" in the path "clam.ref"; did you mean "claim"?`,
		`{"gavrik":1,"records":"claims","columns":[{"field":"claim.claim.claim.claim.claim.claim.ref"}]}`:                         `follows more than 5 links`,
		`{"gavrik":1,"records":"claims","columns":[{"field":"rate","totals":[{"fn":"sum"}]}]}`:                                    `columns[0].totals[0].fn: "sum" does not fit Rate, which is a percentage; use one of [average median`,
		`{"gavrik":1,"records":"claims","columns":[],"groups":[{"field":"photo"}]}`:                                               `groups[0].field: Photo holds pictures, which cannot be grouped by`,
		`{"gavrik":1,"records":"claims","columns":[],"groups":[{"field":"ref","unit":"month"}]}`:                                  `groups[0].unit: Ref is text and cannot be grouped by "month"`,
		`{"gavrik":1,"records":"claims","columns":[],"groups":[{"field":"opened_at","unit":"moon"}]}`:                             `groups[0].unit: Opened at is a date and time and cannot be grouped by "moon"`,
		`{"gavrik":1,"records":"claims","columns":[],"groups":[{"field":"ref","order":{"by":"mood"}}]}`:                           `groups[0].order.by: groups are ordered by label, count, total or list, not by "mood"`,
		`{"gavrik":1,"records":"claims","columns":[],"groups":[{"field":"ref","order":{"by":"total","field":"ref","fn":"sum"}}]}`: `"sum" does not fit Ref`,
		`{"gavrik":1,"records":"claims","columns":[],"sort":[{"field":"photo"}]}`:                                                 `sort[0].field: Photo holds pictures, which have no order`,
		filter(`{"field":"claimed","op":"contains","value":"x"}`):                                                                 `filter.op: "contains" does not fit Claimed, which is an amount of money`,
		filter(`{"all":[{"field":"claimed","op":"over","value":"a lot"}]}`):                                                       `filter.all[0].value: "a lot" is not a number; write it as 1234.50`,
		filter(`{"field":"claimed","op":"over","value":"99999999999999999999"}`):                                                  `filter.value: "99999999999999999999" is too large to compare with`,
		filter(`{"field":"claimed","op":"between","value":"5","to":"4"}`):                                                         `filter.to: the range ends before it begins; swap its two values`,
		filter(`{"field":"opened_at","op":"over","value":"2026-02-30"}`):                                                          `filter.value: "2026-02-30" is not a date`,
		filter(`{"field":"opened_at","op":"in"}`):                                                                                 `filter.period: no period is given`,
		filter(`{"field":"opened_at","op":"in","period":{"which":"past","unit":"day"}}`):                                          `filter.period: the number of days must be from 1 to 10000, not 0`,
		filter(`{"field":"took","op":"over","value":"soon"}`):                                                                     `filter.value: "soon" is not a duration; write it as 1:30 or 90 min`,
		filter(`{"field":"urgent","op":"is","value":"maybe"}`):                                                                    `filter.value: "maybe" is neither yes nor no`,
		filter(`{"field":"ref","op":"one_of"}`):                                                                                   `filter.values: no value is chosen; choose at least one`,
		filter(`{"field":"ref","op":"contains"}`):                                                                                 `filter.value: no text is given; type one, or use blank`,
		filter(`{"field":"ref","op":"is","other":"claimed"}`):                                                                     `filter.other: Ref is text and Claimed is an amount of money; they cannot be compared`,
		filter(`{"field":"ref","op":"contains","other":"ref"}`):                                                                   `filter.other: "contains" cannot compare two fields`,
		filter(`{"any":[{},{"field":"x","op":"is","value":"1"}]}`):                                                                "filter.any[0].field: no field is named; choose one\nfilter.any[1].field: Claims have no field \"x\"",
		`{"gavrik":1,"records":"claims","columns":[` + strings.Repeat(`{"field":"ref"},`, 200) + `{"field":"ref"}]}`:              `columns: 201 columns; at most 200 can be shown`,
		`{"gavrik":1,"records":"claims","columns":[],"groups":[` + strings.Repeat(`{"field":"ref"},`, 10) + `{"field":"ref"}]}`:   `groups: 11 levels; at most 10`,
	} {
		_, err := check(t, given)
		require.ErrorContains(t, err, want, given)
	}
}

// Faults of what is worked out: totals, calculated fields, buckets, groups across,
// comparisons, linked records.
func TestFaultsOfWhatIsWorkedOut(t *testing.T) {
	view := func(parts string) string { return `{"gavrik":1,"records":"claims","columns":[],` + parts + `}` }
	totals := func(total string) string {
		return `{"gavrik":1,"records":"claims","columns":[{"field":"claimed","totals":[` + total + `]}]}`
	}
	calculated := func(fields string) string { return view(`"calculated":[` + fields + `]`) }
	bucket := func(of, bands string) string {
		return view(`"buckets":[{"key":"size","label":"Size","of":"` + of + `","bands":[` + bands + `]}]`)
	}
	linked := func(rest string) string {
		return view(`"filter":{"linked":{"records":"claims","by":"claim",` + rest + `}}`)
	}
	for given, want := range map[string]string{
		totals(`{"fn":"percentile","percent":"101"}`):                                                     `columns[0].totals[0].percent: "101" is not a percentile; give a number from 0 to 100, such as 90`,
		totals(`{"fn":"percentile"}`):                                                                     `columns[0].totals[0].percent: "" is not a percentile`,
		totals(`{"fn":"sum","by":"ref"}`):                                                                 `columns[0].totals[0].by: only the first and the last value are found by another field`,
		totals(`{"fn":"sum","levels":[2]}`):                                                               `columns[0].totals[0].levels: there is no level 2; levels run from 0, the grand total, to 0`,
		totals(`{"fn":"sum","show":"pie"}`):                                                               `columns[0].totals[0].show: "pie" is nothing that can be shown`,
		totals(`{"fn":"average","show":"share_all"}`):                                                     `columns[0].totals[0].show: parts of average claimed do not add up to the whole`,
		totals(`{"fn":"sum","show":"share_row"}`):                                                         `columns[0].totals[0].show: shares of a line or a column need groups that run across`,
		calculated(`{"key":"claimed","label":"x","formula":"1"}`):                                         `calculated[0].key: "claimed" is already a field of claims; choose another key`,
		calculated(`{"key":"a b","label":"x","formula":"1"}`):                                             `calculated[0].key: the key "a b" must be one word without dots`,
		calculated(`{"key":"a","label":"x","formula":"1"},{"key":"a","label":"y","formula":"1"}`):         `calculated[1].key: the key "a" is used twice`,
		calculated(`{"key":"a","label":"Net","formula":"Claimd * 2"}`):                                    `calculated[0].formula: Net: at character 1: there is no field 'Claimd'; did you mean "Claimed"?`,
		calculated(`{"key":"a","label":"A","formula":"b + 1"},{"key":"b","label":"B","formula":"A * 2"}`): ` is made of itself: `,
		bucket("claimed", ``):                                                                             `buckets[0].bands: the bucket has no bands; name at least one`,
		bucket("claimed", `{"label":"small"}`):                                                            `buckets[0].bands[0]: a band of Claimed has a bound: from, below or both`,
		bucket("claimed", `{"label":"a","from":"5","below":"5"}`):                                         `buckets[0].bands[0].below: the band "a" ends before it begins`,
		bucket("ref", `{"label":"a","below":"5"}`):                                                        `buckets[0].bands[0].values: a band of text lists the values that belong to it`,
		bucket("ref", `{"label":"a","values":["x"]},{"label":"a","values":["y"]}`):                        `buckets[0].bands[1].label: the name "a" is used twice in the bucket`,
		bucket("photo", `{"label":"a","values":["x"]}`):                                                   `buckets[0].of: Photo is a picture, which has no bands`,
		view(`"groups":[{"field":"claimed","empty":true}]`):                                               `groups[0].empty: Claimed is an amount of money; groups without records can be shown for`,
		view(`"groups":[{"field":"ref","order":{"by":"list"}}]`):                                          `groups[0].order.values: no value is listed`,
		view(`"compare":{"with":"before"}`):                                                               `compare: the filter bounds no stretch of whole days to compare another with`,
		view(`"compare":{"with":"before"},"filter":{"field":"opened_at","op":"in","period":{"which":"last","unit":"month"}},"across":[{"field":"urgent"}]`): `compare: a crosstab cannot be compared as well`,
		linked(`"test":"most"`):                                        `filter.linked.test: "most" is no test of linked records`,
		linked(`"test":"at_least"`):                                    `filter.linked.n: the number of claims must be at least 1`,
		linked(`"test":"latest","date":"ref"`):                         `filter.linked.date: Ref is text; the latest record is found by a date`,
		linked(`"test":"sum","field":"ref"`):                           `filter.linked.field: Ref is text, which has no sum`,
		linked(`"test":"any","where":{"field":"claimd","op":"blank"}`): `filter.linked.where.field: Claims have no field "claimd"`,
	} {
		_, err := check(t, given)
		require.ErrorContains(t, err, want, given)
	}
}

func TestLinksInACircleEndByThemselves(t *testing.T) {
	p, err := check(t, `{"gavrik":1,"records":"claims","columns":[{"field":"claim.claim.ref"},{"field":"claim.claimed"}]}`)
	require.NoError(t, err)
	require.Equal(t, []string{"Earlier claim", "Earlier claim claimed"}, []string{p.Columns[0].Heading, p.Columns[1].Heading})
	require.Len(t, ferry.Reach("claims", 4), len(ferry.Sets[0].Fields), "a way that comes back adds no field")
}

func TestSeveralTotalsOfOneColumn(t *testing.T) {
	p, err := check(t, `{"gavrik":1,"records":"claims","columns":[{"field":"claimed","totals":[{"fn":"sum"},{"fn":"average","label":"Mean"}]},{"field":"claim.claimed","totals":[{"fn":"sum"}]}],
		"groups":[{"field":"opened_at","unit":"month","order":{"by":"total","field":"claimed","fn":"sum"}}]}`)
	require.NoError(t, err)
	require.Len(t, p.Columns, 3)
	require.Equal(t, []bool{true, false, true}, []bool{p.Columns[0].Values, p.Columns[1].Values, p.Columns[2].Values})
	require.Len(t, p.Measures, 3, "the order uses the total that is there")
	require.Equal(t, "Mean", p.Measures[1].Label)
	require.Equal(t, []bool{false, false, true}, []bool{p.Measures[0].Once, p.Measures[1].Once, p.Measures[2].Once})
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
	for _, s := range []string{"", ".", "-", "1,23", "12,34", "0x10", "1e9", "1 000", "½", strings.Repeat("9", 70)} {
		_, err := ParseNumber(s, 2)
		require.Error(t, err, s)
	}
	for s, want := range map[string]calendar.Micros{"1:30": 90 * calendar.Minute, "-0:05:30": -330 * calendar.Second, "90 min": 90 * calendar.Minute, "1.5h": 90 * calendar.Minute, "2 days": 48 * calendar.Hour, "10s": 10 * calendar.Second} {
		got, err := ParseDuration(s)
		require.NoError(t, err, s)
		require.Equal(t, want, got, s)
	}
	for _, s := range []string{"", "1:60", "90", "1:2:3", "five minutes"} {
		_, err := ParseDuration(s)
		require.Error(t, err, s)
	}
}
