package plan

import (
	"errors"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/code"
	"gavrik/internal/core/view"
)

// faulty is a document with a fault, its code, and how it is said: place and words.
type faulty struct {
	document string
	code     code.Code
	want     string
}

func faultyDocuments() []faulty {
	with := func(parts string) string { return `{"gavrik":1,"records":"claims","columns":[],` + parts + `}` }
	filter := func(condition string) string { return with(`"filter":` + condition) }
	column := func(c string) string { return `{"gavrik":1,"records":"claims","columns":[` + c + `]}` }
	totals := func(total string) string { return column(`{"field":"claimed","totals":[` + total + `]}`) }
	calculated := func(fields string) string { return with(`"calculated":[` + fields + `]`) }
	formula := func(f string) string { return calculated(`{"key":"a","label":"Net","formula":"` + f + `"}`) }
	bucket := func(of, bands string) string {
		return with(`"buckets":[{"key":"size","label":"Size","of":"` + of + `","bands":[` + bands + `]}]`)
	}
	drawn := func(rest string) string { return with(`"linked":[{"key":"d","label":"D",` + rest + `}]`) }
	linked := func(rest string) string { return filter(`{"linked":{"records":"claims","by":"claim",` + rest + `}}`) }
	deep := strings.Repeat(`{"all":[`, view.MaxDepth+2) + `{}` + strings.Repeat(`]}`, view.MaxDepth+2)
	ask := func(name, label string) string {
		return `{"field":"ref","op":"is","ask":{"name":"` + name + `","label":"` + label + `"}}`
	}
	lastMonth := `"filter":{"field":"opened_at","op":"in","period":{"which":"last","unit":"month"}}`
	return []faulty{
		// The text itself.
		{``, code.JSON, `line 1 is not valid JSON: the text ends too early`},
		{"{\n\"gavrik\": 1,\n oops}", code.JSON, `line 3 is not valid JSON: `},
		{`{"gavrik":1`, code.JSON, `line 1 is not valid JSON: the text ends too early`},
		{
			`[]`, code.JSON, `a list stands where a view document is wanted, an object: { "gavrik": 1, "records": … }`,
		},
		{`7`, code.JSON, `the number 7 stands where a view document is wanted`},
		{column("") + " and more", code.JSON, `line 1 is not valid JSON: `},
		{column("") + "\n{}", code.JSON, `line 2 holds more than the document, which ended before it`},
		{
			"\xef\xbb\xbf" + column(""), code.Encoding,
			`the document begins with a byte order mark; save it as UTF-8 without one`,
		},
		{
			"{\n\"gavrik\":1,\"records\":\"\xff\"}", code.Encoding,
			`line 2 holds bytes that are no UTF-8; save the document as UTF-8`,
		},
		{
			`{"gavrik":1,"records":"` + strings.Repeat("x", view.MaxBytes) + `"}`, code.Size,
			`at most 8388608 are read`,
		},
		{
			column(strings.Repeat(`{"field":"ref"},`, 110_000) + `{"field":"ref"}`), code.Size,
			`line 1 is beyond the 200000 values that a view document may have`,
		},
		// Its form.
		{
			`{"records":"claims","columns":[]}`, code.Missing,
			`gavrik: the key "gavrik" is missing; add it, with a whole number`,
		},
		{
			`{"gavrik":1,"records":"claims"}`, code.Missing,
			`columns: the key "columns" is missing; add it, with a list in brackets`,
		},
		{
			`{"gavrik":7,"records":"claims","columns":[]}`, code.Version,
			`gavrik: the document has version 7; this program reads up to 1: install a newer one`,
		},
		{
			`{"gavrik":0,"records":"claims","columns":[]}`, code.Bounds,
			`gavrik: 0 stands where a whole number from 1 to 1 is wanted`,
		},
		{
			`{"gavrik":1,"gavrik":1,"records":"claims","columns":[]}`, code.Twice,
			`gavrik: the key "gavrik" stands twice; take one of them out`,
		},
		{
			filter(`{"field":"ref","op":"is","value":"a","value":"b"}`), code.Twice,
			`filter.value: the key "value" stands twice`,
		},
		{
			column(strings.Repeat(`{"feld":"ref"},`, 1000) + `{}`), code.Unknown,
			`columns[0].feld: this key is not known here; did you mean "field"?`,
		},
		{
			`{"gavrik":1,"records":"claims","colums":[],"columns":[]}`, code.Unknown,
			`colums: this key is not known here; did you mean "columns"?`,
		},
		{
			column(`{"field":"ref","zzz":1}`), code.Unknown,
			`columns[0].zzz: this key is not known here; those known are field, heading, width`,
		},
		{
			filter(`{"any":[{"all":[{"x":1}]}]}`), code.Unknown,
			`filter.any[0].all[0].x: this key is not known here; those known are all, any`,
		},
		{
			`{"gavrik":1,"records":"claims","columns":"all"}`, code.Kind,
			`columns: the text "all" stands where a list in brackets is wanted`,
		},
		{
			`{"gavrik":1,"records":"claims","columns":{}}`, code.Kind,
			`columns: an object stands where a list in brackets is wanted`,
		},
		{
			`{"gavrik":1,"records":"claims","columns":null}`, code.Kind,
			`columns: null stands where a list in brackets is wanted; leave the key out if there is none`,
		},
		{column(`["ref"]`), code.Kind, `columns[0]: a list stands where an object in braces is wanted`},
		{
			column(`{"field":7}`), code.Kind, `columns[0].field: the number 7 stands where a text in quotes is wanted`,
		},
		{
			totals(`{"fn":"percentile","percent":90}`), code.Kind,
			`columns[0].totals[0].percent: the number 90 stands where a text in quotes is wanted`,
		},
		{
			totals(`{"fn":"sum","levels":["0"]}`), code.Kind,
			`columns[0].totals[0].levels[0]: the text "0" stands where a whole number is wanted`,
		},
		{
			column(`{"field":"ref","width":99.5}`), code.Kind,
			`columns[0].width: the number 99.5 stands where a whole number is wanted`,
		},
		{
			column(`{"field":"ref","hidden":"yes"}`), code.Kind,
			`columns[0].hidden: the text "yes" stands where true or false is wanted`,
		},
		{
			filter(`{"field":"claimed","op":"over","value":25}`), code.Kind,
			`filter.value: the number 25 stands where a text in quotes is wanted`,
		},
		{
			filter(`{"field":"ref","op":"one_of","values":"a"}`), code.Kind,
			`filter.values: the text "a" stands where a list in brackets is wanted`,
		},
		{
			filter(`null`), code.Kind,
			`filter: null stands where an object in braces is wanted; leave the key out if there is none`,
		},
		{
			column(`{"field":"ref","width":1}`), code.Bounds,
			`columns[0].width: 1 stands where a whole number from 40 to 1200 is wanted`,
		},
		{
			calculated(`{"key":"a","label":"A","formula":"1","decimals":99}`), code.Bounds,
			`calculated[0].decimals: 99 stands where a whole number from 0 to 9 is wanted`,
		},
		{
			with(`"groups":[{"field":"ref","top":-1}]`), code.Bounds,
			`groups[0].top: -1 stands where a whole number from 0 to 100000 is wanted`,
		},
		{
			filter(ask("X y", "X?")), code.Bounds,
			`filter.ask.name: "X y" is no name of this kind; begin with a small letter`,
		},
		{
			filter(ask("x", strings.Repeat("x", 121))), code.Bounds,
			`filter.ask.label: the text has 121 characters; at most 120 can stand here`,
		},
		{
			with(`"groups":[{"field":"opened_at","unit":"moon"}]`), code.Choice,
			`groups[0].unit: "moon" is none of the words that can stand here; use day, week, month`,
		},
		{
			with(`"groups":[{"field":"ref","order":{"by":"mood"}}]`), code.Choice,
			`groups[0].order.by: "mood" is none of the words that can stand here; use label, count, total or list`,
		},
		{
			with(`"compare":{"with":"budget"}`), code.Choice,
			`compare.with: "budget" is none of the words that can stand here; use before, year_ago, weeks_ago, period or filter`,
		},
		{
			totals(`{"fn":"summ"}`), code.Choice,
			`columns[0].totals[0].fn: "summ" is none of the words that can stand here; did you mean "sum"?`,
		},
		{
			totals(`{"fn":"sum","show":"pie"}`), code.Choice,
			`columns[0].totals[0].show: "pie" is none of the words that can stand here; use share_all, share_group`,
		},
		{
			filter(`{"field":"ref","op":"equals","value":"x"}`), code.Choice,
			`filter.op: "equals" is none of the words that can stand here; use is, is_not`,
		},
		{
			linked(`"test":"most"`), code.Choice,
			`filter.linked.test: "most" is none of the words that can stand here`,
		},
		{
			with(`"chart":{"kind":"pie"}`), code.Choice,
			`chart.kind: "pie" is none of the words that can stand here; use bars, stacked, lines, areas or shares`,
		},
		// What it says by itself.
		{
			filter(strings.Repeat(`{"all":[`, 4000) + `{}` + strings.Repeat(`]}`, 4000)), code.Depth,
			`conditions are nested more than 256 deep`,
		},
		{filter(deep), code.Depth, `conditions are nested more than 256 deep`},
		{
			filter(`{"field":"ref","op":"is","value":"a","all":[]}`), code.Several,
			`filter: a condition is one of all, any, none, linked, within or a test of a field; this one is all and a test of a field at once`,
		},
		{
			filter(`{"any":[],"none":[]}`), code.Several,
			`filter: a condition is one of all, any, none, linked, within or a test of a field; this one is any and none at once`,
		},
		{
			filter(`{"field":"claimed","op":"over","value":"5","other":"claim.claimed"}`), code.TwoValues,
			`filter.other: the test compares with the field "claim.claimed" and has an operand as well; keep one of the two`,
		},
		{
			filter(`{"all":[` + ask("x", "X?") + `,` + ask("x", "Y?") + `]}`), code.TwoParameters,
			`filter.all[1].ask.name: two questions are called "x"; give one of them another name`,
		},
		{
			filter(`{"all":[],"ask":{"name":"x","label":"X?"}}`), code.Question,
			`filter.ask: only a test of a field can be left open; put the question there`,
		},
		{filter(ask("x", " ")), code.Question, `filter.ask.label: the question has no words; write what is asked`},
		{
			linked(`"test":"any","where":` + ask("x", "X?")), code.ParameterWithin,
			`filter.linked.where.ask: a question cannot stand within a condition on linked records`,
		},
		// What there is.
		{
			`{"gavrik":1,"records":"claim","columns":[]}`, code.Records,
			`records: there is no record set "claim"; did you mean "claims"?`,
		},
		{
			column(`{"field":"claimd"}`), code.Field,
			`columns[0].field: Claims have no field "claimd"; did you mean "claimed"?`,
		},
		{column(`{"field":"xyz"}`), code.Field, `columns[0].field: Claims have no field "xyz"`},
		{column(`{"field":""}`), code.NoField, `columns[0].field: no field is named; choose one`},
		{
			column(`{"field":"claim"}`), code.LinkAsField,
			`columns[0].field: "claim" is a link to claims, not a field; choose one of its fields, such as claim.ref`,
		},
		{
			column(`{"field":"clam.ref"}`), code.Link,
			`columns[0].field: Claims have no link "clam" in the path "clam.ref"; did you mean "claim"?`,
		},
		{
			column(`{"field":"claim.claim.claim.claim.claim.claim.ref"}`), code.Link,
			`follows more than 5 links; choose a nearer field`,
		},
		{
			filter(`{"any":[{},{"field":"x","op":"is","value":"1"}]}`), code.NoField,
			"filter.any[0].field: no field is named; choose one\nfilter.any[1].field: Claims have no field \"x\"",
		},
		{
			linked(`"test":"any","where":{"field":"claimd","op":"blank"}`), code.Field,
			`filter.linked.where.field: Claims have no field "claimd"`,
		},
		{
			filter(`{"linked":{"records":"boats","by":"claim","test":"any"}}`), code.Records,
			`filter.linked.records: there is no record set "boats"`,
		},
		{
			filter(`{"linked":{"records":"claims","by":"boat","test":"any"}}`), code.Link,
			`filter.linked.by: Claims have no link "boat"`,
		},
		// Conditions.
		{
			filter(`{"field":"claimed","op":"contains","value":"x"}`), code.Operator,
			`filter.op: "contains" does not fit Claimed, which is an amount of money; use over, at_least`,
		},
		{
			filter(`{"field":"ref","op":"contains","other":"ref"}`), code.Operator,
			`filter.other: "contains" cannot compare two fields; use is, is_not, over`,
		},
		{
			filter(`{"field":"claimed","op":"failed"}`), code.NotMade,
			`filter.op: Claimed is not calculated, so it cannot fail`,
		},
		{
			filter(`{"all":[{"field":"claimed","op":"over","value":"a lot"}]}`), code.Operand,
			`filter.all[0].value: "a lot" is not a number; write it as 1234.50`,
		},
		{
			filter(`{"field":"claimed","op":"one_of","values":["1","x"]}`), code.Operand,
			`filter.values[1]: "x" is not a number; write it as 1234.50`,
		},
		{
			filter(`{"field":"claimed","op":"over","value":"99999999999999999999"}`), code.Operand,
			`filter.value: "99999999999999999999" is too large to compare with`,
		},
		{
			filter(`{"field":"opened_at","op":"over","value":"2026-02-30"}`), code.Operand,
			`filter.value: "2026-02-30" is not a date; write it as 2026-11-23`,
		},
		{
			filter(`{"field":"opened_at","op":"over","value":"2026-02-28T25:00"}`), code.Operand,
			`filter.value: "2026-02-28T25:00" is not a date and time; write it as 2026-11-23T14:30`,
		},
		{
			filter(`{"field":"took","op":"over","value":"soon"}`), code.Operand,
			`filter.value: "soon" is not a duration; write it as 1:30 or 90 min`,
		},
		{
			filter(`{"field":"urgent","op":"is","value":"maybe"}`), code.Operand,
			`filter.value: "maybe" is neither yes nor no`,
		},
		{
			filter(`{"field":"urgent","op":"is","value":"true"}`), code.Operand,
			`filter.value: "true" stands where yes or no is wanted; write yes`,
		},
		{
			filter(`{"field":"opened_at","op":"hour","values":["24"]}`), code.Operand,
			`filter.values[0]: "24" is not an hour of the day; give a number from 0 to 23`,
		},
		{
			filter(`{"field":"opened_at","op":"weekday","values":["Monday","Mo"]}`), code.Operand,
			`filter.values[1]: "Mo" is not a day of the week; write it as Monday`,
		},
		{
			filter(`{"field":"claimed","op":"between","value":"5","to":"4"}`), code.Reversed,
			`filter.to: the range ends before it begins; swap its two values`,
		},
		{
			filter(`{"field":"claimed","op":"between","value":"5"}`), code.NoOperand,
			`filter.to: the range has no end; give it, or use at_least`,
		},
		{
			filter(`{"field":"claimed","op":"between","to":"5"}`), code.NoOperand,
			`filter.value: the range has no beginning; give it, or use at_most`,
		},
		{
			filter(`{"field":"claimed","op":"over"}`), code.NoOperand,
			`filter.value: nothing is given to compare Claimed with; give an amount of money, or use blank`,
		},
		{
			filter(`{"field":"opened_at","op":"in"}`), code.Period,
			`filter.period: no period is given; choose one such as the last 30 days`,
		},
		{
			filter(`{"field":"opened_at","op":"in","period":{"which":"past","unit":"day"}}`), code.Period,
			`filter.period.n: the number of days must be from 1 to 10000, not 0`,
		},
		{
			filter(`{"field":"ref","op":"one_of"}`), code.NoOperand,
			`filter.values: no value is chosen; choose at least one`,
		},
		{
			filter(`{"field":"opened_at","op":"weekday"}`), code.NoOperand,
			`filter.values: no weekday is chosen; choose at least one`,
		},
		{
			filter(`{"field":"ref","op":"contains"}`), code.NoOperand,
			`filter.value: no text is given; type one, or use blank`,
		},
		{
			filter(`{"field":"ref","op":"is","other":"claimed"}`), code.FieldType,
			`filter.other: Ref is text and Claimed is an amount of money; they cannot be compared`,
		},
		{linked(`"test":"at_least"`), code.Bounds, `filter.linked.n: the number of claims must be at least 1`},
		{
			linked(`"test":"latest","date":"ref"`), code.FieldType,
			`filter.linked.date: Ref is text; the latest record is found by a date`,
		},
		{
			linked(`"test":"latest","date":"opened_at"`), code.Linked,
			`filter.linked.meets: nothing is asked of the latest record; add a condition`,
		},
		{linked(`"test":"sum","field":"ref"`), code.Total, `filter.linked.field: Ref is text, which has no sum`},
		// Totals and groups.
		{
			column(`{"field":"rate","totals":[{"fn":"sum"}]}`), code.Total,
			`columns[0].totals[0].fn: "sum" does not fit Rate, which is a percentage; use average, median`,
		},
		{
			totals(`{"fn":"percentile","percent":"101"}`), code.Percentile,
			`columns[0].totals[0].percent: "101" is not a percentile; give a number from 0 to 100, such as 90`,
		},
		{totals(`{"fn":"percentile"}`), code.Percentile, `columns[0].totals[0].percent: "" is not a percentile`},
		{
			totals(`{"fn":"sum","by":"ref"}`), code.Total,
			`columns[0].totals[0].by: only the first and the last value are found by another field`,
		},
		{
			totals(`{"fn":"sum","levels":[2]}`), code.Level,
			`columns[0].totals[0].levels: there is no level 2; levels run from 0, the grand total, to 0`,
		},
		{
			totals(`{"fn":"average","show":"share_all"}`), code.Show,
			`columns[0].totals[0].show: parts of average claimed do not add up to the whole`,
		},
		{
			totals(`{"fn":"sum","show":"share_row"}`), code.Show,
			`columns[0].totals[0].show: shares of a line or a column need groups that run across`,
		},
		{
			column(`{"field":"ref","format":{"decimals":2}}`), code.Format,
			`columns[0].format: Ref: text has no decimals`,
		},
		{
			with(`"groups":[{"field":"photo"}]`), code.FieldType,
			`groups[0].field: Photo holds pictures, which cannot be grouped by`,
		},
		{
			with(`"groups":[{"field":"ref","unit":"month"}]`), code.Unit,
			`groups[0].unit: Ref is text and cannot be grouped by "month"`,
		},
		{
			with(`"groups":[{"field":"claimed","empty":true}]`), code.FieldType,
			`groups[0].empty: Claimed is an amount of money; groups without records can be shown for`,
		},
		{
			with(`"groups":[{"field":"urgent","empty":true,"keep":{"op":"over","value":"1"}}]`), code.Keep,
			`groups[0].keep: groups without claims have no total to be kept by; take one of the two away`,
		},
		{
			with(`"groups":[{"field":"ref","top":3,"keep":{"op":"over","value":"1"}}]`), code.Keep,
			`groups[0].keep.others: a level cannot leave groups out and join others into the rest`,
		},
		{
			with(`"groups":[{"field":"ref","keep":{"field":"claimed","fn":"average","share":"80"}}]`), code.Keep,
			`groups[0].keep.share: the average claimed of parts do not add up to that of the whole`,
		},
		{
			with(`"groups":[{"field":"ref","keep":{"share":"120"}}]`), code.Operand,
			`groups[0].keep.share: "120" is no share; give a number of percent up to 100, such as 80`,
		},
		{
			with(`"groups":[{"field":"ref","keep":{"field":"urgent","fn":"mode","op":"is","value":"yes"}}]`), code.Keep,
			`groups[0].keep.fn: the commonest urgent is yes or no; groups are kept by a number or a date`,
		},
		{
			with(`"beside":[{"key":"b","label":"B","take":"previous","field":"claimed"}]`), code.Beside,
			`beside[0].by: which record is before which is not said; name the field that they go by`,
		},
		{
			with(`"beside":[{"key":"b","label":"B","take":"share","field":"rate"}]`), code.Total,
			`beside[0].field: Rate is a percentage, which has no share`,
		},
		{
			with(`"beside":[{"key":"b","label":"B","take":"rank","field":"claimed"}],"compare":{"with":"before"},` + lastMonth), code.Beside,
			`compare: B is worked out among the records that are kept, and a comparison has others`,
		},
		{
			filter(`{"any":[{"all":[{"field":"ref","op":"blank","after":true}]}]}`), code.Beside,
			`filter.any[0].all[0].after: only a condition that stands by itself in the filter can be tested after the others`,
		},
		{
			drawn(`"records":"boats","by":"claim","take":"count"`), code.Records,
			`linked[0].records: there is no record set "boats"`,
		},
		{
			drawn(`"records":"claims","by":"boat","take":"count"`), code.Link,
			`linked[0].by: Claims have no link "boat"`,
		},
		{
			drawn(`"records":"claims","by":"claim","take":"sum","field":"urgent"`), code.Total,
			`linked[0].field: Urgent is yes or no, which has no sum`,
		},
		{
			drawn(`"records":"claims","by":"claim","take":"latest","field":"claimed","date":"took"`), code.FieldType,
			`linked[0].date: Took is a duration; the latest record is found by a date`,
		},
		{
			drawn(`"records":"claims","by":"claim","take":"sum"`), code.NoField,
			`linked[0].field: no field is named; choose one`,
		},
		{
			with(`"groups":[{"field":"ref","order":{"by":"list"}}]`), code.NoOperand,
			`groups[0].order.values: no value is listed; name at least the first`,
		},
		{
			with(`"groups":[{"field":"ref","order":{"by":"total","field":"ref","fn":"sum"}}]`), code.Total,
			`groups[0].order.fn: "sum" does not fit Ref`,
		},
		{
			with(
				`"calculated":[{"key":"a","label":"Net","formula":"SUM(Claimed)"}],"groups":[{"field":"ref","order":{"by":"total","field":"a","fn":"median"}}]`,
			),
			code.Total,
			`groups[0].order.fn: Net is calculated from totals, and has no "median" of its own; leave fn out`,
		},
		{
			with(`"sort":[{"field":"photo"}]`), code.FieldType,
			`sort[0].field: Photo holds pictures, which have no order`,
		},
		{
			column(strings.Repeat(`{"field":"ref"},`, 200) + `{"field":"ref"}`), code.Many,
			`columns: 201 columns; at most 200 can be shown`,
		},
		{
			with(`"groups":[` + strings.Repeat(`{"field":"ref"},`, 10) + `{"field":"ref"}]`), code.Many,
			`groups: 11 levels; at most 10`,
		},
		{
			with(`"compare":{"with":"before"}`), code.Compare,
			`compare: the filter bounds no stretch of whole days to compare another with; add a condition`,
		},
		{
			with(`"compare":{"with":"period","from":"2026-01-01","to":"2025-01-01"},` + lastMonth), code.Operand,
			`compare.to: "2025-01-01" is not the last day of the other period; write a date on or after 2026-01-01`,
		},
		// What a view makes.
		{
			calculated(`{"key":"claimed","label":"x","formula":"1"}`), code.KeyTaken,
			`calculated[0].key: "claimed" is already a field of claims; choose another key`,
		},
		{
			calculated(`{"key":"a b","label":"x","formula":"1"}`), code.Key,
			`calculated[0].key: the key "a b" must be one word without dots`,
		},
		{
			calculated(`{"key":"a","label":"x","formula":"1"},{"key":"a","label":"y","formula":"1"}`), code.KeyTaken,
			`calculated[1].key: the key "a" is used twice`,
		},
		{calculated(`{"key":"a","label":" ","formula":"1"}`), code.Label, `calculated[0].label: "a" has no label`},
		{
			calculated(`{"key":"a","label":"Net","formula":"1"},{"key":"b","label":"net","formula":"2"}`),
			code.LabelTwice, `calculated[1].label: "a" and "b" have the same label, "net"; give one of them another`,
		},
		{
			calculated(`{"key":"b","label":"B","formula":"A * 2"},{"key":"a","label":"A","formula":"b + 1"}`),
			code.Circle, `calculated[0]: "a" is made of itself: a uses b uses a; take one of them out of the other`,
		},
		{bucket("claimed", ``), code.Band, `buckets[0].bands: the bucket has no bands; name at least one`},
		{
			bucket("claimed", `{"label":"small"}`), code.Band,
			`buckets[0].bands[0]: a band of Claimed has a bound: from, below or both`,
		},
		{
			bucket("claimed", `{"label":"a","from":"5","below":"5"}`), code.Reversed,
			`buckets[0].bands[0].below: the band "a" ends before it begins`,
		},
		{
			bucket("ref", `{"label":"a","below":"5"}`), code.Band,
			`buckets[0].bands[0].values: a band of text lists the values that belong to it`,
		},
		{
			bucket("ref", `{"label":"a","values":["x"]},{"label":"a","values":["y"]}`), code.LabelTwice,
			`buckets[0].bands[1].label: the name "a" is used twice in the bucket`,
		},
		{
			bucket("photo", `{"label":"a","values":["x"]}`), code.FieldType,
			`buckets[0].of: Photo is a picture, which has no bands`,
		},
		{
			with(
				`"calculated":[{"key":"a","label":"Net","formula":"SUM(Claimed)"}],"filter":{"field":"a","op":"over","value":"1"}`,
			),
			code.OfTotals, `filter.field: Net is calculated from totals of groups; records cannot be filtered by it`,
		},
		// Formulas.
		{
			formula(`Claimd * 2`), code.FormulaName,
			`calculated[0].formula: Net: at character 1: there is no field 'Claimd'; did you mean "Claimed"?`,
		},
		{formula(`RAND()`), code.FormulaName, `at character 1: there is no function RAND`},
		{formula(`SUMM(Claimed)`), code.FormulaName, `there is no function SUMM; did you mean "SUM"?`},
		{
			formula(`(1 + 2`), code.FormulaForm,
			`at character 7: a closing bracket is wanted for the one opened at character 1`,
		},
		{formula(`ROUND()`), code.FormulaArguments, `at character 1: ROUND wants from one to two arguments`},
		{
			formula(`Ref + 1`), code.FormulaType,
			`at character 1: + wants numbers; what stands before it is text: use & to join text`,
		},
		{
			formula(`1.1234567890123456789`), code.FormulaSize, `the number 1.1234567890123456789 has too many digits`,
		},
		{
			calculated(`{"key":"a","label":"Claimed","formula":"1"},{"key":"b","label":"B","formula":"Claimed * 2"}`),
			code.FormulaDoubt,
			`calculated[1].formula: B: at character 1: 'Claimed' may be Claimed (a) or Claimed (claimed); write 'a' or 'claimed'`,
		},
		{
			calculated(`{"key":"a","label":"A","formula":"Ref","unit":"percent"}`), code.FormulaUnit,
			`calculated[0].unit: A: the result is text; only a number has a unit and decimals`,
		},
	}
}

// Every fault names its place, what stands there, what is wanted and how to mend it, and
// carries its code.
func TestFaultsAreNamedInWords(t *testing.T) {
	seen := map[code.Code]bool{}
	documents := faultyDocuments()
	require.GreaterOrEqual(t, len(documents), 80)
	for _, f := range documents {
		_, err := check(t, f.document)
		if !assert.ErrorContains(t, err, f.want, "%.200s", f.document) {
			continue
		}
		var faults Faults
		require.True(t, errors.As(err, &faults))
		require.LessOrEqual(t, len(faults), view.MaxFaults)
		assert.Equal(t, f.code, faults[0].Code, "%.200s", f.document)
		seen[f.code] = true
		for _, word := range []string{"[]", "view.", "float64", "struct", "%!", "Go ", "map["} {
			require.NotContains(t, faults[0].Message, word, "%.200s", f.document)
		}
	}
	// Those that a document alone does not show have tests of their own.
	for _, e := range code.All() {
		if e.Code != code.Restricted && e.Code != code.MissingParameter {
			assert.True(t, seen[e.Code], "no document has the fault %s", e.Code)
		}
	}
}

// A circle is told once, and in the same words whichever way it is come upon.
func TestACircleIsToldOnce(t *testing.T) {
	a, b, c := `{"key":"a","label":"A","formula":"b + c"}`, `{"key":"b","label":"B","formula":"c * 2"}`, `{"key":"c","label":"C","formula":"a"}`
	for _, order := range [][]string{{a, b, c}, {c, b, a}, {b, a, c}} {
		_, err := check(
			t,
			`{"gavrik":1,"records":"claims","columns":[{"field":"a"},{"field":"c"}],"calculated":[`+strings.Join(order, ",")+`]}`,
		)
		var faults Faults
		require.True(t, errors.As(err, &faults))
		circles := map[string]int{}
		for _, f := range faults {
			require.Equal(t, code.Circle, f.Code)
			circles[f.Message]++
		}
		for words, n := range circles {
			require.Equal(t, 1, n, words)
			require.Contains(t, words, `"a" is made of itself: a uses `)
		}
	}
}

// A name means one field by one rule; a field may be called like the one it is made of.
func TestNamesInFormulas(t *testing.T) {
	of := func(doc string) (*Plan, error) {
		d, err := view.Parse([]byte(`{"gavrik":1,"records":"claims","columns":[],` + doc + `}`))
		require.NoError(t, err)
		return CheckWith(d, ferry, Definitions{"claims": DefinedBy(view.Document{Calculated: []view.Calculated{
			{Key: "double", Label: "Double", Formula: "Claimed * 2"}, {Key: "rate2", Label: "Rate", Formula: "1"},
		}})}, calendar.Calendar{})
	}
	for doc, want := range map[string]string{
		// its own namesake
		`"calculated":[{"key":"net","label":"Claimed","formula":"Claimed * 2"}]`: "claimed",
		// a key
		`"calculated":[{"key":"net","label":"Net","formula":"claimed * 2"}]`:                     "claimed",
		`"calculated":[{"key":"net","label":"Net","formula":"'Earlier claim claimed' * 2"}]`:     "claim.claimed",
		`"calculated":[{"key":"net","label":"Net","formula":"'claim.claim.claim.claimed' * 2"}]`: "claim.claim.claim.claimed",
		// a definition
		`"calculated":[{"key":"net","label":"Net","formula":"DOUBLE * 2"}]`:                                                  "double",
		`"calculated":[{"key":"net","label":"Net","formula":"Double * 2"},{"key":"claims2","label":"Claims","formula":"1"}]`: "double",
		// the nearer one
		`"calculated":[{"key":"net","label":"Net","formula":"'Earlier claim'"},{"key":"x","label":"Earlier claim","formula":"1"}]`: "x",
		`"calculated":[{"key":"net","label":"Net","formula":"double"},{"key":"x","label":"Took","formula":"1"}]`:                   "double",
	} {
		p, err := of(doc)
		require.NoError(t, err, doc)
		require.Equal(t, want, p.Derived["net"].Formula.Calculation.Inputs[0].Path, doc)
	}
	for doc, want := range map[string]string{
		`"calculated":[{"key":"net","label":"Net","formula":"Took"},{"key":"took2","label":"Took","formula":"1"}]`: "'Took' may be Took (took2) or Took (took); write 'took2' or 'took'",
		`"calculated":[{"key":"net","label":"Net","formula":"took"},{"key":"x","label":"took","formula":"1"}]`:     "'took' may be took (x) or Took (took); give one of them another label",
		`"calculated":[{"key":"net","label":"Net","formula":"Rate"}]`:                                              "'Rate' may be Rate (rate2) or Rate (rate); write 'rate2' or 'rate'",
		`"buckets":[{"key":"net","label":"Net","of":"net","bands":[{"label":"x","below":"1"}]}]`:                   `"net" is made of itself`,
	} {
		_, err := of(doc)
		require.ErrorContains(t, err, want, doc)
	}
	// A definition does not see the fields that a view makes for itself.
	p, err := of(
		`"calculated":[{"key":"x","label":"Claimed","formula":"5"},{"key":"net","label":"Net","formula":"Double"}]`,
	)
	require.NoError(t, err)
	require.Equal(t, "claimed", p.Derived["double"].Formula.Calculation.Inputs[0].Path)
}
