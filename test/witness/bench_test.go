package witness

import (
	"context"
	"fmt"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
	"gavrik/internal/demo"
	"gavrik/internal/localpg/pgtest"
	"gavrik/internal/records"
)

// fullDemo makes and loads the demo's records in their full size.
func fullDemo(b *testing.B) (url string, l *records.Loaded) {
	b.Helper()
	url = pgtest.Database(b)
	conn, err := records.Connect(b.Context(), url)
	require.NoError(b, err)
	defer conn.Close(context.Background())
	_, err = demo.Ensure(b.Context(), conn, today, demo.FullSize)
	require.NoError(b, err)
	l, err = records.Load(b.Context(), records.Database(url, demo.Schema), records.Settings{Zone: "UTC"})
	require.NoError(b, err)
	return url, l
}

// BenchmarkChangedStep measures what an analyst waits for on the server: a
// document with one changed operand, checked, run and its first 200 lines
// written. The operand is another one each time, so that its selection is new.
func BenchmarkChangedStep(b *testing.B) {
	_, l := fullDemo(b)
	cal := calendar.Calendar{Now: today, Zone: time.UTC, WeekStart: time.Monday, FiscalStart: time.April}
	for _, name := range []string{"claims", "fares", "late"} {
		b.Run(name, func(b *testing.B) {
			text, err := os.ReadFile("../../internal/demo/views/" + name + ".json")
			require.NoError(b, err)
			e := engine.New(l.Snapshot, l.Catalog, engine.Options{})
			n := 0
			for b.Loop() {
				n++
				doc, err := view.Parse(text)
				require.NoError(b, err)
				last := &doc.Filter.All[len(doc.Filter.All)-1]
				if last.Op == view.NoneOf {
					last.Values = append(last.Values, fmt.Sprint(n))
				} else {
					last.Value = map[bool]string{
						true: fmt.Sprintf("%d.%02d", n/100%90, n%100), false: fmt.Sprintf("%d:%02d", n/60%9, n%60),
					}[name == "claims"]
				}
				p, err := plan.Check(doc, l.Catalog, cal)
				require.NoError(b, err)
				res, err := e.Run(b.Context(), p)
				require.NoError(b, err)
				res.Window(b.Context(), result.Open{Depth: len(p.Groups) - 1}, 0, 200)
			}
		})
	}
}

// BenchmarkLoad measures a whole load of the demo's records, and its rate.
func BenchmarkLoad(b *testing.B) {
	url, l := fullDemo(b)
	rows := 0
	for _, t := range l.Snapshot.Tables {
		rows += t.Rows
	}
	for b.Loop() {
		_, err := records.Load(b.Context(), records.Database(url, demo.Schema), records.Settings{Zone: "UTC"})
		require.NoError(b, err)
	}
	b.ReportMetric(float64(rows)*float64(b.N)/b.Elapsed().Seconds(), "rows/s")
}
