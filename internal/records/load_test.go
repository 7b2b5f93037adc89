package records

import (
	"context"
	"encoding/binary"
	"math/big"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgtype"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/table"
	"gavrik/internal/localpg/pgtest"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

func connect(t *testing.T, url string) *pgx.Conn {
	t.Helper()
	conn, err := Connect(t.Context(), url)
	require.NoError(t, err)
	t.Cleanup(func() { _ = conn.Close(context.Background()) })
	return conn
}

// A schema with everything that is out of the ordinary.
const oddSchema = `
CREATE TYPE deck AS ENUM ('upper', 'lower');
CREATE DOMAIN percentage AS numeric(5,2);
CREATE TABLE "Piers" ("Code" text PRIMARY KEY, "select" int, twin text REFERENCES "Piers");
COMMENT ON TABLE "Piers" IS 'One row per pier.';
INSERT INTO "Piers" VALUES ('a''b', 1, NULL), ('Ünder', NULL, 'a''b'), ('ghost', 2, 'ghost');
CREATE TABLE moorings (
  id uuid PRIMARY KEY, pier_code text REFERENCES "Piers", second_pier text REFERENCES "Piers"("Code"), kept deck, share percentage,
  free numeric, fee money, wide numeric(30,2), thin float4, thick float8, ok bool, day date, at timestamptz, wall timestamp, span interval, padded char(8),
  tags text[], doc jsonb, photo bytea, big int8, note varchar(20), "hourlyRate" numeric(8,2), gone int);
ALTER TABLE moorings DROP COLUMN gone;
ALTER TABLE moorings ADD COLUMN deposit numeric(8,2), ADD COLUMN coin text, ADD COLUMN levy numeric(8,2);
COMMENT ON COLUMN moorings.deposit IS '(money, coin)';
COMMENT ON COLUMN moorings.levy IS '(money, nothing)';
COMMENT ON COLUMN moorings.free IS 'What it costs. (money, EUR)';
INSERT INTO moorings VALUES
  ('00000000-0000-0000-0000-000000000001', 'a''b', 'Ünder', 'lower', 12.5, 1.25, 7.5, 12345678901234567890.12, 9.1, 0.1, true, '2026-06-02', '2026-06-02 12:00+00', '2026-06-02 12:00', '1 day 02:30', 'ab', '{x,y}', '{"a":1}', '\x89504e470d0a1a0a', 9223372036854775807, '', 99.90),
  ('00000000-0000-0000-0000-000000000002', NULL, NULL, NULL, NULL, 1000.125, NULL, 1.01, 'NaN', 'infinity', NULL, 'infinity', '-infinity', NULL, NULL, NULL, NULL, NULL, 'not a picture', -9223372036854775808, NULL, NULL);
CREATE TABLE keyless (a int);
INSERT INTO keyless VALUES (1), (1);
CREATE VIEW pier_names AS SELECT "Code" FROM "Piers";
CREATE VIEW broken AS SELECT 1 / (n - n) AS n FROM (VALUES (1)) v (n);
CREATE VIEW broken_scale AS SELECT 1.5 / (n - n) AS n FROM (VALUES (1)) v (n);
CREATE MATERIALIZED VIEW unfilled AS SELECT 1 AS n WITH NO DATA;
CREATE MATERIALIZED VIEW filled AS SELECT 1 AS n;
CREATE TABLE pairs (a int, b int, PRIMARY KEY (a, b));
CREATE TABLE halves (id int PRIMARY KEY, a int, b int, FOREIGN KEY (a, b) REFERENCES pairs);
INSERT INTO pairs VALUES (1, 1), (1, 2), (2, 1);
INSERT INTO halves VALUES (1, 2, 1), (2, 1, 2), (3, NULL, 1), (4, 1, 1);
CREATE TABLE days (day date NOT NULL, n int, PRIMARY KEY (day, n)) PARTITION BY RANGE (day);
CREATE TABLE days_2026 PARTITION OF days FOR VALUES FROM ('2026-01-01') TO ('2027-01-01');
INSERT INTO days VALUES ('2026-05-05', 1), ('2026-05-06', 1);`

func TestIntrospectionAndLoading(t *testing.T) {
	url := pgtest.Database(t)
	conn := connect(t, url)
	_, err := conn.Exec(t.Context(), oddSchema)
	require.NoError(t, err)
	l, err := Load(t.Context(), Database(url, "public"), Settings{Zone: "Europe/Lisbon"})
	require.NoError(t, err)

	var sets []string
	for _, s := range l.Catalog.Sets {
		sets = append(sets, s.Key)
	}
	require.ElementsMatch(
		t, []string{"Piers", "moorings", "pairs", "halves", "days", "keyless", "pier_names", "filled"}, sets,
	)
	notices := strings.Join(l.Catalog.Notices, "\n")
	for _, want := range []string{
		"public.broken could not be read and is not offered: division by zero. Run SELECT * FROM \"public\".\"broken\"",
		"public.broken_scale could not be read and is not offered: division by zero.",
		"public.unfilled is a materialized view that was never filled. Fill it: REFRESH MATERIALIZED VIEW \"public\".\"unfilled\"",
		"1 values of moorings.wide have too many digits to keep", "1 values of moorings.big are too small to keep",
		"1 values of moorings.day lie outside the calendar", "1 values of moorings.thick are not finite numbers",
	} {
		require.Contains(t, notices, want)
	}
	require.Equal(t, 2, l.Snapshot.Tables["days"].Rows, "a partitioned table is one record set")
	require.Equal(t, 2, l.Snapshot.Tables["keyless"].Rows, "a table without a key is one, too")
	require.Empty(t, l.Catalog.Set("keyless").Address())
	require.Equal(t, 3, l.Snapshot.Tables["pier_names"].Rows)
	halves, pairs := l.Snapshot.Tables["halves"], l.Snapshot.Tables["pairs"]
	require.Equal(t, []catalog.Link{{Key: "pair", Label: "Pair", To: "pairs"}}, l.Catalog.Set("halves").Links)
	for row, to := range halves.Link("pair").Rows {
		for _, key := range []string{"a", "b"} { // a link of several columns leads to what has them all
			if want := halves.Column(key).(*table.Numbers).Values[row]; to >= 0 {
				require.Equal(t, want, pairs.Column(key).(*table.Numbers).Values[to])
			}
		}
		require.Equal(t, halves.Column("a").(*table.Numbers).Values[row] != table.Blank, to >= 0)
	}

	piers, moorings := l.Catalog.Set("Piers"), l.Catalog.Set("moorings")
	require.Equal(t, "One row per pier.", piers.Grain)
	require.Equal(t, "Code", piers.Name)
	require.Equal(t, "One row per mooring.", moorings.Grain)
	require.Equal(t, []catalog.Link{
		{Key: "pier", Label: "Pier", To: "Piers"}, {Key: "second_pier", Label: "Second pier", To: "Piers"},
	}, moorings.Links)
	require.Equal(t, catalog.Field{
		Key: "free", Label: "Free", Meaning: "What it costs.", Type: catalog.Money, Currency: "EUR", Scale: 3,
	}, *moorings.Field("free"))
	require.Equal(t, "coin", moorings.Field("deposit").CurrencyBy)
	require.Empty(t, moorings.Field("levy").CurrencyBy, "there is no such column")
	require.Equal(t, "Hourly rate", moorings.Field("hourlyRate").Label)
	require.Equal(t, 2, moorings.Field("share").Scale, "a domain's base type counts")
	require.Nil(t, moorings.Field("pier_code"), "a foreign key is a link, not a field")

	tables, pen := l.Snapshot.Tables, format.NewWriter(format.Plain, calendar.Calendar{})
	first := 0
	if tables["moorings"].Link("pier").Rows[0] < 0 {
		first = 1
	}
	cell := func(key string, row int) string {
		switch c := tables["moorings"].Column(key).(type) {
		case *table.Numbers:
			return pen.Number(c.Values[row], *moorings.Field(key))
		case *table.Floats:
			return pen.Float(c.Values[row], *moorings.Field(key))
		case *table.Texts:
			return c.Dict.Value(c.Codes[row])
		}
		return "no column"
	}
	for key, want := range map[string][2]string{
		"id":   {"00000000-0000-0000-0000-000000000001", "00000000-0000-0000-0000-000000000002"},
		"kept": {"lower", ""}, "share": {"12.50", ""},
		"free": {"1.250", "1000.125"}, "fee": {"7.50", ""}, "wide": {"", "1.01"}, "thin": {"9.1", ""},
		"thick": {"0.1", ""}, "ok": {"true", ""},
		"day": {"2026-06-02", ""}, "at": {"2026-06-02T12:00:00", ""}, "wall": {"2026-06-02T11:00:00", ""},
		"span": {"26:30:00", ""}, "padded": {"ab", ""},
		"tags": {"{x,y}", ""}, "doc": {`{"a": 1}`, ""}, "photo": {"data:image/png;base64,iVBORw0KGgo=", ""},
		"big": {"9223372036854775807", ""}, "note": {"", ""}, "hourlyRate": {"99.90", ""},
	} {
		require.Equal(t, want, [2]string{cell(key, first), cell(key, 1-first)}, key)
	}
	codes := tables["Piers"].Column("Code").(*table.Texts)
	link := func(set, key string, row int32) string {
		to := tables[set].Link(key).Rows[row]
		if to < 0 {
			return ""
		}
		return codes.Dict.Value(codes.Codes[to])
	}
	require.Equal(t, []string{"a'b", "Ünder", "", ""}, []string{
		link("moorings", "pier", int32(first)), link(
			"moorings", "second_pier", int32(first),
		), link("moorings", "pier", int32(1-first)), link("moorings", "second_pier", int32(1-first))})
	for row := range int32(3) { // a link to itself, and one to its own record
		want := map[string]string{"Ünder": "a'b", "ghost": "ghost", "a'b": ""}[codes.Dict.Value(codes.Codes[row])]
		require.Equal(t, want, link("Piers", "twin", row))
	}
}

// Tables of one name in two schemas are two record sets, and every link leads to the table
// that it is declared for.
func TestEveryTableIsKnownBySchemaAndName(t *testing.T) {
	url := pgtest.Database(t)
	conn := connect(t, url)
	_, err := conn.Exec(t.Context(), `
CREATE SCHEMA old;
CREATE TABLE old.coins (code text PRIMARY KEY, "écart_max" numeric(30,12));
INSERT INTO old.coins VALUES ('EUR', 1000.000000000999), ('GBP', 1000.000000001);
CREATE TABLE tolls (id int PRIMARY KEY, label text);
INSERT INTO tolls VALUES (1, 'new one'), (2, 'new two');
CREATE TABLE old.tolls (id int PRIMARY KEY, label text, coin text REFERENCES old.coins, paid numeric(8,2));
COMMENT ON COLUMN old.tolls.paid IS 'What was paid. (money, coin)';
INSERT INTO old.tolls VALUES (1, 'old one', 'EUR', 5), (2, 'old two', 'GBP', 6);
CREATE TABLE keyless (n int UNIQUE);
INSERT INTO keyless VALUES (7);
CREATE TABLE boats (id int PRIMARY KEY, toll_id int REFERENCES old.tolls, toll numeric(6,2) UNIQUE, berth int REFERENCES keyless(n));
INSERT INTO boats VALUES (1, 2, 1, 7), (2, 1, 2.5, NULL);
CREATE TABLE stays (id int PRIMARY KEY, boat numeric(9,4) REFERENCES boats(toll));
INSERT INTO stays VALUES (1, 2.5), (2, 1);`)
	require.NoError(t, err)
	l, err := Load(t.Context(), Database(url, "public", "old"), Settings{Zone: "UTC"})
	require.NoError(t, err)
	require.Equal(t, "Tolls", l.Catalog.Set("tolls").Label)
	old := l.Catalog.Set("old_tolls")
	require.Equal(
		t, [3]string{"Tolls (Old)", "toll (Old)", "tolls (Old)"}, [3]string{old.Label, old.One, old.Many},
	)
	require.Equal(t, "coin.code", old.Field("paid").CurrencyBy, "a link may lead to the currency")
	text := func(set, key string, row int32) string {
		c := l.Snapshot.Tables[set].Column(key).(*table.Texts)
		return c.Dict.Value(c.Codes[row])
	}
	boats := l.Snapshot.Tables["boats"]
	for row, id := range boats.Column("id").(*table.Numbers).Values {
		require.Equal(
			t, map[int64]string{1: "old two", 2: "old one"}[id],
			text("old_tolls", "label", boats.Link("toll_id").Rows[row]),
		)
	}
	require.Equal(t, "old_tolls", boats.Link("toll_id").To)
	require.Equal(t, "keyless", boats.Link("berth").To, "a key need not be the primary one")
	notices := strings.Join(l.Catalog.Notices, "\n")
	require.Contains(t, notices, "1 values of coins.écart_max have too many digits to keep")
	require.Equal(t, "Écart max", l.Catalog.Set("coins").Field("écart_max").Label)
	stays := l.Snapshot.Tables["stays"]
	for row, id := range stays.Column("id").(*table.Numbers).Values { // keys of different scales
		to := stays.Link("boat").Rows[row]
		require.Equal(t, 3-id, boats.Column("id").(*table.Numbers).Values[to])
	}
}

// Several databases are loaded side by side; a table keeps the key that its record set had,
// whatever comes beside it later.
func TestTablesOfSeveralDatabasesKeepTheirKeys(t *testing.T) {
	main, billing := pgtest.Database(t), pgtest.Database(t)
	for url, sql := range map[string]string{
		main: "CREATE TABLE tolls (id int PRIMARY KEY); INSERT INTO tolls VALUES (1)",
		billing: `CREATE SCHEMA ledger; CREATE TABLE ledger.tolls (no int PRIMARY KEY);
			INSERT INTO ledger.tolls VALUES (1), (2); CREATE TABLE ledger.dues (no int REFERENCES ledger.tolls, secret text);
			CREATE TABLE ledger.hushed (no int); CREATE USER reader PASSWORD 'reader';
			GRANT USAGE ON SCHEMA ledger TO reader; GRANT SELECT ON ledger.tolls TO reader;
			GRANT SELECT (no) ON ledger.dues TO reader`,
	} {
		_, err := connect(t, url).Exec(t.Context(), sql)
		require.NoError(t, err)
	}
	_, rest, _ := strings.Cut(billing, "@")
	sources := []Source{
		{URL: main, Schemas: []string{"public"}},
		{Name: "billing", URL: "postgres://reader:reader@" + rest, Schemas: []string{"ledger"}},
	}
	l, err := Load(t.Context(), sources, Settings{Zone: "UTC"})
	require.NoError(t, err)
	require.Equal(t, 1, l.Snapshot.Tables["tolls"].Rows)
	require.Equal(t, 2, l.Snapshot.Tables["billing_tolls"].Rows)
	require.Equal(t, "Tolls (Billing)", l.Catalog.Set("billing_tolls").Label)
	require.Equal(t, "billing_tolls", l.Snapshot.Tables["dues"].Link("no").To)
	require.Equal(t, [2]string{"", "billing"}, [2]string{l.Catalog.Sources[0].Name, l.Catalog.Sources[1].Name})
	notices := strings.Join(l.Catalog.Notices, "\n")
	require.Contains(t, notices, `billing: ledger.hushed may not be read by the user that Gavrik signs in to the database as. Allow it: GRANT`)
	require.Contains(t, notices, `The column secret of billing: ledger.dues may not be read`)

	// A table of the first schema takes the short name of another's.
	_, err = connect(t, main).Exec(t.Context(), "CREATE TABLE dues (id int PRIMARY KEY)")
	require.NoError(t, err)
	later, err := Load(t.Context(), sources, Settings{Zone: "UTC", Keys: l.Keys})
	require.NoError(t, err)
	require.Equal(t, "dues", later.Keys[TableName{"billing", "ledger", "dues"}])
	require.Equal(t, "public_dues", later.Keys[TableName{"", "public", "dues"}])

	sources[1].URL = "postgres://nobody@127.0.0.1:1/x"
	_, err = Load(t.Context(), sources, Settings{})
	require.ErrorContains(t, err, "source billing: no database answers at 127.0.0.1:1")
}

func TestWrongDatabasesAreNamedInWords(t *testing.T) {
	url := pgtest.Database(t)
	for given, want := range map[string]string{
		"nonsense": "the database URL cannot be read; write it as postgres://",
		"postgres://postgres:x@127.0.0.1:1/postgres":                   "no database answers at 127.0.0.1:1; check the host and the port",
		url[:strings.LastIndex(url, "/")] + "/nowhere?sslmode=disable": `refuses the connection: database "nowhere" does not exist; check the user, the password and the database name "nowhere"`,
		strings.Replace(
			url, "//postgres:", "//postgres:not", 1,
		): "refuses the connection: password authentication failed",
	} {
		_, err := Load(t.Context(), Database(given, "public"), Settings{})
		require.ErrorContains(t, err, want, given)
	}
	_, err := Load(t.Context(), Database(url, "harbour"), Settings{Zone: "UTC"})
	require.ErrorContains(
		t, err, `the database has no schema "harbour"; it has public: choose one with --schema`,
	)
}

// Numerics of any shape keep their digits; PostgreSQL's own encoder says how they
// travel.
func TestNumericsDecodeExactly(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		scale := rapid.IntRange(0, 9).Draw(t, "scale")
		v := rapid.OneOf(rapid.Int64Range(-100_000, 100_000), rapid.Int64()).Draw(t, "v")
		// Written with trailing zeros taken away or put on, it is the same number.
		n := pgtype.Numeric{Int: big.NewInt(v), Exp: int32(-scale), Valid: true}
		b, err := pgtype.NewMap().Encode(pgtype.NumericOID, pgtype.BinaryFormatCode, n, nil)
		require.NoError(t, err)
		got, ok := decodeNumeric(b, scale)
		if v == table.Blank {
			require.False(t, ok && got != table.Blank)
			return
		}
		require.True(t, ok)
		require.Equal(t, v, got)
		if scale > 0 { // a digit too many is never cut off
			got, ok = decodeNumeric(b, scale-1)
			require.Equal(t, v%10 == 0, ok)
			require.True(t, !ok || got == v/10)
		}
		if scale < 9 && v < 1<<58 && v > -1<<58 {
			got, ok = decodeNumeric(b, scale+1)
			require.True(t, ok)
			require.Equal(t, 10*v, got)
		}
	})
	notANumber := binary.BigEndian.AppendUint16(make([]byte, 4), 0xC000)
	_, ok := decodeNumeric(append(notANumber, 0, 0), 2)
	require.False(t, ok)
}

// A stream cut anywhere gives the same rows.
func TestCopyStreamMayBeCutAnywhere(t *testing.T) {
	stream := []byte(copyHeader + strings.Repeat("\x00", 8))
	for i := range 5 {
		stream = append(stream, 0, 2, 0, 0, 0, 8)
		stream = binary.BigEndian.AppendUint64(stream, uint64(i))
		if i%2 == 0 {
			stream = append(stream, 0xff, 0xff, 0xff, 0xff)
		} else {
			stream = append(stream, 0, 0, 0, 3, 'a', 'b', byte('0'+i))
		}
	}
	stream = append(stream, 0xff, 0xff)
	for cut := range stream {
		r := &copyReader{builders: []builder{newInts(), newTexts()}}
		for _, piece := range [][]byte{stream[:cut], stream[cut:]} {
			n, err := r.Write(piece)
			require.NoError(t, err)
			require.Equal(t, len(piece), n)
		}
		require.Equal(t, 5, r.rows)
		require.Equal(t, []int64{0, 1, 2, 3, 4}, r.builders[0].column().(*table.Numbers).Values)
		require.Equal(t, 3, r.builders[1].column().Blanks())
	}
	_, err := (&copyReader{}).Write([]byte("HTTP/1.1 400 Bad Request, not a copy"))
	require.ErrorIs(t, err, errCopy)
	_, err = (&copyReader{builders: []builder{newInts()}, started: true}).Write([]byte{0, 1, 0, 0, 0, 1, 7})
	require.ErrorIs(t, err, errLength)
}
