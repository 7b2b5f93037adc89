package store

import (
	"archive/zip"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
)

// A backup is a zip file: the list of what is in it, and for each table its rows as COPY writes them. It
// holds the state and the records that people brought in as files, as of one moment; what lies in the
// databases of the applications is not in it.

// backupFormat is the version of the format, backupList the name of its list.
const (
	backupFormat = 1
	backupList   = "backup.json"
)

// notBackedUp is what is of its moment alone: who is signed in, what is on its way, jobs.
var notBackedUp = []string{
	"sessions", "sign_ins", "attempts", "signin_failures", "uploads", "upload_parts",
	"exports", "export_parts", "front_pieces",
	"goose_db_version",
}

// Backup lists what a backup holds.
type Backup struct {
	Format int       `json:"format"`
	At     time.Time `json:"at"`
	// Version is that of the tables of the state.
	Version   int64            `json:"version"`
	Tables    []backupTable    `json:"tables"`
	Sequences []backupSequence `json:"sequences"`
}

type backupTable struct {
	Schema  string   `json:"schema"`
	Name    string   `json:"name"`
	Columns []string `json:"columns"`
	// Making makes the table; empty for those of the state, which its version makes.
	Making []string `json:"making,omitempty"`
}

type backupSequence struct {
	Name string `json:"name"`
	Next int64  `json:"next"`
}

func (t backupTable) file() string { return t.Schema + "/" + t.Name + ".copy" }
func (t backupTable) name() string { return pgx.Identifier{t.Schema, t.Name}.Sanitize() }

func (t backupTable) columns() string {
	quoted := make([]string, len(t.Columns))
	for i, c := range t.Columns {
		quoted[i] = pgx.Identifier{c}.Sanitize()
	}
	return strings.Join(quoted, ", ")
}

// The tables of the state, and those that files were brought into.
const backedUpSQL = `
SELECT n.nspname, c.relname,
       ARRAY(SELECT attname::text FROM pg_attribute
             WHERE attrelid = c.oid AND attnum > 0 AND NOT attisdropped AND attgenerated = '' ORDER BY attnum),
       ARRAY(SELECT format('%I %s%s', attname, format_type(atttypid, atttypmod),
                           CASE WHEN attnotnull THEN ' NOT NULL' END)
             FROM pg_attribute WHERE attrelid = c.oid AND attnum > 0 AND NOT attisdropped ORDER BY attnum),
       ARRAY(SELECT pg_get_constraintdef(oid) FROM pg_constraint
             WHERE conrelid = c.oid AND contype IN ('p', 'u') ORDER BY contype, oid),
       ARRAY(SELECT CASE WHEN objsubid = 0 THEN format('COMMENT ON TABLE %s IS %L', c.oid::regclass, description)
                         ELSE format('COMMENT ON COLUMN %s.%I IS %L', c.oid::regclass, a.attname, description) END
             FROM pg_description LEFT JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum = objsubid
             WHERE objoid = c.oid AND classoid = 'pg_class'::regclass ORDER BY objsubid)
FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
WHERE c.relkind = 'r' AND (n.nspname = 'gavrik' AND c.relname !~ '^river' AND NOT c.relname = ANY($1)
   OR n.nspname = 'gavrik_files' AND c.relname IN (SELECT table_name FROM brought_in))
ORDER BY n.nspname, c.relname`

const sequencesSQL = `
SELECT format('%I.%I', schemaname, sequencename), coalesce(last_value + increment_by, start_value)
FROM pg_sequences WHERE schemaname = 'gavrik' AND sequencename !~ '^river' ORDER BY sequencename`

// Backup writes the state, and the records that people brought in, as of one moment.
func (s *Store) Backup(ctx context.Context, to io.Writer) (*Backup, error) {
	out := &Backup{Format: backupFormat}
	reading := pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly}
	err := pgx.BeginTxFunc(ctx, s.pool.Pool, reading, func(tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, "SET LOCAL search_path = "+Schema); err != nil {
			return err
		}
		err := tx.QueryRow(ctx, "SELECT now(), (SELECT max(version_id) FROM goose_db_version WHERE is_applied)").
			Scan(&out.At, &out.Version)
		if err != nil {
			return err
		}
		if err := out.list(ctx, tx); err != nil {
			return err
		}
		z := zip.NewWriter(to)
		list, err := z.Create(backupList)
		if err == nil {
			err = json.NewEncoder(list).Encode(out)
		}
		for _, t := range out.Tables {
			if err != nil {
				break
			}
			var file io.Writer
			if file, err = z.Create(t.file()); err == nil {
				query := fmt.Sprintf("COPY %s (%s) TO STDOUT", t.name(), t.columns())
				_, err = tx.Conn().PgConn().CopyTo(ctx, file, query)
			}
		}
		return errors.Join(err, z.Close())
	})
	if err != nil {
		return nil, fmt.Errorf("store: backup: %w", err)
	}
	return out, nil
}

// list lists the tables and sequences.
func (b *Backup) list(ctx context.Context, tx pgx.Tx) error {
	var t backupTable
	var columns, keys, comments []string
	rows, _ := tx.Query(ctx, backedUpSQL, notBackedUp) // ForEachRow returns its error
	_, err := pgx.ForEachRow(rows, []any{
		&t.Schema, &t.Name, &t.Columns, &columns, &keys, &comments,
	}, func() error {
		one := backupTable{Schema: t.Schema, Name: t.Name, Columns: slices.Clone(t.Columns)}
		if t.Schema != Schema {
			making := "CREATE TABLE " + one.name() + " (" + strings.Join(slices.Concat(columns, keys), ", ") + ")"
			one.Making = append([]string{making}, comments...)
		}
		b.Tables = append(b.Tables, one)
		return nil
	})
	if err != nil {
		return err
	}
	rows, _ = tx.Query(ctx, sequencesSQL) // CollectRows returns its error
	b.Sequences, err = pgx.CollectRows(rows, pgx.RowToStructByPos[backupSequence])
	return err
}

// ErrOccupied says that a database holds a state already.
var ErrOccupied = errors.New("the database holds a state of Gavrik already; restore into one that does not")

// Restore puts a backup into a database without a state, and brings it up to date. If it fails, nothing of
// the backup is there.
func Restore(ctx context.Context, url string, from io.ReaderAt, size int64) (*Backup, error) {
	z, err := zip.NewReader(from, size)
	if err != nil {
		return nil, fmt.Errorf("the file is no backup, or not all of one: %w", err)
	}
	b := &Backup{}
	list, err := z.Open(backupList)
	if err == nil {
		err = errors.Join(json.NewDecoder(list).Decode(b), list.Close())
	}
	if err != nil || b.Format != backupFormat {
		err = errors.Join(err, errors.New("look at "+backupList))
		return nil, fmt.Errorf("the file is no backup of format %d: %w", backupFormat, err)
	}
	s, err := connected(ctx, url)
	if err != nil {
		return nil, err
	}
	defer s.Close()
	if err := s.migrate(ctx, steps, b.Version); err != nil {
		return nil, err
	}
	err = pgx.BeginFunc(ctx, s.pool.Pool, func(tx pgx.Tx) error { return b.restore(ctx, tx, z) })
	if err != nil {
		return nil, fmt.Errorf("store: restoring: %w", err)
	}
	return b, s.migrate(ctx, steps, 0)
}

func (b *Backup) restore(ctx context.Context, tx pgx.Tx, z *zip.Reader) error {
	var occupied bool
	err := tx.QueryRow(ctx, "SELECT EXISTS (SELECT FROM gavrik.people) OR EXISTS (SELECT FROM gavrik.views)").
		Scan(&occupied)
	if err != nil || occupied {
		return errors.Join(err, ErrOccupied)
	}
	// Rows come in the order of their tables: what they refer to is looked at once all are there.
	keys, err := foreignKeys(ctx, tx)
	if err != nil {
		return err
	}
	for _, k := range keys {
		if _, err := tx.Exec(ctx, fmt.Sprintf("ALTER TABLE %s DROP CONSTRAINT %s", k.table, k.name)); err != nil {
			return err
		}
	}
	for _, t := range b.Tables {
		if err := t.restore(ctx, tx, z); err != nil {
			return fmt.Errorf("%s: %w", t.name(), err)
		}
	}
	for _, k := range keys {
		statement := fmt.Sprintf("ALTER TABLE %s ADD CONSTRAINT %s %s", k.table, k.name, k.definition)
		if _, err := tx.Exec(ctx, statement); err != nil {
			return err
		}
	}
	for _, one := range b.Sequences {
		if _, err := tx.Exec(ctx, "SELECT setval($1::regclass, $2, false)", one.Name, one.Next); err != nil {
			return err
		}
	}
	return nil
}

func (t backupTable) restore(ctx context.Context, tx pgx.Tx, z *zip.Reader) error {
	ready := []string{"ALTER TABLE " + t.name() + " DISABLE TRIGGER USER", "DELETE FROM " + t.name()}
	if len(t.Making) > 0 {
		ready = append([]string{"CREATE SCHEMA IF NOT EXISTS " + pgx.Identifier{t.Schema}.Sanitize()}, t.Making...)
	}
	for _, statement := range ready {
		if _, err := tx.Exec(ctx, statement); err != nil {
			return err
		}
	}
	file, err := z.Open(t.file())
	if err != nil {
		return err
	}
	defer file.Close()
	_, err = tx.Conn().PgConn().CopyFrom(
		ctx, file, fmt.Sprintf("COPY %s (%s) FROM STDIN", t.name(), t.columns()),
	)
	if err == nil {
		_, err = tx.Exec(ctx, "ALTER TABLE "+t.name()+" ENABLE TRIGGER USER")
	}
	return err
}

type foreignKey struct{ table, name, definition string }

func foreignKeys(ctx context.Context, tx pgx.Tx) ([]foreignKey, error) {
	var k foreignKey
	var out []foreignKey
	// ForEachRow returns the error of a query.
	rows, _ := tx.Query(ctx, `SELECT conrelid::regclass::text, quote_ident(conname), pg_get_constraintdef(oid)
		FROM pg_constraint WHERE contype = 'f' AND connamespace = 'gavrik'::regnamespace
		AND conrelid::regclass::text !~ 'river' ORDER BY oid`)
	_, err := pgx.ForEachRow(rows, []any{&k.table, &k.name, &k.definition}, func() error {
		out = append(out, k)
		return nil
	})
	return out, err
}
