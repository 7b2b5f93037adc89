package store

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/localpg/pgtest"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

// open makes a store with two people in it.
func open(t *testing.T) (s *Store, tamsin, jory int64) {
	t.Helper()
	s, err := Open(t.Context(), pgtest.Database(t))
	require.NoError(t, err)
	t.Cleanup(s.Close)
	person := func(email, name string) int64 {
		id, err := s.AddPerson(t.Context(), Person{Email: email, Name: name, PasswordHash: "x"})
		require.NoError(t, err)
		_, err = s.AddPerson(t.Context(), Person{Email: strings.ToUpper(email), Name: name, PasswordHash: "x"})
		require.ErrorIs(t, err, ErrTaken, "an address is one person's, however it is written")
		return id
	}
	return s, person("tamsin@marrowby.example", "Tamsin Marlow"), person("jory@marrowby.example", "Jory Hale")
}

func draft(name string, shared bool) Draft {
	return Draft{Name: name, Document: []byte(fmt.Sprintf(`{"gavrik": 1, "records": "claims", "columns": [], "name": %q}`, name)), Shared: shared}
}

// Servers that start at once on one database bring it up to date together.
func TestOpeningAtOnce(t *testing.T) {
	url := pgtest.Database(t)
	errs := make([]error, 6)
	var wg sync.WaitGroup
	for i := range errs {
		wg.Go(func() {
			s, err := Open(context.WithoutCancel(t.Context()), url)
			if errs[i] = err; err == nil {
				s.Close()
			}
		})
	}
	wg.Wait()
	require.NoError(t, errors.Join(errs...))
	_, err := Open(t.Context(), "postgres://nobody@127.0.0.1:1/none?connect_timeout=1")
	require.Error(t, err)
}

// Of many who save from the same version one wins, and no version is lost.
func TestOneOfManySaversWins(t *testing.T) {
	s, tamsin, _ := open(t)
	key, err := s.AddView(t.Context(), tamsin, draft("first", false))
	require.NoError(t, err)
	outcomes := make([]error, 8)
	var wg sync.WaitGroup
	for i := range outcomes {
		wg.Go(func() {
			outcomes[i] = s.SaveView(context.WithoutCancel(t.Context()), tamsin, key, 1, draft(fmt.Sprint("by ", i), false))
		})
	}
	wg.Wait()
	winner := ""
	for i, err := range outcomes {
		if err == nil {
			require.Empty(t, winner, "two have saved from one version")
			winner = fmt.Sprint("by ", i)
			continue
		}
		require.ErrorIs(t, err, ErrStale)
	}
	v, err := s.View(t.Context(), tamsin, key)
	require.NoError(t, err)
	require.Equal(t, 2, v.Version)
	require.Equal(t, winner, v.Name)
	var names []string
	require.NoError(t, s.pool.QueryRow(t.Context(), "SELECT array_agg(name ORDER BY version) FROM view_versions").Scan(&names))
	require.Equal(t, []string{"first", winner}, names)
}

// Who sees a view, whose favorite it is, and what becomes of both when it is kept to
// oneself again.
func TestSharingAndFavorites(t *testing.T) {
	s, tamsin, jory := open(t)
	ctx := t.Context()
	key, err := s.AddView(ctx, tamsin, draft("late", false))
	require.NoError(t, err)
	_, err = s.View(ctx, jory, key)
	require.ErrorIs(t, err, ErrNotFound)
	hidden, err := s.HiddenViews(ctx, jory)
	require.NoError(t, err)
	require.Len(t, hidden, 1)
	require.JSONEq(t, string(draft("late", false).Document), string(hidden[0]))
	require.ErrorIs(t, s.SaveView(ctx, jory, key, 1, draft("mine now", true)), ErrNotFound)
	require.ErrorIs(t, s.BinView(ctx, jory, key), ErrNotFound)

	require.NoError(t, s.SaveView(ctx, tamsin, key, 1, draft("late", true)))
	require.NoError(t, s.SetFavorite(ctx, jory, key, false, true))
	require.NoError(t, s.SetFavorite(ctx, jory, key, false, true), "twice is once")
	require.NoError(t, s.SetFavorite(ctx, tamsin, key, false, true))
	require.NoError(t, s.SetFavorite(ctx, tamsin, key, true, true))
	v, err := s.View(ctx, jory, key)
	require.NoError(t, err)
	require.True(t, v.Mine && v.Everyones && v.Shared)
	require.Equal(t, "Tamsin Marlow", v.OwnerName)
	none, err := s.HiddenViews(ctx, jory)
	require.NoError(t, err)
	require.Empty(t, none)

	require.NoError(t, s.SaveView(ctx, tamsin, key, 2, draft("late", false)))
	v, err = s.View(ctx, tamsin, key)
	require.NoError(t, err)
	require.True(t, v.Mine, "one's own favorite stays")
	require.False(t, v.Everyones, "what nobody else may see is nobody else's favorite")
	list, err := s.Views(ctx, jory)
	require.NoError(t, err)
	require.Empty(t, list)
	require.ErrorIs(t, s.DeleteView(ctx, tamsin, key), ErrNotFound, "only from the bin")
	require.NoError(t, s.BinView(ctx, tamsin, key))
	require.ErrorIs(t, s.BinView(ctx, tamsin, key), ErrNotFound, "it is there already")
	require.ErrorIs(t, s.SaveView(ctx, tamsin, key, 3, draft("late", false)), ErrNotFound)
	require.NoError(t, s.DeleteView(ctx, tamsin, key))
	var left int
	require.NoError(t, s.pool.QueryRow(ctx, "SELECT (SELECT count(*) FROM view_versions) + (SELECT count(*) FROM favorites)").Scan(&left))
	require.Zero(t, left)
}

// Definitions are named once for a record set, keep every version, and change their
// stamp with every act.
func TestDefinitions(t *testing.T) {
	s, tamsin, jory := open(t)
	ctx := t.Context()
	stamps := map[string]bool{}
	stamp := func() {
		t.Helper()
		text, err := s.DefinitionsStamp(ctx)
		require.NoError(t, err)
		require.False(t, stamps[text], "the stamp %q was there before", text)
		stamps[text] = true
	}
	stamp()
	body := func(formula string) []byte {
		return []byte(fmt.Sprintf(`{"calculated": {"key": "owed", "formula": %q}}`, formula))
	}
	require.NoError(t, s.AddDefinition(ctx, tamsin, "claims", "owed", body("1")))
	stamp()
	require.ErrorIs(t, s.AddDefinition(ctx, jory, "claims", "owed", body("2")), ErrTaken)
	require.NoError(t, s.AddDefinition(ctx, jory, "bookings", "owed", body("3")), "another record set")
	stamp()
	require.NoError(t, s.SaveDefinition(ctx, jory, "claims", "owed", 1, body("4")))
	stamp()
	require.ErrorIs(t, s.SaveDefinition(ctx, tamsin, "claims", "owed", 1, body("5")), ErrStale)
	require.ErrorIs(t, s.SaveDefinition(ctx, tamsin, "claims", "owned", 1, body("5")), ErrNotFound)
	all, err := s.Definitions(ctx)
	require.NoError(t, err)
	require.Len(t, all, 2)
	require.Equal(t, "bookings", all[0].Records)
	claims := all[1]
	require.Equal(t, 2, claims.Version)
	require.Equal(t, "Tamsin Marlow", claims.OwnerName)
	require.Equal(t, "Jory Hale", claims.SavedByName)
	require.JSONEq(t, string(body("4")), string(claims.Body))
	var versions int
	require.NoError(t, s.pool.QueryRow(ctx, "SELECT count(*) FROM definition_versions").Scan(&versions))
	require.Equal(t, 3, versions)
	require.NoError(t, s.DeleteDefinition(ctx, "claims", "owed"))
	stamp()
	require.ErrorIs(t, s.DeleteDefinition(ctx, "claims", "owed"), ErrNotFound)
	require.NoError(t, s.AddDefinition(ctx, tamsin, "claims", "owed", body("6")), "the name is free again")
	stamp()
}
