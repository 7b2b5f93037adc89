// Package harness starts the whole of Gavrik for a test: a database with the ferry
// company's records, the state, the server with its front end.
package harness

import (
	"cmp"
	"context"
	"crypto/rand"
	"io"
	"log/slog"
	"net/http/httptest"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"gavrik/internal/app"
	"gavrik/internal/core/calendar"
	"gavrik/internal/deliver"
	"gavrik/internal/demo"
	"gavrik/internal/localpg/pgtest"
	"gavrik/internal/people"
	"gavrik/internal/records"
	"gavrik/internal/store"
	"gavrik/internal/web"
	front "gavrik/web"
)

// Now is the moment at which everything in a test happens, until its clock is turned.
var Now = time.Date(2026, 11, 23, 9, 30, 0, 0, time.UTC)

// Size is small enough to be made in a second and large enough to scroll.
var Size = demo.Size{Sailings: 2000, Customers: 4000, Bookings: 16_000, Claims: 2000}

// ferry is the database of the ferry company with the demo's people and views.
var ferry = pgtest.Model{Make: func(ctx context.Context, url string) error {
	conn, err := records.Connect(ctx, url)
	if err != nil {
		return err
	}
	defer conn.Close(ctx)
	if _, err := demo.Ensure(ctx, conn, Now, Size); err != nil {
		return err
	}
	state, err := store.Open(ctx, url)
	if err != nil {
		return err
	}
	defer state.Close()
	return demo.Populate(ctx, state, people.NewDesk(state), Now)
}}

// Database is a copy of the ferry company's database with the demo's people and views, at an address.
func Database(t *testing.T) string { return ferry.Copy(t) }

// Gavrik is a running server.
type Gavrik struct {
	*app.App
	URL    string // of the server
	DB     *pgx.Conn
	DBURL  string
	Server *httptest.Server
	Clock  *Clock
	// Following reads the records.
	Following *records.Following
	// Deliver is not at work until a test starts it.
	Deliver *deliver.Service
}

// Parts are what a server is made of.
type Parts struct {
	App     app.Options
	Web     web.Options
	Deliver deliver.Options
}

// Clock is the server's, which a test turns. It begins at Now and stands.
type Clock struct{ at atomic.Pointer[time.Time] }

// Now is what it shows.
func (c *Clock) Now() time.Time { return *c.at.Load() }

// Turn sets it, forward or back.
func (c *Clock) Turn(to time.Time) { c.at.Store(&to) }

// Start serves a fresh Gavrik with the demo's people and views until the test
// ends. pgtest.Main must run the package's tests.
func Start(t *testing.T) *Gavrik {
	t.Helper()
	return StartWith(t, func(string, *Parts) {})
}

// StartWith is Start with other options; they are given the address to be.
func StartWith(t *testing.T, change func(url string, p *Parts)) *Gavrik {
	t.Helper()
	return begin(t, over{}, change)
}

// StartOver is a server over the records of another one and a state of its own, in a database that is there.
func StartOver(t *testing.T, g *Gavrik, stateURL string) *Gavrik {
	t.Helper()
	return begin(t, over{records: g.DBURL, state: stateURL}, func(string, *Parts) {})
}

// StartBeside is a second server over the records and the state of another one.
func StartBeside(t *testing.T, g *Gavrik) *Gavrik {
	t.Helper()
	return begin(t, over{records: g.DBURL}, func(string, *Parts) {})
}

// StartStaying is a server over the records and the state of another one, of which some record sets stay in their
// database.
func StartStaying(t *testing.T, g *Gavrik, sets ...string) *Gavrik {
	t.Helper()
	return begin(t, over{records: g.DBURL, staying: sets}, func(string, *Parts) {})
}

// StartFollowing is Start of a server that loads what has changed as soon as it has.
func StartFollowing(t *testing.T) *Gavrik {
	t.Helper()
	g := begin(t, over{publication: "gavrik_test"}, func(string, *Parts) {})
	ctx, stop := context.WithCancel(context.Background())
	done := make(chan struct{})
	go func() {
		g.Workspace.KeepUp(ctx, g.Following.Wait, slog.New(slog.NewTextHandler(io.Discard, nil)))
		close(done)
	}()
	t.Cleanup(func() { stop(); <-done })
	return g
}

// over is what a server works on: the demo's records in a copy of their own, and its state beside them,
// unless others are named; with a publication, it follows their changes.
type over struct {
	records, state, publication string
	staying                     []string // record sets that stay in the database
}

func begin(t *testing.T, o over, change func(url string, p *Parts)) *Gavrik {
	t.Helper()
	if o.records == "" {
		o.records = ferry.Copy(t)
	}
	g := &Gavrik{DBURL: o.records, Clock: &Clock{}}
	g.Clock.Turn(Now)
	var err error
	g.DB, err = records.Connect(t.Context(), g.DBURL)
	require.NoError(t, err)
	t.Cleanup(func() { _ = g.DB.Close(context.Background()) })
	_, err = g.DB.Exec(t.Context(), "SET search_path = ferry, public; SET timezone = 'UTC'")
	require.NoError(t, err)
	state, err := store.Open(t.Context(), cmp.Or(o.state, g.DBURL))
	require.NoError(t, err)
	t.Cleanup(state.Close)
	from := records.Database(g.DBURL, demo.Schema)
	if o.state != "" {
		from[0].Files = false
		from = append(from, records.Source{URL: o.state, Files: true})
	}
	if o.publication != "" {
		_, err = records.Publish(t.Context(), from[0], o.publication)
		require.NoError(t, err)
	}
	slot := o.publication + strings.ToLower(rand.Text()[:8])
	g.Following = records.Follow(from, records.FollowOptions{Publication: o.publication, Slot: slot})
	t.Cleanup(func() { g.Following.Close(context.Background()) })
	load := func(ctx context.Context, asked records.Asked) (*records.Loaded, error) {
		staying, err := state.Staying(ctx)
		if err != nil {
			return nil, err
		}
		return g.Following.Load(ctx, records.Settings{Zone: "UTC", Away: append(staying, o.staying...)}, asked)
	}
	cal := calendar.Calendar{Zone: time.UTC, WeekStart: time.Monday, FiscalStart: time.April}
	workspace, err := app.NewWorkspace(t.Context(), load, cal, g.Clock.Now, app.Bounds{})
	require.NoError(t, err)
	p := &Parts{
		App: app.Options{
			Store: state, Workspace: workspace, Following: g.Following,
			Log: slog.New(slog.NewTextHandler(io.Discard, nil)),
		},
		Web: web.Options{Files: front.Files(), OpenMetrics: true},
	}
	g.Server = httptest.NewUnstartedServer(nil)
	g.URL = "http://" + g.Server.Listener.Addr().String()
	change(g.URL, p)
	g.App = app.New(p.App)
	p.Web.App = g.App
	p.Web.Deliver, err = deliver.New(t.Context(), g.App, p.Deliver)
	require.NoError(t, err)
	g.Deliver = p.Web.Deliver
	t.Cleanup(func() { require.NoError(t, g.Deliver.Stop(context.Background())) })
	g.Server.Config.Handler = web.New(p.Web)
	g.Server.Start()
	t.Cleanup(g.Server.Close)
	return g
}

// Ask returns the single text that a query gives.
func (g *Gavrik) Ask(t *testing.T, sql string, args ...any) string {
	t.Helper()
	var text string
	require.NoError(t, g.DB.QueryRow(t.Context(), sql, args...).Scan(&text), sql)
	return text
}
