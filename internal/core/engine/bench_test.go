package engine

import (
	"math/rand/v2"
	"testing"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

const benchRows = 1_000_000

// BenchmarkRun measures a whole run over a million rows. The engine is a fresh
// one each time, so that no selection of an earlier run is used again.
func BenchmarkRun(b *testing.B) {
	keep := &view.Condition{All: []view.Condition{{Field: "paid", Op: view.Over, Value: "0"}}}
	totals := []view.Column{{Field: "paid", Totals: []view.Total{{Fn: view.Sum}, {Fn: view.Average}}}}
	for _, q := range []struct {
		name string
		doc  view.Document
	}{
		{"filter", view.Document{Filter: keep}},
		{"group", view.Document{Groups: []view.Group{{Field: "who"}}, Columns: totals}},
		{
			"filter-group-order",
			view.Document{
				Filter: keep,
				Groups: []view.Group{
					{Field: "who", Order: &view.Order{By: view.ByTotal, Field: "paid", Fn: view.Sum, Desc: true}},
				},
				Columns: totals,
			},
		},
		{
			"sort-all",
			view.Document{
				Columns: []view.Column{{Field: "paid"}}, Sort: []view.Sort{{Field: "paid", Desc: true}, {Field: "who"}},
			},
		},
		{
			"median",
			view.Document{
				Groups:  []view.Group{{Field: "who"}},
				Columns: []view.Column{{Field: "paid", Totals: []view.Total{{Fn: view.Median}}}},
			},
		},
		{
			"groups-kept",
			view.Document{
				Groups: []view.Group{
					{Field: "who", Keep: &view.Keep{Field: "paid", Fn: view.Sum, Op: view.Over, Value: "0"}},
				},
				Columns: totals,
			},
		},
		{"share-of-group", setBeside(view.GroupShare)},
		{"rank-in-group", setBeside(view.GroupRank)},
		{"change-from-the-one-before", setBeside(view.PreviousChange)},
		{"contains", view.Document{Filter: &view.Condition{Field: "who", Op: view.Contains, Value: "s"}}},
	} {
		b.Run(q.name, func(b *testing.B) {
			loaded := large(benchRows, 240)
			q.doc.Gavrik, q.doc.Records = 1, "fares"
			for b.Loop() {
				e := New(loaded.Snapshot(), loaded.catalog, Options{})
				res, err := e.Run(b.Context(), e.plan(b, &q.doc))
				if err != nil {
					b.Fatal(err)
				}
				window(b, res, result.Open{Depth: 1}, 0, 200, format.People)
			}
		})
	}
}

// setBeside is a document that sets each payment beside the others of its group.
func setBeside(take view.BesideTake) view.Document {
	return view.Document{
		Columns: []view.Column{{Field: "side"}},
		Beside: []view.Beside{{
			Key: "side", Label: "Side", Take: take, Field: "paid", Each: []view.BesideEach{{Field: "who"}},
			By: []view.Sort{{Field: "paid"}},
		}},
	}
}

// BenchmarkWindow measures reading a part of a result far down.
func BenchmarkWindow(b *testing.B) {
	e := large(benchRows, 240)
	res, err := e.Run(b.Context(), e.plan(b, grouped))
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		window(b, res, result.Open{Depth: 1}, 700_000, 200, format.People)
	}
}

// BenchmarkLinkedValues draws values from a million records that link to 100,000, with nothing
// kept from an earlier run: the latest of them by a date, and a sum.
func BenchmarkLinkedValues(b *testing.B) {
	const targets = 100_000
	r := rand.New(rand.NewPCG(3, 9))
	links, days, paid := make([]int32, benchRows), make([]int64, benchRows), make([]int64, benchRows)
	for i := range links {
		links[i], days[i], paid[i] = int32(r.IntN(targets)), r.Int64N(4000), r.Int64N(100_000)
	}
	visits, places := table.New("visits", benchRows), table.New("places", targets)
	visits.Add("day", table.NewNumbers(days))
	visits.Add("paid", table.NewNumbers(paid))
	visits.AddLink("place", &table.Links{To: "places", Rows: links})
	snap := &table.Snapshot{Tables: map[string]*table.Table{"visits": visits, "places": places}}
	c := &catalog.Catalog{Sets: []*catalog.RecordSet{
		{Key: "visits", Label: "Visits", One: "visit", Many: "visits",
			Fields: []catalog.Field{
				{Key: "day", Label: "Day", Type: catalog.Date},
				{Key: "paid", Label: "Paid", Type: catalog.Money, Scale: 2},
			},
			Links: []catalog.Link{{Key: "place", Label: "Place", To: "places"}}},
		{Key: "places", Label: "Places", One: "place", Many: "places"},
	}}
	value := func(key string, take view.Take) view.LinkedValue {
		v := view.LinkedValue{Key: key, Label: key, Records: "visits", By: "place", Take: take, Field: "paid"}
		if take.ByDate() {
			v.Date = "day"
		}
		return v
	}
	for name, made := range map[string][]view.LinkedValue{
		"latest":         {value("latest", view.TakeLatest)},
		"sum":            {value("sum", view.TakeSum)},
		"latest and sum": {value("latest", view.TakeLatest), value("sum", view.TakeSum)},
	} {
		b.Run(name, func(b *testing.B) {
			doc := &view.Document{Gavrik: 1, Records: "places", Linked: made}
			for _, v := range made {
				doc.Columns = append(doc.Columns, view.Column{Field: v.Key})
			}
			for b.Loop() {
				e := New(snap, c, Options{})
				if _, err := e.Run(b.Context(), e.plan(b, doc)); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
