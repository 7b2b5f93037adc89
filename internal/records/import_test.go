package records

import (
	"context"
	"fmt"
	"io"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/localpg/pgtest"
	"gavrik/internal/store"
)

// What is wrong with one line is said of that line, and costs no other.
func TestBadLinesCostNoOthers(t *testing.T) {
	url := pgtest.Database(t)
	conn := connect(t, url)
	state, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	defer state.Close()
	aside := func() []string {
		rows, _ := conn.Query(t.Context(), "SELECT line || ': ' || reason FROM gavrik.set_aside ORDER BY line")
		out, err := pgx.CollectRows(rows, pgx.RowTo[string])
		require.NoError(t, err)
		return out
	}
	many := strings.Repeat("X,\"a \"\"good\"\" one\",1\n", 50)
	file := "Ref,Note,Weight\n" + many +
		"B,\"opened and not closed,2\n" + many + // and a later line has marks of its own
		"C,\"two\nlines\",3\n" +
		"D,\"" + strings.Repeat("long ", 300_000) + "\",4\n" +
		"E,\"the last, unclosed,5\n"
	// a stream, as a pipe is
	rep, err := Import(t.Context(), conn, io.MultiReader(strings.NewReader(file)), ImportOptions{
		File: "notes.csv",
	})
	require.NoError(t, err)
	require.Equal(t, []int{101, 3}, []int{rep.Rows, rep.SetAside})
	require.Equal(t, []string{
		"52: a quotation mark is opened and not closed", "105: the line is longer than 1024 KB",
		"106: a quotation mark is opened and not closed",
	}, aside())
	var note string
	require.NoError(
		t, conn.QueryRow(t.Context(), "SELECT note FROM gavrik_files.notes WHERE ref = 'C'").Scan(&note),
	)
	require.Equal(t, "two\nlines", note)

	// Lines that end in a carriage return alone.
	rep, err = Import(t.Context(), conn, strings.NewReader("Ref,Weight\rA,1\rB,2\r"), ImportOptions{
		File: "old.csv",
	})
	require.NoError(t, err)
	require.Equal(t, []int{2, 0}, []int{rep.Rows, rep.SetAside})

	// A row that the database does not take is found and kept aside.
	im := &importer{
		o: ImportOptions{File: "checked.csv"}, names: []string{"n"},
		kinds: []kind{{"whole", "bigint CHECK (n % 97 <> 3)", kinds[1].parse}}, comma: ',',
		incoming: "incoming_checked", report: &Report{Table: "checked"},
	}
	var numbers strings.Builder
	for i := range 500 {
		fmt.Fprintln(&numbers, i)
	}
	require.NoError(t, pgx.BeginFunc(t.Context(), conn, func(tx pgx.Tx) error {
		require.NoError(t, im.createTable(t.Context(), tx))
		require.NoError(t, im.copyRows(t.Context(), tx, strings.NewReader(numbers.String())))
		return im.settleTable(t.Context(), tx)
	}))
	require.Equal(t, []int{494, 6}, []int{im.report.Rows, im.report.SetAside})
	require.Contains(t, im.report.Rejects[0].Reason, "the database does not take it: new row for relation")
	require.Equal(t, "3", im.report.Rejects[0].Content)
}

// What can be read in two ways is asked about; one value that cannot decides, wherever in
// the file it stands.
func TestNumbersThatCanBeReadTwice(t *testing.T) {
	for given, want := range map[string]string{
		"1.234 2.345": "text", "1,234 2,345": "text", "1.234 12.5": "decimal", "1,234 12,5": commaKind,
		"1.234,50 7,00": commaKind, "1,234.50": "decimal", "1234 17": "whole", "0.125": "decimal",
	} {
		k, note := guess(strings.Fields(given))
		require.Equal(t, want, k.name, given)
		if want == "text" {
			require.Contains(t, note, "it could be any of: decimal, "+commaKind+"; say which with --type")
		}
	}
	v, err := parseComma("-1.234.567,89")
	require.NoError(t, err)
	require.Equal(t, "-1234567.89", v)

	url := pgtest.Database(t)
	conn := connect(t, url)
	state, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	defer state.Close()
	file, err := os.CreateTemp(t.TempDir(), "*.csv")
	require.NoError(t, err)
	rows := strings.Repeat("A,1\n", 400_000) + strings.Repeat("B,about a ton\n", 400_000)
	_, err = file.WriteString("Ref,Weight\n" + rows)
	require.NoError(t, err)
	_, err = file.Seek(0, io.SeekStart)
	require.NoError(t, err)
	rep, err := Import(t.Context(), conn, file, ImportOptions{File: "weights.csv"})
	require.NoError(t, err)
	require.Equal(t, "text", rep.Columns[1].Type, "the second half of the file is looked at, too")
	require.Equal(t, 800_000, rep.Rows)
}

// A record set that is being replaced can be read until the last moment.
func TestReplacingHoldsNobodyUp(t *testing.T) {
	url := pgtest.Database(t)
	conn, reader := connect(t, url), connect(t, url)
	state, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	defer state.Close()
	_, err = Import(t.Context(), conn, strings.NewReader("a\n1\n"), ImportOptions{File: "f.csv"})
	require.NoError(t, err)
	im := &importer{
		o: ImportOptions{File: "f.csv", Replace: true}, names: []string{"a"}, kinds: []kind{kinds[1]}, comma: ',',
		incoming: "incoming_f", report: &Report{Table: "f"},
	}
	require.NoError(t, pgx.BeginFunc(t.Context(), conn, func(tx pgx.Tx) error {
		require.NoError(t, im.createTable(t.Context(), tx))
		require.NoError(t, im.copyRows(t.Context(), tx, strings.NewReader("2\n3\n")))
		ctx, cancel := context.WithTimeout(t.Context(), 20*time.Second)
		defer cancel()
		var n int
		require.NoError(t, reader.QueryRow(ctx, "SELECT count(*) FROM gavrik_files.f").Scan(&n))
		require.Equal(t, 1, n, "the old rows are there while the new ones come in")
		return im.settleTable(t.Context(), tx)
	}))
	var n int
	require.NoError(t, reader.QueryRow(t.Context(), "SELECT count(*) FROM gavrik_files.f").Scan(&n))
	require.Equal(t, 2, n)
}

// Rows that are written well are read back as they were, whatever stands in them.
func TestRowsAreReadAsWritten(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		width := rapid.IntRange(1, 4).Draw(t, "width")
		var want [][]string
		var text strings.Builder
		for range rapid.IntRange(0, 8).Draw(t, "rows") {
			fields := rapid.SliceOfN(
				rapid.SampledFrom([]string{"", "a", "b c", "x\"y", "two\nlines", "a,b", "\"", "é"}), width, width,
			).Draw(t, "row")
			quoted := make([]string, width)
			for i, f := range fields {
				quoted[i] = `"` + strings.ReplaceAll(f, `"`, `""`) + `"`
				if !strings.ContainsAny(f, "\",\n") && f != "" && rapid.Bool().Draw(t, "bare") {
					quoted[i] = f
				}
			}
			text.WriteString(strings.Join(quoted, ",") + rapid.SampledFrom([]string{"\n", "\r\n"}).Draw(t, "end"))
			want = append(want, fields)
		}
		rows := (&importer{comma: ','}).rowsOf(strings.NewReader(text.String()))
		rows.fields = width
		var got [][]string
		for {
			r, err := rows.next()
			if err == io.EOF {
				break
			}
			require.NoError(t, err)
			require.NoError(t, r.err, "%q", text.String())
			got = append(got, r.fields)
		}
		require.Equal(t, want, got, "%q", text.String())
	})
}
