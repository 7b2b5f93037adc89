package engine

import (
	"fmt"
	"math"
	"time"

	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/table"
)

// A world is a small workspace of random records: crossings that link to piers.
// It is held twice: as columns for the engine, and as plain values, one map for
// each record, for the reference.
type world struct {
	catalog *catalog.Catalog
	snap    *table.Snapshot
	cal     calendar.Calendar
	rows    []map[string]any // by field path; nil is a blank
	pier    []int            // the linked pier of each row, or -1
	piers   []map[string]any
	// derived are the calculated fields and buckets of the document at hand, bands
	// the labels of the latter; see derived_test.go.
	derived map[string]catalog.Field
	bands   map[string][]string
}

var worldCatalog = &catalog.Catalog{Sets: []*catalog.RecordSet{
	{
		Key: "crossings", Label: "Crossings", One: "crossing", Many: "crossings", Name: "ref",
		Fields: []catalog.Field{
			{Key: "ref", Label: "Ref", Type: catalog.Text},
			{Key: "state", Label: "State", Type: catalog.Text},
			{Key: "seats", Label: "Seats", Type: catalog.Whole},
			{Key: "fare", Label: "Fare", Type: catalog.Money, Scale: 2},
			{Key: "rebate", Label: "Rebate", Type: catalog.Decimal, Scale: 3},
			{Key: "wind", Label: "Wind", Type: catalog.Decimal, Approx: true},
			{Key: "day", Label: "Day", Type: catalog.Date},
			{Key: "at", Label: "Left at", Type: catalog.DateTime},
			{Key: "delay", Label: "Delay", Type: catalog.Duration},
			{Key: "late", Label: "Late", Type: catalog.YesNo},
		},
		Links: []catalog.Link{{Key: "pier", Label: "Pier", To: "piers"}},
	},
	{
		Key: "piers", Label: "Piers", One: "pier", Many: "piers", Name: "name",
		Fields: []catalog.Field{
			{Key: "name", Label: "Name", Type: catalog.Text},
			{Key: "toll", Label: "Toll", Type: catalog.Money, Scale: 2},
		},
	},
}}

// worldPaths are the fields that documents are drawn from.
var worldPaths = []string{"ref", "state", "seats", "fare", "rebate", "wind", "day", "at", "delay", "late", "pier.name", "pier.toll"}

var (
	worldTexts = []string{"", "Route 2", "Route 10", "route 2", "Été", "ete", "Quay", "quay 007", "x y z"}
	worldZone  = func() *time.Location {
		zone, err := time.LoadLocation("Europe/Lisbon") // has summer time
		if err != nil {
			panic(err)
		}
		return zone
	}()
	worldCalendar = calendar.Calendar{
		Now:  time.Date(2026, 11, 23, 9, 30, 0, 0, time.UTC),
		Zone: worldZone, WeekStart: time.Monday, FiscalStart: time.April,
	}
)

func drawWorld(t *rapid.T) *world {
	w := &world{catalog: worldCatalog, cal: worldCalendar}
	n := rapid.OneOf(rapid.IntRange(0, 6), rapid.IntRange(0, 150)).Draw(t, "rows")
	for range rapid.IntRange(0, 5).Draw(t, "piers") {
		w.piers = append(w.piers, map[string]any{
			"name": drawText(t), "toll": maybe(t, func() any { return rapid.Int64Range(-500, 5000).Draw(t, "toll") }),
		})
	}
	dayZero := calendar.FromDate(2026, 1, 1)
	for i := range n {
		pier := -1
		if len(w.piers) > 0 {
			pier = rapid.IntRange(-1, len(w.piers)-1).Draw(t, "pier")
		}
		w.pier = append(w.pier, pier)
		row := map[string]any{
			"ref":    fmt.Sprintf("C-%d", i),
			"state":  drawText(t),
			"seats":  maybe(t, func() any { return rapid.Int64Range(-3, 12).Draw(t, "seats") }),
			"fare":   maybe(t, func() any { return rapid.OneOf(rapid.Int64Range(-200, 2000), rapid.Int64()).Draw(t, "fare") }),
			"rebate": maybe(t, func() any { return rapid.Int64Range(-3000, 3000).Draw(t, "rebate") }),
			"wind":   maybe(t, func() any { return float64(rapid.IntRange(-20, 80).Draw(t, "wind")) / 4 }),
			"day":    maybe(t, func() any { return dayZero + rapid.Int64Range(-40, 400).Draw(t, "day") }),
			"at": maybe(t, func() any {
				return dayZero*calendar.DayLen + rapid.Int64Range(-40*86400, 400*86400).Draw(t, "at")*calendar.Second
			}),
			"delay": maybe(t, func() any { return rapid.Int64Range(-100, 4000).Draw(t, "delay") * calendar.Second }),
			"late":  maybe(t, func() any { return rapid.Int64Range(0, 1).Draw(t, "late") }),
		}
		if row["fare"] == int64(table.Blank) {
			row["fare"] = nil
		}
		row["pier.name"], row["pier.toll"] = any(nil), any(nil)
		if pier >= 0 {
			row["pier.name"], row["pier.toll"] = w.piers[pier]["name"], w.piers[pier]["toll"]
		}
		w.rows = append(w.rows, row)
	}
	w.build()
	return w
}

func drawText(t *rapid.T) any {
	if s := rapid.SampledFrom(worldTexts).Draw(t, "text"); s != "" {
		return s
	}
	return nil
}

func maybe(t *rapid.T, draw func() any) any {
	if rapid.IntRange(0, 5).Draw(t, "blank") == 0 {
		return nil
	}
	return draw()
}

// build makes the columns of the plain values.
func (w *world) build() {
	crossings, piers := table.New("crossings", len(w.rows)), table.New("piers", len(w.piers))
	fill(crossings, w.catalog.Set("crossings"), w.rows)
	fill(piers, w.catalog.Set("piers"), w.piers)
	links := make([]int32, len(w.pier))
	for i, p := range w.pier {
		links[i] = int32(p)
	}
	crossings.AddLink("pier", &table.Links{To: "piers", Rows: links})
	w.snap = &table.Snapshot{ID: 1, Tables: map[string]*table.Table{"crossings": crossings, "piers": piers}}
}

// buildAs makes one table of the rows, by the name of its record set.
func (w *world) buildAs(set string) {
	t := table.New(set, len(w.rows))
	fill(t, w.catalog.Set(set), w.rows)
	w.snap = &table.Snapshot{ID: 1, Tables: map[string]*table.Table{set: t}}
}

func fill(to *table.Table, set *catalog.RecordSet, rows []map[string]any) {
	for _, f := range set.Fields {
		switch {
		case f.Type == catalog.Text:
			dict, codes := table.NewDictBuilder(), make([]uint32, len(rows))
			for i, r := range rows {
				if s, ok := r[f.Key].(string); ok {
					codes[i] = dict.Code([]byte(s))
				}
			}
			to.Add(f.Key, dict.Build(codes))
		case f.Approx:
			vals := make([]float64, len(rows))
			for i, r := range rows {
				vals[i] = math.NaN()
				if v, ok := r[f.Key].(float64); ok {
					vals[i] = v
				}
			}
			to.Add(f.Key, table.NewFloats(vals))
		default:
			vals := make([]int64, len(rows))
			for i, r := range rows {
				vals[i] = table.Blank
				if v, ok := r[f.Key].(int64); ok {
					vals[i] = v
				}
			}
			to.Add(f.Key, table.NewNumbers(vals))
		}
	}
}

func (w *world) engine(workers int) *Engine {
	e := New(w.snap, w.catalog, Options{Workers: workers})
	if workers%2 == 1 {
		e.denseSpace = 0 // both ways to number groups are held against each other
	}
	return e
}

func (w *world) field(path string) catalog.Field {
	if f, ok := w.derived[path]; ok {
		return f
	}
	ref, err := w.catalog.Resolve("crossings", path)
	if err != nil {
		panic(err)
	}
	return ref.Field
}

// people writes a count for people.
func (w *world) people(n int) string {
	return format.NewWriter(format.People, w.cal).Number(int64(n), catalog.Field{Type: catalog.Whole})
}
