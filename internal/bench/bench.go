package bench

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
	"gavrik/internal/export"
	"gavrik/internal/records"
)

// Result is one question's outcome. Times are medians.
type Result struct {
	Name     string  `json:"name"`
	GavrikMS float64 `json:"gavrik_ms"`
	SQLMS    float64 `json:"sql_ms"`
	Ratio    float64 `json:"ratio"`
}

// Report is a whole run.
type Report struct {
	Rows              int      `json:"rows"`
	LoadRowsPerSecond float64  `json:"load_rows_per_second"`
	BytesPerRow       float64  `json:"bytes_per_row"`
	Questions         []Result `json:"questions"`
	GeometricMean     float64  `json:"geometric_mean_ratio"`
}

// Repeats is how often each question is asked of each.
const Repeats = 5

// Run makes rows in the database at url, loads them and asks every question. The
// database must hold no schema "bench". done is called after each question.
func Run(ctx context.Context, url string, rows int, done func(Result)) (*Report, error) {
	conn, err := records.Connect(ctx, url)
	if err != nil {
		return nil, err
	}
	defer conn.Close(context.WithoutCancel(ctx))
	if err := makeRows(ctx, conn, rows); err != nil {
		return nil, err
	}
	started := time.Now()
	loaded, err := records.Load(ctx, records.Database(url, schema), records.Settings{Zone: "UTC"})
	if err != nil {
		return nil, err
	}
	rep := &Report{
		Rows:              rows,
		LoadRowsPerSecond: float64(rows) / time.Since(started).Seconds(),
		BytesPerRow:       float64(loaded.Snapshot.Tables["bookings"].Bytes()) / float64(rows),
	}
	// Plans of its own over both cores, and memory enough to sort and hash in.
	if _, err := conn.Exec(
		ctx, "SET timezone = 'UTC'; SET work_mem = '512MB'; SET max_parallel_workers_per_gather = 2; SET jit = on",
	); err != nil {
		return nil, fmt.Errorf("bench: %w", err)
	}
	logs := 0.0
	for _, q := range questions(rows) {
		r, err := ask(ctx, conn, loaded, q)
		if err != nil {
			return nil, fmt.Errorf("bench: %s: %w", q.name, err)
		}
		logs += math.Log(r.Ratio)
		rep.Questions = append(rep.Questions, r)
		done(r)
	}
	rep.GeometricMean = math.Exp(logs / float64(len(rep.Questions)))
	return rep, nil
}

func ask(ctx context.Context, conn *pgx.Conn, loaded *records.Loaded, q question) (Result, error) {
	var ours, theirs []time.Duration
	var got, want []string
	for range Repeats {
		started := time.Now()
		var err error
		if got, err = answer(ctx, loaded.Catalog, inMemory(loaded), q); err != nil {
			return Result{}, err
		}
		ours = append(ours, time.Since(started))
		started = time.Now()
		if want, err = witness(ctx, conn, q.sql); err != nil {
			return Result{}, err
		}
		theirs = append(theirs, time.Since(started))
	}
	if q.totals || q.cells {
		slices.Sort(got)
		slices.Sort(want)
	}
	if !slices.Equal(got, want) {
		return Result{}, difference(got, want)
	}
	r := Result{Name: q.name, GavrikMS: median(ours), SQLMS: median(theirs)}
	r.Ratio = r.SQLMS / r.GavrikMS
	return r, nil
}

// carrier carries a plan out.
type carrier func(ctx context.Context, p *plan.Plan) (result.Result, error)

// inMemory carries plans out on a fresh engine each.
func inMemory(loaded *records.Loaded) carrier {
	return func(ctx context.Context, p *plan.Plan) (result.Result, error) {
		return engine.New(loaded.Snapshot, loaded.Catalog, engine.Options{}).Reader().Run(ctx, p)
	}
}

// answer runs the question on a fresh engine, so that nothing of an earlier run
// is used, and writes the lines down as the witness does.
func answer(ctx context.Context, c *catalog.Catalog, by carrier, q question) ([]string, error) {
	doc, err := view.Parse([]byte(`{"gavrik":1,"records":"bookings",` + q.view + `}`))
	if err != nil {
		return nil, err
	}
	p, err := plan.Check(doc, c, calendar.Calendar{
		Now: time.Now(), Zone: time.UTC, WeekStart: time.Monday,
	})
	if err != nil {
		return nil, err
	}
	res, err := by(ctx, p)
	if err != nil {
		return nil, err
	}
	var out []string
	if q.totals {
		err := export.Totals(ctx, res).EachText(func(row []string) error {
			out = append(out, strings.Join(row, "|"))
			return nil
		})
		return out, err
	}
	if q.cells {
		return cells(ctx, res)
	}
	win, err := res.Window(ctx, result.Open{Depth: q.depth}, q.offset, q.limit)
	if err != nil {
		return nil, err
	}
	pen := res.Summarize().Pen(format.Plain)
	for _, l := range win.Lines {
		line := pen.Cells(l)
		if !l.IsRecord {
			line = append([]string{pen.Label(l), strconv.Itoa(l.Count)}, line...)
		}
		out = append(out, strings.Join(line, "|"))
	}
	return out, nil
}

// cells writes a crosstab down with a line for each cell: the labels of its groups
// and its two figures.
func cells(ctx context.Context, res result.Result) ([]string, error) {
	var out []string
	plain, people := res.Summarize().Pen(format.Plain), res.Summarize().Pen(format.People)
	err := res.EachGroup(ctx, result.Groups{}, func(g result.GroupLine) error {
		label, cells := strings.Join(plain.Labels(g.Keys[:g.Level]), ""), plain.Cells(g.Line)
		for i := 0; i < len(cells); i += 2 {
			if cells[i] != "" {
				across := strings.Join(people.Across(res.Summarize().Heads[i].Across), "/")
				out = append(out, strings.Join([]string{label, across, cells[i], cells[i+1]}, "|"))
			}
		}
		return nil
	})
	return out, err
}

// witness asks PostgreSQL; every column is a text.
func witness(ctx context.Context, conn *pgx.Conn, sql string) ([]string, error) {
	rows, err := conn.Query(ctx, sql, pgx.QueryExecModeSimpleProtocol)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, func(row pgx.CollectableRow) (string, error) {
		var cells []string
		for _, raw := range row.RawValues() {
			cells = append(cells, string(raw))
		}
		return strings.Join(cells, "|"), nil
	})
}

func median(times []time.Duration) float64 {
	slices.Sort(times)
	return float64(times[len(times)/2].Microseconds()) / 1000
}

func difference(got, want []string) error {
	for i := range min(len(got), len(want)) {
		if got[i] != want[i] {
			return fmt.Errorf("the answers differ: Gavrik says %q, PostgreSQL %q", got[i], want[i])
		}
	}
	return fmt.Errorf("the answers differ: Gavrik has %d lines, PostgreSQL %d", len(got), len(want))
}
