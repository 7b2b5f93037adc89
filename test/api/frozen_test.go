package api

import (
	"bytes"
	"fmt"
	"net"
	"net/url"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/internal/store"
	"gavrik/test/harness"
)

// freezer stands between Gavrik and its database, and lets nothing through while frozen:
// as a database does that has stopped without closing its connections.
type freezer struct {
	listener net.Listener
	mu       sync.Mutex // held while frozen
	// stamps and reads count the questions for the stamp of what is agreed on, and for
	// definitions, which are a part of it.
	stamps, reads atomic.Int32
}

func freeze(t *testing.T, database string) (f *freezer, through string) {
	u, err := url.Parse(database)
	require.NoError(t, err)
	behind := u.Host
	f = &freezer{}
	f.listener, err = net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { f.listener.Close() })
	go func() {
		for {
			in, err := f.listener.Accept()
			if err != nil {
				return
			}
			out, err := net.Dial("tcp", behind)
			if err != nil {
				in.Close()
				continue
			}
			go f.copy(out, in)
			go f.copy(in, out)
		}
	}()
	u.Host = f.listener.Addr().String()
	return f, u.String()
}

func (f *freezer) copy(to, from net.Conn) {
	defer to.Close()
	piece := make([]byte, 32<<10)
	for {
		n, err := from.Read(piece)
		f.stamps.Add(int32(bytes.Count(piece[:n], []byte("max(marked_at)"))))
		f.reads.Add(int32(bytes.Count(piece[:n], []byte("JOIN gavrik.definition_versions"))))
		f.mu.Lock() // waits while frozen
		_, failed := to.Write(piece[:n])
		f.mu.Unlock()
		if err != nil || failed != nil {
			return
		}
	}
}

// throughFreezer is a Gavrik with a freezer before its database, to which statements are
// sent in a mode of the driver's.
func throughFreezer(t *testing.T, mode string) (*harness.Gavrik, *freezer) {
	var f *freezer
	g := harness.StartWith(t, func(_ string, p *harness.Parts) {
		u, err := url.Parse(p.App.Store.URL())
		require.NoError(t, err)
		asked := u.Query()
		asked.Set("default_query_exec_mode", mode)
		u.RawQuery = asked.Encode()
		var through string
		f, through = freeze(t, u.String())
		frozen, err := store.Open(t.Context(), through)
		require.NoError(t, err)
		t.Cleanup(frozen.Close)
		p.App.Store = frozen
	})
	return g, f
}

// What people have agreed on is read once for all who wait for it, not once for each.
func TestWhatIsAgreedOnIsReadOnce(t *testing.T) {
	const people = 12
	g, f := throughFreezer(t, "exec") // each statement is sent whole, once each time
	c := person(t, g, 0)
	require.Equal(t, 200, c.do("GET", "/api/catalog", nil).code)
	_, err := g.DB.Exec(
		t.Context(),
		`INSERT INTO gavrik.groups (name, description, sensitive, limits) VALUES ('Night watch', '', false, '[]')`,
	)
	require.NoError(t, err)
	lock, err := g.DB.Begin(t.Context()) // holds whoever reads, and not who asks for the stamp
	require.NoError(t, err)
	_, err = lock.Exec(t.Context(), "LOCK TABLE gavrik.definition_versions IN ACCESS EXCLUSIVE MODE")
	require.NoError(t, err)
	f.stamps.Store(0)
	f.reads.Store(0)
	var all sync.WaitGroup
	var answered atomic.Int32
	for range people {
		all.Go(func() {
			if c.do("GET", "/api/catalog", nil).code == 200 {
				answered.Add(1)
			}
		})
	}
	require.Eventually(t, func() bool { return f.stamps.Load() == people }, time.Minute, 10*time.Millisecond)
	require.Zero(t, answered.Load())
	require.NoError(t, lock.Rollback(t.Context()))
	all.Wait()
	require.EqualValues(t, people, answered.Load())
	require.EqualValues(t, 1, f.reads.Load(), "readings of definitions, for all of them")
}

// While the database is silent, who is at work goes on over the records in memory; what
// needs the database is said to wait for it, and a save repeated afterwards is one view.
func TestASilentDatabase(t *testing.T) {
	g, f := throughFreezer(t, "cache_statement")
	c := person(t, g, 0)
	c.http.Timeout = time.Minute
	run := func(over int) answer {
		doc := claims(map[string]any{
			"filter": map[string]any{"field": "claimed", "op": "over", "value": fmt.Sprint(over)},
		})
		return c.do("POST", "/api/run", map[string]any{"view": doc, "depth": 0, "limit": 5})
	}
	require.Equal(t, 200, run(1).code)
	c.header["Idempotency-Key"] = "once"
	f.mu.Lock()
	var once sync.Once
	thaw := func() { once.Do(f.mu.Unlock) }
	t.Cleanup(thaw)
	for over := range 20 { // were each of them to wait, this would take minutes
		require.Equal(t, 200, run(over+2).code)
	}
	c.do("GET", "/readyz", nil)
	require.Equal(t, 503, c.do("GET", "/readyz", nil).code)
	require.Equal(t, 200, c.do("GET", "/livez", nil).code)
	stranger(t, g).do("POST", "/api/session", map[string]any{
		"email": demo.People[1].Email, "password": demo.Password,
	}).refused(t, 503, "The database does not answer.")
	c.save("Saved while silent", false).refused(
		t, 503, "The database does not answer. Nothing you typed is lost",
	)
	thaw()
	require.Eventually(
		t, func() bool { return c.save("Saved while silent", false).code == 201 }, time.Minute,
		100*time.Millisecond,
	)
	key := c.save("Saved while silent", false).body["key"]
	require.Equal(t, key, c.save("Saved while silent", false).body["key"])
	require.Equal(
		t, 1, strings.Count(c.do("GET", "/api/views", nil).text, `"name":"Saved while silent"`),
		"sent again, it is no second view",
	)
}

// A database that takes no writes is named as one; what needs none works.
func TestAReadOnlyDatabase(t *testing.T) {
	g := harness.Start(t)
	c := person(t, g, 0)
	key := c.save("Before", false).body["key"].(string)
	_, err := g.DB.Exec(t.Context(), `DO $$ BEGIN EXECUTE format('ALTER DATABASE %I SET default_transaction_read_only = on', current_database()); END $$;
		SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid()`)
	require.NoError(t, err)
	require.Equal(
		t, 200, c.do("POST", "/api/run", map[string]any{"view": claims(nil), "depth": 0, "limit": 5}).code,
	)
	// Connections that were used a moment ago are found dead by who uses them next.
	read := func() bool { return c.do("GET", "/api/views/"+key, nil).code == 200 }
	require.Eventually(t, read, 10*time.Second, 50*time.Millisecond)
	require.Equal(t, 200, c.do("GET", "/api/session", nil).code)
	c.save("After", false).refused(t, 503, "The database takes no changes just now")
}
