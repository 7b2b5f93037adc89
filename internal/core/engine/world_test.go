package engine

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/table"
)

// A world is a small workspace of random records: crossings that link to piers and to the
// crossing back. It is held twice: as columns for the engine, and as plain values, one map
// for each record, for the reference.
type world struct {
	catalog *catalog.Catalog
	snap    *table.Snapshot
	cal     calendar.Calendar
	rows    []map[string]any // by field path; nil is a blank
	pier    []int            // the linked pier of each row, or -1
	back    []int            // the crossing back of each row, or -1
	piers   []map[string]any
	// derived are the calculated fields and buckets of the document at hand, bands
	// the labels of the latter, and madeOf the fields that the former are made of; see
	// derived_test.go. rates are those of totals.
	derived map[string]catalog.Field
	bands   map[string][]string
	madeOf  map[string][]string
	rates   map[string]totalExpression
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
			{Key: "exact", Label: "Écart exact", Type: catalog.Decimal, Scale: 9},
			{Key: "part", Label: "Part", Type: catalog.Percent, Scale: 1},
			{Key: "coin", Label: "Coin", Type: catalog.Text},
			{Key: "paid", Label: "Paid", Type: catalog.Money, Scale: 2, CurrencyBy: "coin"},
		},
		Links: []catalog.Link{
			{Key: "pier", Label: "Pier", To: "piers"}, {Key: "back", Label: "Back", To: "crossings"},
		},
	},
	{
		Key: "piers", Label: "Piers", One: "pier", Many: "piers", Name: "name",
		Fields: []catalog.Field{
			{Key: "name", Label: "Name", Type: catalog.Text},
			{Key: "toll", Label: "Toll", Type: catalog.Money, Scale: 2},
			{Key: "coin", Label: "Coin", Type: catalog.Text},
			{Key: "rent", Label: "Rent", Type: catalog.Money, Scale: 2, CurrencyBy: "coin"},
			{Key: "code", Label: "Code", Type: catalog.Text, Unique: true},
		},
	},
}}

// worldPaths are the fields that documents are drawn from.
var worldPaths = []string{
	"ref", "state", "seats", "fare", "rebate", "wind", "day", "at", "delay", "late", "exact", "part", "coin",
	"paid",
	"pier.name.each", "pier.name", "pier.toll", "pier.rent", "back.state", "back.seats", "back.paid", "back.day", "back.pier.toll",
}

var (
	worldTexts = []string{"", "Route 2", "Route 10", "route 2", "Été", "ete", "Quay", "quay 007", "x y z"}
	worldZone  = zoneOf("Europe/Lisbon") // has summer time

	worldCalendar = calendar.Calendar{
		Now:  time.Date(2026, 11, 23, 9, 30, 0, 0, time.UTC),
		Zone: worldZone, WeekStart: time.Monday, FiscalStart: time.April,
	}
	// Zones whose clocks are or were changed at or over midnight, and one more.
	worldZones = []string{
		"Europe/Lisbon", "Atlantic/Azores", "America/Havana", "America/Santiago", "America/Asuncion",
		"America/Sao_Paulo", "America/St_Johns", "Asia/Kolkata",
	}
	worldYears = []int{2008, 2010, 2017, 2026}
)

func zoneOf(name string) *time.Location {
	zone, err := time.LoadLocation(name)
	if err != nil {
		panic(err)
	}
	return zone
}

// parallelRows is from where the engine splits its work, hashes and leaves dictionaries
// unordered.
const parallelRows = 1 << 15

func drawWorld(t *rapid.T) *world { return drawWorldOf(t, false) }

// drawAnyWorld is a world that in a share of the runs has more than parallelRows.
func drawAnyWorld(t *rapid.T) *world {
	return drawWorldOf(t, rapid.IntRange(0, 29).Draw(t, "many") == 29)
}

func drawWorldOf(t *rapid.T, many bool) *world {
	w := &world{catalog: worldCatalog, cal: worldCalendar}
	w.cal.Zone = zoneOf(rapid.SampledFrom(worldZones).Draw(t, "zone"))
	year := rapid.SampledFrom(worldYears).Draw(t, "year")
	w.cal.Now = time.Date(year, 11, 23, 9, 30, 0, 0, time.UTC)
	n := rapid.OneOf(rapid.IntRange(0, 6), rapid.IntRange(0, 150)).Draw(t, "rows")
	tail := "" // of texts
	if many {
		n = parallelRows + rapid.IntRange(1, 2000).Draw(t, "more")
		if rapid.Bool().Draw(t, "long texts") { // so many of them are kept without an order
			n, tail = 50_100, strings.Repeat(", and so on", 4)
		}
	}
	r := rand.New(rand.NewPCG(rapid.Uint64().Draw(t, "records"), 1))
	maybe := func(v any) any {
		if r.IntN(6) == 0 {
			return nil
		}
		return v
	}
	text := func(from []string) any {
		if s := from[r.IntN(len(from))]; s != "" {
			return s
		}
		return nil
	}
	between := func(lo, hi int64) int64 { return lo + r.Int64N(hi-lo+1) }
	coins := []string{"EUR", "GBP", "SEK", ""}[:1+r.IntN(4)]
	for range rapid.IntRange(0, 5).Draw(t, "piers") {
		w.piers = append(w.piers, map[string]any{
			"name": text(worldTexts), "toll": maybe(between(-500, 5000)), "coin": text(coins),
			"rent": maybe(between(100, 900)), "code": fmt.Sprint("P-", len(w.piers)),
		})
	}
	dayZero := calendar.FromDate(year, 1, 1)
	for i := range n {
		fare := between(-200, 2000)
		if r.IntN(2) == 0 {
			fare = max(int64(r.Uint64()), -math.MaxInt64)
		}
		w.rows = append(w.rows, map[string]any{
			"ref": fmt.Sprintf("C-%d", i) + tail, "state": text(worldTexts),
			"seats": maybe(between(-3, 12)), "fare": maybe(fare), "rebate": maybe(between(-3000, 3000)),
			"wind": maybe(float64(r.IntN(100)-20) / 4), "day": maybe(dayZero + between(-40, 400)),
			"at":    maybe(dayZero*calendar.DayLen + between(-40*86400, 400*86400)*calendar.Second),
			"delay": maybe(between(-100, 4000) * calendar.Second), "late": maybe(between(0, 1)),
			"exact": maybe(between(-3_000_000_000, 3_000_000_000)), "part": maybe(between(-50, 1200)),
			"coin": text(coins), "paid": maybe(between(-900, 9000)),
		})
		pier, back := -1, -1
		if len(w.piers) > 0 {
			pier = r.IntN(len(w.piers)+1) - 1
		}
		if r.IntN(3) > 0 {
			back = r.IntN(min(n, 40))
		}
		w.pier, w.back = append(w.pier, pier), append(w.back, back)
	}
	for i, row := range w.rows {
		for _, path := range append(slices.Clone(worldPaths), "pier.coin", "back.coin") {
			switch {
			case path == "pier.name.each":
				if w.pier[i] >= 0 {
					row[path] = w.each(w.pier[i])
				}
			case strings.Contains(path, "."):
				row[path] = w.linked(path, i)
			}
		}
	}
	w.build()
	return w
}

// each is a pier itself: its name, with its code where another pier has that name, or it has none.
func (w *world) each(pier int) string {
	name, _ := w.piers[pier]["name"].(string)
	same := 0
	for _, p := range w.piers {
		if other, _ := p["name"].(string); table.Fold(other) == table.Fold(name) {
			same++
		}
	}
	switch code := w.piers[pier]["code"].(string); {
	case name == "":
		return code
	case same > 1:
		return name + " · " + code
	}
	return name
}

// holder is the record that links lead to from a row, or -1.
func (w *world) holder(links string, row int) int {
	for _, link := range strings.Split(links, ".") {
		switch {
		case row < 0 || links == "":
			return row
		case link == "pier":
			row = w.pier[row]
		case link == "back":
			row = w.back[row]
		}
	}
	return row
}

// linked is the value of a linked record.
func (w *world) linked(path string, row int) any {
	at := strings.LastIndex(path, ".")
	held := w.holder(path[:at], row)
	switch {
	case held < 0:
		return nil
	case strings.HasSuffix(path[:at], "pier"):
		return w.piers[held][path[at+1:]]
	}
	return w.rows[held][path[at+1:]]
}

// build makes the columns of the plain values.
func (w *world) build() {
	crossings, piers := table.New("crossings", len(w.rows)), table.New("piers", len(w.piers))
	fill(crossings, w.catalog.Set("crossings"), w.rows)
	fill(piers, w.catalog.Set("piers"), w.piers)
	links := func(to []int) []int32 {
		out := make([]int32, len(w.rows))
		for i := range out {
			if out[i] = -1; i < len(to) {
				out[i] = int32(to[i])
			}
		}
		return out
	}
	crossings.AddLink("pier", &table.Links{To: "piers", Rows: links(w.pier)})
	crossings.AddLink("back", &table.Links{To: "crossings", Rows: links(w.back)})
	w.snap = &table.Snapshot{Tables: map[string]*table.Table{"crossings": crossings, "piers": piers}}
}

// buildAs makes one table of the rows, by the name of its record set.
func (w *world) buildAs(set string) {
	t := table.New(set, len(w.rows))
	fill(t, w.catalog.Set(set), w.rows)
	w.snap = &table.Snapshot{Tables: map[string]*table.Table{set: t}}
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
