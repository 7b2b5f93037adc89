package people

import (
	"encoding/base64"
	"errors"
	"fmt"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/crypto/argon2"

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
	for _, damaged := range []string{
		"", "$", "$argon2id$v=19$m=1$a$b", "$argon2id$v=19$m=8,t=1,p=1$!$!", strings.TrimSuffix(a, a[len(a)-8:]),
	} {
		require.False(t, matches("marrowby-sound", damaged))
	}
}

func TestAddingPeople(t *testing.T) {
	s, err := store.Open(t.Context(), pgtest.Database(t))
	require.NoError(t, err)
	defer s.Close()
	d := NewDesk(s)
	id, err := d.Add(t.Context(), "Ines@Marrowby.example", "Ines Sable", "tide and lantern", store.Reader)
	require.NoError(t, err)
	for wrong, sent := range map[string][3]string{
		"can sign in already":             {"ines@marrowby.example", "Ines", "tide and lantern"},
		`"ines" is not an e-mail address`: {"ines", "Ines", "tide and lantern"},
		"use at least 10 characters":      {"a@marrowby.example", "A", "short"},
		"needs a name":                    {"b@marrowby.example", " ", ""},
	} {
		_, err := d.Add(t.Context(), sent[0], sent[1], sent[2], store.Reader)
		require.ErrorContains(t, err, wrong)
	}
	p, err := d.SignIn(t.Context(), "INES@marrowby.example", "tide and lantern", "", From{Address: "here"})
	require.NoError(t, err)
	require.Equal(t, "Ines Sable", p.Name)
	require.Equal(t, store.Reader, p.Role)
	require.Len(t, p.Groups, 1, "whoever is in no group is among those in none")
	require.ErrorIs(t, s.ChangePerson(t.Context(), p, false), store.ErrLastAdministrator)
	p.Role = store.Administrator
	require.NoError(t, s.ChangePerson(t.Context(), p, false))
	require.ErrorIs(
		t, s.ChangePerson(t.Context(), p, true), store.ErrLastAdministrator, "she cannot leave either",
	)
	// Who has no password, or has left, cannot sign in, and is told no more than others.
	_, err = d.Add(t.Context(), "olan@marrowby.example", "Olan Reed", "", store.Analyst)
	require.NoError(t, err)
	_, err = d.SignIn(t.Context(), "olan@marrowby.example", "", "", From{Address: "elsewhere"})
	require.ErrorIs(t, err, ErrWrong)
	left, err := d.Add(t.Context(), "wen@marrowby.example", "Wen Aske", "tide and lantern", store.Analyst)
	require.NoError(t, err)
	wen, err := s.Person(t.Context(), left)
	require.NoError(t, err)
	require.NoError(t, s.ChangePerson(t.Context(), wen, true))
	_, err = d.SignIn(t.Context(), "wen@marrowby.example", "tide and lantern", "", From{Address: "elsewhere"})
	require.ErrorIs(t, err, ErrWrong)
	require.Equal(t, id, p.ID)
}

// Guesses of somebody else do not lock an honest person out: neither where she has been
// before, nor elsewhere for long; many at once are no more than many one after another.
func TestGuessesAreBounded(t *testing.T) {
	s, err := store.Open(t.Context(), pgtest.Database(t))
	require.NoError(t, err)
	defer s.Close()
	d := NewDesk(s)
	const right = "tide and lantern"
	id, err := d.Add(t.Context(), "ines@marrowby.example", "Ines Sable", right, store.Reader)
	require.NoError(t, err)
	device := From{Address: "harbour office", Device: []byte("her browser")}
	require.NoError(t, s.KnowDevice(t.Context(), id, device.Device))

	var looked, refused atomic.Int32
	var group sync.WaitGroup
	for i := range 60 {
		group.Go(func() {
			_, err := d.SignIn(t.Context(), "ines@marrowby.example", fmt.Sprint("guess ", i), "", From{
				Address: "a bad place",
			})
			var many *TooManyError
			switch {
			case errors.Is(err, ErrWrong):
				looked.Add(1)
			case errors.As(err, &many):
				require.Positive(t, many.Wait)
				refused.Add(1)
			default:
				require.NoError(t, err)
			}
		})
	}
	group.Wait()
	require.LessOrEqual(t, looked.Load(), int32(freeTries+1), "what is too much is sent away before the work")
	require.EqualValues(t, 60, looked.Load()+refused.Load())
	var many *TooManyError
	for i := 0; !errors.As(err, &many); i++ { // until a pause has begun
		require.Less(t, i, 5)
		_, err = d.SignIn(t.Context(), "ines@marrowby.example", "another guess", "", From{Address: "a bad place"})
	}
	_, err = d.SignIn(t.Context(), "ines@marrowby.example", right, "", From{Address: "a bad place"})
	require.ErrorContains(t, err, "too many failed attempts; wait")
	_, err = d.SignIn(t.Context(), "ines@marrowby.example", right, "", From{Address: "another place"})
	require.NoError(t, err, "elsewhere she gets in")
	_, err = d.SignIn(t.Context(), "ines@marrowby.example", right, "", device)
	require.NoError(t, err, "and with her own browser, of course")

	// From many places, the account is bounded as a whole; her own browser is not.
	for i := range accountTries {
		_, err = s.TryAttempts(
			t.Context(), triesOf("ines@marrowby.example", From{Address: fmt.Sprint("place ", i)}, false),
		)
		require.NoError(t, err)
	}
	_, err = d.SignIn(t.Context(), "ines@marrowby.example", right, "", From{Address: "a last place"})
	require.ErrorContains(t, err, "too many failed attempts")
	_, err = d.SignIn(t.Context(), "ines@marrowby.example", right, "", device)
	require.NoError(t, err)

	// Many people behind one address, all honest, are no attack.
	for i := range addressTries + 20 {
		email := fmt.Sprintf("crew%d@marrowby.example", i)
		_, err := s.AddPerson(t.Context(), store.Person{Email: email, Name: email, PasswordHash: quickHash})
		require.NoError(t, err)
		_, err = d.SignIn(t.Context(), email, "quick", "", From{Address: "the crew room"})
		require.NoError(t, err, email)
	}
}

// quickHash is of "quick", with as little work as the format allows.
var quickHash = func() string {
	salt := []byte("0123456789abcdef")
	key := argon2.IDKey([]byte("quick"), salt, 1, 8, 1, hashBytes)
	b64 := base64.RawStdEncoding.EncodeToString
	return fmt.Sprintf("$argon2id$v=%d$m=8,t=1,p=1$%s$%s", argon2.Version, b64(salt), b64(key))
}()

func TestCommonPasswordsAreRefused(t *testing.T) {
	for _, bad := range []string{
		"password123", "Passw0rd!!2026", "qwertyuiop1", "1234567890", "aaaaaaaaaaaa", "abcdefghijkl",
		"letmein-letmein", "Welcome2026!", "0123456789", "iloveyou4ever", "ferryferry99", "S3cr3tS3cr3t",
	} {
		require.True(t, common(bad), bad)
	}
	for _, good := range []string{
		"marrowby-sound", "tide and lantern", "k7#vq2!zpt9w", "grey heron upstairs", "a much longer one",
	} {
		require.False(t, common(good), good)
	}
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
