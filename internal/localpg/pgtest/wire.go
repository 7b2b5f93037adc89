package pgtest

import (
	"io"
	"net"
	"net/url"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/require"
)

// Wire is a network between a test and a database. While it is held, it passes nothing on.
type Wire struct {
	held sync.RWMutex
	to   atomic.Pointer[string]
}

// Moves leads whoever dials from now on to another host.
func (w *Wire) Moves(to string) { w.to.Store(&to) }

// Hold passes nothing on from now on, GoOn does so again.
func (w *Wire) Hold() { w.held.Lock() }

// GoOn passes on what waits, and what comes.
func (w *Wire) GoOn() { w.held.Unlock() }

// NewWire returns a wire, and the address of a database by way of it.
func NewWire(t *testing.T, address string) (*Wire, string) {
	at, err := url.Parse(address)
	require.NoError(t, err)
	w := &Wire{}
	w.Moves(at.Host)
	return w, between(t, at, func() string { return *w.to.Load() }, func(server, client net.Conn) {
		go w.pass(server, client)
		go w.pass(client, server)
	})
}

// between listens in the place of a server, and joins each client with a connection to a host. It returns the
// server's address, by way of it.
func between(t *testing.T, at *url.URL, host func() string, join func(server, client net.Conn)) string {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { _ = l.Close() })
	go func() {
		for {
			client, err := l.Accept()
			if err != nil {
				return
			}
			server, err := net.Dial("tcp", host())
			if err != nil {
				_ = client.Close()
				continue
			}
			join(server, client)
		}
	}()
	there := *at
	there.Host = l.Addr().String()
	return there.String()
}

func (w *Wire) pass(to, from net.Conn) {
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
