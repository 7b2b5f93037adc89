package app

import (
	"bufio"
	"cmp"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"os"
	"strconv"
	"sync"
	"syscall"
	"time"

	"gavrik/internal/core/fault"
	"gavrik/internal/core/turn"
)

// The bounds of files that are made for people to fetch.
const (
	// exportsEach is how many of one person are made, or wait to be fetched.
	exportsEach = 8
	// exportBytes is how large one file may be, unless something else is set, allExportBytes all
	// of them together.
	exportBytes    = 2 << 30
	allExportBytes = 8 << 30
	// exportPiece is how much is written at a time.
	exportPiece = 256 << 10
	// exportTime is how long making one may take, exportKept how long it waits afterwards.
	exportTime = 30 * time.Minute
	exportKept = 15 * time.Minute
)

// ExportError says why a file cannot be made; it is said to people.
type ExportError struct{ Why string }

func (e *ExportError) Error() string { return e.Why }

// Exports are the files of an application that are made for people to fetch. They have no
// names on the disk: what the process leaves behind is freed by the system.
type Exports struct {
	// most and mostOfAll, if set, are how many bytes one file and all of them may have.
	most, mostOfAll int64

	mu    sync.Mutex // protects following fields, and what changes of each file
	files map[string]*Export
	bytes int64
}

// Export is one file: it is made, waits to be fetched, and goes.
type Export struct {
	ID     string
	Person int64
	// Name is the file's; Media its type on the web. Lines is how many it is to have.
	Name, Media string
	Lines       int
	// About says in the audit trail what is in it.
	About []string

	of     *Exports
	cancel context.CancelFunc
	begun  time.Time

	// The mutex of the Exports protects following fields.
	file    *os.File // nil once it is freed
	state   ExportState
	changed chan struct{} // closed with the next change
}

// ExportState is how far an export is.
type ExportState struct {
	// Done is how many lines were worked through, Bytes how much is written.
	Done  int
	Bytes int64
	// Step counts the changes.
	Step int
	// Ready says that the whole file is there; Err, if not nil, why it will never be.
	Ready bool
	Err   error
}

// Export begins to make a file for a person. write hears how far it is to tell.
func (a *App) Export(
	person int64, e *Export, write func(ctx context.Context, to io.Writer, tell func(lines int)) error,
) error {
	file, err := os.CreateTemp("", "gavrik-export-")
	if err != nil {
		return err
	}
	if err := os.Remove(file.Name()); err != nil {
		return errors.Join(err, file.Close())
	}
	ctx, cancel := context.WithTimeout(context.Background(), exportTime)
	e.ID, e.Person, e.begun = rand.Text(), person, time.Now()
	e.of, e.cancel, e.file, e.changed = &a.exports, cancel, file, make(chan struct{})
	if err := a.exports.add(e); err != nil {
		cancel()
		return errors.Join(err, file.Close())
	}
	tell := func(lines int) {
		e.of.mu.Lock()
		defer e.of.mu.Unlock()
		e.change(func(s *ExportState) { s.Done = lines })
	}
	go func() {
		defer cancel()
		job := a.Scheduler.Enter(strconv.FormatInt(person, 10))
		defer job.Leave()
		err := fault.Caught(func() error {
			to := bufio.NewWriterSize(&exportWriter{ctx, job, e}, exportPiece)
			if err := write(turn.With(ctx, job), to, tell); err != nil {
				return err
			}
			return to.Flush()
		})
		if errors.Is(err, context.DeadlineExceeded) {
			err = &ExportError{fmt.Sprintf(
				"it is not done after %d minutes; keep fewer records", exportTime/time.Minute,
			)}
		}
		var caught *fault.Error
		if errors.As(err, &caught) {
			a.Log.Error("export", "error", caught, "stack", caught.Stack)
		}
		e.finish(err)
		time.AfterFunc(exportKept, e.Drop)
	}()
	return nil
}

// FindExport is a person's export, or nil.
func (a *App) FindExport(person int64, id string) *Export {
	a.exports.mu.Lock()
	defer a.exports.mu.Unlock()
	if e := a.exports.files[id]; e != nil && e.Person == person {
		return e
	}
	return nil
}

// add takes a file in. Of a person who has many, the oldest that has ended makes room.
func (x *Exports) add(e *Export) error {
	x.mu.Lock()
	defer x.mu.Unlock()
	var oldest *Export
	n := 0
	for _, other := range x.files {
		if other.Person != e.Person {
			continue
		}
		n++
		if other.state.ended() && (oldest == nil || other.begun.Before(oldest.begun)) {
			oldest = other
		}
	}
	switch {
	case n < exportsEach:
	case oldest == nil:
		return &ExportError{fmt.Sprintf("%d files are being made for you already; wait for one, or stop it", n)}
	default:
		x.drop(oldest)
	}
	if x.files == nil {
		x.files = map[string]*Export{}
	}
	x.files[e.ID] = e
	return nil
}

// drop lets go of a file; the mutex is held.
func (x *Exports) drop(e *Export) {
	e.cancel()
	delete(x.files, e.ID)
	x.free(e)
}

// free gives back the room of a file; the mutex is held.
func (x *Exports) free(e *Export) {
	if e.file == nil {
		return
	}
	x.bytes -= e.state.Bytes
	_ = e.file.Close() // it has no name: what is lost with it is not asked for any more
	e.file = nil
}

// ended says that a file will not change any more.
func (s ExportState) ended() bool { return s.Ready || s.Err != nil }

// State is how far it is.
func (e *Export) State() ExportState {
	e.of.mu.Lock()
	defer e.of.mu.Unlock()
	return e.state
}

// Next waits until it is further than a step, or the context is done.
func (e *Export) Next(ctx context.Context, step int) (ExportState, error) {
	for {
		e.of.mu.Lock()
		state, changed := e.state, e.changed
		e.of.mu.Unlock()
		if state.Step != step {
			return state, nil
		}
		select {
		case <-ctx.Done():
			return state, ctx.Err()
		case <-changed:
		}
	}
}

// change changes the state and tells those who wait; the mutex is held.
func (e *Export) change(do func(*ExportState)) {
	do(&e.state)
	e.state.Step++
	close(e.changed)
	e.changed = make(chan struct{})
}

// finish says how the making of a file ended. One that will never be takes no room.
func (e *Export) finish(err error) {
	e.of.mu.Lock()
	defer e.of.mu.Unlock()
	if err != nil {
		e.of.free(e)
	}
	e.change(func(s *ExportState) { s.Ready, s.Err = err == nil, err })
}

// Drop stops making the file, and frees it.
func (e *Export) Drop() {
	e.of.mu.Lock()
	defer e.of.mu.Unlock()
	e.of.drop(e)
}

// Read returns the whole file, which may be read again; nil, if it is not ready or was dropped.
func (e *Export) Read() io.Reader {
	e.of.mu.Lock()
	defer e.of.mu.Unlock()
	if e.file == nil || !e.state.Ready {
		return nil
	}
	return io.NewSectionReader(e.file, 0, e.state.Bytes)
}

// take counts so many bytes more, before they are written to the file that it returns.
func (e *Export) take(bytes int64) (*os.File, error) {
	x := e.of
	x.mu.Lock()
	defer x.mu.Unlock()
	most := cmp.Or(x.most, exportBytes)
	switch {
	case e.file == nil:
		return nil, context.Canceled // it was dropped
	case x.bytes+bytes > cmp.Or(x.mostOfAll, allExportBytes):
		return nil, &ExportError{
			"the files that wait to be fetched have filled the room for them; try again in a quarter of an hour",
		}
	case e.state.Bytes+bytes > most:
		return nil, &ExportError{fmt.Sprintf(
			"the file would be larger than %d MB; keep fewer records or columns, or take Parquet, which is smaller",
			most>>20,
		)}
	}
	x.bytes += bytes
	e.change(func(s *ExportState) { s.Bytes += bytes })
	return e.file, nil
}

// exportWriter writes an export to the disk, within bounds.
type exportWriter struct {
	ctx context.Context
	job turn.Turn
	e   *Export
}

func (w *exportWriter) Write(p []byte) (int, error) {
	if err := w.job.Wait(w.ctx); err != nil {
		return 0, err
	}
	file, err := w.e.take(int64(len(p)))
	if err != nil {
		return 0, err
	}
	n, err := file.Write(p)
	if errors.Is(err, syscall.ENOSPC) {
		return n, &ExportError{"the server's disk is full; tell your administrator"}
	}
	return n, err
}
