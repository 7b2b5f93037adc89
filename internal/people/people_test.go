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
	require.NoError(t, d.Add(t.Context(), "Ines@Marrowby.example", "Ines Sable", "0123456789", false))
	require.ErrorContains(t, d.Add(t.Context(), "ines@marrowby.example", "Ines", "0123456789", false), "can sign in already")
	require.ErrorContains(t, d.Add(t.Context(), "ines", "Ines", "0123456789", false), `"ines" is not an e-mail address`)
	require.ErrorContains(t, d.Add(t.Context(), "a@marrowby.example", "A", "short", false), "use at least 10 characters")
	p, err := d.SignIn(t.Context(), "INES@marrowby.example", "0123456789", "here")
	require.NoError(t, err)
	require.Equal(t, "Ines Sable", p.Name)
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
