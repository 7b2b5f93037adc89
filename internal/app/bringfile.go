package app

import (
	"context"
	"errors"
	"io"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/core/calendar"
	"gavrik/internal/records/files"
	"gavrik/internal/records/incoming"
	"gavrik/internal/store"
)

// commanding is the advisory lock under which one file at a time is brought in by a command, and
// byCommand the name under which it is read to the side.
const (
	commanding = 0x67617669
	byCommand  = "by_command"
)

// BringFile brings a file in without a server: as job says, once tell has heard what was read of it. A
// server offers the records after its next load.
func BringFile(
	ctx context.Context, s *store.Store, file *files.File, p store.Person, job FileJob, how BringingIn,
	cal calendar.Calendar, tell func(*FileOutcome) error,
) (kept store.BroughtIn, err error) {
	err = connected(ctx, s, func(conn *pgx.Conn) error {
		if _, err := conn.Exec(ctx, "SELECT pg_advisory_lock($1)", commanding); err != nil {
			return err
		}
		outcome, err := Staged(ctx, conn, byCommand, file, job, cal, &incoming.Progress{})
		if err != nil {
			return err
		}
		if err = tell(outcome); err == nil {
			read := ReadFile{ID: byCommand, Name: file.Name, By: p, Job: job, Outcome: *outcome}
			err = pgx.BeginFunc(ctx, conn, func(tx pgx.Tx) (err error) {
				kept, err = BringIn(ctx, tx, read, how, func(string) bool { return false })
				return err
			})
		}
		if err != nil {
			drop := func(tx pgx.Tx) error { return incoming.Drop(ctx, tx, byCommand) }
			return errors.Join(err, pgx.BeginFunc(ctx, conn, drop))
		}
		return nil
	})
	if err != nil {
		return kept, err
	}
	return kept, SayOf(ctx, s, p.Name, kept, job, how)
}

// LookFile makes a file out and looks it over; settle may change what becomes of its columns.
func LookFile(
	ctx context.Context, in *io.SectionReader, name string, s files.Settings, known *files.Recipe,
	cal calendar.Calendar, settle func(*files.Recipe) error,
) (*files.Look, error) {
	f, err := files.Open(ctx, in, name, s)
	if err != nil {
		return nil, err
	}
	look, err := f.Look(ctx, known, cal)
	if err != nil {
		return nil, err
	}
	if err := settle(look.Recipe); err != nil {
		return nil, err
	}
	return f.Look(ctx, look.Recipe, cal)
}
