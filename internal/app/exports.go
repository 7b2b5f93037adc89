package app

import (
	"bufio"
	"cmp"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strconv"
	"sync"
	"sync/atomic"
	"time"

	"gavrik/internal/core/fault"
	"gavrik/internal/core/turn"
	"gavrik/internal/store"
)

// The bounds of files that are made for people to fetch. They lie in the state until then, so that every
// server has them.
const (
	// exportsEach is how many of one person are made, or wait to be fetched.
	exportsEach = 8
	// exportBytes is how large one file may be, unless something else is set, allExportBytes all
	// of them together.
	exportBytes    = 2 << 30
	allExportBytes = 8 << 30
	// exportPart is how much is written at a time.
	exportPart = 1 << 20
	// exportTime is how long making one may take, exportKept how long it waits afterwards.
	exportTime = 30 * time.Minute
	exportKept = 15 * time.Minute
)

// ExportError says why a file cannot be made; it is said to people.
type ExportError struct{ Why string }

func (e *ExportError) Error() string { return e.Why }

// ExportBounds are how many bytes one file and all of them may have; zeros mean 2 GiB and 8 GiB.
type ExportBounds struct{ One, All int64 }

// exports are the files that this server is making.
type exports struct {
	mu     sync.Mutex // protects following fields
	making map[string]making
	ended  bool
}

// making is one of them: how it is stopped, and what is closed once it has come to its end.
type making struct {
	stop  context.CancelCauseFunc
	ended chan struct{}
}

// errEnding is why files are not made any more by a server that ends.
var errEnding = errors.New("app: the server ends")

// errUnwanted says that nobody waits for a file any more.
var errUnwanted = errors.New("app: the file is not wanted any more")

// add notes how a file is stopped; a server that ends begins none.
func (x *exports) add(id string, stop context.CancelCauseFunc) error {
	x.mu.Lock()
	defer x.mu.Unlock()
	if x.ended {
		return &ExportError{"the server is being restarted; take it again in a moment"}
	}
	if x.making == nil {
		x.making = map[string]making{}
	}
	x.making[id] = making{stop, make(chan struct{})}
	return nil
}

func (x *exports) remove(id string) {
	x.mu.Lock()
	defer x.mu.Unlock()
	close(x.making[id].ended)
	delete(x.making, id)
}

// Writing makes a file of an export; it hears how many lines are worked through to tell.
type Writing func(ctx context.Context, to io.Writer, tell func(lines int)) error

// Export begins to make a file for a person. explain says to people why one was not made.
func (a *App) Export(
	ctx context.Context, e store.Export, write Writing, explain func(err error) string,
) (id string, err error) {
	e.ID = rand.Text()
	working, stop := context.WithCancelCause(context.WithoutCancel(ctx))
	if err := a.exports.add(e.ID, stop); err != nil {
		return "", err
	}
	err = a.Store.AddExport(ctx, e, exportsEach, exportKept)
	if err != nil {
		a.exports.remove(e.ID)
		var crowded *store.CrowdedError
		if errors.As(err, &crowded) {
			err = &ExportError{fmt.Sprintf(
				"%d files are being made for you already; wait for one, or stop it", crowded.Making,
			)}
		}
		return "", err
	}
	go a.caught(func() {
		defer a.exports.remove(e.ID)
		defer stop(nil)
		a.makeExport(working, stop, e, write, explain)
	})
	return e.ID, nil
}

// makeExport makes a file, and says what came of it.
func (a *App) makeExport(
	ctx context.Context, stop context.CancelCauseFunc, e store.Export, write Writing, explain func(error) string,
) {
	ctx, cancel := context.WithTimeout(ctx, exportTime)
	defer cancel()
	job := a.Scheduler.Enter(strconv.FormatInt(e.Person, 10))
	defer job.Leave()
	ctx = turn.With(ctx, job)
	var lines atomic.Int64
	go a.caught(func() { a.beatExport(ctx, stop, e.ID, &lines) })
	err := fault.Caught(func() error {
		to := bufio.NewWriterSize(&exportParts{ctx: ctx, of: a, id: e.ID}, exportPart)
		if err := write(ctx, to, func(n int) { lines.Store(int64(n)) }); err != nil {
			return err
		}
		return to.Flush()
	})
	state, failure := store.ExportReady, ""
	switch cause := context.Cause(ctx); {
	case err == nil:
	case cause == errUnwanted, errors.Is(err, errUnwanted):
		return // it is gone
	case cause == errEnding:
		state = store.ExportLost
	default:
		if errors.Is(cause, context.DeadlineExceeded) {
			err = &ExportError{
				fmt.Sprintf("it is not done after %d minutes; keep fewer records", exportTime/time.Minute),
			}
		}
		state, failure = store.ExportFailed, explain(err)
	}
	ending, done := context.WithTimeout(context.WithoutCancel(ctx), noticing)
	defer done()
	if err := a.Store.EndExport(ending, e.ID, state, failure); err != nil {
		a.Log.Error("export", "error", err)
	}
	time.AfterFunc(exportKept, func() {
		a.caught(func() {
			ctx, done := context.WithTimeout(context.Background(), noticing)
			defer done()
			_ = a.Store.DropExport(ctx, e.Person, e.ID) // else it goes with the next that is begun
		})
	})
}

// beatExport tells how far a file is, and hears that it is not wanted any more.
func (a *App) beatExport(ctx context.Context, stop context.CancelCauseFunc, id string, lines *atomic.Int64) {
	Every(ctx, beating, func(ctx context.Context) bool {
		unwanted := errors.Is(a.Store.BeatExport(ctx, id, int(lines.Load())), store.ErrNotFound)
		if unwanted {
			stop(errUnwanted)
		}
		return unwanted
	})
}

// DropExport stops making a person's file, or lets go of it; store.ErrNotFound says that it is not there.
func (a *App) DropExport(ctx context.Context, person int64, id string) error {
	err := a.Store.DropExport(ctx, person, id)
	a.exports.mu.Lock()
	defer a.exports.mu.Unlock()
	if one, mine := a.exports.making[id]; mine && err == nil {
		one.stop(errUnwanted)
	}
	return err
}

// EndExports stops all files that this server is making, as far as ctx allows to wait for: whoever waits for
// one hears that it can be begun again.
func (a *App) EndExports(ctx context.Context) {
	a.exports.mu.Lock()
	a.exports.ended = true
	all := slices.Collect(maps.Values(a.exports.making))
	a.exports.mu.Unlock()
	for _, one := range all {
		one.stop(errEnding)
	}
	for _, one := range all {
		select {
		case <-ctx.Done():
			return
		case <-one.ended:
		}
	}
}

// exportParts writes an export into the state, within bounds.
type exportParts struct {
	ctx   context.Context
	of    *App
	id    string
	place int
	bytes int64
}

func (w *exportParts) Write(p []byte) (n int, err error) {
	for part := range slices.Chunk(p, exportPart) {
		if err = turn.Of(w.ctx).Wait(w.ctx); err == nil {
			err = w.add(part)
		}
		if err != nil {
			return n, err
		}
		n += len(part)
	}
	return n, nil
}

func (w *exportParts) add(part []byte) error {
	bounds := w.of.Exports
	most := cmp.Or(bounds.One, exportBytes)
	if w.bytes += int64(len(part)); w.bytes > most {
		return &ExportError{fmt.Sprintf(
			"the file would be larger than %d MB; keep fewer records or columns, or take Parquet, which is smaller", most>>20,
		)}
	}
	err := w.of.Store.AddExportPart(w.ctx, w.id, w.place, part, cmp.Or(bounds.All, allExportBytes))
	w.place++
	switch {
	case err == nil:
		return nil
	case errors.Is(err, store.ErrNotFound):
		return errUnwanted
	case errors.Is(err, store.ErrNoRoom):
		return &ExportError{
			"the files that wait to be fetched have filled the room for them; try again in a quarter of an hour",
		}
	case store.TroubleOf(err) == store.Full:
		return &ExportError{"the disk of the database is full; tell your administrator"}
	}
	return err
}

// ReadExport reads an export that is ready, from its first byte on.
func (a *App) ReadExport(ctx context.Context, e store.Export) io.Reader {
	return &exportReader{ctx: ctx, store: a.Store, of: e}
}

type exportReader struct {
	ctx   context.Context
	store *store.Store
	of    store.Export
	place int
	read  int64
	rest  []byte
}

func (r *exportReader) Read(p []byte) (n int, err error) {
	if len(r.rest) == 0 {
		if r.read == r.of.Bytes {
			return 0, io.EOF
		}
		if r.rest, err = r.store.ExportPart(r.ctx, r.of.ID, r.place); err != nil {
			return 0, fmt.Errorf("app: a part of the file: %w", err)
		}
		r.place++
		r.read += int64(len(r.rest))
	}
	n = copy(p, r.rest)
	r.rest = r.rest[n:]
	return n, nil
}
