package people

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/localpg/pgtest"
	"gavrik/internal/store"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

func TestHashes(t *testing.T) {
	a, b := Hash("marrowby-sound"), Hash("marrowby-sound")
	require.NotEqual(t, a, b, "each has a salt of its own")
	require.True(t, strings.HasPrefix(a, "$argon2id$v=19$m=65536,t=3,p=4$"))
	require.True(t, matches("marrowby-sound", a))
	require.False(t, matches("Marrowby-sound", a))
	for _, damaged := range []string{"", "$", "$argon2id$v=19$m=1$a$b", "$argon2id$v=19$m=8,t=1,p=1$!$!", strings.TrimSuffix(a, a[len(a)-8:])} {
		require.False(t, matches("marrowby-sound", damaged))
	}
}

func TestAddingPeople(t *testing.T) {
	s, err := store.Open(t.Context(), pgtest.Database(t))
	require.NoError(t, err)
	defer s.Close()
	d := NewDesk(s)
	id, err := d.Add(t.Context(), "Ines@Marrowby.example", "Ines Sable", "0123456789", store.Reader)
	require.NoError(t, err)
	for wrong, sent := range map[string][3]string{
		"can sign in already": {"ines@marrowby.example", "Ines", "0123456789"}, `"ines" is not an e-mail address`: {"ines", "Ines", "0123456789"},
		"use at least 10 characters": {"a@marrowby.example", "A", "short"}, "needs a name": {"b@marrowby.example", " ", ""},
	} {
		_, err := d.Add(t.Context(), sent[0], sent[1], sent[2], store.Reader)
		require.ErrorContains(t, err, wrong)
	}
	p, err := d.SignIn(t.Context(), "INES@marrowby.example", "0123456789", "here")
	require.NoError(t, err)
	require.Equal(t, "Ines Sable", p.Name)
	require.Equal(t, store.Reader, p.Role)
	require.Len(t, p.Groups, 1, "whoever is in no group is among those in none")
	require.ErrorIs(t, s.ChangePerson(t.Context(), p, false), store.ErrLastAdministrator)
	p.Role = store.Administrator
	require.NoError(t, s.ChangePerson(t.Context(), p, false))
	require.ErrorIs(t, s.ChangePerson(t.Context(), p, true), store.ErrLastAdministrator, "she cannot leave either")
	// Who has no password, or has left, cannot sign in, and is told no more than others.
	_, err = d.Add(t.Context(), "olan@marrowby.example", "Olan Reed", "", store.Analyst)
	require.NoError(t, err)
	_, err = d.SignIn(t.Context(), "olan@marrowby.example", "", "elsewhere")
	require.ErrorIs(t, err, ErrWrong)
	left, err := d.Add(t.Context(), "wen@marrowby.example", "Wen Aske", "0123456789", store.Analyst)
	require.NoError(t, err)
	wen, err := s.Person(t.Context(), left)
	require.NoError(t, err)
	require.NoError(t, s.ChangePerson(t.Context(), wen, true))
	_, err = d.SignIn(t.Context(), "wen@marrowby.example", "0123456789", "elsewhere")
	require.ErrorIs(t, err, ErrWrong)
	require.Equal(t, id, p.ID)
	// Many people behind one address share its larger limit.
	for range failuresPerAddress {
		require.NoError(t, s.AddFailure(t.Context(), "address there", failureWindow))
	}
	_, err = d.SignIn(t.Context(), "ines@marrowby.example", "0123456789", "there")
	require.ErrorIs(t, err, ErrTooMany)
}

// Several servers may open, and so migrate, one database at once.
func TestMigrationsRunOnce(t *testing.T) {
	url := pgtest.Database(t)
	failed := make(chan error, 4)
	for range cap(failed) {
		go func() {
			s, err := store.Open(t.Context(), url)
			if err == nil {
				s.Close()
			}
			failed <- err
		}()
	}
	for range cap(failed) {
		require.NoError(t, <-failed)
	}
}
