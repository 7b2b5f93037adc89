package api

import (
	"io/fs"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/require"

	"gavrik/internal/web"
	"gavrik/test/harness"
)

// at is the same browser, as another server hears it.
func (c *client) at(g *harness.Gavrik) *client {
	other := *c
	other.base = g.URL
	return &other
}

// What one server over a state knows, another knows: who is signed in, results and whether they hold, records
// that were seen, files that came in or leave.
func TestWhatOneServerKnowsAllKnow(t *testing.T) {
	g := harness.Start(t)
	beside := harness.StartBeside(t, g)
	here := person(t, g, 1)
	there := here.at(beside)
	owed := claims(
		object{"columns": []any{field("ref"), summed("claimed")}, "groups": []any{object{"field": "status"}}},
	)
	first := here.shows(owed)
	require.Equal(t, true, there.arrival(first["result"])["holds"], "though it was not asked there")
	lines := object{"result": first["result"], "depth": 1, "limit": 50}
	there.do("POST", "/api/lines", lines).refused(t, 410, "run the view again")
	require.Equal(t, first["version"], there.shows(owed)["version"])
	require.Equal(t, first["lines"], there.do("POST", "/api/lines", lines).body["lines"])

	// Neither follows. What one has loaded, whoever has seen it is shown by the other, too.
	_, err := g.DB.Exec(
		t.Context(), "UPDATE claims SET claimed = claimed + 1000 WHERE id = (SELECT min(id) FROM claims)",
	)
	require.NoError(t, err)
	_, err = g.DB.Exec(t.Context(), "SELECT pg_stat_force_next_flush()")
	require.NoError(t, err)
	require.NoError(t, g.Workspace.Update(t.Context()))
	later := here.shows(owed)
	require.NotEqual(t, first["grand"], later["grand"])
	stranger := person(t, beside, 1)
	require.Equal(
		t, first["grand"], stranger.shows(owed)["grand"], "who has not seen it may be shown what is there",
	)
	require.Equal(t, later["grand"], there.shows(owed)["grand"])
	require.Equal(t, false, there.arrival(first["result"])["holds"])
	require.Equal(t, true, there.arrival(later["result"])["holds"])

	// A schema that has changed is noted once.
	_, err = g.DB.Exec(t.Context(), "ALTER TABLE claims RENAME note TO remark")
	require.NoError(t, err)
	require.NoError(t, g.Workspace.Update(t.Context()))
	require.NoError(t, beside.Workspace.Update(t.Context()))
	require.Equal(t, "1", g.Ask(t, "SELECT count(*)::text FROM gavrik.audit WHERE about LIKE '%“Remark”%'"))
}

// A file that comes in by one server is there on the other at once; so is what becomes of it.
func TestAFileComesInOnEveryServer(t *testing.T) {
	g := harness.Start(t)
	beside := harness.StartBeside(t, g)
	here := person(t, g, 1)
	there := here.at(beside)
	id := here.send("berths.csv", "Code,Metres\nA,40\nB,55\n")
	here.read(id, "", "code")
	came := there.bring(id, object{"name": "Berths"}) // it is sent to one, and brought in by the other
	require.Equal(t, 200, came.code, came.text)
	set := came.body["set"].(string)
	berths := object{"gavrik": 1, "records": set, "columns": []any{summed("metres")}}
	grand := func(c *client) any { return c.shows(berths)["grand"].(object)["cells"].([]any)[0] }
	require.Equal(t, "95", grand(here))

	later := here.send("berths.csv", "Code,Metres\nA,40\nB,55\nC,5\n")
	there.read(later, set, "code")
	require.Equal(t, 200, here.bring(later, object{"missing": "leave"}).code)
	require.Equal(t, []any{"100", "100"}, []any{grand(there), grand(here)})
	require.Equal(t, 204, there.do("DELETE", "/api/brought-in/"+set, nil).code)
	here.do("POST", "/api/run", object{"view": berths, "depth": 0, "limit": 1}).refused(t, 422, set)

	// One that leaves is made by one server, and fetched and let go of by the other.
	begun := here.do("POST", "/api/exports", object{"view": claims(nil), "options": object{"format": "csv"}})
	require.Equal(t, 201, begun.code, begun.text)
	export := "/api/exports/" + begun.body["id"].(string)
	require.Contains(t, there.do("GET", export+"/progress", nil).text, "event: ready")
	require.Equal(t, here.do("GET", export+"/file", nil).text, there.do("GET", export+"/file", nil).text)
	require.Equal(t, 204, there.do("DELETE", export, nil).code)
	here.do("GET", export+"/file", nil).refused(t, 404, "take it again")
	require.Contains(t, here.do("GET", export+"/progress", nil).text, `"again":true`)
}

// A page that was given by a server of another version, or that is open while one is replaced, finds its
// pieces.
func TestPiecesOfPagesOfOtherVersions(t *testing.T) {
	g := harness.Start(t)
	c := stranger(t, g)
	const path = "/assets/BoardPage-0ld.js"
	require.Equal(t, 404, c.do("GET", path, nil).code)
	before := fstest.MapFS{path[1:]: {Data: []byte("export {}"), Mode: fs.ModePerm}}
	for range 2 {
		require.NoError(t, g.Store.KeepPieces(t.Context(), before, web.Pieces))
	}
	got := c.do("GET", path, nil)
	require.Equal(t, []any{200, "export {}"}, []any{got.code, got.text})
	require.Contains(t, got.head.Get("Content-Type"), "text/javascript")
	require.Contains(t, got.head.Get("Cache-Control"), "immutable")
	require.Contains(t, c.do("GET", "/views", nil).head.Get("Content-Type"), "text/html")
	g.Ask(t, "UPDATE gavrik.front_pieces SET served_at = now() - interval '31 days' RETURNING path")
	require.NoError(
		t, g.Store.KeepPieces(t.Context(), fstest.MapFS{"assets/new.js": {Data: []byte("x")}}, web.Pieces),
	)
	require.Equal(t, 404, c.do("GET", path, nil).code, "after a month nobody has it open")
}
