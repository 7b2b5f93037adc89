package app

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/description"
	"gavrik/internal/core/fault"
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

// ReadFile begins to read a file to the side. store.ErrTaken says that it is being read.
func (a *App) ReadFile(ctx context.Context, u store.Upload, job FileJob, cal calendar.Calendar) error {
	if u.Received < u.Size {
		return ErrArriving
	}
	if err := job.Recipe.Check(); err != nil {
		return err
	}
	if err := a.Store.BeginReading(ctx, u.ID, job); err != nil {
		return err
	}
	go func() {
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), readingTime)
		defer cancel()
		progress := &incoming.Progress{}
		go a.beat(ctx, cancel, u.ID, progress)
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
	}()
	return nil
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
	}
	a.Log.Error("reading a file", "error", err)
	return "the database could not take it; begin again, and ask whoever runs the server if that does not help"
}

// beat tells how far the reading of a file is, and stops it if somebody asks for that.
func (a *App) beat(ctx context.Context, cancel context.CancelFunc, id string, p *incoming.Progress) {
	tick := time.NewTicker(beating)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
		stop, err := a.Store.Beat(ctx, id, p.Rows.Load(), p.Bytes.Load())
		if stop && err == nil {
			cancel()
			return
		}
	}
}

func (a *App) readFile(
	ctx context.Context, u store.Upload, job FileJob, cal calendar.Calendar, p *incoming.Progress,
) (*FileOutcome, error) {
	f, err := files.Open(ctx, a.opened(ctx, u), u.File, job.Recipe.Settings)
	if err != nil {
		return nil, err
	}
	conn, err := records.Connect(ctx, a.Store.URL())
	if err != nil {
		return nil, err
	}
	defer func() { _ = conn.Close(context.WithoutCancel(ctx)) }() // nothing is lost with it
	return Staged(ctx, conn, u.ID, f, job, cal, p)
}

// Staged reads a file to the side, and compares it with what is there.
func Staged(
	ctx context.Context, conn *pgx.Conn, id string, f *files.File, job FileJob, cal calendar.Calendar, p *incoming.Progress,
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

// What becomes of records that are missing from a later file.
const (
	LeaveMissing  = "leave"
	RemoveMissing = "remove"
	// ReplaceAll puts the file in the place of all that is there.
	ReplaceAll = "replace"
)

// BringingIn is how a file that was read comes in.
type BringingIn struct {
	// Name is what a new record set is called, One one of its records.
	Name, One string
	Shares    []store.Share
	// Missing is what becomes of records that a later file does not have.
	Missing string
}

// BringIn makes a file that was read records, for all to see who may. store.ErrStale says that
// the records were changed since it was compared with them; *incoming.Error why it does not go.
func (a *App) BringIn(ctx context.Context, p store.Person, u store.Upload, how BringingIn) (set string, err error) {
	var job FileJob
	var outcome FileOutcome
	if u.State != store.Staged {
		return "", store.ErrNotFound
	}
	if err := errors.Join(json.Unmarshal(u.Job, &job), json.Unmarshal(u.Outcome, &outcome)); err != nil {
		return "", fmt.Errorf("app: %w", err)
	}
	// Once begun, it comes to its end, whether or not somebody waits for it.
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), readingTime)
	defer cancel()
	conn, err := records.Connect(ctx, a.Store.URL())
	if err != nil {
		return "", err
	}
	defer func() { _ = conn.Close(ctx) }() // nothing is lost with it
	known := a.Workspace.current.Load().describing.loaded.Catalog
	kept, err := BringIn(ctx, conn, u.ID, u.File, p, job, &outcome, how, func(key string) bool { return known.Set(key) != nil })
	if err != nil {
		return "", err
	}
	if err := SayOf(ctx, a.Store, p.Name, kept, job, how); err != nil {
		return "", err
	}
	return kept.Set, a.Workspace.RefreshFile(ctx, kept.Table, kept.Set)
}

// BringIn makes a file that was read records, as one transaction.
func BringIn(
	ctx context.Context, conn *pgx.Conn, id, file string, p store.Person, job FileJob, outcome *FileOutcome, how BringingIn,
	taken func(key string) bool,
) (kept store.BroughtIn, err error) {
	err = pgx.BeginFunc(ctx, conn, func(tx pgx.Tx) error {
		recipe := &job.Recipe
		if job.Into == "" {
			kept = store.BroughtIn{Owner: p.ID, Shares: how.Shares}
			if kept.Set, kept.Table, err = store.FreeSet(ctx, tx, files.KeyOf(how.Name, "file"), taken); err != nil {
				return err
			}
			err = incoming.Put(ctx, tx, id, kept.Table, file, recipe)
		} else {
			if kept, err = store.LockBroughtIn(ctx, tx, job.Into); err != nil {
				return err
			}
			if kept.Version != outcome.Version {
				return store.ErrStale
			}
			recipe, err = changed(ctx, tx, id, file, kept, recipe, how.Missing)
		}
		if err != nil {
			return err
		}
		kept.File, kept.Headings, kept.By = file, outcome.Headings, p.Name
		if kept.Recipe, err = json.Marshal(recipe); err != nil {
			return err
		}
		if err := tx.QueryRow(ctx, "SELECT count(*) FROM "+incoming.Table(kept.Table)).Scan(&kept.Rows); err != nil {
			return err
		}
		return store.KeepBroughtIn(ctx, tx, kept, id)
	})
	return kept, err
}

// changed brings a later file in; it returns the recipe of the records as they are then.
func changed(
	ctx context.Context, tx pgx.Tx, id, file string, b store.BroughtIn, recipe *files.Recipe, missing string,
) (*files.Recipe, error) {
	if missing == ReplaceAll {
		return recipe, incoming.Put(ctx, tx, id, b.Table, file, recipe)
	}
	before, err := RecipeOf(b)
	if err != nil {
		return nil, err
	}
	if err := incoming.Fits(before, recipe); err != nil {
		return nil, err
	}
	return incoming.Update(ctx, tx, id, b.Table, file, before, recipe, missing == RemoveMissing)
}

// SayOf says of a record set what its file and whoever brought it in call things, where the names of
// its table do not; and its links.
func SayOf(ctx context.Context, s *store.Store, who string, b store.BroughtIn, job FileJob, how BringingIn) error {
	all, err := s.Descriptions(ctx)
	if err != nil {
		return err
	}
	now := store.Described{Set: b.Set, Body: &description.SetWords{}}
	if i := slices.IndexFunc(all, func(d store.Described) bool { return d.Set == b.Set }); i >= 0 {
		now = all[i]
	}
	words := *now.Body
	if job.Into == "" {
		words = *wordsOf(b.Set, how.Name, how.One)
	}
	addWords(&words, &job.Recipe, job.Into == "")
	_, err = s.Describe(ctx, who, b.Set, now.Version, &words)
	return err
}

// wordsOf are what a new record set is called.
func wordsOf(set, name, one string) *description.SetWords {
	w := &description.SetWords{}
	many := catalog.LowerFirst(name)
	if name != catalog.LabelOf(set) {
		w.Label, w.Many = name, many
	}
	if one = cmp.Or(one, records.Singular(many)); one != records.Singular(catalog.LowerFirst(catalog.LabelOf(set))) {
		w.One = one
	}
	return w
}

// addWords adds what a recipe calls its fields, and its links, unless people said something else.
func addWords(w *description.SetWords, r *files.Recipe, fresh bool) {
	for _, f := range r.Taken() {
		if f.Label == catalog.LabelOf(f.Key) || w.Fields[f.Key] != nil && !fresh {
			continue
		}
		if w.Fields == nil {
			w.Fields = map[string]*description.FieldWords{}
		}
		w.Fields[f.Key] = &description.FieldWords{Label: f.Label}
	}
	for _, l := range r.Links {
		stem := strings.TrimSuffix(files.KeyOf(l.To, "link"), "s")
		key := stem
		for n := 2; r.Field(key) != nil || w.Links[key] != nil; n++ {
			key = fmt.Sprintf("%s_%d", stem, n)
		}
		leads := &description.Leads{To: l.To, By: []string{l.By}, Into: []string{l.Into}}
		if w.Links == nil {
			w.Links = map[string]*description.LinkWords{}
		}
		there := false
		for _, have := range w.Links {
			there = there || have.Leads != nil && have.Leads.To == l.To && slices.Equal(have.Leads.By, leads.By)
		}
		if !there {
			w.Links[key] = &description.LinkWords{Leads: leads}
		}
	}
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

// apart carries out a transaction on a connection of its own, within no time of a statement.
func (a *App) apart(ctx context.Context, do func(tx pgx.Tx) error) error {
	conn, err := records.Connect(ctx, a.Store.URL())
	if err != nil {
		return err
	}
	defer func() { _ = conn.Close(context.WithoutCancel(ctx)) }() // nothing is lost with it
	return pgx.BeginFunc(ctx, conn, do)
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
	return a.Workspace.RefreshFile(ctx, table, set)
}

// DropAsides throws rows away that were kept aside.
func (a *App) DropAsides(ctx context.Context, set string, ids []int64) error {
	return a.apart(ctx, func(tx pgx.Tx) error {
		if _, err := store.DropAsides(ctx, tx, set, ids); err != nil {
			return err
		}
		b, err := store.LockBroughtIn(ctx, tx, set)
		if err != nil {
			return err
		}
		return store.KeepBroughtIn(ctx, tx, b, "")
	})
}

// Mend tries rows again that were kept aside, as somebody has mended them: those that can be read now
// come in, and the others stay with what is wrong with them. It returns how many came in.
func (a *App) Mend(ctx context.Context, set string, rows []store.Aside, cal calendar.Calendar) (int, error) {
	var table string
	in := 0
	err := a.apart(ctx, func(tx pgx.Tx) error {
		b, err := store.LockBroughtIn(ctx, tx, set)
		if err != nil {
			return err
		}
		r, err := RecipeOf(b)
		if err != nil {
			return err
		}
		table = b.Table
		convert, err := r.Converter(&files.File{Settings: r.Settings, Headings: b.Headings}, cal)
		if err != nil {
			return err
		}
		var mended []incoming.MendedRow
		var done []int64
		for _, one := range rows {
			row, err := files.Again(one.Content, b.Headings, r.Settings)
			var values []files.Value
			if err == nil {
				values, err = convert.Convert(row, nil)
			}
			if err != nil {
				one.Reason = err.Error()
				if err := store.ReasonAside(ctx, tx, set, one); err != nil {
					return err
				}
				continue
			}
			mended, done = append(mended, incoming.MendedRow{Line: int(one.Line), Values: values}), append(done, one.ID)
		}
		if len(mended) == 0 {
			return nil
		}
		n, err := store.DropAsides(ctx, tx, set, done)
		if err != nil {
			return err
		}
		if int(n) != len(done) {
			return store.ErrStale // somebody else has mended one of them
		}
		if err := incoming.Append(ctx, tx, table, r, mended); err != nil {
			return err
		}
		if err := tx.QueryRow(ctx, "SELECT count(*) FROM "+incoming.Table(table)).Scan(&b.Rows); err != nil {
			return err
		}
		in = len(done)
		return store.KeepBroughtIn(ctx, tx, b, "")
	})
	if err != nil || in == 0 {
		return in, err
	}
	return in, a.Workspace.RefreshFile(ctx, table, set)
}
