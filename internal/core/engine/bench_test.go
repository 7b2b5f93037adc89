package engine

import (
	"testing"

	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
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
