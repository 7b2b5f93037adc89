package records

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
	"gavrik/internal/localpg/pgtest"
)

const followedSchema = `
CREATE TABLE piers (code text PRIMARY KEY, label text UNIQUE, tide numeric);
CREATE TABLE skippers (id int PRIMARY KEY, name varchar(40), mentor int REFERENCES skippers ON DELETE SET NULL);
CREATE TABLE trips (id bigint PRIMARY KEY, pier text REFERENCES piers ON UPDATE CASCADE ON DELETE SET NULL,
  skipper int REFERENCES skippers ON DELETE SET NULL, fare numeric(9,2), share float8, late bool, day date,
  left_at timestamptz, took interval, note text, tags text[]);
CREATE TABLE stops (trip_id bigint REFERENCES trips ON DELETE CASCADE, n int, pier text, waits numeric, PRIMARY KEY (trip_id, n))
  PARTITION BY RANGE (trip_id);
CREATE TABLE stops_low PARTITION OF stops FOR VALUES FROM (0) TO (100);
CREATE TABLE stops_high PARTITION OF stops FOR VALUES FROM (100) TO (100000);
CREATE TABLE remarks (said text, trip_id bigint);
CREATE TABLE odd (id uuid PRIMARY KEY, wide numeric(30,2), pier text);
ALTER TABLE odd ADD FOREIGN KEY (pier) REFERENCES piers NOT VALID;
CREATE VIEW fares AS SELECT pier, sum(fare) AS fare, count(*) AS n FROM trips GROUP BY pier ORDER BY pier;
CREATE VIEW low AS SELECT * FROM fares WHERE fare < 100;
CREATE MATERIALIZED VIEW monthly AS SELECT date_trunc('month', day)::date AS month, count(*) AS n FROM trips GROUP BY 1 ORDER BY 1;
INSERT INTO piers SELECT 'P' || i, 'Pier ' || i, i / 2.0 FROM generate_series(1, 8) i;
INSERT INTO skippers SELECT i, 'Skipper ' || i, nullif(i / 2, 0) FROM generate_series(1, 12) i;
INSERT INTO trips SELECT i, 'P' || (i % 8 + 1), i % 12 + 1, i * 1.25, i / 3.0, i % 2 = 0, date '2026-01-01' + i, now(), i * interval '1 minute',
  'Note ' || i, ARRAY['a', i::text] FROM generate_series(1, 150) i;
INSERT INTO stops SELECT i, n, 'P' || n, n * 0.5 FROM generate_series(1, 150) i, generate_series(1, 3) n;
INSERT INTO remarks SELECT 'Said ' || i, i FROM generate_series(1, 20) i;`

// change is a statement that changes records at random; those of DDL change what they are.
func change(r *rand.Rand) string {
	id, other := r.IntN(220), r.IntN(220)
	texts := []string{
		"NULL", "''", "'Éden'", "'eden'", "'Note 7'", "'at the quay'", fmt.Sprintf("'Note %d'", other),
	}
	text := texts[r.IntN(len(texts))]
	pier := fmt.Sprintf("(SELECT code FROM piers ORDER BY md5(code || '%d') LIMIT 1)", other)
	skipper := fmt.Sprintf("(SELECT id FROM skippers ORDER BY md5(id || '%d') LIMIT 1)", other)
	all := []string{
		fmt.Sprintf(
			"INSERT INTO trips (id, pier, skipper, fare, note, day) VALUES (%d, %s, %s, %d.5, %s, '2026-03-01') ON CONFLICT DO NOTHING",
			id, pier, skipper, other, text,
		),
		fmt.Sprintf("UPDATE trips SET fare = fare + 0.25, note = %s WHERE id = %d", text, id),
		fmt.Sprintf(
			"UPDATE trips SET pier = %s, took = took + interval '1 second', share = %d / 7.0 WHERE id %% 9 = %d", pier,
			other, r.IntN(9),
		),
		fmt.Sprintf("UPDATE trips SET skipper = %s, late = NOT late WHERE id = %d", skipper, id),
		fmt.Sprintf("DELETE FROM trips WHERE id = %d", id),
		fmt.Sprintf("DELETE FROM trips WHERE id BETWEEN %d AND %d", id, id+r.IntN(20)),
		fmt.Sprintf(
			"INSERT INTO trips (id, pier) SELECT i, 'P1' FROM generate_series(%d, %d) i WHERE EXISTS (SELECT FROM piers WHERE code = 'P1') ON CONFLICT DO NOTHING",
			id, id+r.IntN(30),
		),
		fmt.Sprintf(
			"UPDATE trips SET id = %d WHERE id = %d AND NOT EXISTS (SELECT FROM trips WHERE id = %d) AND NOT EXISTS (SELECT FROM stops WHERE trip_id = %d)",
			other, id, other, id,
		),
		fmt.Sprintf(
			"INSERT INTO stops SELECT id, %d, 'P1', %d.125 FROM trips WHERE id = %d ON CONFLICT DO NOTHING",
			1+r.IntN(9), other, id,
		),
		fmt.Sprintf("UPDATE stops SET waits = %d.%d WHERE trip_id = %d", other, r.IntN(3), id),
		fmt.Sprintf("DELETE FROM stops WHERE n = %d AND trip_id < %d", r.IntN(9), id),
		fmt.Sprintf(
			"UPDATE piers SET code = 'Q%d', label = %s WHERE code = %s", other, strings.Replace(text, "''", "NULL", 1),
			pier,
		),
		fmt.Sprintf(
			"INSERT INTO piers VALUES ('P%d', NULL, %d.%d) ON CONFLICT DO NOTHING", 1+r.IntN(12), other, r.IntN(200),
		),
		fmt.Sprintf("DELETE FROM piers WHERE code = %s", pier),
		"UPDATE piers SET tide = trunc(tide)",
		fmt.Sprintf("INSERT INTO skippers VALUES (%d, %s, %s) ON CONFLICT DO NOTHING", r.IntN(40), text, skipper),
		fmt.Sprintf("UPDATE skippers SET mentor = %s WHERE id = %d", skipper, r.IntN(40)),
		fmt.Sprintf("DELETE FROM skippers WHERE id = %d", r.IntN(40)),
		fmt.Sprintf("INSERT INTO remarks VALUES (%s, %d)", text, id), "DELETE FROM remarks WHERE trip_id % 5 = 0",
		fmt.Sprintf("INSERT INTO odd VALUES (md5('%d')::uuid, %d.5) ON CONFLICT DO NOTHING", id, other),
		fmt.Sprintf("INSERT INTO odd VALUES (md5('%d')::uuid, 12345678901234567890.12) ON CONFLICT DO NOTHING", id),
		fmt.Sprintf("DELETE FROM odd WHERE id < md5('%d')::uuid", id),
		"REFRESH MATERIALIZED VIEW monthly",
	}
	return all[r.IntN(len(all))]
}

// reshape is a statement that changes what records are.
func reshape(r *rand.Rand, n int) string {
	all := []string{
		fmt.Sprintf("ALTER TABLE trips ADD COLUMN extra_%d int DEFAULT %d", n, n),
		"ALTER TABLE trips ALTER COLUMN fare TYPE numeric(12,3)", "ALTER TABLE trips ALTER COLUMN fare TYPE numeric(11,2) USING fare * 2",
		"ALTER TABLE skippers RENAME name TO known_as", "ALTER TABLE skippers RENAME known_as TO name",
		"TRUNCATE stops", "TRUNCATE trips CASCADE", "ALTER TABLE odd VALIDATE CONSTRAINT odd_pier_fkey",
		fmt.Sprintf(
			"CREATE TABLE more_%d (id int PRIMARY KEY, pier text REFERENCES piers ON UPDATE CASCADE ON DELETE CASCADE); INSERT INTO more_%d SELECT 1, code FROM piers LIMIT 1",
			n, n,
		),
		"COMMENT ON COLUMN trips.note IS 'What the skipper says.'", "VACUUM FULL piers", "CREATE OR REPLACE VIEW low AS SELECT * FROM fares WHERE fare < 1000",
		"ALTER TABLE remarks ADD COLUMN id serial PRIMARY KEY", "ALTER TABLE remarks DROP COLUMN IF EXISTS id",
		"ALTER TABLE stops DETACH PARTITION stops_low", "ALTER TABLE stops ATTACH PARTITION stops_low FOR VALUES FROM (0) TO (100)",
		"ALTER TABLE skippers DROP COLUMN mentor", "ALTER TABLE skippers ADD COLUMN mentor int REFERENCES skippers ON DELETE SET NULL",
	}
	return all[r.IntN(len(all))]
}

// sameRecords checks that two loads hold the same, in the same order.
func sameRecords(t *testing.T, want, got *Loaded, why string) {
	t.Helper()
	plain := func(l *Loaded) *catalog.Catalog {
		c := *l.Catalog
		c.Sources = nil
		return &c
	}
	require.Equal(t, plain(want), plain(got), why)
	require.Len(t, got.Snapshot.Tables, len(want.Snapshot.Tables), why)
	for name, w := range want.Snapshot.Tables {
		g := got.Snapshot.Tables[name]
		require.NotNil(t, g, "%s %s", name, why)
		require.Equal(t, w.Rows, g.Rows, "%s %s", name, why)
		set := want.Catalog.Set(name)
		for _, f := range set.Fields {
			switch c := w.Column(f.Key).(type) {
			case *table.Numbers:
				of := g.Column(f.Key).(*table.Numbers)
				require.Equal(
					t, append([]int64{}, c.Values...), append([]int64{}, of.Values...), "%s.%s %s", name, f.Key, why,
				)
				lo, hi, ok := c.Bounds()
				lo2, hi2, ok2 := of.Bounds()
				require.Equal(t, []any{lo, hi, ok, c.Blanks(), c.Step()}, []any{lo2, hi2, ok2, of.Blanks(), of.Step()})
			case *table.Floats:
				require.InDeltaSlice(t, c.Values, g.Column(f.Key).(*table.Floats).Values, 0, "%s.%s %s", name, f.Key, why)
			case *table.Texts:
				of := g.Column(f.Key).(*table.Texts)
				require.Equal(t, c.Dict.Len(), of.Dict.Len(), "%s.%s %s", name, f.Key, why)
				for row, code := range c.Codes {
					require.Equal(t, c.Dict.Value(code), of.Dict.Value(of.Codes[row]), "%s.%s %s", name, f.Key, why)
				}
			}
		}
		for _, l := range set.Links {
			require.Equal(t, w.Link(l.Key).To, g.Link(l.Key).To)
			require.Equal(
				t, append([]int32{}, w.Link(l.Key).Rows...), append([]int32{}, g.Link(l.Key).Rows...), "%s.%s %s", name,
				l.Key, why,
			)
		}
	}
}

func run(t *testing.T, conn *pgx.Conn, statement string) {
	t.Helper()
	_, err := conn.Exec(t.Context(), statement)
	require.NoError(t, err, statement)
}

// follows begins to follow a database of some records.
func follows(t *testing.T, url, publication string) *Following {
	t.Helper()
	if publication != "" {
		_, err := Publish(t.Context(), Database(url, "public")[0], publication)
		require.NoError(t, err)
	}
	f := Follow(
		Database(url, "public"),
		FollowOptions{Publication: publication, Slot: publication + "_" + t.Name()[len(t.Name())-4:]},
	)
	t.Cleanup(func() { f.Close(context.Background()) })
	_, err := f.Load(t.Context(), Settings{Zone: "Europe/Lisbon", EagerViews: true}, Asked{})
	require.NoError(t, err)
	return f
}

// Whatever is changed, in whatever order, by whomever: what is followed is what loading anew brings.
func TestFollowingIsLoadingAnew(t *testing.T) {
	for name, publication := range map[string]string{"by changes": "gavrik_a", "by statistics": ""} {
		t.Run(name, func(t *testing.T) {
			url := pgtest.Database(t)
			conn, other := connect(t, url), connect(t, url)
			run(t, conn, followedSchema)
			// In a test, statistics are told at once.
			settled := func() {
				run(t, conn, "SELECT pg_stat_force_next_flush()")
				run(t, other, "SELECT pg_stat_force_next_flush()")
			}
			settled()
			f := follows(t, url, publication)
			seed := rand.Uint64()
			r := rand.New(rand.NewPCG(seed, 1))
			var did []string
			open := false
			for round := range 40 {
				for range 1 + r.IntN(4) {
					statement := change(r)
					if !open && r.IntN(6) == 0 {
						statement = reshape(r, round)
					}
					if _, err := conn.Exec(t.Context(), statement); err == nil {
						did = append(did, statement)
					}
				}
				// Now and then somebody has begun something that is not there yet.
				switch {
				case open && r.IntN(2) == 0:
					run(t, other, []string{"COMMIT", "ROLLBACK"}[r.IntN(2)])
					open = false
				case !open && r.IntN(3) == 0:
					run(t, other, "BEGIN; SET LOCAL lock_timeout = '100ms'")
					open = true
					statement := change(r)
					for strings.Contains(statement, "REFRESH") { // nobody could read it until it is committed
						statement = change(r)
					}
					if _, err := other.Exec(t.Context(), statement); err != nil {
						run(t, other, "ROLLBACK")
						open = false
					}
					run(t, conn, "SET lock_timeout = '100ms'")
				}
				settled()
				got, err := f.Load(t.Context(), Settings{Zone: "Europe/Lisbon", EagerViews: true}, Asked{})
				require.NoError(t, err, "seed %d: %s", seed, strings.Join(did, ";\n"))
				want, err := Load(t.Context(), Database(url, "public"), Settings{Zone: "Europe/Lisbon", EagerViews: true})
				require.NoError(t, err)
				sameRecords(t, want, got, fmt.Sprintf("seed %d, round %d:\n%s", seed, round, strings.Join(did, ";\n")))
			}
		})
	}
}

// What does not change is shared, whatever else does.
func TestWhatDoesNotChangeIsShared(t *testing.T) {
	url := pgtest.Database(t)
	conn := connect(t, url)
	run(t, conn, followedSchema)
	f := follows(t, url, "gavrik_b")
	before := f.last
	run(t, conn, "UPDATE trips SET fare = 1 WHERE id = 3")
	require.NoError(t, f.Wait(t.Context()))
	after, err := f.Load(t.Context(), Settings{Zone: "Europe/Lisbon", EagerViews: true}, Asked{})
	require.NoError(t, err)
	require.True(t, after.Snapshot.AsOf.After(before.Snapshot.AsOf))
	var other []string
	for name, was := range before.Snapshot.Tables {
		is := after.Snapshot.Tables[name]
		for _, field := range before.Catalog.Set(name).Fields {
			if was.Column(field.Key) != is.Column(field.Key) {
				other = append(other, name+"."+field.Key)
			}
		}
		for _, l := range before.Catalog.Set(name).Links {
			require.Same(t, was.Link(l.Key), is.Link(l.Key))
		}
		require.Zero(t, is.AsOf, "all are as of the moment of the load: %s", name)
	}
	slices.Sort(other)
	// The views are read again, for their table has changed.
	require.Equal(
		t, []string{"fares.fare", "fares.n", "fares.pier", "low.fare", "low.n", "low.pier", "trips.fare"}, other,
	)
}

// A stream that breaks off, a publication that changes, more changes than are remembered: nothing is missed.
func TestFollowingGoesOn(t *testing.T) {
	url := pgtest.Database(t)
	conn := connect(t, url)
	run(t, conn, followedSchema)
	f := follows(t, url, "gavrik_c")
	says := func(why string) {
		t.Helper()
		got, err := f.Load(t.Context(), Settings{Zone: "Europe/Lisbon", EagerViews: true}, Asked{})
		require.NoError(t, err)
		want, err := Load(t.Context(), Database(url, "public"), Settings{Zone: "Europe/Lisbon", EagerViews: true})
		require.NoError(t, err)
		sameRecords(t, want, got, why)
	}
	run(
		t, conn,
		`SELECT pg_terminate_backend(active_pid) FROM pg_replication_slots WHERE slot_name LIKE 'gavrik_c%'`,
	)
	run(t, conn, "UPDATE trips SET fare = 7 WHERE id < 50")
	require.NoError(t, f.Wait(t.Context()))
	says("the stream was cut")
	require.NotNil(t, f.watches[0].stream, "and there is another")

	run(t, conn, "ALTER PUBLICATION gavrik_c DROP TABLE trips; UPDATE trips SET fare = 8 WHERE id < 60")
	says("a table is not published any more")
	run(t, conn, "UPDATE trips SET fare = 9 WHERE id < 70; SELECT pg_stat_force_next_flush()")
	says("its statistics tell")
	run(t, conn, "DROP PUBLICATION gavrik_c; DELETE FROM stops; SELECT pg_stat_force_next_flush()")
	says("the publication is gone")
	require.Nil(t, f.watches[0].stream)

	_, err := Publish(t.Context(), Database(url, "public")[0], "gavrik_c")
	require.NoError(t, err)
	f.watches[0].again = time.Time{}
	says("it is there again")
	require.NotNil(t, f.watches[0].stream)
	run(t, conn, "INSERT INTO trips (id, pier) SELECT i, 'P2' FROM generate_series(1000, 1000 + 30000) i")
	says("more than is asked for by keys")
	f.Close(t.Context())
	require.Eventually(t, func() bool {
		left := -1
		err := conn.QueryRow(
			t.Context(), "SELECT count(*) FROM pg_replication_slots WHERE slot_name LIKE 'gavrik_c%'",
		).Scan(&left)
		return err == nil && left == 0
	}, 10*time.Second, 10*time.Millisecond, "no slot is left behind")

	found, err := Examine(t.Context(), Database(url, "public")[0], "gavrik_c")
	require.NoError(t, err)
	for _, one := range found {
		require.True(t, one.Good, one.What)
	}
	require.NoError(t, Unpublish(t.Context(), Database(url, "public")[0], "gavrik_c"))
	found, err = Examine(t.Context(), Database(url, "public")[0], "gavrik_c")
	require.NoError(t, err)
	require.True(
		t,
		slices.ContainsFunc(
			found, func(one Finding) bool { return !one.Good && strings.Contains(one.Mend, "gavrik follow publish") },
		),
	)
}

// Records that would fill the memory end the load; those of before stay.
func TestMoreRecordsThanFit(t *testing.T) {
	url := pgtest.Database(t)
	conn := connect(t, url)
	run(t, conn, followedSchema)
	var large *TooLargeError
	_, err := Load(t.Context(), Database(url, "public"), Settings{Zone: "UTC", Most: 1000})
	require.ErrorAs(t, err, &large)
	require.ErrorContains(t, err, "--memory-records")
	f := Follow(Database(url, "public"), FollowOptions{})
	t.Cleanup(func() { f.Close(context.Background()) })
	set := Settings{Zone: "UTC", Most: 1 << 20}
	before, err := f.Load(t.Context(), set, Asked{})
	require.NoError(t, err)
	run(
		t, conn,
		"INSERT INTO remarks SELECT repeat('more ', 200), i FROM generate_series(1, 2000) i; SELECT pg_stat_force_next_flush()",
	)
	_, err = f.Load(t.Context(), set, Asked{})
	require.ErrorAs(t, err, &large)
	require.Same(t, before, f.last)
	// Where tables may stay, the largest do until the rest fits, and go on to; what changes elsewhere is followed.
	run(t, conn, "ANALYZE remarks")
	set.StayBeyond, set.Away = true, []string{"odd", "nothing"}
	stays := Follow(Database(url, "public"), FollowOptions{})
	t.Cleanup(func() { stays.Close(context.Background()) })
	fits, err := stays.Load(t.Context(), set, Asked{})
	require.NoError(t, err)
	require.Len(t, fits.Away, 2)
	require.True(t, fits.Away["remarks"].Unasked && !fits.Away["odd"].Unasked)
	require.EqualValues(t, 2020, fits.Away["remarks"].Rows)
	told := strings.Join(fits.Catalog.Notices, "\n")
	require.Contains(t, told, "public.remarks would take some 1 MB, and stays in its database")
	require.Contains(t, told, "no record set “nothing”")
	run(t, conn, "TRUNCATE remarks; INSERT INTO piers VALUES ('P9', 'Pier 9', 1); SELECT pg_stat_force_next_flush()")
	later, err := stays.Load(t.Context(), set, Asked{})
	require.NoError(t, err)
	require.Equal(t, 9, later.Snapshot.Tables["piers"].Rows)
	require.NotNil(t, later.Away["remarks"], "it stays until all is loaded anew")
	require.Same(t, fits.Snapshot.Tables["skippers"].Column("name"), later.Snapshot.Tables["skippers"].Column("name"))
	set.Away = nil
	anew, err := stays.Load(t.Context(), set, Asked{Anew: true})
	require.NoError(t, err)
	require.Empty(t, anew.Away)
	_, err = f.Load(t.Context(), Settings{Zone: "UTC", Most: 1 << 20}, Asked{})
	require.NoError(t, err)
}

// A session that rests tells its statistics late: by then nothing moves any more, and it is noticed all the
// same.
func TestStatisticsThatComeLate(t *testing.T) {
	url := pgtest.Database(t)
	conn := connect(t, url)
	run(t, conn, followedSchema)
	f := follows(t, url, "")
	for fare := range 3 { // the last is told once the session has rested
		run(t, conn, fmt.Sprintf("UPDATE trips SET fare = %d WHERE id = 3", 500+fare))
	}
	ctx, cancel := context.WithTimeout(t.Context(), 2*statisticsLate)
	defer cancel()
	for {
		require.NoError(t, f.Wait(ctx), "it is never noticed")
		l, err := f.Load(ctx, Settings{Zone: "UTC"}, Asked{})
		require.NoError(t, err)
		if slices.Contains(l.Snapshot.Tables["trips"].Column("fare").(*table.Numbers).Values, 502_00) {
			return
		}
	}
}

// Transactions are told apart by the lower half of their numbers, also where those begin again.
func TestAMomentSees(t *testing.T) {
	m, err := readMoment("100:105:101,103")
	require.NoError(t, err)
	for xid, want := range map[uint32]bool{99: true, 100: true, 101: false, 102: true, 103: false, 104: true, 105: false, 4_000_000_000: false} {
		require.Equal(t, want, m.sees(xid), xid)
	}
	m, err = readMoment("4294967300:4294967310:4294967301")
	require.NoError(t, err)
	for xid, want := range map[uint32]bool{4: true, 5: false, 13: true, 14: false, 4_294_967_290: true, 100: false} {
		require.Equal(t, want, m.sees(xid), xid)
	}
	_, err = readMoment("1:2")
	require.Error(t, err)
}
