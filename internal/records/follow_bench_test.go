package records

import (
	"context"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/localpg/pgtest"
)

// BenchmarkFollow is what a committed change of one record costs in a table of 1,000,000 of fifteen columns,
// from asking for what has changed to the load that holds it.
func BenchmarkFollow(b *testing.B) {
	url := pgtest.Database(b)
	conn, err := Connect(b.Context(), url)
	require.NoError(b, err)
	defer conn.Close(context.Background())
	_, err = conn.Exec(b.Context(), `CREATE TABLE ports (id int PRIMARY KEY, name text);
		INSERT INTO ports SELECT i, 'Port ' || i FROM generate_series(1, 500) i;
		CREATE TABLE calls (id int PRIMARY KEY, port int REFERENCES ports, ref text UNIQUE, at timestamptz, day date, kind text, state text,
			fee numeric(10,2), paid numeric(10,2), weight float8, crew int, late bool, note text, pilot text, berth text);
		INSERT INTO calls SELECT i, i % 500 + 1, 'CA-' || lpad(i::text, 8, '0'), now() - i * interval '1 minute', date '2026-01-01' - i % 900, 'Kind ' || i % 20,
			'State ' || i % 7, i % 1000 * 1.25, i % 900 * 1.25, i / 3.0, i % 40, i % 3 = 0, 'Came in at the turn of the tide, ' || i, 'Pilot ' || i % 300, 'Berth ' || i % 90
			FROM generate_series(1, 1000000) i;
		ANALYZE`)
	require.NoError(b, err)
	from := Database(url, "public")
	_, err = Publish(b.Context(), from[0], "gavrik_bench")
	require.NoError(b, err)
	f := Follow(from, FollowOptions{Publication: "gavrik_bench", Slot: "gavrik_bench"})
	defer f.Close(context.Background())
	_, err = f.Load(b.Context(), Settings{Zone: "UTC"}, Asked{})
	require.NoError(b, err)
	for name, statement := range map[string]string{
		"added":       "INSERT INTO calls (id, port, ref, kind) SELECT max(id) + 1, 7, 'CA-' || lpad((max(id) + 1)::text, 8, '0'), 'Kind 3' FROM calls",
		"fee changed": "UPDATE calls SET fee = fee + 1 WHERE id = 500000",
		"removed":     "DELETE FROM calls WHERE id = (SELECT min(id) FROM calls WHERE id > 400000)",
		"nothing":     "SELECT 1",
		"all":         "",
	} {
		b.Run(name, func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				b.StopTimer()
				if statement != "" {
					_, err := conn.Exec(b.Context(), "SET synchronous_commit = on; "+statement)
					require.NoError(b, err)
				}
				b.StartTimer()
				_, err := f.Load(b.Context(), Settings{Zone: "UTC"}, Asked{Anew: statement == ""})
				require.NoError(b, err)
			}
		})
	}
}
