package localpg

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/url"
	"path/filepath"
	"strings"

	"github.com/jackc/pgx/v5"
)

// Cluster is a table spread over several servers: a coordinator, and workers that hold the parts.
type Cluster struct {
	Coordinator *Server
	Workers     []*Server
	options     Options
}

// StartCluster starts a coordinator and so many workers, each in a folder of its own within that of the
// options.
func StartCluster(ctx context.Context, workers int, o Options) (c *Cluster, err error) {
	c = &Cluster{options: o}
	defer func() {
		if err != nil {
			err = errors.Join(err, c.Stop())
		}
	}()
	dir := o.Dir
	start := func(name string) (*Server, error) {
		o.Dir = filepath.Join(dir, name)
		return Start(ctx, o)
	}
	if c.Coordinator, err = start("coordinator"); err != nil {
		return c, err
	}
	for i := range workers {
		w, err := start(fmt.Sprint("worker", i+1))
		if err != nil {
			return c, err
		}
		c.Workers = append(c.Workers, w)
	}
	return c, c.introduce(ctx)
}

// introduce tells the coordinator of the workers, as the servers worker1, worker2 and so on.
func (c *Cluster) introduce(ctx context.Context) error {
	statements := []string{"CREATE EXTENSION IF NOT EXISTS postgres_fdw"}
	for i, w := range c.Workers {
		at, err := url.Parse(w.URL("postgres"))
		if err != nil {
			return err
		}
		host, port, err := net.SplitHostPort(at.Host)
		if err != nil {
			return err
		}
		name := fmt.Sprint("worker", i+1)
		statements = append(statements,
			fmt.Sprintf(`CREATE SERVER IF NOT EXISTS %s FOREIGN DATA WRAPPER postgres_fdw
				OPTIONS (host '%s', port '%s', dbname 'postgres', fetch_size '50000', batch_size '5000', async_capable 'true')`, name, host, port),
			fmt.Sprintf(
				"CREATE USER MAPPING IF NOT EXISTS FOR CURRENT_USER SERVER %s OPTIONS (user 'postgres', password '%s')",
				name, w.password,
			),
		)
	}
	return execute(ctx, c.Coordinator.URL("postgres"), statements...)
}

// Spread makes a table, of a schema and with columns as CREATE TABLE writes them, whose records lie on the
// workers. By says how they are parted, as "HASH (id)", and bounds, in SQL as well, which part each worker
// has.
func (c *Cluster) Spread(ctx context.Context, schema, table, columns, by string, bounds []string) error {
	making := "CREATE SCHEMA IF NOT EXISTS " + schema
	name := pgx.Identifier{schema, table}.Sanitize()
	all := []string{making, fmt.Sprintf("CREATE TABLE %s (%s) PARTITION BY %s", name, columns, by)}
	for i, w := range c.Workers {
		if err := execute(
			ctx, w.URL("postgres"), making, fmt.Sprintf("CREATE TABLE %s (%s)", name, columns),
		); err != nil {
			return err
		}
		part := pgx.Identifier{schema, fmt.Sprint(table, "_", i+1)}.Sanitize()
		all = append(all, fmt.Sprintf(
			"CREATE FOREIGN TABLE %s PARTITION OF %s FOR VALUES %s SERVER worker%d OPTIONS (schema_name '%s', table_name '%s')",
			part, name, bounds[i], i+1, schema, table))
	}
	return execute(ctx, c.Coordinator.URL("postgres"), all...)
}

// Restart starts a worker again that was stopped, by its place among them.
func (c *Cluster) Restart(ctx context.Context, i int) (err error) {
	o := c.options
	o.Dir = c.Workers[i].dir
	if c.Workers[i], err = Start(ctx, o); err != nil {
		return err
	}
	return execute(ctx, c.Coordinator.URL("postgres"),
		fmt.Sprintf("ALTER SERVER worker%d OPTIONS (SET port '%d')", i+1, c.Workers[i].port))
}

// Stop ends all servers.
func (c *Cluster) Stop() (err error) {
	for _, s := range append(c.Workers, c.Coordinator) {
		if s != nil {
			err = errors.Join(err, s.Stop())
		}
	}
	return err
}

func execute(ctx context.Context, url string, statements ...string) error {
	conn, err := pgx.Connect(ctx, url)
	if err != nil {
		return fmt.Errorf("localpg: %w", err)
	}
	defer conn.Close(context.WithoutCancel(ctx))
	if _, err := conn.Exec(ctx, strings.Join(statements, ";\n")); err != nil {
		return fmt.Errorf("localpg: %w", err)
	}
	return nil
}
