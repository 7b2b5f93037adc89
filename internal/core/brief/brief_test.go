package brief

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
)

var ferry = &catalog.Catalog{Sets: []*catalog.RecordSet{
	{
		Key: "claims", Label: "Claims", One: "claim", Many: "claims", Name: "ref",
		Fields: []catalog.Field{
			{Key: "ref", Label: "Ref", Type: catalog.Text}, {Key: "status", Label: "Status", Type: catalog.Text},
			{Key: "claimed", Label: "Claimed", Type: catalog.Money, Scale: 2},
			{Key: "paid", Label: "Paid", Type: catalog.Money, Scale: 2},
			{Key: "opened_at", Label: "Opened at", Type: catalog.DateTime},
			{Key: "due_on", Label: "Due on", Type: catalog.Date},
			{Key: "took", Label: "Took", Type: catalog.Duration},
			{Key: "urgent", Label: "Urgent", Type: catalog.YesNo},
			{Key: "vat_id", Label: "VAT ID", Type: catalog.Text},
		},
		Links: []catalog.Link{{Key: "sailing", Label: "Sailing", To: "sailings"}},
	},
	{
		Key: "sailings", Label: "Sailings", One: "sailing", Many: "sailings", Name: "ref",
		Fields: []catalog.Field{
			{Key: "ref", Label: "Ref", Type: catalog.Text},
			{Key: "departs_at", Label: "Departs at", Type: catalog.DateTime},
			{Key: "passengers", Label: "Passengers", Type: catalog.Whole},
		},
	},
}}

// write returns the sentence with the phrases that can be edited in brackets.
func write(t *testing.T, doc string) (marked string, paths []string) {
	t.Helper()
	d, err := view.Parse([]byte(`{"gavrik":1,"records":"claims",` + doc + `}`))
	require.NoError(t, err)
	p, err := plan.Check(d, ferry, calendar.Calendar{Now: time.Date(2026, 11, 23, 9, 0, 0, 0, time.UTC)})
	require.NoError(t, err)
	phrases := Write(p, d, ferry.Set("claims"))
	var b strings.Builder
	for _, x := range phrases {
		if x.Kind == Plain {
			require.Empty(t, x.Path)
			b.WriteString(x.Text)
			continue
		}
		b.WriteString("[" + x.Text + "]")
		paths = append(paths, x.Path)
	}
	require.Equal(t, strings.NewReplacer("[", "", "]", "").Replace(b.String()), Text(phrases))
	return b.String(), paths
}

func TestSentences(t *testing.T) {
	for _, c := range []struct{ doc, want string }{
		{`"columns":[]`, `[Claims], showing [no columns].`},
		{`"columns":[{"field":"ref"}]`, `[Claims], showing [1 column].`},
		{`"columns":[],"filter":{"all":[{"field":"status","op":"is","value":"Open","ask":{"name":"s","label":"Which?"}},{"field":"claimed","op":"over","value":"5"},{"field":"due_on","op":"is","ask":{"name":"d","label":"Due?"}}]}`,
			`[Claims] where [claimed is over 5.00] and, as answered, [status is Open] and [due is anything], showing [no columns].`},
		{`"columns":[],"filter":{"any":[{"field":"status","op":"is","value":"Open","ask":{"name":"s","label":"Which?"}},{"field":"claimed","op":"over","value":"5"}]}`,
			`[Claims] where [status is Open] or [claimed is over 5.00], showing [no columns].`},
		{
			`"columns":[],"filter":{"field":"due_on","op":"weekday","values":["saturday","Sunday"]}`,
			`[Claims] where [due on a Saturday or Sunday], showing [no columns].`,
		},
		{`"columns":[{"field":"ref"}],"filter":{"all":[]}`, `[Claims], showing [1 column].`},
		{`"columns":[],"filter":{"all":[{"field":"status","op":"none_of","values":["Settled","Withdrawn","Refused"]},{"field":"claimed","op":"over","value":"1025"}]}`,
			`[Claims] where [status is not Settled, Withdrawn or Refused] and [claimed is over 1,025.00], showing [no columns].`},
		{`"columns":[],"filter":{"all":[{"field":"ref","op":"one_of","values":["a","b","c","d","e","f",""]}]}`,
			`[Claims] where [ref is a, b, c or 4 more], showing [no columns].`},
		{`"columns":[],"filter":{"all":[{"any":[{"field":"claimed","op":"at_least","value":"0.005"},{"field":"urgent","op":"is","value":"yes"}]},{"none":[{"field":"paid","op":"blank"}]}]}`,
			`[Claims] where ([claimed is at least 0.005] or [urgent is yes]) and not ([paid is blank]), showing [no columns].`},
		{`"columns":[],"filter":{"any":[{"field":"paid","op":"under","other":"claimed"},{"all":[{"field":"took","op":"over","value":"90 min"},{"field":"ref","op":"starts","value":"CL"}]}]}`,
			`[Claims] where [paid is under claimed] or ([took is over 1:30] and [ref starts with CL]), showing [no columns].`},
		{`"columns":[],"filter":{"none":[{"field":"status","op":"one_of","values":["Open",""]},{"field":"vat_id","op":"filled"}]}`,
			`[Claims] where not ([status is Open or blank] or [VAT ID is not blank]), showing [no columns].`},
		{`"columns":[],"filter":{"all":[{"field":"opened_at","op":"in","period":{"which":"past","unit":"month","n":6}},{"field":"due_on","op":"not_in","period":{"which":"this","unit":"week"}},{"field":"sailing.departs_at","op":"over","value":"2026-06-02"}]}`,
			`[Claims] where [opened in the last 6 full months] and [due not in this week] and [sailing departs after 2 Jun 2026], showing [no columns].`},
		{`"columns":[],"filter":{"all":[{"field":"opened_at","op":"between","value":"2026-06-02","to":"2026-06-03T08:30"},{"field":"opened_at","op":"filled"}]}`,
			`[Claims] where [opened from 2 Jun 2026 to 3 Jun 2026, 08:30] and [opened is not blank], showing [no columns].`},
		{`"columns":[{"field":"claimed","totals":[{"fn":"sum"},{"fn":"average"}]},{"field":"took","totals":[{"fn":"largest"}]},{"field":"status","totals":[{"fn":"distinct"}]},{"field":"sailing.passengers","totals":[{"fn":"sum"}]}],"groups":[{"field":"status"},{"field":"opened_at","unit":"fiscal_quarter"}]`,
			`[Claims], grouped by [status] then [fiscal quarter opened], with [total and average claimed], [longest took], [number of different statuses] and [total sailing passengers, each sailing once], showing [4 columns].`},
		{`"columns":[],"groups":[{"field":"status","order":{"by":"count","desc":true}},{"field":"opened_at","unit":"month","order":{"by":"label","desc":true}},{"field":"ref","order":{"by":"total","field":"paid","fn":"sum"}}]`,
			`[Claims], grouped by [status] then [month opened] then [ref], showing [no columns], [status with the most claims first], [latest month opened first], [ref with the smallest total paid first].`},
		{`"columns":[],"groups":[{"field":"status","order":{"by":"total","field":"claimed","fn":"sum","desc":true}}],"sort":[{"field":"claimed","desc":true},{"field":"opened_at"},{"field":"ref"},{"field":"urgent","desc":true},{"field":"took"}]`,
			`[Claims], grouped by [status], showing [no columns], [largest claimed first] then [earliest opened first] then [ref from A to Z] then [urgent yes first] then [shortest took first].`},
		{`"columns":[{"field":"claimed","totals":[{"fn":"percentile","percent":"90"},{"fn":"sum","show":"share_all"}]},{"field":"took","totals":[{"fn":"last","by":"opened_at","levels":[1]}]}],"groups":[{"field":"status","top":5},{"field":"opened_at","unit":"weekday","empty":true,"order":{"by":"list","values":["1"]}}]`,
			`[Claims], grouped by [status (the first 5, the rest as one)] then [weekday opened with those without claims], with [90th percentile of claimed], [share of all total claimed] and [last took (by opened at) (only for status)], showing [2 columns], [weekday opened in a given order].`},
		{`"columns":[],"groups":[{"field":"status"}],"across":[{"field":"opened_at","unit":"month"}]`,
			`[Claims], grouped by [status], across by [month opened], with [the number of claims], showing [no columns].`},
		{`"columns":[],"groups":[{"field":"status","keep":{"field":"claimed","fn":"sum","op":"over","value":"1000"}},{"field":"urgent","keep":{"share":"80","others":"rest"}}]`,
			`[Claims], grouped by [status (only those whose total claimed is over 1,000.00, the others left out)] then [urgent (only the largest by number of claims that together make up 80 %, the others as one)], showing [no columns].`},
		{`"columns":[{"field":"b"},{"field":"c"}],"filter":{"field":"urgent","op":"is","value":"yes"},"beside":[{"key":"b","label":"Part","take":"share","field":"claimed","each":[{"field":"status"}]},{"key":"c","label":"Step","take":"change","field":"claimed","each":[{"field":"opened_at","unit":"year"}],"by":[{"field":"opened_at"}]}]`,
			`[Claims] where [urgent is yes], showing [2 columns]. [Part is a claim’s claimed as a share of that of all claims of the same status, among those that the other conditions keep]. [Step is a claim’s claimed less that of the claim before of the same year opened, earliest opened first, among those that the other conditions keep].`},
		{`"columns":[{"field":"share"}],"calculated":[{"key":"net","label":"Net","formula":"Claimed - Paid"},{"key":"share","label":"Share paid","formula":"SUM(Paid) / SUM(net)"}],"buckets":[{"key":"size","label":"Size","of":"net","bands":[{"label":"small","below":"20"},{"label":"large","from":"20"}]}],"groups":[{"field":"size"}]`,
			`[Claims], grouped by [size], with [share paid], showing [1 column]. [Net is Claimed - Paid]. [Share paid is SUM(Paid) / SUM(net)]. [Size puts net into small and large].`},
		{`"columns":[{"field":"claimed","totals":[{"fn":"sum"}]}],"filter":{"field":"opened_at","op":"in","period":{"which":"last","unit":"month"}},"compare":{"with":"year_ago"}`,
			`[Claims] where [opened in the last month], with [total claimed], compared with [year ago (1 Oct 2025 to 31 Oct 2025)], showing [1 column].`},
		{`"columns":[],"filter":{"within":{"view":"Open claims","filter":{"field":"status","op":"is","value":"Open"}}}`,
			`[Claims] where [the view “Open claims” keeps them], showing [no columns].`},
	} {
		got, _ := write(t, c.doc)
		require.Equal(t, c.want, got)
	}
}

func TestConditionsOnLinkedRecords(t *testing.T) {
	for condition, want := range map[string]string{
		`"test":"any"`: "they have claims",
		`"test":"none","where":{"all":[{"field":"status","op":"is","value":"Open"},{"field":"paid","op":"over","value":"5"}]}`: "they have no claims where status is Open and paid is over 5.00",
		`"test":"at_least","n":3`: "they have at least 3 claims",
		`"test":"latest","date":"opened_at","meets":{"field":"urgent","op":"is","value":"yes"}`: "for the latest of their claims by opened at, urgent is yes",
		`"test":"sum","field":"paid","op":"between","value":"10","to":"20"`:                     "the total paid of their claims is from 10.00 to 20.00",
	} {
		d, err := view.Parse([]byte(
			`{"gavrik":1,"records":"sailings","columns":[],"filter":{"linked":{"records":"claims","by":"sailing",` + condition + `}}}`,
		))
		require.NoError(t, err)
		p, err := plan.Check(d, ferry, calendar.Calendar{})
		require.NoError(t, err)
		require.Equal(t, "Sailings where "+want+", showing no columns.", Text(Write(p, d, ferry.Set("sailings"))))
	}
}

func TestPhrasesKnowTheirPlace(t *testing.T) {
	_, paths := write(t, `"columns":[{"field":"ref"},{"field":"claimed","totals":[{"fn":"sum"}]}],"groups":[{"field":"status"}],"sort":[{"field":"ref"}],
		"filter":{"all":[{"field":"ref","op":"filled"},{"any":[{"field":"paid","op":"blank"},{"none":[{"field":"urgent","op":"is","value":"no"}]}]}]}`)
	require.Equal(t, []string{
		"records", "filter.all[0]", "filter.all[1].any[0]", "filter.all[1].any[1].none[0]", "groups[0]",
		"columns[1]", "columns", "sort",
	}, paths)
}

// What a view makes is told in sentences of their own; what it finds defined is said to
// be for all views, each once, with all that it is made of.
func TestSentencesOfWhatIsMade(t *testing.T) {
	band := func(label, from, below string) view.Band { return view.Band{Label: label, From: from, Below: below} }
	defs := plan.Definitions{
		"claims": plan.DefinedBy(view.Document{
			Calculated: []view.Calculated{
				{Key: "owed", Label: "Owed", Formula: "=Claimed - Paid"}, {Key: "unused", Label: "Unused", Formula: "1"},
			},
			Buckets: []view.Bucket{
				{Key: "size", Label: "Size", Of: "owed", Bands: []view.Band{band("small", "", "60"), band("", "60", "")}},
			},
		}),
		"sailings": plan.DefinedBy(view.Document{Calculated: []view.Calculated{{Key: "full", Label: "Full", Formula: "Passengers > 300"}}}),
	}
	var many []view.Band
	for i, from := range []string{"0", "10", "20", "30", "40", "50", "60", "70"} {
		many = append(many, band(string(rune('a'+i)), from, ""))
	}
	d := &view.Document{
		Gavrik: 1, Records: "claims",
		Calculated: []view.Calculated{{Key: "part", Label: "Part", Formula: " Paid / Claimed "}},
		Buckets:    []view.Bucket{{Key: "steps", Label: "Steps", Of: "claimed", Bands: many}},
		Filter:     &view.Condition{Field: "sailing.full", Op: view.Is, Value: "yes"},
		Columns:    []view.Column{{Field: "part"}, {Field: "owed", Totals: []view.Total{{Fn: view.Sum}}}},
		Groups:     []view.Group{{Field: "size"}, {Field: "steps"}},
	}
	p, err := plan.CheckWith(d, ferry, defs, calendar.Calendar{
		Now: time.Date(2026, 11, 23, 9, 0, 0, 0, time.UTC),
	})
	require.NoError(t, err)
	phrases := Write(p, d, ferry.Set("claims"))
	require.Equal(t, "Claims where sailing full is yes, grouped by size then steps, with total owed, showing 2 columns."+
		" Part is Paid / Claimed. Steps puts claimed into a, b, c, 4 more and h."+
		" Owed is Claimed - Paid for all views. Size puts owed into small and 60.00 and over for all views. Full is Passengers > 300 for all views.", Text(phrases))
	var paths []string
	for _, x := range phrases {
		if x.Kind == Made {
			paths = append(paths, x.Path)
		}
	}
	require.Equal(t, []string{
		"calculated[0]", "buckets[0]", "definitions.claims.owed", "definitions.claims.size",
		"definitions.sailings.full",
	}, paths)
}
