// Package served serves the full demo on a database of its own, for what measures a
// whole Gavrik.
package served

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"time"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/app"
	"gavrik/internal/core/calendar"
	"gavrik/internal/deliver"
	"gavrik/internal/demo"
	"gavrik/internal/localpg"
	"gavrik/internal/people"
	"gavrik/internal/records"
	"gavrik/internal/records/incoming"
	"gavrik/internal/store"
	"gavrik/internal/web"
	front "gavrik/web"
)

// Gavrik is a running server with the demo.
type Gavrik struct {
	URL string
	// Dir is a folder that goes with it.
	Dir  string
	stop []func() error
}

// Start makes the demo's records and people, and serves them on a free port of
// loopback. add, if not nil, brings more records into the database first.
func Start(
	ctx context.Context, add func(ctx context.Context, conn *pgx.Conn, dir string) error,
) (g *Gavrik, err error) {
	g = &Gavrik{}
	defer func() {
		if err != nil {
			err = errors.Join(err, g.Stop())
		}
	}()
	if g.Dir, err = os.MkdirTemp("/var/tmp", "gavrik-served-"); err != nil {
		return g, err
	}
	g.stop = append(g.stop, func() error { return os.RemoveAll(g.Dir) })
	if err := os.Chmod(g.Dir, 0o711); err != nil {
		return g, err
	}
	pg, err := localpg.Start(ctx, localpg.Options{
		Dir: filepath.Join(g.Dir, "pg"), Volatile: true, Settings: []string{"shared_buffers=1GB"},
	})
	if err != nil {
		return g, err
	}
	g.stop = append(g.stop, pg.Stop)
	url := pg.URL("postgres")
	conn, err := records.Connect(ctx, url)
	if err != nil {
		return g, err
	}
	defer conn.Close(context.WithoutCancel(ctx))
	if _, err := demo.Ensure(ctx, conn, time.Now().UTC(), demo.FullSize); err != nil {
		return g, err
	}
	state, err := store.Open(ctx, url)
	if err != nil {
		return g, err
	}
	g.stop = append(g.stop, func() error { state.Close(); return nil })
	if err := demo.Populate(ctx, state, people.NewDesk(state), time.Now()); err != nil {
		return g, err
	}
	schemas := []string{demo.Schema}
	if add != nil {
		if err := add(ctx, conn, g.Dir); err != nil {
			return g, err
		}
		schemas = append(schemas, incoming.FilesSchema)
	}
	load := func(ctx context.Context, _ records.Asked) (*records.Loaded, error) {
		return records.Load(ctx, records.Database(url, schemas...), records.Settings{Zone: "UTC"})
	}
	workspace, err := app.NewWorkspace(
		ctx, load, calendar.Calendar{Zone: time.UTC, WeekStart: time.Monday, FiscalStart: time.April}, time.Now,
		app.Bounds{},
	)
	if err != nil {
		return g, err
	}
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return g, err
	}
	g.URL = "http://" + listener.Addr().String()
	a := app.New(app.Options{
		Store: state, Workspace: workspace, Log: slog.New(slog.NewTextHandler(io.Discard, nil)),
	})
	deliveries, err := deliver.New(ctx, a, deliver.Options{})
	if err != nil {
		return g, err
	}
	g.stop = append(g.stop, func() error { return deliveries.Stop(context.Background()) })
	server := &http.Server{ReadHeaderTimeout: 10 * time.Second, Handler: web.New(web.Options{
		App: a, Deliver: deliveries,
		Files: front.Files(),
	})}
	go func() {
		if err := server.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
			fmt.Fprintln(os.Stderr, "served:", err)
		}
	}()
	g.stop = append(g.stop, server.Close)
	return g, nil
}

// Stop ends the server and its database, and removes its folder.
func (g *Gavrik) Stop() (err error) {
	for i := len(g.stop) - 1; i >= 0; i-- {
		err = errors.Join(err, g.stop[i]())
	}
	g.stop = nil
	return err
}
