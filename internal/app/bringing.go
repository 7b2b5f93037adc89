package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/records/files"
	"gavrik/internal/records/incoming"
	"gavrik/internal/store"
)

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
func (a *App) BringIn(
	ctx context.Context, p store.Person, u store.Upload, how BringingIn,
) (set string, err error) {
	file := ReadFile{ID: u.ID, Name: u.File, By: p}
	if u.State != store.Staged {
		return "", store.ErrNotFound
	}
	if err := errors.Join(json.Unmarshal(u.Job, &file.Job), json.Unmarshal(u.Outcome, &file.Outcome)); err != nil {
		return "", fmt.Errorf("app: %w", err)
	}
	// Once begun, it comes to its end, whether or not somebody waits for it.
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), readingTime)
	defer cancel()
	known := a.Workspace.current.Load().describing.loaded.Catalog
	var kept store.BroughtIn
	err = a.apart(ctx, func(tx pgx.Tx) (err error) {
		kept, err = BringIn(ctx, tx, file, how, func(key string) bool { return known.Set(key) != nil })
		return err
	})
	if err != nil {
		return "", err
	}
	if err := SayOf(ctx, a.Store, p.Name, kept, file.Job, how); err != nil {
		return "", err
	}
	return kept.Set, a.loadFile(ctx, kept.Table, kept.Version+1)
}

// ReadFile is a file that was read to the side, as what, by whom, and what came of it.
type ReadFile struct {
	// ID is what it lies by to the side.
	ID, Name string
	By       store.Person
	Job      FileJob
	Outcome  FileOutcome
}

// BringIn makes a file that was read records, within a transaction; taken says which keys other records
// go by.
func BringIn(
	ctx context.Context, tx pgx.Tx, f ReadFile, how BringingIn, taken func(key string) bool,
) (kept store.BroughtIn, err error) {
	recipe := &f.Job.Recipe
	if f.Job.Into == "" {
		kept = store.BroughtIn{Owner: f.By.ID, Shares: how.Shares}
		if kept.Set, kept.Table, err = store.FreeSet(ctx, tx, files.KeyOf(how.Name, "file"), taken); err != nil {
			return kept, err
		}
		err = incoming.Put(ctx, tx, f.ID, kept.Table, f.Name, recipe)
	} else {
		if kept, err = store.LockBroughtIn(ctx, tx, f.Job.Into); err != nil {
			return kept, err
		}
		if kept.Version != f.Outcome.Version {
			return kept, store.ErrStale
		}
		recipe, err = changed(ctx, tx, f, kept, how.Missing)
	}
	if err != nil {
		return kept, err
	}
	kept.File, kept.Headings, kept.By = f.Name, f.Outcome.Headings, f.By.Name
	if kept.Recipe, err = json.Marshal(recipe); err != nil {
		return kept, err
	}
	err = tx.QueryRow(ctx, "SELECT count(*) FROM "+incoming.Table(kept.Table)).Scan(&kept.Rows)
	if err != nil {
		return kept, err
	}
	if err := store.KeepBroughtIn(ctx, tx, kept, f.ID); err != nil {
		return kept, err
	}
	return kept, bounded(ctx, tx, kept.Owner)
}

// What the records of files may take; they are held in memory, about as large as on the disk.
const (
	filesOfOne = 2 << 30 // of one owner
	filesOfAll = 8 << 30
)

// bounded refuses what would fill the memory.
func bounded(ctx context.Context, tx pgx.Tx, owner int64) error {
	mine, all, err := store.FileBytes(ctx, tx, owner)
	switch {
	case err != nil:
		return err
	case mine > filesOfOne:
		return &incoming.Error{Why: fmt.Sprintf("the records that came as files of one owner may take %d MB, and these would make %d MB. "+
			"Take some away, or leave out columns", filesOfOne>>20, mine>>20)}
	case all > filesOfAll:
		return &incoming.Error{Why: fmt.Sprintf("all records that came as files may take %d MB, and these would make %d MB. "+
			"Take some away, or leave out columns", filesOfAll>>20, all>>20)}
	}
	return nil
}

// changed brings a later file in; it returns the recipe of the records as they are then.
func changed(
	ctx context.Context, tx pgx.Tx, f ReadFile, b store.BroughtIn, missing string,
) (*files.Recipe, error) {
	recipe := &f.Job.Recipe
	if missing == ReplaceAll {
		return recipe, incoming.Put(ctx, tx, f.ID, b.Table, f.Name, recipe)
	}
	before, err := RecipeOf(b)
	if err != nil {
		return nil, err
	}
	if err := incoming.Fits(before, recipe); err != nil {
		return nil, err
	}
	return incoming.Update(ctx, tx, f.ID, b.Table, f.Name, before, recipe, missing == RemoveMissing)
}
