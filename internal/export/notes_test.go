package export

import (
	"bytes"
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// What a reader of the figures has to know leaves with them: an average of several prices
// stands between the smallest and the largest, and what could not be kept is said.
func TestNotesLeaveWithTheFigures(t *testing.T) {
	const n = 120
	c := &catalog.Catalog{Sets: []*catalog.RecordSet{{Key: "lines", Label: "Lines", One: "line", Many: "lines", Fields: []catalog.Field{
		{Key: "item", Label: "Item", Type: catalog.Text},
		{
			Key: "price", Label: "Price", Type: catalog.Money, Scale: 2,
			Lost: "3 values of Price of all lines have too many digits to keep, and count as blank",
		},
	}}}}
	dict, codes, price := table.NewDictBuilder(), make([]uint32, n), make([]int64, n)
	for i := range n {
		codes[i], price[i] = dict.CodeOf([]string{"Cabin", "Car"}[i%2]), 1200
		if i%4 == 1 {
			price[i] = 1550
		}
	}
	tb := table.New("lines", n)
	tb.Add("item", dict.Build(codes))
	tb.Add("price", table.NewNumbers(price))
	doc := &view.Document{
		Gavrik: 1, Records: "lines", Groups: []view.Group{{Field: "item"}},
		Columns: []view.Column{{Field: "price", Totals: []view.Total{{Fn: view.Average}}}},
	}
	p, err := plan.Check(doc, c, calendar.Calendar{})
	require.NoError(t, err)
	e := engine.New(&table.Snapshot{Tables: map[string]*table.Table{"lines": tb}}, c, engine.Options{})
	res, err := e.Run(t.Context(), p)
	require.NoError(t, err)
	notes := []string{c.Sets[0].Fields[1].Lost, "average price stands for several prices in 2 lines"}
	require.Equal(t, notes, res.NotesInWords())
	var csv, text bytes.Buffer
	source := Source{Result: res, Document: doc, Set: c.Sets[0]}
	require.NoError(t, Write(t.Context(), &csv, source, Options{Format: "csv", Rows: ByGroup}))
	require.Equal(t, []string{
		`level,Item,lines,average price,"average price, smallest price","average price, largest price"`,
		"1,Cabin,60,12.00,,", "1,Car,60,13.75,12.00,15.50", "0,,120,12.88,12.00,15.50", "",
	}, strings.Split(csv.String(), "\n"))
	require.NoError(t, Write(t.Context(), &text, source, Options{Format: "json", Rows: ByGroup}))
	var written struct{ Notes []string }
	require.NoError(t, json.Unmarshal(text.Bytes(), &written))
	require.Equal(t, notes, written.Notes)
}
