package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strconv"
	"time"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/fault"
	"gavrik/internal/core/turn"
	"gavrik/internal/records"
	"gavrik/internal/records/files"
	"gavrik/internal/records/incoming"
	"gavrik/internal/store"
)

// FileJob is what a file is read as.
type FileJob struct {
	Recipe files.Recipe `json:"recipe"`
	// Into is the record set that it changes; empty for a new one.
	Into string `json:"into,omitempty"`
}

// FileOutcome is what was read of a file, and what it would change.
type FileOutcome struct {
	incoming.Report
	Headings []string `json:"headings"`
	// Differences are set where the file can change records by their key; else Whole says why
	// it can only take the place of all of them.
	Differences *incoming.Differences `json:"differences,omitempty"`
	Whole       string                `json:"whole,omitempty"`
	// Version is that of the record set as it was compared; Before is how many records it has.
	Version int `json:"version"`
	Before  int `json:"before"`
	// AsideBefore is how many rows of the file before are still kept aside.
	AsideBefore int `json:"asideBefore"`
}

const (
	// readingTime is how long reading a file may take.
	readingTime = 2 * time.Hour
	// beating is how often a server that reads a file says how far it is.
	beating = 500 * time.Millisecond
)

// BeginReading begins to read a file to the side. store.ErrTaken says that it is being read.
func (a *App) BeginReading(ctx context.Context, u store.Upload, job FileJob, cal calendar.Calendar) error {
	if u.Received < u.Size {
		return ErrArriving
	}
	if err := job.Recipe.Check(); err != nil {
		return err
	}
	if err := a.Store.BeginReading(ctx, u.ID, job); err != nil {
		return err
	}
	go a.caught(func() {
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), readingTime)
		defer cancel()
		work := a.Scheduler.Enter(strconv.FormatInt(u.Person, 10))
		defer work.Leave()
		ctx = turn.With(ctx, work)
		progress := &incoming.Progress{}
		go a.caught(func() { a.beat(ctx, cancel, u.ID, progress) })
		var outcome *FileOutcome
		err := fault.Caught(func() (err error) {
			select {
			case a.reads <- struct{}{}:
				defer func() { <-a.reads }()
			case <-ctx.Done():
				return ctx.Err()
			}
			outcome, err = a.readFile(ctx, u, job, cal, progress)
			return err
		})
		// The database may be asked still, though the reading was stopped.
		ending, done := context.WithTimeout(context.WithoutCancel(ctx), noticing)
		defer done()
		var ended error
		if err != nil {
			ended = a.Store.EndReading(ending, u.ID, nil, a.whyUnread(ctx, err))
		} else {
			ended = a.Store.EndReading(ending, u.ID, outcome, "")
		}
		if ended != nil {
			a.Log.Error("reading a file", "error", ended)
		}
	})
	return nil
}

// caught does work that nobody waits for; a fault in it is logged and ends nothing else.
func (a *App) caught(do func()) {
	if err := fault.Caught(func() error { do(); return nil }); err != nil {
		a.Log.Error("work beside requests", "error", err)
	}
}

// whyUnread is why a file was not read, for people.
func (a *App) whyUnread(ctx context.Context, err error) string {
	var file *files.FileError
	var bad *incoming.Error
	var recipe *files.RecipeError
	switch {
	case errors.As(err, &file), errors.As(err, &bad), errors.As(err, &recipe):
		return err.Error()
	case errors.Is(ctx.Err(), context.DeadlineExceeded):
		return fmt.Sprintf("it is not read after %d hours; part it into smaller files", readingTime/time.Hour)
	case ctx.Err() != nil:
		return "it was stopped"
	case errors.Is(err, turn.ErrBusy):
		return err.Error()
	}
	a.Log.Error("reading a file", "error", err)
	return "the database could not take it; begin again, and ask whoever runs the server if that does not help"
}

// beat tells how far the reading of a file is, and stops it if somebody asks for that.
func (a *App) beat(ctx context.Context, cancel context.CancelFunc, id string, p *incoming.Progress) {
	Every(ctx, beating, func(ctx context.Context) bool {
		stop, err := a.Store.Beat(ctx, id, p.Rows.Load(), p.Bytes.Load())
		if stop && err == nil {
			cancel()
		}
		return stop && err == nil
	})
}

func (a *App) readFile(
	ctx context.Context, u store.Upload, job FileJob, cal calendar.Calendar, p *incoming.Progress,
) (*FileOutcome, error) {
	f, err := files.Open(ctx, a.opened(ctx, u), u.File, job.Recipe.Settings)
	if err != nil {
		return nil, err
	}
	var out *FileOutcome
	err = connected(ctx, a.Store, func(conn *pgx.Conn) (err error) {
		out, err = Staged(ctx, conn, u.ID, f, job, cal, p)
		return err
	})
	return out, err
}

// connected works on a connection of its own, within no time of a statement.
func connected(ctx context.Context, s *store.Store, do func(conn *pgx.Conn) error) error {
	conn, err := records.Connect(ctx, s.URL())
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close(context.WithoutCancel(ctx)) }() // nothing is lost with it
	return do(conn)
}

// Staged reads a file to the side, and compares it with what is there.
func Staged(
	ctx context.Context, conn *pgx.Conn, id string, f *files.File, job FileJob, cal calendar.Calendar,
	p *incoming.Progress,
) (*FileOutcome, error) {
	report, err := incoming.Stage(ctx, conn, id, f, &job.Recipe, cal, p)
	if err != nil {
		return nil, err
	}
	out := &FileOutcome{Report: *report, Headings: f.Headings}
	if job.Into == "" {
		return out, nil
	}
	return out, pgx.BeginFunc(ctx, conn, func(tx pgx.Tx) error {
		b, err := store.LockBroughtIn(ctx, tx, job.Into)
		if err != nil {
			return err
		}
		before, err := RecipeOf(b)
		if err != nil {
			return err
		}
		out.Version, out.Before, out.AsideBefore = b.Version, int(b.Rows), b.Aside
		var whole *incoming.Error
		if err := incoming.Fits(before, &job.Recipe); errors.As(err, &whole) {
			out.Whole = whole.Why
			return nil
		}
		out.Differences, err = incoming.Compare(ctx, conn, id, b.Table, before, &job.Recipe)
		return err
	})
}

// RecipeOf is how a record set was made of its last file.
func RecipeOf(b store.BroughtIn) (*files.Recipe, error) {
	r := &files.Recipe{}
	if err := json.Unmarshal(b.Recipe, r); err != nil {
		return nil, fmt.Errorf("app: recipe of %s: %w", b.Set, err)
	}
	return r, nil
}

// DropFile takes a file away that is not brought in, with what was read of it.
func (a *App) DropFile(ctx context.Context, p store.Person, id string) error {
	if err := a.Store.DropUpload(ctx, p.ID, id); err != nil {
		return err
	}
	return a.dropStaged(ctx, id)
}

// dropStaged takes away what was read of files that are gone.
func (a *App) dropStaged(ctx context.Context, ids ...string) error {
	return a.apart(ctx, func(tx pgx.Tx) error {
		for _, id := range ids {
			if err := incoming.Drop(ctx, tx, id); err != nil {
				return err
			}
		}
		return nil
	})
}

// apart carries out a transaction on a connection of its own.
func (a *App) apart(ctx context.Context, do func(tx pgx.Tx) error) error {
	return connected(ctx, a.Store, func(conn *pgx.Conn) error { return pgx.BeginFunc(ctx, conn, do) })
}

// NewFile makes room for a file that a person sends.
func (a *App) NewFile(ctx context.Context, p store.Person, name string, size int64) (string, error) {
	id, gone, err := a.Store.AddUpload(ctx, p.ID, name, size)
	if err != nil || len(gone) == 0 {
		return id, err
	}
	return id, a.dropStaged(ctx, gone...)
}

// RemoveFile takes a record set away that was brought in.
func (a *App) RemoveFile(ctx context.Context, set string) error {
	var table string
	err := a.apart(ctx, func(tx pgx.Tx) error {
		b, err := store.LockBroughtIn(ctx, tx, set)
		if err != nil {
			return err
		}
		table = b.Table
		if err := incoming.Remove(ctx, tx, table); err != nil {
			return err
		}
		return store.ForgetBroughtIn(ctx, tx, set)
	})
	if err != nil {
		return err
	}
	return a.loadFile(ctx, table, 0)
}
