package witness

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/cell"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
	"gavrik/internal/demo"
	"gavrik/internal/pgreader"
	"gavrik/internal/records"
)

// Views whose records are looked at by stretches; what goes by links comes last.
var stretched = []string{
	`"columns":[{"field":"ref"},{"field":"claimed"}]`,
	`"columns":[{"field":"ref"},{"field":"closed_at"}],"sort":[{"field":"claimed","desc":true},{"field":"closed_at"}]`,
	`"columns":[{"field":"ref"}],"sort":[{"field":"closed_at","desc":true}],"filter":{"field":"status","op":"is_not","value":"open"}`,
	`"columns":[{"field":"ref"},{"field":"claimed","totals":[{"fn":"sum"}]}],"groups":[{"field":"status"},{"field":"opened_at","unit":"quarter"}],"sort":[{"field":"paid"}]`,
	`"columns":[{"field":"ref"}],"groups":[{"field":"closed_at","unit":"month"}],"sort":[{"field":"ref"}]`,
	`"columns":[{"field":"ref"}],"groups":[{"field":"category","keep":{"field":"claimed","fn":"sum","share":"60","others":"rest"}}],"sort":[{"field":"opened_at","desc":true}]`,
	`"columns":[{"field":"ref"}],"groups":[{"field":"paid","top":3,"rest":"other amounts","order":{"by":"count","desc":true}}]`,
	`"columns":[{"field":"ref"},{"field":"half"}],"calculated":[{"key":"half","label":"Half","formula":"Claimed / 2"}],"groups":[{"field":"opened_at","unit":"weekday"}],"filter":{"field":"claimed","op":"under","value":"80"}`,
	`"columns":[{"field":"ref"}],"buckets":[{"key":"size","label":"Size","of":"claimed","rest":"more","bands":[{"label":"little","below":"20"},{"label":"to 60","below":"60"}]}],"groups":[{"field":"size"},{"field":"category"}]`,
	`"columns":[{"field":"ref"},{"field":"handler.name"}],"groups":[{"field":"handler.name","top":4,"rest":"others"}],"sort":[{"field":"claimed"}]`,
	`"columns":[{"field":"ref"}],"groups":[{"field":"booking.customer.name.each"},{"field":"status"}],"filter":{"field":"claimed","op":"under","value":"80"}`,
	`"columns":[{"field":"ref"},{"field":"booking.customer.name"}],"groups":[{"field":"booking.channel"}],"filter":{"field":"handler.name","op":"contains","value":"a"}`,
}

// Such views of records that nothing tells apart but what they are sorted by.
var stretchedLoose = []string{
	`"columns":[{"field":"ref"},{"field":"closed_at"}],"sort":[{"field":"claimed","desc":true},{"field":"closed_at"},{"field":"ref","desc":true}]`,
	`"columns":[{"field":"ref"}],"sort":[{"field":"closed_at"},{"field":"ref"}],"filter":{"field":"claimed","op":"over","value":"5"}`,
	`"columns":[{"field":"ref"}],"groups":[{"field":"status"},{"field":"opened_at","unit":"year"}],"sort":[{"field":"paid","desc":true},{"field":"ref"}]`,
	`"columns":[{"field":"ref"}],"groups":[{"field":"category"}],"sort":[{"field":"status"},{"field":"ref"}]`,
}

// Any window of records that stay, however far down and in whatever groups, is that of the same records in
// memory; and so are all of them one after the other. They are more than may be asked for at once.
func TestStretchesAreThoseOfTheRecordsInMemory(t *testing.T) {
	conn, _, cal := ferry(t)
	url := conn.Config().ConnString()
	_, err := conn.Exec(t.Context(), `CREATE SCHEMA parted;
		CREATE TABLE parted.claims (
			id int, ref text, opened_at timestamptz, closed_at timestamptz, category text, status text,
			claimed numeric(10,2), paid numeric(10,2), PRIMARY KEY (id)) PARTITION BY HASH (id);
		CREATE TABLE parted.one PARTITION OF parted.claims FOR VALUES WITH (MODULUS 3, REMAINDER 0);
		CREATE TABLE parted.two PARTITION OF parted.claims FOR VALUES WITH (MODULUS 3, REMAINDER 1);
		CREATE TABLE parted.three PARTITION OF parted.claims FOR VALUES WITH (MODULUS 3, REMAINDER 2);
		INSERT INTO parted.claims
			SELECT id, ref, opened_at, closed_at, category, status, claimed, paid FROM ferry.claims;
		CREATE SCHEMA loose; CREATE TABLE loose.claims AS SELECT * FROM parted.claims`)
	require.NoError(t, err)
	for schema, views := range map[string][]string{
		demo.Schema: stretched, "loose": stretchedLoose,
		"parted": slices.Concat(stretched[:len(stretched)-3], stretchedLoose),
	} {
		loaded, err := records.Load(
			t.Context(), records.Database(url, schema), records.Settings{Zone: "Europe/Lisbon"},
		)
		require.NoError(t, err)
		memory := engine.New(loaded.Snapshot, loaded.Catalog, engine.Options{}).Reader()
		databases := pgreader.NewDatabases(4)
		t.Cleanup(databases.Close)
		stay := staying(t, url, schema, "claims")
		reader := pgreader.New(
			pgreader.Seen{Loaded: stay.Loaded}, databases, pgreader.Options{Few: 200, Lines: 2400},
		)
		for i, text := range views {
			t.Run(fmt.Sprint(schema, i), func(t *testing.T) {
				doc, err := view.Parse([]byte(`{"gavrik":1,"records":"claims",` + text + `}`))
				require.NoError(t, err)
				p, err := plan.Check(doc, loaded.Catalog, cal)
				require.NoError(t, err)
				want, err := memory.Run(t.Context(), p)
				require.NoError(t, err)
				got, err := reader.Run(t.Context(), p)
				require.NoError(t, err)
				sameWindows(t, want, got)
				require.Equal(t, everyRecord(t, want), everyRecord(t, got))
				open := result.Open{Depth: len(p.Groups)}
				require.Equal(t, everyLine(t, want, open), everyLine(t, got, open))
			})
		}
	}
}

// sameWindows compares some, anywhere.
func sameWindows(t *testing.T, want, got result.Result) {
	pen, groups := want.Summarize().Pen(format.Plain), len(want.Summarize().Plan.Groups)
	var paths []string
	every := result.Groups{Heads: []int{}}
	require.NoError(t, want.EachGroup(t.Context(), every, func(l result.GroupLine) error {
		paths = append(paths, l.Group)
		return nil
	}))
	// What was asked before matters, so it is the same every time.
	draw := rand.New(rand.NewPCG(7, uint64(len(paths))))
	for range 50 {
		open := result.Open{Depth: draw.IntN(groups + 1)}
		for range draw.IntN(4) {
			if path := paths[draw.IntN(len(paths))]; path != "" {
				open.Toggled = append(open.Toggled, path)
			}
		}
		offset, limit := draw.IntN(2600), 1+draw.IntN(90)
		if draw.IntN(2) == 0 {
			offset %= 120
		}
		texts := func(r result.Result) (out []string) {
			w, err := r.Window(t.Context(), open, offset, limit)
			require.NoError(t, err)
			for _, l := range append(w.Above, w.Lines...) {
				out = append(out, fmt.Sprint(l.Level, l.Group, l.Count, l.Record, pen.Cells(l)))
			}
			return append(out, fmt.Sprint(w.Total))
		}
		require.Equal(t, texts(want), texts(got), "%d from %d of %v", limit, offset, open)
	}
}

func everyRecord(t *testing.T, r result.Result) (out []string) {
	pen := r.Summarize().Pen(format.Plain)
	require.NoError(t, r.EachRecord(t.Context(), func(groups []result.Key, cells []cell.Cell) error {
		text := strings.Join(pen.Cells(result.Line{Cells: cells}), "|")
		for _, key := range groups {
			text += fmt.Sprint("|", key.Value, key.Joined)
		}
		out = append(out, text)
		return nil
	}))
	return out
}

func everyLine(t *testing.T, r result.Result, open result.Open) (out []string) {
	pen := r.Summarize().Pen(format.Plain)
	require.NoError(t, r.EachLine(t.Context(), open, func(l result.Line) error {
		out = append(out, fmt.Sprint(l.Level, l.Group, l.Count, pen.Cells(l)))
		return nil
	}))
	return out
}

func everyGroup(t *testing.T, r result.Result) (out []string) {
	pen := r.Summarize().Pen(format.Plain)
	require.NoError(t, r.EachGroup(t.Context(), result.Groups{}, func(l result.GroupLine) error {
		out = append(out, fmt.Sprint(l.Level, l.Group, l.Count, pen.Cells(l.Line)))
		return nil
	}))
	return out
}
