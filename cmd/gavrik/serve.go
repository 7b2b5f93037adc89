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

	"gavrik/internal/core/formula"
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
	bounds   web.Bounds
	secure   bool
	provider providerFlags
}

func serveCommand() *cobra.Command {
	var o serveOptions
	cmd := &cobra.Command{
		Use:   "serve",
		Short: "Serve Gavrik over a PostgreSQL database",
		Long: `Serve Gavrik over a PostgreSQL database.

Gavrik reads the records and keeps its own state in a schema "gavrik" of the
same database, or of the one that --state-url names. Add the first person with
"gavrik person add".`,
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return serve(cmd.Context(), o, newLog(), func(s *store.Store) error {
				if n, err := s.CountPeople(cmd.Context()); err == nil && n == 0 {
					fmt.Println("Nobody can sign in yet. Add somebody with: gavrik person add EMAIL --name NAME --administrator")
				}
				return nil
			})
		},
	}
	o.add(cmd.Flags())
	cmd.Flags().StringVar(&o.stateURL, "state-url", "", "database for Gavrik's own state (default: that of --database-url)")
	cmd.Flags().StringVar(&o.listen, "listen", "127.0.0.1:4280", "address to serve on")
	cmd.Flags().DurationVar(&o.refresh, "refresh", 15*time.Minute, "time between loads of the records; 0 loads once")
	o.provider.add(cmd.Flags())
	cmd.Flags().BoolVar(&o.secure, "secure-cookies", false, "keep cookies to HTTPS; set it behind a proxy that serves HTTPS")
	return cmd
}

// serve loads, listens and answers until the context ends. prepare runs once the
// state is there.
func serve(ctx context.Context, o serveOptions, log *slog.Logger, prepare func(*store.Store) error) error {
	cal, err := o.calendar()
	if err != nil {
		return err
	}
	provider, err := o.provider.provider()
	if err != nil {
		return err
	}
	// The port first: a start that cannot serve should not load for a minute.
	listener, err := listen(o.listen)
	if err != nil {
		return err
	}
	defer listener.Close()
	started := time.Now()
	workspace, err := web.NewWorkspace(ctx, o.load, cal, time.Now, o.bounds)
	if err != nil {
		return err
	}
	log.Info("records loaded", "records", workspace.Rows(), "took", time.Since(started))
	state, err := store.Open(ctx, o.state())
	if err != nil {
		return err
	}
	defer state.Close()
	if err := prepare(state); err != nil {
		return err
	}
	server := &http.Server{
		Handler: web.New(web.Options{Store: state, Workspace: workspace, Files: front.Files(), Log: log, SecureCookies: o.secure, Provider: provider}),
		// Slow clients must not hold connections for ever.
		ReadHeaderTimeout: 10 * time.Second,
		IdleTimeout:       2 * time.Minute,
	}
	go refreshEvery(ctx, o.refresh, workspace, log)
	fmt.Printf("Gavrik is at http://%s\n", listener.Addr())
	failed := make(chan error, 1)
	go func() { failed <- server.Serve(listener) }()
	select {
	case err := <-failed:
		return fmt.Errorf("serving: %w", err)
	case <-ctx.Done():
	}
	log.Info("stopping")
	// Requests under way may finish.
	grace, cancel := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
	defer cancel()
	return server.Shutdown(grace)
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
		return nil, fmt.Errorf("something else is serving on %s already; stop it, or choose another port: --listen %s:%d (with make: make demo LISTEN=%s:%d)", address, host, n+1, host, n+1)
	}
	return nil, fmt.Errorf("cannot serve on %s: %w", address, err)
}

func refreshEvery(ctx context.Context, every time.Duration, w *web.Workspace, log *slog.Logger) {
	if every <= 0 {
		return
	}
	tick := time.NewTicker(every)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
			if err := w.Refresh(ctx); err != nil && ctx.Err() == nil {
				log.Error("refresh; the records in memory stay", "error", err)
			}
		}
	}
}

func openapiCommand() *cobra.Command {
	var viewOnly, formulas bool
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
				reference, err = formula.Reference()
				text = []byte(reference)
			}
			if err != nil {
				return err
			}
			_, err = cmd.OutOrStdout().Write(text)
			return err
		},
	}
	cmd.Flags().BoolVar(&formulas, "formulas", false, "the reference of formulas, in Markdown")
	cmd.Flags().BoolVar(&viewOnly, "view-schema", false, "the JSON Schema of a view document")
	return cmd
}
