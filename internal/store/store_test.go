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

func version(name string) NewVersion {
	return NewVersion{
		Name:     name,
		Document: []byte(fmt.Sprintf(`{"gavrik": 1, "records": "claims", "columns": [], "name": %q}`, name)),
	}
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
	key, err := s.AddView(t.Context(), tamsin, version("first"))
	require.NoError(t, err)
	outcomes := make([]error, 8)
	var wg sync.WaitGroup
	for i := range outcomes {
		wg.Go(func() {
			outcomes[i] = s.SaveView(context.WithoutCancel(t.Context()), tamsin, key, 1, version(fmt.Sprint("by ", i)))
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
	require.NoError(
		t, s.pool.QueryRow(t.Context(), "SELECT array_agg(name ORDER BY version) FROM view_versions").Scan(&names),
	)
	require.Equal(t, []string{"first", winner}, names)
}

// Who sees a view, whose favorite it is, and what becomes of both when it is kept to
// oneself again.
func TestSharingAndFavorites(t *testing.T) {
	s, tamsin, jory := open(t)
	ctx := t.Context()
	key, err := s.AddView(ctx, tamsin, version("late"))
	require.NoError(t, err)
	_, err = s.View(ctx, jory, key)
	require.ErrorIs(t, err, ErrNotFound)
	hidden, err := s.HiddenViews(ctx, jory)
	require.NoError(t, err)
	require.Len(t, hidden, 1)
	require.JSONEq(t, string(version("late").Document), string(hidden[0]))
	require.ErrorIs(t, s.SaveView(ctx, jory, key, 1, version("mine now")), ErrNotFound)
	require.ErrorIs(t, s.BinView(ctx, jory, key), ErrNotFound)

	require.ErrorIs(t, s.ShareView(ctx, jory, key, []Share{WithEveryone}), ErrNotFound)
	require.NoError(t, s.ShareView(ctx, tamsin, key, []Share{WithEveryone, WithEveryone}), "twice is once")
	require.NoError(t, s.SetFavorite(ctx, jory, key, Whose{}, true))
	require.NoError(t, s.SetFavorite(ctx, jory, key, Whose{}, true), "twice is once")
	require.NoError(t, s.SetFavorite(ctx, tamsin, key, Whose{}, true))
	require.NoError(t, s.SetFavorite(ctx, tamsin, key, Whose{Everyone: true}, true))
	v, err := s.View(ctx, jory, key)
	require.NoError(t, err)
	require.True(t, v.Mine && v.Everyones)
	require.Equal(t, See, v.Right)
	require.ErrorIs(t, s.SaveView(ctx, jory, key, 1, version("mine now")), ErrNotFound, "to see is not to edit")
	require.NoError(t, s.Arrange(ctx, jory, []string{"none", key}))
	require.NoError(t, s.PutAway(ctx, jory, key, true))
	v, err = s.View(ctx, jory, key)
	require.NoError(t, err)
	require.True(t, v.Away && v.Place == 2)
	require.Equal(t, "Tamsin Marlow", v.OwnerName)
	none, err := s.HiddenViews(ctx, jory)
	require.NoError(t, err)
	require.Empty(t, none)

	require.NoError(t, s.ShareView(ctx, tamsin, key, nil))
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
	require.ErrorIs(t, s.SaveView(ctx, tamsin, key, 1, version("late")), ErrNotFound)
	require.NoError(t, s.DeleteView(ctx, tamsin, key))
	var left int
	require.NoError(
		t,
		s.pool.QueryRow(
			ctx, "SELECT (SELECT count(*) FROM view_versions) + (SELECT count(*) FROM favorites)",
		).Scan(&left),
	)
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
		now, err := s.Stamps(ctx)
		require.NoError(t, err)
		text := now.Agreed
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

// Whether a person sees or edits a view follows from all of its shares, her role and
// her groups; every way of asking for it agrees.
func TestRights(t *testing.T) {
	s, tamsin, jory := open(t)
	ctx := t.Context()
	port, err := s.AddGroup(ctx, Group{
		Name:   "Port agents",
		Limits: []Limit{{Set: "claims", Fields: []string{"note"}, Rule: []byte(`{"gavrik": 1}`)}},
	})
	require.NoError(t, err)
	_, err = s.AddGroup(ctx, Group{Name: "port AGENTS"})
	require.ErrorIs(t, err, ErrTaken)
	desk, err := s.AddGroup(ctx, Group{Name: "Claims desk"})
	require.NoError(t, err)
	key, err := s.AddView(ctx, tamsin, version("late"))
	require.NoError(t, err)
	everyone, agents, readers, analysts := Share{}, Share{Group: port}, Share{Role: Reader}, Share{Role: Analyst}
	may := func(sh Share) Share { sh.Edit = true; return sh }
	for i, c := range []struct {
		role   Role
		groups []int64
		shares []Share
		want   Right
	}{
		{Analyst, nil, nil, Nothing},
		{Analyst, nil, []Share{everyone}, See},
		{Analyst, nil, []Share{agents}, Nothing},
		{Analyst, []int64{port}, []Share{agents}, See},
		{Analyst, []int64{port, desk}, []Share{{Group: desk}, may(agents)}, Edit},
		{Analyst, []int64{desk}, []Share{everyone, may(agents)}, See},
		{Analyst, nil, []Share{readers}, Nothing},
		{Analyst, nil, []Share{readers, may(analysts)}, Edit},
		{Reader, []int64{port}, []Share{may(agents)}, See},
		{Reader, nil, []Share{analysts}, Nothing},
		{Administrator, nil, []Share{analysts}, Nothing},
		{Administrator, nil, nil, Nothing},
	} {
		p, err := s.Person(ctx, jory)
		require.NoError(t, err)
		boss, err := s.Person(ctx, tamsin)
		require.NoError(t, err)
		boss.Role = Administrator
		require.NoError(t, s.ChangePerson(ctx, boss, false))
		p.Role, p.Groups = c.role, nil
		for _, g := range c.groups {
			p.Groups = append(p.Groups, GroupName{ID: g})
		}
		require.NoError(t, s.ChangePerson(ctx, p, false))
		require.NoError(t, s.ShareView(ctx, tamsin, key, c.shares))
		v, err := s.View(ctx, jory, key)
		list, errL := s.Views(ctx, jory)
		versions, errV := s.Versions(ctx, jory, key)
		hidden, errH := s.HiddenViews(ctx, jory)
		require.NoError(t, errors.Join(errL, errV, errH))
		require.Equal(t, c.want >= See, err == nil, "case %d", i)
		require.Equal(t, c.want, v.Right, "case %d", i)
		require.Equal(t, c.want >= See, len(list) == 1 && len(versions) > 0 && len(hidden) == 0, "case %d", i)
		saved := s.SaveView(ctx, jory, key, v.Version, version("by jory"))
		require.Equal(t, c.want >= Edit, saved == nil, "case %d: %v", i, saved)
		require.ErrorIs(t, s.HandOver(ctx, jory, key, jory), ErrNotFound)
		require.ErrorIs(t, s.BinView(ctx, jory, key), ErrNotFound)
	}
	// A group's favorite is its members', as long as the view is shared with it.
	require.NoError(t, s.ShareView(ctx, tamsin, key, []Share{agents}))
	require.NoError(t, s.SetFavorite(ctx, tamsin, key, Whose{Group: port}, true))
	p, err := s.Person(ctx, jory)
	require.NoError(t, err)
	p.Role, p.Groups = Analyst, []GroupName{{ID: port}}
	require.NoError(t, s.ChangePerson(ctx, p, false))
	v, err := s.View(ctx, jory, key)
	require.NoError(t, err)
	require.Equal(t, []GroupName{{port, "Port agents"}}, v.Groups)
	require.NoError(t, s.ShareView(ctx, tamsin, key, []Share{{Group: desk}}))
	mine, err := s.View(ctx, tamsin, key)
	require.NoError(t, err)
	require.Empty(t, mine.Groups)
	require.ErrorIs(t, s.ShareView(ctx, tamsin, key, []Share{{Group: 99}}), ErrNotFound)
	// Handed over, it is another's; a group that changed meanwhile is not overwritten.
	require.NoError(t, s.HandOver(ctx, tamsin, key, jory))
	v, err = s.View(ctx, jory, key)
	require.NoError(t, err)
	require.Equal(t, Own, v.Right)
	all, err := s.Groups(ctx)
	require.NoError(t, err)
	require.Equal(
		t, []string{"Claims desk", "Port agents", "People in no group"},
		[]string{all[0].Name, all[1].Name, all[2].Name},
	)
	require.Equal(t, []int{0, 1, 1}, []int{all[0].Members, all[1].Members, all[2].Members})
	g := all[1]
	require.Equal(t, "claims", g.Limits[0].Set)
	require.NoError(t, s.ChangeGroup(ctx, g))
	require.ErrorIs(t, s.ChangeGroup(ctx, g), ErrStale)
	require.ErrorIs(t, s.RemoveGroup(ctx, all[2].ID), ErrNotFound, "that of nobody's stays")
	require.NoError(t, s.RemoveGroup(ctx, desk))
}
