package records

import (
	"context"
	"net/url"
	"os"
	"path/filepath"
	"reflect"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"gavrik/internal/localpg"
	"gavrik/internal/localpg/pgtest"
)

// A database is failed over to its standby behind one address: what is shown afterwards is what the standby
// has, and its changes are followed. A standby that is read itself tells of nothing, and is read whole.
func TestADatabaseThatFailsOver(t *testing.T) {
	dir, err := os.MkdirTemp("", "gavrik-failover-")
	require.NoError(t, err)
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	require.NoError(t, os.Chmod(dir, 0o711))
	small := []string{"shared_buffers=32MB"}
	primary, err := localpg.Start(
		t.Context(), localpg.Options{Dir: filepath.Join(dir, "a"), Volatile: true, Settings: small},
	)
	require.NoError(t, err)
	t.Cleanup(func() { _ = primary.Stop() })
	conn := connect(t, primary.URL("postgres"))
	run(t, conn, followedSchema)
	_, err = Publish(t.Context(), Database(primary.URL("postgres"), "public")[0], "gavrik_f")
	require.NoError(t, err)
	standby, err := localpg.Start(
		t.Context(),
		localpg.Options{Dir: filepath.Join(dir, "b"), Volatile: true, Settings: small, StandbyOf: primary},
	)
	require.NoError(t, err)
	t.Cleanup(func() { _ = standby.Stop() })
	other := connect(t, standby.URL("postgres"))

	w, through := pgtest.NewWire(t, primary.URL("postgres"))
	follow := func(address, slot string) *Following {
		f := Follow(
			Database(address, "public"),
			FollowOptions{
				Publication: "gavrik_f", Slot: slot, Patience: 5 * time.Second, Retry: 500 * time.Millisecond,
			},
		)
		t.Cleanup(func() { f.Close(context.Background()) })
		return f
	}
	f, reading := follow(through, "gavrik_f_1"), follow(standby.URL("postgres"), "gavrik_f_2")
	set := Settings{Zone: "UTC", EagerViews: true}
	_, err = f.Load(t.Context(), set, Asked{})
	require.NoError(t, err)
	require.True(t, f.States()[0].Streamed)

	// What the standby has not been told is lost with the primary; all else is there.
	run(t, conn, "UPDATE trips SET fare = 71 WHERE id < 20")
	same := func(f *Following, what string) {
		t.Helper()
		require.Eventually(t, func() bool {
			got, err := f.Load(t.Context(), set, Asked{})
			if err != nil {
				return false
			}
			want, err := Load(t.Context(), Database(standby.URL("postgres"), "public"), set)
			require.NoError(t, err)
			return reflect.DeepEqual(digests(want), digests(got))
		}, 60*time.Second, 50*time.Millisecond, what)
	}
	at := ask(t, conn, "SELECT pg_current_wal_lsn()::text")
	require.Eventually(t, func() bool {
		return ask(t, other, "SELECT (pg_last_wal_replay_lsn() >= '"+at+"')::text") == "true"
	}, 30*time.Second, 10*time.Millisecond)
	_, err = reading.Load(t.Context(), set, Asked{Anew: true})
	require.NoError(t, err)
	require.False(t, reading.States()[0].Streamed)
	require.NotEmpty(t, reading.States()[0].How)
	run(t, conn, "UPDATE trips SET fare = 71.5 WHERE id < 10")
	require.Eventually(t, func() bool {
		got, err := reading.Load(t.Context(), set, Asked{Anew: true})
		require.NoError(t, err)
		want, err := Load(t.Context(), Database(primary.URL("postgres"), "public"), set)
		require.NoError(t, err)
		return reflect.DeepEqual(digests(want), digests(got))
	}, 30*time.Second, 50*time.Millisecond, "a standby is read, as far as it has come")

	require.NoError(t, conn.Close(t.Context()))
	require.NoError(t, primary.Stop())
	_, err = f.Load(t.Context(), set, Asked{})
	require.Error(t, err, "the records in memory stay")
	require.Equal(t, "true", ask(t, other, "SELECT pg_promote()::text"))
	run(t, other, "UPDATE trips SET fare = 72 WHERE id > 30; DELETE FROM trips WHERE id = 25")
	to, err := url.Parse(standby.URL("postgres"))
	require.NoError(t, err)
	w.Moves(to.Host)
	same(f, "after it was failed over")
	run(t, other, "UPDATE trips SET fare = 73 WHERE id = 21")
	same(f, "it is followed")
	require.Eventually(t, func() bool {
		_, err := f.Load(t.Context(), set, Asked{})
		return err == nil && f.States()[0].Streamed
	}, 60*time.Second, 200*time.Millisecond, "as it is committed, again")
	run(t, other, "UPDATE trips SET fare = 74 WHERE id = 22")
	same(f, "and nothing is missed")
}

// digests tell all that was loaded apart from what says something else.
func digests(l *Loaded) map[string]uint64 {
	out := map[string]uint64{}
	for name, t := range l.Snapshot.Tables {
		out[name] = uint64(t.Rows)
		for _, key := range t.Fields() {
			out[name+"."+key] = t.Column(key).Digest()
		}
		for _, key := range t.Ways() {
			out[name+" "+key] = t.Link(key).Digest()
		}
	}
	return out
}

func ask(t *testing.T, conn *pgx.Conn, query string) (text string) {
	t.Helper()
	require.NoError(t, conn.QueryRow(t.Context(), query).Scan(&text), query)
	return text
}
