package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"strconv"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"gavrik/internal/app"
	"gavrik/internal/core/code"
	"gavrik/internal/core/fault"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/program"
	"gavrik/internal/core/view"
	"gavrik/internal/deliver"
	"gavrik/internal/records"
	"gavrik/internal/scheduler"
	"gavrik/internal/store"
	"gavrik/internal/web"
	front "gavrik/web"
)

// serveOptions are what demo and serve share.
type serveOptions struct {
	workspaceFlags
	stateURL string
	listen   string
	refresh  time.Duration
	// follow loads changes as they come; installation names what is made in databases for that.
	follow       bool
	installation string
	// keepIn is the folder where the records are kept for the next start; empty for none.
	keepIn string
	bounds app.Bounds
	// mostRecords bounds the bytes of the records; 0 for no bound.
	mostRecords int64
	provider    providerFlags
	safety      safetyFlags
	deliver     deliverFlags
	// beside are pages that are served beside Gavrik's, by their paths.
	beside  map[string]http.Handler
	metrics string // listener of its own; empty for none
	// openMetrics lets everybody read the metrics, as in the demo.
	openMetrics bool
	showNew     bool
	// drain is how long the server goes on answering once it has said that it is about to end.
	drain time.Duration
	runs  scheduler.Options
}

func serveCommand() *cobra.Command {
	var o serveOptions
	var logJSON bool
	var memory memoryFlags
	cmd := &cobra.Command{
		Use:   "serve",
		Short: "Serve Gavrik over a PostgreSQL database",
		Long: `Serve Gavrik over a PostgreSQL database.

Gavrik reads the records and keeps its own state in a schema "gavrik" of the
same database, or of the one that --state-url names. Add the first person with
"gavrik person add".

Every flag is an environment variable, too (--database-url is
GAVRIK_DATABASE_URL), and a line of the file that --config names.`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			o.bounds, o.runs, o.mostRecords = memory.bounds(), memory.runs(), memory.most()
			return serve(cmd.Context(), o, newLog(logJSON, slog.LevelInfo), func(s *store.Store) error {
				if n, err := s.CountPeople(cmd.Context()); err == nil && n == 0 {
					fmt.Println(
						"Nobody can sign in yet. Add somebody with: gavrik person add EMAIL --name NAME --administrator",
					)
				}
				return nil
			})
		},
	}
	o.add(cmd.Flags())
	cmd.Flags().StringVar(
		&o.stateURL, "state-url", "", "database for Gavrik's own state (default: that of --database-url)",
	)
	cmd.Flags().StringVar(&o.listen, "listen", "127.0.0.1:4280", "address to serve on")
	cmd.Flags().DurationVar(
		&o.refresh, "refresh", 15*time.Minute, "time between loads of all records; 0 loads them once",
	)
	cmd.Flags().BoolVar(
		&o.follow, "follow", true, "load what has changed as soon as it has; see gavrik doctor",
	)
	cmd.Flags().StringVar(
		&o.keepIn, "keep-records", "",
		"folder in which the records are kept, so that the next start need not load them; none, if left out",
	)
	cmd.Flags().StringVar(
		&o.installation, "installation", "main", "name of the installation, by which its publication is called",
	)
	cmd.Flags().BoolVar(
		&o.showNew, "show-new-fields", false,
		"show readers with limits what came with a later load at once, not only when an administrator has looked at it",
	)
	cmd.Flags().StringVar(
		&o.metrics, "metrics-listen", "",
		"address of a listener of its own for /metrics, /api/openapi.json and the probes",
	)
	cmd.Flags().DurationVar(
		&o.drain, "drain", 5*time.Second,
		"how long to go on answering after a signal to stop, while /readyz says so: as long as whoever shares requests "+
			"among several servers needs to notice",
	)
	cmd.Flags().BoolVar(&logJSON, "log-json", false, "write the log as JSON")
	o.provider.add(cmd.Flags())
	o.safety.add(cmd.Flags())
	o.deliver.add(cmd.Flags())
	memory.add(cmd.Flags())
	return cmd
}

// serve listens, loads and answers until the context ends. prepare runs once the state is
// there. While the records are loaded, requests are told how far that is.
func serve(
	ctx context.Context, o serveOptions, log *slog.Logger, prepare func(*store.Store) error,
) (err error) {
	cal, err := o.calendar()
	if err != nil {
		return err
	}
	o.filesURL = o.state()
	from, err := o.databases()
	if err != nil {
		return err
	}
	provider, err := o.provider.provider()
	if err != nil {
		return err
	}
	safety, err := o.safety.read()
	if err != nil {
		return err
	}
	delivering, public, err := o.deliver.read(o.provider.public)
	if err != nil {
		return err
	}
	// The port first: a start that cannot serve should not load for a minute.
	listener, err := listen(o.listen)
	if err != nil {
		return err
	}
	defer listener.Close()
	progress := &records.Progress{}
	site := &web.Front{Far: progress.String}
	// Runs under way end with this context, a while after the server was asked to stop.
	working, halt := context.WithCancel(context.WithoutCancel(ctx))
	defer halt()
	server := newServer(site, working, safety)
	defer server.Close()
	failed := make(chan error, 2)
	go func() { failed <- safety.serve(server, listener) }()
	if o.metrics != "" {
		inner, err := listen(o.metrics)
		if err != nil {
			return err
		}
		defer inner.Close()
		watched := newServer(site.Inner(), working, safetyOptions{})
		defer watched.Close()
		go func() { failed <- watched.Serve(inner) }()
	}
	state, err := store.Open(ctx, o.state())
	if err != nil {
		return err
	}
	defer state.Close()
	if err := prepare(state); err != nil {
		return err
	}
	if err := state.KeepPieces(ctx, front.Files(), web.Pieces); err != nil {
		log.Error("pages that are open during an upgrade have to be loaded again", "error", err)
	}
	started := time.Now()
	loading := newLoading(o, from, state, progress, log)
	defer loading.Close(ctx)
	workspace, err := app.NewWorkspace(ctx, loading.load, cal, time.Now, o.bounds)
	if err != nil {
		return err
	}
	log.Info("records loaded", "records", workspace.Rows(), "took", time.Since(started))
	a := app.New(app.Options{
		Store: state, Workspace: workspace, Log: log, Scheduler: scheduler.New(o.runs),
		Following: loading, ShowNewFields: o.showNew, Public: public,
	})
	deliveries, err := deliver.New(ctx, a, delivering)
	if err != nil {
		return err
	}
	// Letters under way are sent before the state is closed.
	defer func() {
		grace, cancel := context.WithTimeout(context.WithoutCancel(ctx), stopping)
		defer cancel()
		err = errors.Join(err, deliveries.Stop(grace))
	}()
	if err := deliveries.Start(context.WithoutCancel(ctx)); err != nil {
		return err
	}
	site.Open(web.New(web.Options{
		App: a, Deliver: deliveries, Beside: o.beside,
		Files: front.Files(), Provider: provider,
		SecureCookies: safety.secure, Proxies: safety.proxies, MetricsToken: safety.metricsToken,
		OpenMetrics: o.openMetrics,
	}))
	go refreshEvery(ctx, o.refresh, workspace, log)
	if o.follow {
		go workspace.KeepUp(ctx, loading.Wait, log)
	}
	if o.keepIn != "" {
		go app.Every(ctx, keeping, func(ctx context.Context) bool { loading.keep(ctx); return false })
		defer func() {
			grace, cancel := context.WithTimeout(context.WithoutCancel(ctx), keepingLast)
			defer cancel()
			loading.keep(grace)
		}()
	}
	fmt.Printf("Gavrik is at %s://%s\n", safety.scheme(), listener.Addr())
	select {
	case err := <-failed:
		return fmt.Errorf("serving: %w", err)
	case <-ctx.Done():
	}
	log.Info("stopping; a second Ctrl-C ends at once")
	site.Leave()
	workspace.End()
	select {
	case err := <-failed:
		return fmt.Errorf("serving: %w", err)
	case <-time.After(o.drain):
	}
	// Requests under way may finish, but not for long.
	grace, cancel := context.WithTimeout(context.WithoutCancel(ctx), stopping)
	defer cancel()
	timer := time.AfterFunc(finishing, halt)
	defer timer.Stop()
	a.EndExports(grace)
	return server.Shutdown(grace)
}

const (
	// finishing is how long runs may go on once the server is asked to stop, stopping how
	// long answers may take then.
	finishing = 3 * time.Second
	stopping  = 10 * time.Second
)

func newServer(h http.Handler, working context.Context, safety safetyOptions) *http.Server {
	return &http.Server{
		Handler:     h,
		TLSConfig:   safety.tls,
		BaseContext: func(net.Listener) context.Context { return working },
		// Slow clients must not hold connections for ever.
		ReadHeaderTimeout: 10 * time.Second,
		ReadTimeout:       2 * time.Minute,
		IdleTimeout:       2 * time.Minute,
		MaxHeaderBytes:    64 << 10,
	}
}

func (o *serveOptions) state() string {
	if o.stateURL != "" {
		return o.stateURL
	}
	return o.recordsURL
}

// listen takes the address, or says who has it and how to choose another.
func listen(address string) (net.Listener, error) {
	l, err := net.Listen("tcp", address)
	if err == nil {
		return l, nil
	}
	if errors.Is(err, syscall.EADDRINUSE) {
		host, port, _ := net.SplitHostPort(address) // net.Listen has read it
		n, _ := strconv.Atoi(port)
		return nil, fmt.Errorf(
			"something else is serving on %s already; stop it, or choose another port: --listen %s:%d (with make: make demo LISTEN=%s:%d)",
			address, host, n+1, host, n+1,
		)
	}
	return nil, fmt.Errorf("cannot serve on %s: %w", address, err)
}

func refreshEvery(ctx context.Context, long time.Duration, w *app.Workspace, log *slog.Logger) {
	if long <= 0 {
		return
	}
	app.Every(ctx, long, func(ctx context.Context) bool {
		err := fault.Caught(func() error { return w.Refresh(ctx) })
		if err != nil && ctx.Err() == nil {
			log.Error("refresh; the records in memory stay", "error", err)
		}
		return false
	})
}

func openapiCommand() *cobra.Command {
	var viewOnly, formulas, faults, totals, operators bool
	cmd := &cobra.Command{
		Use:   "openapi",
		Short: "Print the HTTP interface's OpenAPI document, or the view document's JSON Schema",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			text, err := web.OpenAPI()
			switch {
			case viewOnly:
				text, err = web.ViewSchema()
			case formulas:
				var reference string
				reference, err = formula.Reference(program.Sample)
				text = []byte(reference)
			case faults:
				text = []byte(code.Reference())
			case totals:
				text = []byte(view.Reference())
			case operators:
				text = web.Operators()
			}
			if err != nil {
				return err
			}
			_, err = cmd.OutOrStdout().Write(text)
			return err
		},
	}
	cmd.Flags().BoolVar(
		&faults, "errors", false, "the list of faults that a view document can have, in Markdown",
	)
	cmd.Flags().BoolVar(&totals, "totals", false, "the tables of totals and operators, in Markdown")
	cmd.Flags().BoolVar(&operators, "operators", false, "what operators compare with, as TypeScript")
	cmd.Flags().BoolVar(&formulas, "formulas", false, "the reference of formulas, in Markdown")
	cmd.Flags().BoolVar(&viewOnly, "view-schema", false, "the JSON Schema of a view document")
	return cmd
}
