package store

import (
	"context"
	"fmt"
	"io/fs"
	"strings"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
)

// migrating is the advisory lock under which one server at a time migrates.
const migrating = 0x67617672696b

// migrate brings the tables up to date: all steps in one transaction, so that one that is cut midway leaves
// the version of before, and the Gavrik that knows it goes on. Steps beyond most are left for later, unless
// it is 0.
func (s *Store) migrate(ctx context.Context, files fs.FS, most int64) error {
	lock, err := s.pool.Acquire(ctx)
	if err != nil {
		return fmt.Errorf("store: %w", err)
	}
	defer lock.Release()
	if _, err := lock.Exec(ctx, "SELECT pg_advisory_lock($1)", migrating); err != nil {
		return fmt.Errorf("store: %w", err)
	}
	// a lost connection lets go by itself
	defer func() { _, _ = lock.Exec(context.WithoutCancel(ctx), "SELECT pg_advisory_unlock($1)", migrating) }()
	if _, err := s.pool.Exec(ctx, "CREATE SCHEMA IF NOT EXISTS "+Schema); err != nil {
		return fmt.Errorf("store: schema %s: %w; the database user must be allowed to create it", Schema, err)
	}
	db := stdlib.OpenDBFromPool(s.pool.Pool)
	defer db.Close()
	provider, err := goose.NewProvider(goose.DialectPostgres, db, files)
	if err != nil {
		return fmt.Errorf("store: migrations: %w", err)
	}
	is, err := provider.GetDBVersion(ctx)
	if err != nil {
		return fmt.Errorf("store: migrations: %w", err)
	}
	all := provider.ListSources()
	if known := all[len(all)-1].Version; max(is, most) > known {
		return &NewerError{max(is, most), known}
	}
	err = pgx.BeginFunc(ctx, lock, func(tx pgx.Tx) error {
		for _, step := range all {
			if step.Version <= is || most > 0 && step.Version > most {
				continue
			}
			if err := migrateBy(ctx, tx, files, step); err != nil {
				return fmt.Errorf("%s: %w", step.Path, err)
			}
		}
		return nil
	})
	if err != nil {
		return fmt.Errorf("store: migrations: nothing was changed: %w", err)
	}
	return nil
}

// migrateBy carries the upward half of one step out.
func migrateBy(ctx context.Context, tx pgx.Tx, files fs.FS, step *goose.Source) error {
	text, err := fs.ReadFile(files, step.Path)
	if err != nil {
		return err
	}
	up, _, _ := strings.Cut(string(text), "-- +goose Down")
	if _, err := tx.Conn().PgConn().Exec(ctx, up).ReadAll(); err != nil {
		return err
	}
	_, err = tx.Exec(
		ctx, "INSERT INTO goose_db_version (version_id, is_applied) VALUES ($1, true)", step.Version,
	)
	return err
}

// NewerError says that a newer Gavrik has written the state: this one might spoil it.
type NewerError struct{ Is, Known int64 }

func (e *NewerError) Error() string {
	return fmt.Sprintf("the state in the database is of version %d, and this Gavrik knows it up to %d: a newer one has "+
		"written it. Start that one, or restore a backup of before", e.Is, e.Known)
}
