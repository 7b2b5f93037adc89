package witness

import (
	"context"
	"encoding/json"
	"errors"
	"testing"

	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/engine"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
	"gavrik/internal/demo"
	"gavrik/internal/export"
	"gavrik/internal/pgreader"
	"gavrik/internal/records"
)

// said is all that a result says in totals.
func said(t require.TestingT, res result.Result) map[string]any {
	s := res.Summarize()
	var lines [][]string
	require.NoError(t, export.Totals(context.Background(), res).EachText(func(row []string) error {
		lines = append(lines, append([]string(nil), row...))
		return nil
	}))
	pen := s.Pen(format.People)
	return map[string]any{
		"lines": lines, "grand": pen.Cells(s.GrandTotal), "steps": s.Steps, "levels": s.Levels,
		"counts": []int{s.All, s.Kept, s.Others}, "notes": s.NotesInWords(), "check": s.Check,
	}
}

// What the database is asked and the engine finishes says what the engine says of the same records in memory: every
// line, total, step and note.
func TestRandomViewsAreTheSameWhereTheRecordsStay(t *testing.T) {
	conn, loaded, cal := ferry(t)
	url := conn.Config().ConnString()
	away, err := records.Load(t.Context(), records.Database(url, demo.Schema), records.Settings{Zone: "Europe/Lisbon", Away: []string{"claims"}})
	require.NoError(t, err)
	require.Zero(t, away.Snapshot.Tables["claims"].Rows)
	pool, err := pgxpool.New(t.Context(), url)
	require.NoError(t, err)
	defer pool.Close()
	memory, database := engine.New(loaded.Snapshot, loaded.Catalog, engine.Options{}), pgreader.New(away, pool, pgreader.Options{})
	asked, refused := 0, map[string]int{}
	rapid.Check(t, func(rt *rapid.T) {
		d := drawDocument(rt, loaded.Catalog)
		p, err := plan.Check(d, loaded.Catalog, cal)
		if err != nil {
			rt.Skip("a range the wrong way round")
		}
		want, err := memory.Run(t.Context(), p)
		require.NoError(rt, err)
		asked++
		got, err := database.Run(t.Context(), p)
		var why *pgreader.Refused
		if errors.As(err, &why) {
			refused[why.What]++
			return
		}
		require.NoError(rt, err)
		require.Equal(rt, said(rt, want), said(rt, got), written(d))
	})
	t.Logf("%d asked, refused: %v", asked, refused)
}

func written(d *view.Document) string {
	text, err := json.Marshal(d)
	if err != nil {
		return err.Error()
	}
	return string(text)
}
