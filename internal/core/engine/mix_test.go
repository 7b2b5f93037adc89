package engine

import (
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/explain"
	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// An average of prices that differ says so, with their range; one of a single price
// and one of amounts that hardly repeat do not.
func TestAnAverageOfSeveralPricesIsAMix(t *testing.T) {
	const n = 400
	c := &catalog.Catalog{Sets: []*catalog.RecordSet{{Key: "lines", Label: "Lines", One: "line", Many: "lines", Fields: []catalog.Field{
		{Key: "item", Label: "Item", Type: catalog.Text},
		{Key: "price", Label: "Price", Type: catalog.Money, Scale: 2},
		{Key: "amount", Label: "Amount", Type: catalog.Money, Scale: 2},
	}}}}
	dict, codes, price, amount := table.NewDictBuilder(), make([]uint32, n), make([]int64, n), make([]int64, n)
	for i := range n {
		price[i], amount[i] = 1200, int64(i*37)
		codes[i] = dict.CodeOf([]string{"Cabin", "Car", "Meal"}[i%3])
		if i%3 == 1 && i%2 == 0 {
			price[i] = 1550
		}
		if i%50 == 0 {
			price[i] = table.Blank
		}
	}
	tb := table.New("lines", n)
	tb.Add("item", dict.Build(codes))
	tb.Add("price", table.NewNumbers(price))
	tb.Add("amount", table.NewNumbers(amount))
	e := New(&table.Snapshot{Tables: map[string]*table.Table{"lines": tb}}, c, Options{Workers: 3})
	average := []view.Total{{Fn: view.Average}}
	res, err := e.Run(t.Context(), e.plan(t, &view.Document{Gavrik: 1, Records: "lines",
		Columns: []view.Column{{Field: "amount", Totals: average}, {Field: "price", Totals: average}},
		Groups:  []view.Group{{Field: "item", Order: &view.Order{By: view.ByLabel, Desc: true}}}}))
	require.NoError(t, err)
	mixes := map[string][]textMix{}
	for _, l := range append(
		window(t, res, result.Open{}, 0, 9, format.People).Lines, grand(res, format.People),
	) {
		mixes[l.Label] = l.Mixes
	}
	car := []textMix{{"12.00", "15.50"}}
	require.Equal(t, map[string][]textMix{"Meal": nil, "Car": car, "Cabin": nil, "All lines": car}, mixes)
	x, err := explain.Figure(t.Context(), res, "", 1)
	require.NoError(t, err)
	require.Contains(t, x.Sentence(&res.Summary), "It is no price: those that went in lie from 12.00 to 15.50.")
}
