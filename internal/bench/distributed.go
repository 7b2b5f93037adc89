package bench

import (
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"time"

	"golang.org/x/sync/errgroup"

	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/localpg"
	"gavrik/internal/pgreader"
	"gavrik/internal/records"
)

// Three is one question's outcome, in milliseconds: in memory, where the records stay in one PostgreSQL, and
// where they are spread over several. Why is set where the records are too many to be asked so.
type Three struct {
	Name      string  `json:"name"`
	MemoryMS  float64 `json:"memory_ms,omitempty"`
	OneMS     float64 `json:"one_ms,omitempty"`
	SeveralMS float64 `json:"several_ms,omitempty"`
	Why       string  `json:"why,omitempty"`
}

// Times is how often each question is asked where records stay: of very many once, for it takes minutes.
func Times(rows int) int {
	if rows > 5_000_000 {
		return 1
	}
	return 3
}

// Distributed makes rows in a database, and the same in a cluster, and asks every question of both; and of
// memory, if the rows are loaded, too. All answers must be the same text.
func Distributed(
	ctx context.Context, one *localpg.Server, cluster *localpg.Cluster, rows int, loads bool, done func(Three),
) error {
	url, several := one.URL("postgres"), cluster.Coordinator.URL("postgres")
	conn, err := records.Connect(ctx, url)
	if err != nil {
		return err
	}
	err = errors.Join(makeRows(ctx, conn, rows), conn.Close(context.WithoutCancel(ctx)))
	if err != nil {
		return err
	}
	if err := spread(ctx, url, cluster, rows); err != nil {
		return err
	}
	set := records.Settings{Zone: "UTC", Away: []string{"bookings"}}
	where := map[string]carrier{}
	var c *records.Loaded
	for name, at := range map[string]string{"one": url, "several": several} {
		if c, err = records.Load(ctx, records.Database(at, schema), set); err != nil {
			return err
		}
		databases := pgreader.NewDatabases(8)
		defer databases.Close()
		reader := pgreader.New(pgreader.Seen{Loaded: c}, databases, pgreader.Options{})
		where[name] = func(ctx context.Context, p *plan.Plan) (result.Result, error) {
			databases.Forget() // what it was asked before
			return reader.Run(ctx, p)
		}
	}
	if loads {
		all, err := records.Load(ctx, records.Database(url, schema), records.Settings{Zone: "UTC"})
		if err != nil {
			return err
		}
		where["memory"] = inMemory(all)
	}
	for _, q := range questions(rows) {
		out := Three{Name: q.name}
		answers := map[string][]string{}
		for _, name := range []string{"memory", "one", "several"} {
			by := where[name]
			if by == nil {
				continue
			}
			var took []time.Duration
			for range Times(rows) {
				began := time.Now()
				got, err := answer(ctx, c.Catalog, by, q)
				if name != "memory" && err != nil && ctx.Err() == nil {
					out.Why = err.Error()
					break
				}
				if err != nil {
					return fmt.Errorf("bench: %s, %s: %w", q.name, name, err)
				}
				took = append(took, time.Since(began))
				if q.totals || q.cells {
					slices.Sort(got)
				}
				answers[name] = got
			}
			if len(took) > 0 {
				*map[string]*float64{
					"memory": &out.MemoryMS, "one": &out.OneMS, "several": &out.SeveralMS,
				}[name] = median(took)
			}
		}
		first := answers["one"]
		for name, got := range answers {
			if first != nil && !slices.Equal(got, first) {
				return fmt.Errorf("bench: %s, %s: %w", q.name, name, difference(got, first))
			}
		}
		done(out)
	}
	return nil
}

// spread copies the rows of a database into a cluster, a stretch of them to each worker.
func spread(ctx context.Context, from string, cluster *localpg.Cluster, rows int) error {
	n := len(cluster.Workers)
	bounds := make([]string, n)
	for i := range bounds {
		bounds[i] = fmt.Sprintf("FROM (%d) TO (%d)", 1+i*rows/n, 1+(i+1)*rows/n)
	}
	if err := cluster.Spread(ctx, schema, "bookings", columns, "RANGE (id)", bounds); err != nil {
		return err
	}
	group, working := errgroup.WithContext(ctx)
	for i, w := range cluster.Workers {
		group.Go(func() error {
			return copyRows(working, from, w.URL("postgres"), 1+i*rows/n, (i+1)*rows/n)
		})
	}
	return group.Wait()
}

func copyRows(ctx context.Context, from, to string, first, last int) error {
	source, err := records.Connect(ctx, from)
	if err != nil {
		return err
	}
	defer source.Close(context.WithoutCancel(ctx))
	target, err := records.Connect(ctx, to)
	if err != nil {
		return err
	}
	defer target.Close(context.WithoutCancel(ctx))
	out, in := io.Pipe()
	group, working := errgroup.WithContext(ctx)
	group.Go(func() error {
		_, err := source.PgConn().CopyTo(working, in, fmt.Sprintf(
			"COPY (SELECT * FROM bench.bookings WHERE id BETWEEN %d AND %d) TO STDOUT (FORMAT binary)", first, last))
		return errors.Join(err, in.CloseWithError(err))
	})
	group.Go(func() error {
		_, err := target.PgConn().CopyFrom(working, out, "COPY bench.bookings FROM STDIN (FORMAT binary)")
		return err
	})
	if err := group.Wait(); err != nil {
		return fmt.Errorf("bench: spreading rows: %w", err)
	}
	_, err = target.Exec(ctx, "VACUUM ANALYZE bench.bookings")
	return err
}
