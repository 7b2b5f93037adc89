package witness

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
	"gavrik/internal/demo"
	"gavrik/internal/export"
	"gavrik/internal/pgreader"
	"gavrik/internal/records"
)

// said is all that a result says in totals.
func said(t require.TestingT, res result.Result) map[string]any {
	s := res.Summarize()
	var lines [][]string
	require.NoError(t, export.Totals(context.Background(), res).EachText(func(row []string) error {
		lines = append(lines, append([]string(nil), row...))
		return nil
	}))
	pen := s.Pen(format.People)
	open := result.Open{Depth: len(s.Plan.Groups)}
	window, err := res.Window(context.Background(), open, 3, 60)
	require.NoError(t, err)
	plain := s.Pen(format.Plain)
	var shown [][]string
	for _, l := range window.Lines {
		line := plain.Cells(l)
		if !l.IsRecord {
			line = append([]string{pen.Label(l)}, line...)
		}
		shown = append(shown, line)
	}
	return map[string]any{
		"lines": lines, "shown": shown, "of": window.Total, "grand": pen.Cells(s.GrandTotal), "steps": s.Steps, "levels": s.Levels,
		"counts": []int{s.All, s.Kept, s.Others}, "notes": s.NotesInWords(), "check": s.Check,
	}
}

// both carry plans out in memory and where the records stay.
type both struct {
	memory, database interface {
		Run(ctx context.Context, p *plan.Plan) (result.Result, error)
	}
	loaded *records.Loaded
	cal    calendar.Calendar
	asked  int
	// keyless says that records stand in nobody's order.
	keyless bool
	refused map[string]int
}

// compare asks both; a view that is refused is counted.
func (b *both) compare(t require.TestingT, d *view.Document) {
	p, err := plan.Check(d, b.loaded.Catalog, b.cal)
	require.NoError(t, err)
	want, wrong := b.memory.Run(context.Background(), p)
	b.asked++
	got, err := b.database.Run(context.Background(), p)
	if wrong != nil {
		require.EqualError(t, err, wrong.Error(), written(d))
		return
	}
	var why *pgreader.Refused
	if errors.As(err, &why) {
		b.refused[why.What]++
		return
	}
	require.NoError(t, err, written(d))
	one, other := said(t, want), said(t, got)
	if b.keyless {
		delete(one, "shown")
		delete(other, "shown")
	}
	require.Equal(t, one, other, written(d))
}

// staying is a reader of records that stay in a database.
func staying(t *testing.T, url, schema string, sets ...string) *pgreader.Reader {
	t.Helper()
	away, err := records.Load(
		t.Context(), records.Database(url, schema), records.Settings{Zone: "Europe/Lisbon", Away: sets},
	)
	require.NoError(t, err)
	for _, set := range sets {
		require.Zero(t, away.Snapshot.Tables[set].Rows)
	}
	databases := pgreader.NewDatabases(4)
	t.Cleanup(databases.Close)
	return pgreader.New(pgreader.Seen{Loaded: away}, databases, pgreader.Options{Few: 100})
}

// richer draws what random documents have not: groups across, tops and rests, what is shown of totals,
// comparisons, formulas, bands, the first and the last, records that link and records beside each other.
func (v vocabulary) richer(t *rapid.T, c *catalog.Catalog) *view.Document {
	d := v.drawDocument(t, c)
	some := func(what string) bool { return rapid.IntRange(0, 3).Draw(t, what) == 0 }
	group := func(what string) view.Group {
		g := view.Group{Field: rapid.SampledFrom(v.grouped).Draw(t, what)}
		if strings.HasSuffix(g.Field, "_at") {
			g.Unit = rapid.SampledFrom(calendar.GroupUnits()).Draw(t, "by")
		}
		return g
	}
	if some("calculated") {
		formula := rapid.SampledFrom([]string{
			"Claimed - COALESCE(Paid; 0)", "ROUND(SUM(Claimed) / COUNT(Claimed); 3)", "IF(Claimed > 50; \"much\"; UPPER(Status))",
			"Claimed / (Paid - Paid)", "YEAR('Opened at') * 100 + MONTH('Opened at')", "STDEV(Claimed) + MEDIAN(Paid)",
		}).Draw(t, "formula")
		d.Calculated = append(d.Calculated, view.Calculated{Key: "made", Label: "Made", Formula: formula})
		column := view.Column{Field: "made"}
		if formula[0] == 'C' {
			column.Totals = []view.Total{{Fn: view.Sum}, {Fn: view.Largest}}
		}
		d.Columns = append(d.Columns, column)
	}
	if some("bucket") {
		d.Buckets = append(d.Buckets, view.Bucket{Key: "size", Label: "Size", Of: "claimed", Rest: "more", Bands: []view.Band{
			{Label: "to 20", Below: "20"}, {Label: "to 60.5", Below: "60.5"}}})
		d.Groups = append(d.Groups, view.Group{Field: "size"})
		d.Buckets = append(d.Buckets, view.Bucket{
			Key: "stage", Label: "Stage", Of: "status", Rest: "under way", Bands: []view.Band{
				{Label: "done", Values: []string{"Paid", "REFUSED"}}, {Label: "new", Values: []string{"open", "paid"}}}})
		banded := view.Condition{
			Field: rapid.SampledFrom([]string{"size", "stage"}).Draw(t, "banded"),
			Op:    rapid.SampledFrom([]view.Op{view.OneOf, view.NoneOf, view.Contains, view.IsBlank}).Draw(t, "how"),
		}
		switch banded.Op {
		case view.OneOf, view.NoneOf:
			banded.Values = view.Values{"to 60.5", "Done", "under way", "nothing"}
		case view.Contains:
			banded.Value = "e"
		}
		d.Filter = &view.Condition{Any: []view.Condition{banded}}
		if some("and more") {
			d.Filter.Any = append(d.Filter.Any, v.drawCondition(t, c, 1))
		}
	}
	if some("beside") {
		d.Beside = append(d.Beside, view.Beside{
			Key: "place", Label: "Place", Take: rapid.SampledFrom(
				[]view.BesideTake{view.GroupRank, view.RunningTotal},
			).Draw(t, "beside"),
			Field: "claimed", Each: []view.BesideEach{{Field: "status"}}, By: []view.Sort{
				{Field: "opened_at"}, {Field: "ref"},
			},
		})
		if d.Beside[0].Take == view.GroupRank {
			d.Beside[0].By = nil
		}
		d.Columns = append(
			d.Columns, view.Column{Field: "place", Totals: []view.Total{{Fn: view.Sum}, {Fn: view.Largest}}},
		)
	}
	if some("across") {
		d.Across = append(d.Across, group("across"))
	}
	for i := range d.Groups {
		switch rapid.IntRange(0, 5).Draw(t, "shape") {
		case 0:
			d.Groups[i].Top, d.Groups[i].Rest = rapid.IntRange(1, 4).Draw(t, "top"), "the rest"
		case 1:
			d.Groups[i].Order = &view.Order{By: view.ByCount, Desc: true}
		case 2:
			d.Groups[i].Keep = &view.Keep{
				Field: "claimed", Fn: view.Sum, Share: "60",
				Others: rapid.SampledFrom([]view.Others{view.OthersOut, view.OthersRest}).Draw(t, "others"),
			}
		case 3:
			d.Groups[i].Empty = d.Groups[i].Unit != ""
		}
	}
	if some("more totals") {
		field := rapid.SampledFrom([]string{"claimed", "status", "closed_at"}).Draw(t, "of")
		d.Columns = append(d.Columns, view.Column{Field: field, Totals: []view.Total{
			{Fn: view.First, By: "opened_at"}, {Fn: view.Last}, {Fn: view.Mode}, {Fn: view.Distinct}}})
	}
	if some("shown") {
		d.Columns = append(d.Columns, view.Column{Field: "claimed", Totals: []view.Total{
			{Fn: view.Sum}, {
				Fn: view.Sum, Show: rapid.SampledFrom(view.Shows()[1:]).Draw(t, "show"),
			}, {Fn: view.Average, Show: view.Rank}}})
	}
	if some("compare") {
		other := v.drawCondition(t, c, 1)
		d.Compare = &view.Compare{With: view.OtherFilter, Filter: &other, Label: "others"}
	}
	if some("records") { // the first lines of which are asked for by themselves
		d.Groups, d.Across, d.Compare = nil, nil, nil
		for range rapid.IntRange(0, 2).Draw(t, "sorts") {
			d.Sort = append(d.Sort, view.Sort{
				Field: rapid.SampledFrom([]string{"claimed", "paid", "closed_at", "opened_at", "status", "handler.name"}).Draw(t, "sort"),
				Desc:  rapid.Bool().Draw(t, "desc"),
			})
		}
		for _, f := range []string{"ref", "claimed", "closed_at", "handler.name"} {
			d.Columns = append(d.Columns, view.Column{Field: f})
		}
	}
	return d
}

// What the database is asked and the engine finishes says what the engine says of the same records in memory:
// every line, total, step and note.
func TestRandomViewsAreTheSameWhereTheRecordsStay(t *testing.T) {
	conn, loaded, cal := ferry(t)
	b := &both{
		memory: engine.New(loaded.Snapshot, loaded.Catalog, engine.Options{}).Reader(),
		loaded: loaded, cal: cal, refused: map[string]int{},
	}
	// Of their own set, of sets that they reach, and of both.
	var readers []*pgreader.Reader
	for _, sets := range [][]string{{"claims"}, {"bookings", "customers"}, {"claims", "bookings", "staff"}} {
		readers = append(readers, staying(t, conn.Config().ConnString(), demo.Schema, sets...))
	}
	rapid.Check(t, func(rt *rapid.T) {
		d := everyField.richer(rt, loaded.Catalog)
		if _, err := plan.Check(d, loaded.Catalog, cal); err != nil {
			rt.Skip("not every document can be run")
		}
		b.database = rapid.SampledFrom(readers).Draw(rt, "reader")
		b.compare(rt, d)
	})
	// Found by drawing: days of the week are shown though no record is kept, and single records are asked for.
	empty, err := view.Parse([]byte(`{"gavrik":1,"records":"claims","filter":{"field":"claimed","op":"under","value":"0"},
		"columns":[{"field":"claimed","totals":[{"fn":"first","by":"opened_at"}]}],"groups":[{"field":"opened_at","unit":"weekday","empty":true}]}`))
	require.NoError(t, err)
	b.database = readers[0]
	b.compare(t, empty)
	require.Empty(t, b.refused)
}

// So do the views that are written by hand, of whatever is about records of one set.
func TestAnswersAreTheSameWhereTheRecordsStay(t *testing.T) {
	conn, loaded, cal := ferry(t)
	b := &both{
		memory: engine.New(
			loaded.Snapshot, loaded.Catalog, engine.Options{},
		).Reader(), loaded: loaded, cal: cal, refused: map[string]int{},
	}
	readers := map[string]*pgreader.Reader{}
	var sets []string
	for _, set := range loaded.Catalog.Sets {
		sets = append(sets, set.Key)
	}
	every := staying(t, conn.Config().ConnString(), demo.Schema, sets...)
	all := t
	for _, q := range slices.Concat(questions, shapes) {
		t.Run(q.name, func(t *testing.T) {
			doc, err := view.Parse([]byte(q.view))
			require.NoError(t, err)
			if readers[doc.Records] == nil {
				readers[doc.Records] = staying(all, conn.Config().ConnString(), demo.Schema, doc.Records)
			}
			b.database = readers[doc.Records]
			b.compare(t, doc)
			b.database = every
			b.compare(t, doc)
		})
	}
	require.Empty(t, b.refused)
}

// Of a field that has more different values than can be asked for, those are listed that somebody looks for;
// how moments are spread is told by their days.
func TestFieldsThatAllDifferWhereTheRecordsStay(t *testing.T) {
	conn, loaded, cal := ferry(t)
	memory := engine.New(loaded.Snapshot, loaded.Catalog, engine.Options{}).Reader()
	stay := staying(t, conn.Config().ConnString(), demo.Schema, "claims")
	databases := pgreader.NewDatabases(4)
	t.Cleanup(databases.Close)
	few := pgreader.New(pgreader.Seen{Loaded: stay.Loaded}, databases, pgreader.Options{Lines: 2400})
	doc, err := view.Parse([]byte(`{"gavrik":1,"records":"claims","filter":{"field":"status","op":"is","value":"Open"},"columns":[]}`))
	require.NoError(t, err)
	p, err := plan.Check(doc, loaded.Catalog, cal)
	require.NoError(t, err)
	of := func(path string) catalog.Ref {
		ref, err := p.Field(loaded.Catalog, path)
		require.NoError(t, err)
		return ref
	}
	_, err = few.Values(t.Context(), p, of("ref"), "", 10)
	require.ErrorContains(t, err, "type a part of one")
	for _, search := range []string{"cl-151", "99"} {
		want, err := memory.Values(t.Context(), p, of("ref"), search, 500)
		require.NoError(t, err)
		got, err := few.Values(t.Context(), p, of("ref"), search, 500)
		require.NoError(t, err)
		require.NotEmpty(t, got.List)
		require.ElementsMatch(t, want.List, got.List)
		require.Equal(t, want.Found, got.Found)
	}
	want, err := memory.Distribution(t.Context(), p, of("opened_at"), 20)
	require.NoError(t, err)
	got, err := few.Distribution(t.Context(), p, of("opened_at"), 20)
	require.NoError(t, err)
	require.Equal(t, want.Bins, got.Bins)
	_, err = few.Distribution(t.Context(), p, of("claimed"), 20) // which repeat
	require.NoError(t, err)

	// How many have a value does not tell them apart.
	doc, err = view.Parse([]byte(`{"gavrik":1,"records":"claims","groups":[{"field":"status"}],"columns":[
		{"field":"ref","totals":[{"fn":"filled"}]},{"field":"note","totals":[{"fn":"filled"},{"fn":"blanks"}]},
		{"field":"opened_at","totals":[{"fn":"filled"}]},{"field":"closed_at","totals":[{"fn":"blanks"}]}]}`))
	require.NoError(t, err)
	p, err = plan.Check(doc, loaded.Catalog, cal)
	require.NoError(t, err)
	one, err := memory.Run(t.Context(), p)
	require.NoError(t, err)
	other, err := few.Run(t.Context(), p)
	require.NoError(t, err)
	require.Equal(t, everyGroup(t, one), everyGroup(t, other))
}

// Of moments that are told apart by weekdays, hours and days alone, no more is brought than tells those:
// they may all differ, and be more than may be brought. A zone may be an odd time away from others, and
// clocks be put forward.
func TestMomentsComeAsFinelyAsTheyMatter(t *testing.T) {
	conn, _, cal := ferry(t)
	_, err := conn.Exec(t.Context(), `CREATE SCHEMA ticks; CREATE TABLE ticks.ticks AS
		SELECT g AS id, timestamptz '2026-03-20 00:00:00Z' + g * interval '37.1 seconds' AS at, g % 7 AS kind
		FROM generate_series(1, 40000) g;
		ALTER TABLE ticks.ticks ADD PRIMARY KEY (id); INSERT INTO ticks.ticks VALUES (0, NULL, 0), (-1, 'infinity', 1)`)
	require.NoError(t, err)
	url := conn.Config().ConnString()
	loaded, err := records.Load(t.Context(), records.Database(url, "ticks"), records.Settings{Zone: "UTC"})
	require.NoError(t, err)
	databases := pgreader.NewDatabases(4)
	t.Cleanup(databases.Close)
	b := &both{
		memory: engine.New(loaded.Snapshot, loaded.Catalog, engine.Options{}).Reader(),
		database: pgreader.New(
			pgreader.Seen{Loaded: staying(t, url, "ticks", "ticks").Loaded}, databases,
			pgreader.Options{Lines: 14_000, Few: 1000},
		),
		loaded: loaded, cal: cal, refused: map[string]int{},
	}
	for _, zone := range []string{"Europe/Lisbon", "Asia/Kathmandu", "Australia/Lord_Howe"} {
		b.cal.Zone, err = time.LoadLocation(zone)
		require.NoError(t, err)
		for _, text := range []string{
			`"columns":[],"groups":[{"field":"at","unit":"hour"},{"field":"kind"}]`,
			`"columns":[{"field":"at","totals":[{"fn":"filled"}]}],"groups":[{"field":"kind"}],"filter":{"all":[
				{"field":"at","op":"weekday","values":["Monday","Sunday"]},{"field":"at","op":"not_hour","values":["8","9"]}]}`,
			`"columns":[],"groups":[{"field":"at","unit":"weekday"}],"filter":{"any":[
				{"field":"at","op":"weekday","values":["Tuesday"]},{"field":"at","op":"over","value":"2026-04-01"}]}`,
		} {
			doc, err := view.Parse([]byte(`{"gavrik":1,"records":"ticks",` + text + `}`))
			require.NoError(t, err)
			p, err := plan.Check(doc, loaded.Catalog, b.cal)
			require.NoError(t, err)
			want, err := b.memory.Run(t.Context(), p)
			require.NoError(t, err)
			got, err := b.database.Run(t.Context(), p)
			require.NoError(t, err, "%s %s", zone, text)
			require.Equal(t, everyGroup(t, want), everyGroup(t, got), "%s %s", zone, text)
			require.Equal(t, want.Summarize().Steps, got.Summarize().Steps)
		}
	}
}

// What a load cannot keep is a blank where the records stay, too: infinite dates, what is no number, numbers
// that are too large or too long.
func TestWhatCannotBeKeptIsBlankWhereTheRecordsStay(t *testing.T) {
	conn, _, cal := ferry(t)
	_, err := conn.Exec(t.Context(), `CREATE SCHEMA odd; CREATE TABLE odd.odd (id int PRIMARY KEY, short numeric(10,2), long numeric, whole int8,
		day date, moment timestamptz, near float8, word text);
		INSERT INTO odd.odd VALUES (1, 1.5, 2.25, 7, '2026-01-01', '2026-01-01 10:00Z', 1.25, 'Éden'), (2, 'NaN', 'NaN', -9223372036854775808, 'infinity', '-infinity', 'NaN', ''),
		(3, NULL, NULL, NULL, NULL, NULL, NULL, NULL), (4, -3, 12345678901234567890123.5, 9223372036854775807, '-infinity', 'infinity', 'infinity', 'eden'),
		(5, 40, 0.1234567891234, 8, '0044-03-15 BC', '2026-05-01 10:00Z', -40.5, '50% off %s')`)
	require.NoError(t, err)
	url := conn.Config().ConnString()
	loaded, err := records.Load(
		t.Context(), records.Database(url, "odd"), records.Settings{Zone: "Europe/Lisbon"},
	)
	require.NoError(t, err)
	b := &both{
		memory: engine.New(
			loaded.Snapshot, loaded.Catalog, engine.Options{},
		).Reader(), database: staying(t, url, "odd", "odd"),
		loaded: loaded, cal: cal, refused: map[string]int{},
	}
	for _, f := range loaded.Catalog.Set("odd").Fields {
		for _, op := range view.OpsFor(f.Type) {
			d := &view.Document{Gavrik: 1, Records: "odd", Columns: []view.Column{{Field: f.Key}}}
			where := operandsOf(view.Condition{Field: f.Key, Op: op}, f.Type)
			if d.Filter = &where; f.Type == catalog.Text && where.Value != "" {
				where.Value = "éden"
			}
			b.compare(t, d)
			if f.Type == catalog.Text && where.Value != "" { // what stands for something elsewhere stands for itself
				where.Value = "50% off %s"
				b.compare(t, d)
			}
		}
		d := &view.Document{Gavrik: 1, Records: "odd", Groups: []view.Group{{Field: "word"}}}
		for _, fn := range view.FnsFor(f.Type) {
			total := view.Total{Fn: fn}
			if fn == view.Percentile {
				total.Percent = "40"
			}
			d.Columns = append(d.Columns, view.Column{Field: f.Key, Totals: []view.Total{total}})
		}
		b.compare(t, d)
	}
	require.Empty(t, b.refused)
}

func written(d *view.Document) string {
	text, err := json.Marshal(d)
	if err != nil {
		return err.Error()
	}
	return string(text)
}
