package incoming

import (
	"context"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/localpg/pgtest"
	"gavrik/internal/records/files"
	"gavrik/internal/store"
)

var utc = calendar.Calendar{Zone: time.UTC}

func connected(t *testing.T) *pgx.Conn {
	url := pgtest.Database(t)
	state, err := store.Open(t.Context(), url) // rows that are kept aside lie there
	require.NoError(t, err)
	state.Close()
	conn, err := pgx.Connect(t.Context(), url)
	require.NoError(t, err)
	t.Cleanup(func() { _ = conn.Close(context.Background()) })
	return conn
}

func opened(t require.TestingT, text string) *files.File {
	f, err := files.Open(context.Background(), io.NewSectionReader(strings.NewReader(text), 0, int64(len(text))), "f.csv", files.Settings{Separator: ",", Heading: 1})
	require.NoError(t, err)
	return f
}

func field(key string, t catalog.Type, way string) files.RecipeField {
	return files.RecipeField{Heading: key, Key: key, Label: key, Type: t, Way: way}
}

func asked(t require.TestingT, conn *pgx.Conn, sql string) (out []string) {
	rows, _ := conn.Query(context.Background(), sql) // CollectRows returns its error
	out, err := pgx.CollectRows(rows, pgx.RowTo[string])
	require.NoError(t, err)
	return out
}

func within(t require.TestingT, conn *pgx.Conn, do func(tx pgx.Tx) error) {
	require.NoError(t, pgx.BeginFunc(context.Background(), conn, do))
}

// Values of every type lie in the database as they were written.
func TestValuesAsWritten(t *testing.T) {
	conn := connected(t)
	rapid.Check(t, func(t *rapid.T) {
		decimal := rapid.StringMatching(`-?(0|[1-9][0-9]{0,8})(\.[0-9]{1,9})?`)
		row := []string{
			rapid.StringMatching(`[a-zé]{1,9}`).Draw(t, "text"), fmt.Sprint(rapid.Int64Range(-999999999999999999, 999999999999999999).Draw(t, "whole")),
			decimal.Draw(t, "decimal"), decimal.Draw(t, "money"), decimal.Draw(t, "percent"),
			rapid.StringMatching(`[12][0-9]{3}-(0[1-9]|1[0-2])-(0[1-9]|1[0-9]|2[0-8])`).Draw(t, "day"),
			rapid.StringMatching(`20[0-9]{2}-0[1-9]-1[0-9] ([01][0-9]|2[0-3]):[0-5][0-9]:[0-5][0-9](\.[0-9]{1,6})?`).Draw(t, "moment"),
			rapid.StringMatching(`-?[0-9]{1,4}:[0-5][0-9]:[0-5][0-9]`).Draw(t, "took"), rapid.SampledFrom([]string{"yes", "no", ""}).Draw(t, "open"),
		}
		f := opened(t, "a,b,c,d,e,f,g,h,i\n"+strings.Join(row, ",")+"\n")
		r := &files.Recipe{Fields: []files.RecipeField{
			field("a", catalog.Text, ""), field("b", catalog.Whole, ""), field("c", catalog.Decimal, "point"), field("d", catalog.Money, "point"),
			field("e", catalog.Percent, "point"), field("f", catalog.Date, "iso"), field("g", catalog.DateTime, "iso"),
			field("h", catalog.Duration, ""), field("i", catalog.YesNo, ""),
		}}
		report, err := Stage(context.Background(), conn, "written", f, r, utc, &Progress{})
		require.NoError(t, err)
		require.Equal(t, 1, report.Rows, "%v", report.Rejects)
		literals := make([]string, len(row))
		for i, kind := range []string{"text", "bigint", "numeric", "numeric", "numeric", "date", "timestamp", "interval", "boolean"} {
			literals[i] = fmt.Sprintf("nullif('%s', '')::%s", row[i], kind)
		}
		if _, cents, _ := strings.Cut(row[3], "."); len(cents) < 2 { // amounts have cents
			literals[3] += "(20,2)"
		}
		literals[6] += " AT TIME ZONE 'UTC'"
		columns := strings.Split("abcdefghi", "")
		for i, c := range columns {
			// Text for text: a decimal keeps the zeros that it was written with.
			require.Equal(t, []string{"true"}, asked(t, conn, fmt.Sprintf(
				"SELECT (%s::text IS NOT DISTINCT FROM (%s)::text)::text FROM gavrik_incoming.written", c, literals[i])), "%s: %s", c, row[i])
		}
	})
}

// What a later file changes is what is told of before, and what a reader of both files would say.
func TestLaterFiles(t *testing.T) {
	conn := connected(t)
	type record struct{ price, note string }
	draw := func(t *rapid.T, name string) map[string]record {
		out := map[string]record{}
		for _, key := range rapid.SliceOfNDistinct(rapid.SampledFrom(strings.Split("abcdefgh", "")), 1, 8, rapid.ID).Draw(t, name) {
			out[key] = record{rapid.SampledFrom([]string{"", "1.50", "2.00", "7"}).Draw(t, "price"), rapid.SampledFrom([]string{"", "x", "y"}).Draw(t, "note")}
		}
		return out
	}
	rapid.Check(t, func(t *rapid.T) {
		old, fresh := draw(t, "old"), draw(t, "fresh")
		bad := rapid.SampledFrom([]string{"", "a", "h"}).Draw(t, "bad") // its row cannot be taken
		noted, repeated := rapid.Bool().Draw(t, "noted"), rapid.Bool().Draw(t, "repeated")
		remove := rapid.Bool().Draw(t, "remove")
		before := &files.Recipe{By: []string{"ref"}, Fields: []files.RecipeField{
			field("ref", catalog.Text, ""), field("price", catalog.Decimal, "point"), field("note", catalog.Text, ""),
		}}
		var text strings.Builder
		text.WriteString("ref,price,note\n")
		for _, key := range slices.Sorted(maps.Keys(old)) {
			fmt.Fprintf(&text, "%s,%s,%s\n", key, old[key].price, old[key].note)
		}
		_, err := Stage(context.Background(), conn, "first", opened(t, text.String()), before, utc, &Progress{})
		require.NoError(t, err)
		within(t, conn, func(tx pgx.Tx) error { return Put(context.Background(), tx, "first", "things", "f.csv", before) })

		// The later file: perhaps without notes, perhaps with a row that is wrong and one twice.
		after := *before
		text.Reset()
		text.WriteString("ref,price" + map[bool]string{true: ",note"}[noted] + "\n")
		if !noted {
			after.Fields = before.Fields[:2]
		}
		line := func(key string, r record) {
			text.WriteString(key + "," + r.price + map[bool]string{true: "," + r.note}[noted] + "\n")
		}
		delete(fresh, bad)
		for _, key := range slices.Sorted(maps.Keys(fresh)) {
			line(key, fresh[key])
			if repeated {
				line(key, record{"99", "twice"})
			}
		}
		if bad != "" {
			line(bad, record{"much", ""})
		}
		report, err := Stage(context.Background(), conn, "later", opened(t, text.String()), &after, utc, &Progress{})
		require.NoError(t, err)
		require.Equal(t, len(fresh), report.Rows)
		d, err := Compare(context.Background(), conn, "later", "things", before, &after)
		require.NoError(t, err)

		want := maps.Clone(old)
		var news, changed, same, missing int
		for key, r := range fresh {
			was, there := old[key]
			if !noted {
				r.note = was.note
			}
			want[key] = r
			switch {
			case !there:
				news++
			case number(was.price) != number(r.price) || was.note != r.note:
				changed++
			default:
				same++
			}
		}
		for key := range old {
			if _, there := fresh[key]; !there && key != bad {
				missing++
				if remove {
					delete(want, key)
				}
			}
		}
		require.Equal(t, []int{news, changed, same, missing}, []int{d.New, d.Changed, d.Same, d.Missing})
		within(t, conn, func(tx pgx.Tx) error {
			_, err := Update(context.Background(), tx, "later", "things", "f.csv", before, &after, remove)
			return err
		})
		lines := []string{}
		for _, key := range slices.Sorted(maps.Keys(want)) {
			lines = append(lines, key+" "+number(want[key].price)+" "+want[key].note)
		}
		require.Equal(t, lines, asked(t, conn, "SELECT concat(ref, ' ', trim_scale(price), ' ', note) FROM gavrik_files.things ORDER BY ref"))
	})
}

// number writes equal numbers alike.
func number(s string) string {
	return strings.TrimSuffix(strings.TrimSuffix(strings.TrimSuffix(s, "0"), "0"), ".")
}

// Until a file is brought in, the old records are there for all, and a file that is given up or cannot
// be read leaves nothing behind.
func TestTheOldStaysUntilTheNewIsWhole(t *testing.T) {
	conn := connected(t)
	r := &files.Recipe{By: []string{"n"}, Fields: []files.RecipeField{field("n", catalog.Whole, "")}}
	_, err := Stage(t.Context(), conn, "first", opened(t, "n\n1\n2\n"), r, utc, &Progress{})
	require.NoError(t, err)
	within(t, conn, func(tx pgx.Tx) error { return Put(t.Context(), tx, "first", "numbers", "f.csv", r) })

	reader, err := pgx.Connect(t.Context(), conn.Config().ConnString())
	require.NoError(t, err)
	defer reader.Close(t.Context())
	_, err = Stage(t.Context(), conn, "later", opened(t, "n\n3\n"), r, utc, &Progress{})
	require.NoError(t, err)
	require.Equal(t, []string{"1", "2"}, asked(t, reader, "SELECT n::text FROM gavrik_files.numbers"))
	given := errors.New("it is given up")
	require.ErrorIs(t, pgx.BeginFunc(t.Context(), conn, func(tx pgx.Tx) error {
		_, err := Update(t.Context(), tx, "later", "numbers", "f.csv", r, r, true)
		require.NoError(t, err)
		return given
	}), given)
	require.Equal(t, []string{"1", "2"}, asked(t, reader, "SELECT n::text FROM gavrik_files.numbers"))
	within(t, conn, func(tx pgx.Tx) error {
		_, err := Update(t.Context(), tx, "later", "numbers", "f.csv", r, r, true)
		return err
	})
	require.Equal(t, []string{"3"}, asked(t, reader, "SELECT n::text FROM gavrik_files.numbers"))

	// A server that is killed while it reads: its connection ends, and with it what it has read.
	dying, err := pgx.Connect(t.Context(), conn.Config().ConnString())
	require.NoError(t, err)
	long := "n\n" + strings.Repeat("7\n", 2_000_000)
	p := &Progress{}
	done := make(chan error, 1)
	go func() {
		_, err := Stage(context.Background(), dying, "dying", opened(t, long), r, utc, p)
		done <- err
	}()
	require.Eventually(t, func() bool { return p.Rows.Load() > 0 }, 20*time.Second, time.Millisecond)
	require.Len(t, asked(t, conn, fmt.Sprintf("SELECT pg_terminate_backend(%d)::text", dying.PgConn().PID())), 1)
	require.Error(t, <-done)
	require.Empty(t, asked(t, conn, "SELECT relname::text FROM pg_class WHERE relname LIKE 'dying%'"))

	// More than a bound of rows that do not fit end the reading, with the first of them.
	_, err = Stage(t.Context(), conn, "wrong", opened(t, "n\n"+strings.Repeat("x\n", maxAside+1)), r, utc, &Progress{})
	var said *Error
	require.True(t, errors.As(err, &said))
	require.Contains(t, said.Why, `more than 100000 rows do not fit, the first of them line 2: n cannot be read: "x" is not a whole number`)

	// A type that became wider, and one that cannot.
	wider := &files.Recipe{By: []string{"n"}, Fields: []files.RecipeField{field("n", catalog.Whole, ""), field("m", catalog.Text, "")}}
	require.NoError(t, Fits(r, wider))
	require.ErrorContains(t, Fits(wider, &files.Recipe{By: []string{"n"}, Fields: []files.RecipeField{
		field("n", catalog.Whole, ""), field("m", catalog.Date, "iso"),
	}}), "“m” is text so far and cannot become a date")
	require.ErrorContains(t, Fits(&files.Recipe{}, r), "have no key")
}
