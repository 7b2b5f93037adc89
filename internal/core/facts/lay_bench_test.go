package facts

import (
	"context"
	"fmt"
	"testing"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/description"
	"gavrik/internal/core/table"
)

// BenchmarkLay lays one fact with 10,000 values over 1,000,000 records.
func BenchmarkLay(b *testing.B) {
	const rows = 1_000_000
	dict, codes := table.NewUniqueBuilder(rows), make([]uint32, rows)
	values := map[string]string{}
	for i := range rows {
		key := fmt.Sprintf("MB-%07d", i)
		codes[i] = dict.CodeOf(key)
		if i%100 == 0 {
			values[key] = "2026-12-01"
		}
	}
	t := table.New("bookings", rows)
	t.Add("ref", dict.Build(codes))
	set := &catalog.RecordSet{Key: "bookings", Label: "Bookings", Many: "bookings", Fields: []catalog.Field{{Key: "ref", Label: "Ref", Type: catalog.Text}}}
	from := description.Records{
		Catalog:  &catalog.Catalog{Sets: []*catalog.RecordSet{set}},
		Snapshot: &table.Snapshot{Tables: map[string]*table.Table{"bookings": t}},
	}
	fact := Filled{"bookings", &Fact{Key: "due", Label: "Due", Type: catalog.Date, By: "ref"}, values, ""}
	for b.Loop() {
		out, err := Lay(context.Background(), from, []Filled{fact}, nil)
		if err != nil || out.Snapshot.Tables["bookings"].Column("due").Blanks() != rows-len(values) {
			b.Fatal(err)
		}
	}
}
