package engine

import (
	"bytes"
	"context"
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/cell"
	keeping "gavrik/internal/core/kept"
	"gavrik/internal/core/result"
)

// writtenDown is a result that was kept, written down and read again.
func writtenDown(t require.TestingT, r result.Result) *keeping.Result {
	k, err := keeping.Of(context.Background(), r, 1<<20)
	require.NoError(t, err)
	var text bytes.Buffer
	require.NoError(t, k.Write(&text))
	again, err := keeping.Read(&text)
	require.NoError(t, err)
	return again
}

func asJSON(t require.TestingT, v any) string {
	text, err := json.Marshal(v)
	require.NoError(t, err)
	return string(text)
}

// told is all that a way of reading tells, as texts.
func told[L any](t require.TestingT, read func(do func(L) error) error) (out []string) {
	require.NoError(t, read(func(l L) error {
		out = append(out, asJSON(t, l))
		return nil
	}))
	return out
}

// What was kept says what the result said, whatever is asked of it.
func TestAKeptResultSaysWhatTheResultSaid(t *testing.T) {
	ctx := context.Background()
	rapid.Check(t, func(t *rapid.T) {
		w := drawAnyWorld(t)
		res := runWorld(t, w, w.engine(2), drawDocument(t, w))
		k := writtenDown(t, res)
		require.Equal(t, asJSON(t, res.Summarize()), asJSON(t, k.Summarize()))
		var paths []string
		require.NoError(t, res.EachGroup(ctx, result.Groups{}, func(g result.GroupLine) error {
			paths = append(paths, g.Line.Group)
			return nil
		}))
		path := rapid.SampledFrom(paths)

		open := result.Open{Depth: rapid.IntRange(-1, 3).Draw(t, "depth")}
		open.Toggled = rapid.SliceOfN(path, 0, 4).Draw(t, "toggled")
		offset, limit := rapid.IntRange(0, 60).Draw(t, "offset"), rapid.IntRange(0, 60).Draw(t, "limit")
		window := func(r result.Result) result.Window {
			got, err := r.Window(ctx, open, offset, limit)
			require.NoError(t, err)
			got.Lines, got.Above = append([]result.Line{}, got.Lines...), append([]result.Line{}, got.Above...)
			return got
		}
		require.Equal(t, asJSON(t, window(res)), asJSON(t, window(k)))
		lines := func(r result.Result) []string {
			return told(t, func(do func(result.Line) error) error {
				return r.EachLine(ctx, open, func(l result.Line) error {
					l.Record = cell.Cell{} // files do not name it
					return do(l)
				})
			})
		}
		require.Equal(t, lines(res), lines(k))

		of := result.Groups{Within: path.Draw(t, "within"), Levels: rapid.IntRange(0, 3).Draw(t, "levels")}
		if rapid.Bool().Draw(t, "some heads") {
			of.Heads = []int{}
			for i := range res.Heads {
				if rapid.Bool().Draw(t, "this head") {
					of.Heads = append(of.Heads, i)
				}
			}
		}
		groups := func(r result.Result) []string {
			return told(t, func(do func(result.GroupLine) error) error { return r.EachGroup(ctx, of, do) })
		}
		require.Equal(t, groups(res), groups(k))
		one := func(r result.Result) string {
			g, err := r.Group(of.Within, of.Heads)
			require.NoError(t, err)
			return asJSON(t, g)
		}
		require.Equal(t, one(res), one(k))

		if len(res.Plan.Across) > 0 {
			return
		}
		type record struct {
			Keys  []result.Key
			Cells []cell.Cell
		}
		records := func(r result.Result) []string {
			return told(t, func(do func(record) error) error {
				return r.EachRecord(ctx, func(keys []result.Key, cells []cell.Cell) error { return do(record{keys, cells}) })
			})
		}
		require.Equal(t, records(res), records(k))
		require.Equal(t, res.Kept, k.Rows())
	})
}

// What was cut or changed since it was written down is refused.
func TestKeptResultsThatAreBroken(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		var text bytes.Buffer
		k, err := keeping.Of(context.Background(), runWorld(t, w, w.engine(1), drawDocument(t, w)), 1<<20)
		require.NoError(t, err)
		require.NoError(t, k.Write(&text))
		whole := bytes.Clone(text.Bytes())
		broken := text.Bytes()
		if rapid.Bool().Draw(t, "cut") {
			broken = broken[:rapid.IntRange(0, len(broken)-1).Draw(t, "at")]
		} else {
			for range rapid.IntRange(1, 4).Draw(t, "changes") {
				broken[rapid.IntRange(0, len(broken)-1).Draw(t, "place")] = rapid.Byte().Draw(t, "byte")
			}
		}
		if bytes.Equal(broken, whole) {
			t.Skip("nothing was changed")
		}
		_, err = keeping.Read(bytes.NewReader(broken))
		require.Error(t, err)
	})
}

func TestTooManyRecordsAreNotKept(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		res := runWorld(t, w, w.engine(1), drawDocument(t, w))
		most := rapid.IntRange(0, 30).Draw(t, "most")
		_, err := keeping.Of(context.Background(), res, most)
		require.Equal(t, res.Kept > most, err != nil)
	})
}
