package witness

import (
	"context"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
	"gavrik/internal/demo"
	"gavrik/internal/localpg/pgtest"
	"gavrik/internal/pgreader"
	"gavrik/internal/records"
)

// A server that speaks PostgreSQL's protocol, and knows nothing of its catalogs, copies, infinite days and
// time limits, is asked without them: its record sets stay there, and views of them say what they say of
// the same in memory.
func TestViewsAreTheSameOfAServerThatSpeaksTheProtocolAlone(t *testing.T) {
	conn, _, cal := ferry(t)
	_, err := conn.Exec(t.Context(), `DO $$ DECLARE c record; BEGIN
		FOR c IN SELECT attrelid::regclass AS rel, attname FROM pg_attribute JOIN pg_class r ON r.oid = attrelid
			WHERE relnamespace = 'ferry'::regnamespace AND relkind = 'r' AND attnum > 0 AND NOT attisdropped
		LOOP EXECUTE format('COMMENT ON COLUMN %s.%I IS NULL', c.rel, c.attname); END LOOP; END $$`)
	require.NoError(t, err)
	url, set := conn.Config().ConnString(), records.Settings{Zone: "Europe/Lisbon"}
	loaded, err := records.Load(t.Context(), records.Database(url, demo.Schema), set)
	require.NoError(t, err)
	following := records.Follow(
		records.Database(pgtest.Plain(t, url), demo.Schema), records.FollowOptions{Publication: "nobody's"},
	)
	t.Cleanup(func() { following.Close(context.Background()) })
	_, err = following.Load(t.Context(), set, records.Asked{Anew: true})
	require.NoError(t, err)
	plain, err := following.Load(t.Context(), set, records.Asked{}) // nothing tells what has changed
	require.NoError(t, err)
	require.Contains(t, strings.Join(plain.Catalog.Notices, "\n"), "speaks PostgreSQL's protocol, but is none")
	require.Contains(t, plain.Away, "claims")
	require.Equal(t, int64(2500), plain.Away["claims"].Rows)
	require.Equal(t, loaded.Catalog.Set("claims").Links, plain.Catalog.Set("claims").Links)
	databases := pgreader.NewDatabases(4)
	t.Cleanup(databases.Close)
	b := &both{
		memory:   engine.New(loaded.Snapshot, plain.Catalog, engine.Options{}).Reader(),
		database: pgreader.New(pgreader.Seen{Loaded: plain}, databases, pgreader.Options{Few: 100}),
		loaded:   plain, cal: cal, refused: map[string]int{},
	}
	rapid.Check(t, func(rt *rapid.T) {
		d := everyField.richer(rt, plain.Catalog)
		if _, err := plan.Check(d, plain.Catalog, cal); err != nil {
			rt.Skip("not every document can be run")
		}
		b.compare(rt, d)
	})
	ran := 0
	for _, q := range slices.Concat(questions, shapes) {
		doc, err := view.Parse([]byte(q.view))
		require.NoError(t, err)
		if _, err := plan.Check(doc, plain.Catalog, cal); err != nil {
			continue // it asks for a view, or for what comments say
		}
		ran++
		b.compare(t, doc)
	}
	require.Greater(t, ran, 20)
	require.Empty(t, b.refused)
}
