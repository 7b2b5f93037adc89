package witness

import (
	"errors"
	"flag"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
	"gavrik/internal/demo"
	"gavrik/internal/pgreader"
)

var update = flag.Bool("update", false, "write the table of docs/scaling.md anew")

// way is a way of asking, and a view that asks so.
type way struct {
	kind, name string
	doc        *view.Document
}

// operandsOf make a condition of an operator on a field of a type.
func operandsOf(c view.Condition, t catalog.Type) view.Condition {
	value := map[catalog.Type]string{
		catalog.Text: "e", catalog.Date: "2026-05-01", catalog.DateTime: "2026-05-01", catalog.YesNo: "yes", catalog.Duration: "0:20",
	}[t]
	if value == "" {
		value = "40"
	}
	switch c.Op {
	case view.IsBlank, view.Filled, view.Failed:
	case view.Weekday, view.NotWeekday:
		c.Values = []string{"Monday"}
	case view.Hour, view.NotHour:
		c.Values = []string{"9"}
	case view.In, view.NotIn:
		c.Period = &calendar.Period{Which: "past", Unit: "month", N: 5}
	case view.OneOf, view.NoneOf:
		c.Values = []string{value, ""}
	case view.Between, view.NotBetween:
		if c.Value, c.To = value, value; t.Numeric() && t != catalog.Duration {
			c.To = "80"
		}
	default:
		c.Value = value
	}
	return c
}

// waysToAsk are all operators, totals, units, ways of showing, of drawing from linked records, of setting
// beside and functions.
func waysToAsk(t *testing.T, c *catalog.Catalog, cal calendar.Calendar) (all []way) {
	of := func(records string) *view.Document {
		return &view.Document{Gavrik: 1, Records: records, Columns: []view.Column{}}
	}
	seen := map[string]bool{}
	add := func(kind, name string, d *view.Document) bool {
		if _, err := plan.Check(d, c, cal); err != nil || seen[kind+name] {
			return err == nil
		}
		seen[kind+name] = true
		all = append(all, way{kind, name, d})
		return true
	}
	fields := []string{
		"status", "claimed", "opened_at", "closed_at", "booking.sailing.delay", "booking.sailing.route.seasonal",
		"booking.sailing.departs_at",
	}
	for _, path := range fields {
		ref, err := c.Resolve("claims", path)
		require.NoError(t, err)
		for _, op := range view.OpsFor(ref.Field.Type) {
			d := of("claims")
			where := operandsOf(view.Condition{Field: path, Op: op}, ref.Field.Type)
			d.Filter = &where
			require.True(t, add("operators", string(op)+" ("+ref.Field.Type.Word()+")", d), "%s %s", path, op)
		}
		for _, fn := range view.FnsFor(ref.Field.Type) {
			total := view.Total{Fn: fn}
			if fn == view.Percentile {
				total.Percent = "90"
			}
			d := of("claims")
			d.Groups = []view.Group{{Field: "category"}}
			d.Columns = []view.Column{{Field: path, Totals: []view.Total{total}}}
			require.True(t, add("totals", string(fn)+" ("+ref.Field.Type.Word()+")", d), "%s %s", path, fn)
		}
	}
	for _, show := range view.Shows()[1:] {
		d := of("claims")
		d.Groups, d.Across = []view.Group{
			{Field: "category"}, {Field: "status"},
		}, []view.Group{{Field: "booking.channel"}}
		d.Columns = []view.Column{{Field: "claimed", Totals: []view.Total{{Fn: view.Sum, Show: show}}}}
		if !add("shown in place of a total", string(show), d) {
			d.Across = nil
			require.True(t, add("shown in place of a total", string(show), d), show)
		}
	}
	for _, unit := range calendar.GroupUnits() {
		d := of("claims")
		d.Groups = []view.Group{{Field: "opened_at", Unit: unit}}
		require.True(t, add("units of groups", string(unit), d))
	}
	for _, take := range view.Takes() {
		for _, field := range []string{"", "score", "note", "passed", "inspected_on"} {
			d := of("vessels")
			d.Linked = []view.LinkedValue{
				{Key: "drawn", Label: "Drawn", Records: "inspections", By: "vessel", Take: take, Field: field},
			}
			if take.ByDate() {
				d.Linked[0].Date = "inspected_on"
			}
			d.Groups = []view.Group{{Field: "drawn"}}
			add("drawn from linked records", string(take), d)
		}
		if take == view.TakeSum { // percentages are not added up
			d := of("vessels")
			d.Linked = []view.LinkedValue{
				{Key: "drawn", Label: "Drawn", Records: "sailings", By: "vessel", Take: take, Field: "passengers"},
			}
			d.Groups = []view.Group{{Field: "drawn"}}
			add("drawn from linked records", string(take), d)
		}
		require.True(t, seen["drawn from linked records"+string(take)], take)
	}
	for _, take := range view.BesideTakes() {
		b := view.Beside{Key: "beside", Label: "Beside", Take: take, Each: []view.BesideEach{{Field: "category"}}}
		if take.OfField() {
			b.Field = "claimed"
		}
		if take == view.SincePrevious {
			b.Field = "opened_at"
		}
		if take.Ordered() {
			b.By = []view.Sort{{Field: "opened_at"}}
		}
		d := of("claims")
		d.Beside, d.Columns = []view.Beside{b}, []view.Column{
			{Field: "beside", Totals: []view.Total{{Fn: view.Largest}}},
		}
		require.True(t, add("beside other records", string(take), d), take)
	}
	for _, chapter := range formula.Chapters() {
		for _, f := range chapter.Functions {
			there := slices.ContainsFunc([]string{
				"claims", "bookings", "sailings", "vessels", "inspections", "customers", "routes",
			}, func(set string) bool {
				d := of(set)
				d.Calculated = []view.Calculated{{Key: "made", Label: "Made", Formula: f.Example}}
				d.Columns = []view.Column{{Field: "made"}}
				return add("functions", f.Name, d)
			})
			require.True(t, there, "%s: %s", f.Name, f.Example)
		}
	}
	return all
}

// Every way of asking says the same where the records stay, or is refused by name; docs/scaling.md tells
// which.
func TestEveryWayOfAskingWhereTheRecordsStay(t *testing.T) {
	conn, loaded, cal := ferry(t)
	memory := engine.New(loaded.Snapshot, loaded.Catalog, engine.Options{}).Reader()
	readers := map[string]*pgreader.Reader{}
	var kinds []string
	exact, refused := map[string][]string{}, map[string][]string{}
	all := waysToAsk(t, loaded.Catalog, cal)
	for _, w := range all {
		if readers[w.doc.Records] == nil {
			readers[w.doc.Records] = staying(t, conn.Config().ConnString(), demo.Schema, w.doc.Records)
		}
		p, err := plan.Check(w.doc, loaded.Catalog, cal)
		require.NoError(t, err)
		want, err := memory.Run(t.Context(), p)
		require.NoError(t, err)
		if !slices.Contains(kinds, w.kind) {
			kinds = append(kinds, w.kind)
		}
		got, err := readers[w.doc.Records].Run(t.Context(), p)
		var why *pgreader.Refused
		if errors.As(err, &why) {
			refused[w.kind] = append(refused[w.kind], w.name+": "+why.What)
			continue
		}
		require.NoError(t, err, "%s %s", w.kind, w.name)
		require.Equal(t, said(t, want), said(t, got), "%s %s", w.kind, w.name)
		exact[w.kind] = append(exact[w.kind], w.name)
	}
	var b strings.Builder
	b.WriteString("| ways of asking | exact | refused |\n|---|---|---|\n")
	n := 0
	for _, kind := range kinds {
		n += len(exact[kind])
		fmt.Fprintf(
			&b, "| %s | %d: %s | %s |\n", kind, len(exact[kind]), strings.Join(exact[kind], ", "),
			strings.Join(refused[kind], "; "),
		)
	}
	fmt.Fprintf(&b, "\n%d of %d are exact.\n", n, len(all))
	require.GreaterOrEqual(t, float64(n), 0.95*float64(len(all)))

	const file, begins, ends = "../../docs/scaling.md", "<!-- made by test/witness -->\n", "<!-- to here -->"
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	before, rest, ok := strings.Cut(string(text), begins)
	table, after, ended := strings.Cut(rest, ends)
	require.True(t, ok && ended)
	if *update {
		require.NoError(t, os.WriteFile(file, []byte(before+begins+b.String()+ends+after), 0o644))
		return
	}
	require.Equal(t, b.String(), table, "write it anew: go test ./test/witness -run EveryWayOfAsking -update")
}
