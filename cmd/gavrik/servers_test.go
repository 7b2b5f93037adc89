package main

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"gavrik/internal/app"
	"gavrik/internal/records"
	"gavrik/test/crowd"
	"gavrik/test/harness"
)

// sharing hands requests to several servers by turns, to each that says it is ready. It tries nothing twice
// and knows nobody again, so whatever a server alone knows is missed at the next request.
type sharing struct {
	mu    sync.Mutex // protects following fields
	all   map[string]http.Handler
	ready []string
	turn  int
}

func (s *sharing) add(t *testing.T, address string) {
	to, err := url.Parse("http://" + address)
	require.NoError(t, err)
	s.mu.Lock()
	defer s.mu.Unlock()
	s.all[address] = &httputil.ReverseProxy{
		Rewrite: func(r *httputil.ProxyRequest) { r.SetURL(to) }, FlushInterval: -1,
	}
}

// look asks every server whether it is ready.
func (s *sharing) look() {
	s.mu.Lock()
	all := make([]string, 0, len(s.all))
	for address := range s.all {
		all = append(all, address)
	}
	s.mu.Unlock()
	var ready []string
	for _, address := range all {
		if res, err := http.Get("http://" + address + "/readyz"); err == nil {
			_ = res.Body.Close()
			if res.StatusCode == http.StatusOK {
				ready = append(ready, address)
			}
		}
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	s.ready = ready
}

func (s *sharing) have(address string) bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, one := range s.ready {
		if one == address {
			return true
		}
	}
	return false
}

func (s *sharing) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	s.mu.Lock()
	if len(s.ready) == 0 {
		s.mu.Unlock()
		http.Error(w, "no server is ready", http.StatusServiceUnavailable)
		return
	}
	s.turn++
	to := s.all[s.ready[s.turn%len(s.ready)]]
	s.mu.Unlock()
	to.ServeHTTP(w, r)
}

// running is one server among several.
type running struct {
	address string
	stop    context.CancelFunc
	ended   chan error
}

func (s *sharing) start(t *testing.T, url string) *running {
	free, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	r := &running{address: free.Addr().String(), ended: make(chan error, 1)}
	require.NoError(t, free.Close())
	ctx, stop := context.WithCancel(context.Background())
	r.stop = stop
	t.Cleanup(stop)
	go func() {
		_, err := gavrik(
			t, ctx, "serve", "--database-url", url, "--schema", "ferry", "--listen", r.address, "--installation", "several",
			"--drain", "1s", "--log-json",
		)
		r.ended <- err
	}()
	s.add(t, r.address)
	require.Eventually(t, func() bool { return s.have(r.address) }, 60*time.Second, 20*time.Millisecond)
	return r
}

// worker is somebody at work, and what she has seen.
type worker struct {
	*crowd.Person
	claimed float64
	saved   int
}

// sums runs a view whose total only grows; it must not have been larger before.
func (w *worker) sums() error {
	var got struct {
		Result string
		Grand  struct{ Cells []string }
		Lines  []any
	}
	view := map[string]any{
		"gavrik": 1, "records": "claims", "groups": []any{map[string]any{"field": "status"}},
		"columns": []any{map[string]any{"field": "claimed", "totals": []any{map[string]any{"fn": "sum"}}}},
	}
	if err := w.Send(
		"POST", "/api/run", map[string]any{"view": view, "depth": 1, "limit": 50}, &got,
	); err != nil {
		return err
	}
	sum, err := strconv.ParseFloat(strings.ReplaceAll(got.Grand.Cells[0], ",", ""), 64)
	if err != nil {
		return err
	}
	if sum < w.claimed {
		return fmt.Errorf("older records after newer ones: %v after %v", sum, w.claimed)
	}
	w.claimed = sum
	// Further lines, whichever server is asked: they are of the same result, or it says that it has none.
	var lines struct{ Lines []any }
	err = w.Send("POST", "/api/lines", map[string]any{"result": got.Result, "depth": 1, "limit": 50}, &lines)
	var refused *crowd.RefusedError
	switch {
	case errors.As(err, &refused) && refused.Code == http.StatusGone:
		return nil
	case err == nil && fmt.Sprint(lines.Lines) != fmt.Sprint(got.Lines):
		return fmt.Errorf("%v is not %v", lines.Lines, got.Lines)
	}
	return err
}

// takes takes a file away; one whose server ends is begun again.
func (w *worker) takes() error {
	view := map[string]any{"gavrik": 1, "records": "vessels", "columns": []any{map[string]any{"field": "name"}}}
	body := map[string]any{"view": view, "options": map[string]any{"format": "csv"}}
	for range 3 {
		var begun struct {
			ID    string
			Lines int
		}
		if err := w.Send("POST", "/api/exports", body, &begun); err != nil {
			return err
		}
		told, err := w.Fetch("/api/exports/" + begun.ID + "/progress")
		if err != nil {
			return err
		}
		if strings.Contains(told, `"again":true`) {
			continue
		}
		if !strings.Contains(told, "event: ready") {
			return fmt.Errorf("the file: %s", told)
		}
		text, err := w.Fetch("/api/exports/" + begun.ID + "/file")
		if err == nil && strings.Count(text, "\n") != begun.Lines+1 {
			err = fmt.Errorf("a file of %d lines: %q", begun.Lines, text)
		}
		return err
	}
	return errors.New("a file was lost three times")
}

func (w *worker) saves(n int) error {
	view := map[string]any{"gavrik": 1, "records": "routes", "columns": []any{map[string]any{"field": "name"}}}
	err := w.Send("POST", "/api/views", map[string]any{"name": fmt.Sprint("Routes ", n), "document": view}, nil)
	if err == nil {
		w.saved++
	}
	return err
}

// Several servers over one state are one to those who use them: what one server knows, all know, and nobody
// notices that one is taken away and another added, as in an upgrade. Newer records are not followed by older
// ones.
func TestServersComeAndGoUnderLoad(t *testing.T) {
	db := harness.Database(t)
	_, err := gavrik(
		t, t.Context(), "follow", "publish", "--database-url", db, "--schema", "ferry", "--installation", "several",
	)
	require.NoError(t, err)
	ctx, end := context.WithCancel(t.Context())
	defer end()
	shared := &sharing{all: map[string]http.Handler{}}
	front := httptest.NewServer(shared)
	defer front.Close()
	group, working := errgroup.WithContext(ctx)
	group.Go(func() error {
		app.Every(working, 20*time.Millisecond, func(context.Context) bool { shared.look(); return false })
		return nil
	})
	first, second := shared.start(t, db), shared.start(t, db)
	people, err := crowd.Gather(ctx, front.URL, 4)
	require.NoError(t, err)

	var rounds atomic.Int64
	var halt atomic.Bool
	workers := make([]*worker, len(people))
	for i, p := range people {
		w := &worker{Person: p}
		workers[i] = w
		group.Go(func() error {
			for n := 0; !halt.Load() && working.Err() == nil; n++ {
				for _, took := range w.Change() {
					if took.Err != nil {
						return took.Err
					}
				}
				if err := errors.Join(w.sums(), w.takes(), w.saves(n)); err != nil {
					return err
				}
				rounds.Add(1)
			}
			return nil
		})
	}
	conn, err := records.Connect(ctx, db)
	require.NoError(t, err)
	defer conn.Close(context.Background())
	group.Go(func() (err error) {
		app.Every(working, 30*time.Millisecond, func(context.Context) bool {
			_, err = conn.Exec(t.Context(), "UPDATE ferry.claims SET claimed = claimed + 1 WHERE id % 100 = 7")
			return err != nil || halt.Load()
		})
		return err
	})
	// on waits until everybody has gone on for a while.
	on := func() {
		until := rounds.Load() + int64(4*len(workers))
		require.Eventually(
			t, func() bool { return rounds.Load() >= until || working.Err() != nil }, 2*time.Minute,
			10*time.Millisecond,
		)
		require.NoError(t, context.Cause(working))
	}
	on()
	first.stop()
	require.NoError(t, <-first.ended)
	on()
	third := shared.start(t, db)
	on()
	second.stop()
	require.NoError(t, <-second.ended)
	on()
	halt.Store(true)
	end()
	require.NoError(t, group.Wait())
	saved := 0
	for _, w := range workers {
		saved += w.saved
	}
	var views, drafts int
	require.NoError(t, conn.QueryRow(t.Context(), `SELECT (SELECT count(*) FROM gavrik.view_versions WHERE name LIKE 'Routes %'),
		(SELECT count(*) FROM gavrik.drafts WHERE id LIKE 'crowdpart%')`).Scan(&views, &drafts))
	require.Equal(t, []int{saved, len(workers)}, []int{views, drafts}, "nothing that was kept is lost")
	t.Logf("%d rounds of work, %d views saved", rounds.Load(), saved)
	third.stop()
	require.NoError(t, <-third.ended)
}
