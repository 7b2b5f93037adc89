package records

import (
	"context"
	"io"
	"net"
	"net/url"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/localpg/pgtest"
)

// wire is a network between here and a database. While it is held, it passes nothing on.
type wire struct {
	held sync.RWMutex
	to   atomic.Pointer[string]
}

// moves leads whoever dials from now on to another host.
func (w *wire) moves(to string) { w.to.Store(&to) }

// strung returns the address of a database by way of a wire.
func strung(t *testing.T, address string) (*wire, string) {
	at, err := url.Parse(address)
	require.NoError(t, err)
	w := &wire{}
	w.moves(at.Host)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { _ = l.Close() })
	go func() {
		for {
			from, err := l.Accept()
			if err != nil {
				return
			}
			to, err := net.Dial("tcp", *w.to.Load())
			if err != nil {
				_ = from.Close()
				continue
			}
			go w.pass(to, from)
			go w.pass(from, to)
		}
	}()
	at.Host = l.Addr().String()
	return w, at.String()
}

func (w *wire) pass(to, from net.Conn) {
	defer to.Close()
	piece := make([]byte, 1<<12)
	for {
		n, err := from.Read(piece)
		w.held.RLock()
		_, failed := to.Write(piece[:n])
		w.held.RUnlock()
		if err != nil || failed != nil {
			if err != io.EOF {
				_ = from.Close()
			}
			return
		}
	}
}

// A network that stalls in the middle: a load ends with an error in time, the records of before stay, and
// nothing is missed once it goes on.
func TestANetworkThatStalls(t *testing.T) {
	direct := pgtest.Database(t)
	conn := connect(t, direct)
	run(t, conn, followedSchema)
	_, err := Publish(t.Context(), Database(direct, "public")[0], "gavrik_e")
	require.NoError(t, err)
	w, through := strung(t, direct)
	f := Follow(
		Database(through, "public"),
		FollowOptions{Publication: "gavrik_e", Slot: "gavrik_e_1", Patience: time.Second},
	)
	t.Cleanup(func() { f.Close(context.Background()) })
	set := Settings{Zone: "UTC", EagerViews: true}
	before, err := f.Load(t.Context(), set, Asked{})
	require.NoError(t, err)
	require.True(t, f.States()[0].Streamed)

	w.held.Lock()
	run(t, conn, "UPDATE trips SET fare = 77 WHERE id < 20")
	bounded, cancel := context.WithTimeout(t.Context(), 15*time.Second)
	defer cancel()
	_, err = f.Load(bounded, set, Asked{})
	require.Error(t, err)
	require.NoError(t, bounded.Err(), "it gives up by itself")
	require.Same(t, before, f.last)
	w.held.Unlock()

	require.Eventually(t, func() bool {
		got, err := f.Load(t.Context(), set, Asked{})
		if err != nil {
			return false
		}
		want, err := Load(t.Context(), Database(direct, "public"), set)
		require.NoError(t, err)
		sameRecords(t, want, got, "it goes on")
		return true
	}, 30*time.Second, 100*time.Millisecond)
}
