package records

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
	"gavrik/internal/localpg/pgtest"
)

// A start from records that were kept is, once it is up to date, one that has loaded them; before that it has
// those that were kept. What did not change is not written again.
func TestKeptRecordsAreLoadedOnes(t *testing.T) {
	for name, publication := range map[string]string{"by changes": "gavrik_d", "by statistics": ""} {
		t.Run(name, func(t *testing.T) {
			url, dir := pgtest.Database(t), t.TempDir()
			conn := connect(t, url)
			run(t, conn, followedSchema)
			set := Settings{Zone: "Europe/Lisbon", EagerViews: true}
			f := follows(t, url, publication)
			seed := rand.Uint64()
			r := rand.New(rand.NewPCG(seed, 2))
			for round := range 8 {
				for range 3 {
					statement := change(r)
					if r.IntN(6) == 0 {
						statement = reshape(r, round)
					}
					_, _ = conn.Exec(t.Context(), statement) // some do not fit
				}
				run(t, conn, "SELECT pg_stat_force_next_flush()")
				kept, err := f.Load(t.Context(), set, Asked{})
				require.NoError(t, err)
				require.NoError(t, f.File(t.Context(), dir, set))
				f.Close(t.Context())
				_, _ = conn.Exec(t.Context(), change(r)) // while nobody looked
				run(t, conn, "SELECT pg_stat_force_next_flush()")

				f = Follow(f.from, f.options)
				began, err := f.Restore(t.Context(), dir, set)
				require.NoError(t, err)
				why := fmt.Sprintf("seed %d, round %d", seed, round)
				sameRecords(t, kept, began, why)
				require.Equal(t, kept.Snapshot.AsOf.UTC(), began.Snapshot.AsOf.UTC())
				require.NoError(t, f.Wait(t.Context()), "it is brought up to date at once")
				now, err := f.Load(t.Context(), set, Asked{})
				require.NoError(t, err)
				want, err := Load(t.Context(), Database(url, "public"), set)
				require.NoError(t, err)
				sameRecords(t, want, now, why)
			}
			run(t, conn, "INSERT INTO remarks (said) VALUES ('Another'); SELECT pg_stat_force_next_flush()")
			_, err := f.Load(t.Context(), set, Asked{})
			require.NoError(t, err)
			require.NoError(t, f.File(t.Context(), dir, set))
			before := filesIn(t, dir)
			run(t, conn, "INSERT INTO remarks (said) VALUES ('Once more'); SELECT pg_stat_force_next_flush()")
			_, err = f.Load(t.Context(), set, Asked{})
			require.NoError(t, err)
			require.NoError(t, f.File(t.Context(), dir, set))
			after := filesIn(t, dir)
			fresh := 0
			for file := range after {
				if !before[file] {
					fresh++
				}
			}
			require.Equal(t, 1, fresh, "one table was written")
			require.Len(t, after, len(before), "and its earlier file is gone")
			f.Close(t.Context())
		})
	}
}

func filesIn(t *testing.T, dir string) map[string]bool {
	all, err := os.ReadDir(dir)
	require.NoError(t, err)
	out := map[string]bool{}
	for _, one := range all {
		info, err := one.Info()
		require.NoError(t, err)
		require.Zero(t, info.Mode().Perm()&0o077, "nobody else may read them")
		out[one.Name()] = true
	}
	return out
}

// Whatever has become of the files: they are not used, it is said why, and they are taken away.
func TestBrokenKeptRecords(t *testing.T) {
	url := pgtest.Database(t)
	run(t, connect(t, url), followedSchema)
	set := Settings{Zone: "Europe/Lisbon", EagerViews: true}
	largest := func(dir string) string {
		found, size := "", int64(0)
		all, _ := filepath.Glob(filepath.Join(dir, "*.arrow"))
		for _, path := range all {
			if info, err := os.Stat(path); err == nil && info.Size() > size {
				found, size = path, info.Size()
			}
		}
		return found
	}
	rewritten := func(path, old, now string) {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		require.Contains(t, string(text), old)
		require.NoError(t, os.WriteFile(path, []byte(strings.Replace(string(text), old, now, 1)), 0o600))
	}
	for _, c := range []struct {
		name, why string
		set       Settings
		harm      func(dir string)
	}{
		{"a byte is another", "is not what was written", set, func(dir string) {
			text, err := os.ReadFile(largest(dir))
			require.NoError(t, err)
			text[len(text)/2] ^= 4
			require.NoError(t, os.WriteFile(largest(dir), text, 0o600))
		}},
		{
			"cut", "is not what was written", set,
			func(dir string) { require.NoError(t, os.Truncate(largest(dir), 100)) },
		},
		{"a file is gone", "no such file", set, func(dir string) { require.NoError(t, os.Remove(largest(dir))) }},
		{
			"the list is no JSON", "invalid character", set,
			func(dir string) { rewritten(filepath.Join(dir, listName), "{", "x") },
		},
		{"another version", "version 9 of the format", set, func(dir string) {
			rewritten(filepath.Join(dir, listName), `"Version":1`, `"Version":9`)
		}},
		{"another zone", "of another zone", Settings{Zone: "UTC"}, func(string) {}},
		{"a table of fewer columns", "not what was written", set, func(dir string) {
			rewritten(filepath.Join(dir, listName), `"Columns":[{"Name":"id"`, `"Columns":[{"Name":"other"`)
		}},
	} {
		t.Run(c.name, func(t *testing.T) {
			dir := t.TempDir()
			f := Follow(Database(url, "public"), FollowOptions{})
			defer f.Close(context.Background())
			_, err := f.Load(t.Context(), set, Asked{})
			require.NoError(t, err)
			require.NoError(t, f.File(t.Context(), dir, set))
			c.harm(dir)
			again := Follow(f.from, FollowOptions{})
			defer again.Close(context.Background())
			l, err := again.Restore(t.Context(), dir, c.set)
			require.Nil(t, l)
			require.ErrorContains(t, err, c.why)
			require.Empty(t, filesIn(t, dir))
			l, err = again.Restore(t.Context(), dir, c.set)
			require.NoError(t, err)
			require.Nil(t, l)
			_, err = again.Load(t.Context(), c.set, Asked{})
			require.NoError(t, err)
		})
	}
	f := Follow(Database(url, "public"), FollowOptions{})
	defer f.Close(context.Background())
	_, err := f.Load(t.Context(), set, Asked{})
	require.NoError(t, err)
	require.Error(t, f.File(t.Context(), filepath.Join("/proc", "nowhere"), set), "there is no room")
}

// manyRecords is a load of n records of fifteen columns, made without a database.
func manyRecords(n int) *Loaded {
	s := &source{full: TableName{
		"", "public", "calls",
	}, name: "calls", set: "calls", kind: "r", key: []string{"id"},
		unique: map[string]bool{"id": true, "ref": true}, scales: map[string]int{}}
	k := &kept{
		source: s, links: map[string]*table.Links{},
		fetched: fetched{columns: map[string]table.Column{}, rows: n, key: []string{"id"}},
	}
	add := func(name, kind string, c table.Column) {
		s.columns = append(s.columns, sourceColumn{Name: name, Type: kind, cast: kind})
		k.columns[name] = c
	}
	for c := range 8 {
		values := make([]int64, n)
		for i := range values {
			values[i] = int64(i * (c + 1) % (n + c))
		}
		name := fmt.Sprint("n", c)
		if c == 0 {
			name = "id"
		}
		add(name, "int8", table.NewNumbers(values))
	}
	floats := make([]float64, n)
	for i := range floats {
		floats[i] = math.Sqrt(float64(i))
	}
	add("weight", "float8", table.NewFloats(floats))
	for c, text := range []string{"CA-%09d", "State %d", "Kind %d", "Pilot %d", "Berth %d", "Came In %d"} {
		d, codes := table.NewDictBuilder(), make([]uint32, n)
		kinds := []int{n, 7, 20, 300, 90, n / 10}[c]
		for i := range codes {
			codes[i] = d.CodeOf(fmt.Sprintf(text, i%kinds))
		}
		add([]string{"ref", "state", "kind", "pilot", "berth", "came"}[c], "text", d.Build(codes))
	}
	l := &loader{sources: []*source{s}}
	for _, c := range s.columns {
		l.readings = append(l.readings, []columnReading{})
		l.readings[0] = append(l.readings[0], read(c, Settings{}, func(string) int { return 0 }))
	}
	cat, _ := describe(l.sources, l.readings[:1])
	cat.Sources = []catalog.Source{{AsOf: time.Now()}}
	return &Loaded{cat, &table.Snapshot{AsOf: time.Now()}, nil, nil, map[TableName]*kept{s.full: k}}
}

// BenchmarkRestore is a start from 10,000,000 kept records of fifteen columns.
func BenchmarkRestore(b *testing.B) {
	dir := b.TempDir()
	from := []Source{{URL: "postgres://nobody@127.0.0.1/none", Schemas: []string{"public"}}}
	nowhere := func(context.Context, *watch) (string, error) { return "nowhere", nil }
	f := Follow(from, FollowOptions{})
	f.identify = nowhere
	f.last = manyRecords(10_000_000)
	began := time.Now()
	require.NoError(b, f.File(b.Context(), dir, Settings{}))
	b.Logf("written in %s", time.Since(began))
	for b.Loop() {
		again := Follow(from, FollowOptions{})
		again.identify = nowhere
		l, err := again.Restore(b.Context(), dir, Settings{})
		require.NoError(b, err)
		require.Equal(b, 10_000_000, l.Snapshot.Tables["calls"].Rows)
	}
}
