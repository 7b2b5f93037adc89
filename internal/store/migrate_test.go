package store

import (
	"io/fs"
	"regexp"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/require"
)

// stepper moves a store between the versions of its tables.
func stepper(t *testing.T, s *Store) *goose.Provider {
	db := stdlib.OpenDBFromPool(s.pool.Pool)
	t.Cleanup(func() { _ = db.Close() })
	provider, err := goose.NewProvider(goose.DialectPostgres, db, steps)
	require.NoError(t, err)
	return provider
}

// Rules and views that were written with null for no columns are read as strictly as others.
func TestMigratingGivesDocumentsTheirColumns(t *testing.T) {
	s, tamsin, _ := open(t)
	ctx := t.Context()
	provider := stepper(t, s)
	old := version("old")
	old.Document = []byte(`{"gavrik": 1, "records": "claims", "columns": null}`)
	_, err := s.AddView(ctx, tamsin, old)
	require.NoError(t, err)
	_, err = provider.DownTo(ctx, 13)
	require.NoError(t, err)
	_, err = s.pool.Exec(
		ctx,
		`INSERT INTO groups (name, limits) VALUES ('night', '[{"set": "ports"}, {"set": "claims", "rule": {"gavrik": 1, "columns": null}}]')`,
	)
	require.NoError(t, err)
	_, err = provider.Up(ctx)
	require.NoError(t, err)
	var view, limits string
	require.NoError(t, s.pool.QueryRow(ctx, "SELECT document->'columns' FROM view_versions").Scan(&view))
	require.NoError(t, s.pool.QueryRow(ctx, "SELECT limits FROM groups WHERE name = 'night'").Scan(&limits))
	require.Equal(t, "[]", view)
	require.JSONEq(t, `[{"set": "ports"}, {"set": "claims", "rule": {"gavrik": 1, "columns": []}}]`, limits)
}

// A database that an earlier version left comes up to date with all that it holds: who
// was an administrator is one, and what was shared with everyone is.
func TestMigratingKeepsWhatWasThere(t *testing.T) {
	s, tamsin, jory := open(t)
	ctx := t.Context()
	boss, err := s.Person(ctx, tamsin)
	require.NoError(t, err)
	boss.Role = Administrator
	require.NoError(t, s.ChangePerson(ctx, boss, false))
	shared, err := s.AddView(ctx, tamsin, version("for all"), WithEveryone)
	require.NoError(t, err)
	own, err := s.AddView(ctx, tamsin, version("mine"))
	require.NoError(t, err)
	require.NoError(t, s.SetFavorite(ctx, tamsin, shared, Whose{Everyone: true}, true))

	provider := stepper(t, s)
	_, err = provider.DownTo(ctx, 6)
	require.NoError(t, err)
	s.pool.Reset() // what the connections know of the tables is of yesterday
	var before string
	require.NoError(
		t,
		s.pool.QueryRow(
			ctx, "SELECT string_agg(concat(name, ' ', administrator), ', ' ORDER BY name) FROM people",
		).Scan(&before),
	)
	require.Equal(t, "Jory Hale f, Tamsin Marlow t", before)
	_, err = provider.Up(ctx)
	require.NoError(t, err)
	s.pool.Reset()

	boss, err = s.Person(ctx, tamsin)
	require.NoError(t, err)
	require.Equal(t, Administrator, boss.Role)
	other, err := s.Person(ctx, jory)
	require.NoError(t, err)
	require.Equal(t, Analyst, other.Role)
	v, err := s.View(ctx, jory, shared)
	require.NoError(t, err)
	require.Equal(t, See, v.Right)
	require.True(t, v.Everyones)
	_, err = s.View(ctx, jory, own)
	require.ErrorIs(t, err, ErrNotFound)
	groups, err := s.Groups(ctx)
	require.NoError(t, err)
	require.Len(t, groups, 1)
}

// What a newer Gavrik has written is not touched.
func TestANewerStateIsRefused(t *testing.T) {
	s, _, _ := open(t)
	_, err := s.pool.Exec(
		t.Context(), "INSERT INTO goose_db_version (version_id, is_applied) VALUES (99999, true)",
	)
	require.NoError(t, err)
	_, err = Open(t.Context(), s.URL())
	var newer *NewerError
	require.ErrorAs(t, err, &newer)
	require.ErrorContains(t, err, "a newer one has written it")
	_, err = s.pool.Exec(t.Context(), "DELETE FROM goose_db_version WHERE version_id = 99999")
	require.NoError(t, err)
	again, err := Open(t.Context(), s.URL())
	require.NoError(t, err)
	again.Close()
}

// An upgrade that is cut midway leaves the version of before, with all that it holds.
func TestAnUpgradeThatFailsChangesNothing(t *testing.T) {
	s, tamsin, _ := open(t)
	view, err := s.AddView(t.Context(), tamsin, version("mine"))
	require.NoError(t, err)
	next := fstest.MapFS{
		"90001_good.sql": {Data: []byte("-- +goose Up\nALTER TABLE people ADD motto text;\n-- +goose Down\n")},
		"90002_broken.sql": {
			Data: []byte("-- +goose Up\nUPDATE people SET motto = 'x'; SELECT 1 / 0;\n-- +goose Down\n"),
		},
	}
	require.NoError(t, fs.WalkDir(steps, ".", func(path string, d fs.DirEntry, err error) error {
		if err == nil && !d.IsDir() {
			text, err := fs.ReadFile(steps, path)
			next[path] = &fstest.MapFile{Data: text}
			return err
		}
		return err
	}))
	err = s.migrate(t.Context(), next, 0)
	require.ErrorContains(t, err, "90002_broken.sql")
	require.ErrorContains(t, err, "nothing was changed")
	again, err := Open(t.Context(), s.URL())
	require.NoError(t, err, "the version before goes on")
	defer again.Close()
	got, err := again.View(t.Context(), tamsin, view)
	require.NoError(t, err)
	require.Equal(t, "mine", got.Name)
	delete(next, "90002_broken.sql")
	require.NoError(t, s.migrate(t.Context(), next, 0))
	_, err = s.pool.Exec(t.Context(), "SELECT motto FROM people")
	require.NoError(t, err)
	_, err = Open(t.Context(), s.URL())
	require.Error(t, err, "and not once the newer one has written it")
}

// Servers of the version before go on while one of this version runs beside them: whatever they read or write
// stays. Steps up to 24 came before several servers were thought of.
func TestTheVersionBeforeLivesWithEveryStep(t *testing.T) {
	breaks := regexp.MustCompile(`(?i)\b(DROP\s+(TABLE|COLUMN|FUNCTION|VIEW|SCHEMA|TYPE)|RENAME|` +
		`ALTER\s+(COLUMN\s+)?\w+\s+(TYPE|SET\s+DATA|SET\s+NOT\s+NULL|DROP\s+DEFAULT))\b`)
	added := regexp.MustCompile(`(?is)ALTER\s+TABLE\s+\S+\s+ADD\s+(?:COLUMN\s+)?[^;]*?NOT\s+NULL[^;,]*`)
	bad := func(sql string) bool {
		up, _, _ := strings.Cut(sql, "-- +goose Down")
		for _, add := range added.FindAllString(up, -1) {
			if !strings.Contains(strings.ToUpper(add), "DEFAULT") {
				return true
			}
		}
		return breaks.MatchString(up)
	}
	for _, sql := range []string{
		"ALTER TABLE views DROP COLUMN name;", "ALTER TABLE views RENAME name TO title;", "DROP TABLE views",
		"ALTER TABLE views ALTER COLUMN name TYPE int;", "ALTER TABLE views ADD COLUMN x int NOT NULL;",
	} {
		require.True(t, bad(sql), sql)
	}
	require.False(
		t, bad("ALTER TABLE views ADD x int NOT NULL DEFAULT 0;\n-- +goose Down\nALTER TABLE views DROP COLUMN x;"),
	)
	checked := 0
	require.NoError(t, fs.WalkDir(steps, ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || path < "00025" {
			return err
		}
		text, err := fs.ReadFile(steps, path)
		checked++
		require.False(t, bad(string(text)), "%s takes something away that the version before uses", path)
		return err
	}))
	require.Positive(t, checked)
}
