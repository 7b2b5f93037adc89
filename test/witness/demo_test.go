package witness

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/engine"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
	"gavrik/internal/demo"
)

// The views that the demo comes with run with its definitions, without problems, and
// show records; the one of ages gives PostgreSQL's share.
func TestTheDemosViews(t *testing.T) {
	conn, loaded, cal := ferry(t)
	defs, err := demo.Definitions()
	require.NoError(t, err)
	all := plan.Definitions{}
	for _, d := range defs {
		var body plan.Definition
		require.NoError(t, json.Unmarshal(d.Body, &body))
		require.Equal(t, d.Key, body.Key())
		all.Add(d.Records, body)
	}
	e := engine.New(loaded.Snapshot, loaded.Catalog, engine.Options{})
	docs, err := demo.Views()
	require.NoError(t, err)
	require.Contains(t, docs, "ages.json")
	for name, text := range docs {
		doc, err := view.Parse(text)
		require.NoError(t, err, name)
		p, err := plan.CheckWith(doc, loaded.Catalog, all, cal)
		require.NoError(t, err, name)
		res, err := e.Run(t.Context(), p)
		require.NoError(t, err, name)
		require.Empty(t, res.Problems, name)
		require.Positive(t, res.Kept, name)
		require.Less(t, res.Kept, res.All, "%s leaves something out", name)
		grand := res.GrandTotal
		if name == "prices.json" {
			require.NotEmpty(t, grand.Mixes, "prices differ in the season")
		}
		if name != "ages.json" {
			continue
		}
		var share string
		require.NoError(t, conn.QueryRow(t.Context(), `SELECT round(100 * (1 - sum(coalesce(paid, 0)) / sum(claimed)), 1)::text FROM claims
			WHERE status IS NULL OR status NOT IN ('Settled', 'Refused', 'Withdrawn')`).Scan(&share))
		require.Equal(t, share, res.Pen(format.Plain).Cells(grand)[len(grand.Cells)-1])
	}
}
