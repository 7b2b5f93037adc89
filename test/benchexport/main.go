// Command benchexport measures how long a million records of ten columns take to leave in each
// format, and 100,000 of them on paper, and how much memory that takes beside the records.
package main

import (
	"context"
	"fmt"
	"io"
	"os"
	"runtime"
	"runtime/debug"
	"strconv"
	"strings"
	"sync/atomic"
	"time"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
	"gavrik/internal/export"
)

const rows = 1_000_000

func main() {
	if err := run(context.Background()); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(ctx context.Context) error {
	err := measured(ctx, rows, []export.Options{
		{Format: "csv"}, {Format: "jsonl"}, {Format: "html", Rows: export.ByRecord}, {Format: "parquet"},
		{Format: "xlsx", Rows: export.ByRecord}, {Format: "xlsx"},
	})
	if err != nil {
		return err
	}
	if err := measured(ctx, rows/100, []export.Options{{Format: "pdf"}}); err != nil {
		return err
	}
	return measured(ctx, rows/10, []export.Options{{Format: "pdf"}})
}

// measured writes so many records in each way.
func measured(ctx context.Context, rows int, ways []export.Options) error {
	source, err := made(ctx, rows)
	if err != nil {
		return err
	}
	debug.FreeOSMemory()
	before := resident()
	fmt.Printf("%d records of %d columns; %d MB of memory before\n", rows, len(source.Document.Columns), before>>20)
	for _, o := range ways {
		debug.FreeOSMemory()
		var most atomic.Int64
		watching, stop := context.WithCancel(ctx)
		go func() {
			for watching.Err() == nil {
				most.Store(max(most.Load(), resident()))
				time.Sleep(20 * time.Millisecond)
			}
		}()
		var written counter
		began := time.Now()
		err := export.Write(ctx, &written, source, o)
		took := time.Since(began)
		stop()
		if err != nil {
			return err
		}
		fmt.Printf(
			"%-8s %-8s %6.1f s  %6.1f MB  and %4d MB of memory at most\n",
			o.Format, o.Rows, took.Seconds(), float64(written)/1e6, (most.Load()-before)>>20,
		)
	}
	return nil
}

type counter int64

func (c *counter) Write(p []byte) (int, error) {
	*c += counter(len(p))
	return len(p), nil
}

var _ io.Writer = (*counter)(nil)

// resident is the memory of the process that is in use now, in bytes; 0 where the system does not say.
func resident() int64 {
	text, err := os.ReadFile("/proc/self/statm")
	if err != nil {
		return 0
	}
	fields := strings.Fields(string(text))
	pages, err := strconv.ParseInt(fields[1], 10, 64)
	if err != nil {
		return 0
	}
	return pages * int64(os.Getpagesize())
}

// made is a view of generated crossings, grouped by their harbour.
func made(ctx context.Context, rows int) (export.Source, error) {
	t := table.New("crossings", rows)
	set := &catalog.RecordSet{Key: "crossings", Label: "Crossings", One: "crossing", Many: "crossings"}
	add := func(key string, of catalog.Type, scale int, value func(i int) int64) {
		values := make([]int64, rows)
		for i := range values {
			values[i] = value(i)
		}
		t.Add(key, table.NewNumbers(values))
		set.Fields = append(set.Fields, catalog.Field{Key: key, Label: catalog.UpperFirst(key), Type: of, Scale: scale})
	}
	text := func(key string, different int) {
		dict, codes := table.NewDictBuilder(), make([]uint32, rows)
		for i := range codes {
			codes[i] = dict.CodeOf(fmt.Sprintf("%s of the sound %d", catalog.UpperFirst(key), i*7%different))
		}
		t.Add(key, dict.Build(codes))
		set.Fields = append(set.Fields, catalog.Field{Key: key, Label: catalog.UpperFirst(key), Type: catalog.Text})
	}
	text("harbour", 12)
	text("customer", 50_000)
	text("remark", 900)
	add("number", catalog.Whole, 0, func(i int) int64 { return int64(i) })
	add("fare", catalog.Money, 2, func(i int) int64 { return int64(i * 37 % 90_000) })
	add("paid", catalog.Money, 2, func(i int) int64 { return int64(i * 53 % 90_000) })
	add("sold", catalog.Date, 0, func(i int) int64 { return int64(20_000 + i%700) })
	add("left", catalog.DateTime, 0, func(i int) int64 {
		return int64(i)*61*calendar.Second + 1_700_000_000*calendar.Second
	})
	add("late", catalog.Duration, 0, func(i int) int64 { return int64(i%300) * calendar.Minute })
	add("car", catalog.YesNo, 0, func(i int) int64 { return int64(i % 2) })
	doc := &view.Document{Gavrik: 1, Records: "crossings", Groups: []view.Group{{Field: "harbour"}}}
	for _, f := range set.Fields {
		c := view.Column{Field: f.Key}
		if f.Type == catalog.Money || f.Type == catalog.Duration {
			c.Totals = []view.Total{{Fn: view.Sum}}
		}
		doc.Columns = append(doc.Columns, c)
	}
	c := &catalog.Catalog{Sets: []*catalog.RecordSet{set}}
	p, err := plan.Check(doc, c, calendar.Calendar{Zone: time.UTC})
	if err != nil {
		return export.Source{}, err
	}
	res, err := engine.New(
		&table.Snapshot{Tables: map[string]*table.Table{"crossings": t}}, c, engine.Options{Workers: runtime.GOMAXPROCS(0)},
	).Run(ctx, p)
	return export.Source{Result: res, Document: doc, Set: set}, err
}
