package main

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/internal/localpg/pgtest"
	"gavrik/internal/people"
	"gavrik/internal/records"
	"gavrik/internal/store"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

// gavrik runs a command line and returns what it prints.
func gavrik(t *testing.T, ctx context.Context, args ...string) (string, error) {
	t.Helper()
	var out bytes.Buffer
	cmd := root()
	cmd.SetArgs(args)
	cmd.SetOut(&out)
	err := cmd.ExecuteContext(ctx)
	return out.String(), err
}

func ferry(t *testing.T) string {
	t.Helper()
	url := pgtest.Database(t)
	conn, err := records.Connect(t.Context(), url)
	require.NoError(t, err)
	defer conn.Close(context.Background())
	_, err = demo.Ensure(t.Context(), conn, time.Now().UTC(), demo.Size{
		Sailings: 600, Customers: 500, Bookings: 3000, Claims: 400,
	})
	require.NoError(t, err)
	return url
}

func file(t *testing.T, name, text string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
	return path
}

func TestRunPrintsRecordsTotalsAndJSON(t *testing.T) {
	url := ferry(t)
	doc := file(t, "claims.json", `{"gavrik":1,"records":"claims","columns":[{"field":"ref"},{"field":"claimed","totals":[{"fn":"sum"},{"fn":"average"}]}],
		"groups":[{"field":"category"},{"field":"opened_at","unit":"year"}],"sort":[{"field":"ref"}]}`)
	flags := []string{"--database-url", url, "--schema", "ferry"}
	out, err := gavrik(t, t.Context(), append([]string{"run", doc}, flags...)...)
	require.NoError(t, err)
	rows, err := csv.NewReader(strings.NewReader(out)).ReadAll()
	require.NoError(t, err)
	require.Equal(t, []string{"Category", "Year opened", "Ref", "Claimed"}, rows[0])
	require.Len(t, rows, 401)

	out, err = gavrik(t, t.Context(), append([]string{"run", doc, "--totals"}, flags...)...)
	require.NoError(t, err)
	rows, err = csv.NewReader(strings.NewReader(out)).ReadAll()
	require.NoError(t, err)
	require.Equal(t, []string{
		"level", "Category", "Year opened", "claims", "total claimed", "average claimed",
	}, rows[0])
	last := rows[len(rows)-1]
	require.Equal(t, []string{"0", "", "", "400"}, last[:4])

	out, err = gavrik(t, t.Context(), append([]string{"run", doc, "--totals", "--format", "json"}, flags...)...)
	require.NoError(t, err)
	var got struct {
		Brief     string
		All, Kept int
		Columns   []struct{ Heading, Type string }
		Rows      []map[string]any
	}
	decoder := json.NewDecoder(strings.NewReader(out))
	decoder.UseNumber()
	require.NoError(t, decoder.Decode(&got))
	require.Equal(
		t,
		"Claims, grouped by category then year opened, with total and average claimed, showing 2 columns, ref from A to Z.",
		got.Brief,
	)
	require.Len(t, got.Rows, len(rows)-1)
	for i, row := range rows[1:] { // the same digits, typed
		for j, heading := range rows[0] {
			want := any(row[j])
			if numeric := j != 1 && j != 2; row[j] == "" {
				want = nil
			} else if numeric {
				want = json.Number(row[j])
			}
			require.Equal(t, want, got.Rows[i][heading], "row %d, %s", i, heading)
		}
	}
	require.Equal(t, []int{400, 400}, []int{got.All, got.Kept})

	// A file is there as a whole or not at all.
	path := filepath.Join(t.TempDir(), "claims.xlsx")
	_, err = gavrik(t, t.Context(), append([]string{"run", doc, "--format", "xlsx", "--out", path}, flags...)...)
	require.NoError(t, err)
	book, err := os.ReadFile(path)
	require.NoError(t, err)
	require.Equal(t, "PK", string(book[:2]))
	require.NoError(t, os.Remove(path))
	_, err = gavrik(t, t.Context(), append([]string{
		"run", doc, "--format", "xlsx", "--rows", "records", "--columns", "nothing", "--out", path,
	}, flags...)...)
	require.ErrorContains(t, err, `there is no column "nothing"`)
	left, err := os.ReadDir(filepath.Dir(path))
	require.NoError(t, err)
	require.Empty(t, left)
}

// Groups across and the other side of a comparison become columns of their own.
func TestRunWritesCrosstabsAndComparisons(t *testing.T) {
	url := ferry(t)
	totals := func(doc string) [][]string {
		out, err := gavrik(
			t, t.Context(), "run", file(t, "v.json", `{"gavrik":1,"records":"claims",`+doc+`}`), "--totals",
			"--database-url", url, "--schema", "ferry",
		)
		require.NoError(t, err)
		rows, err := csv.NewReader(strings.NewReader(out)).ReadAll()
		require.NoError(t, err)
		return rows
	}
	rows := totals(`"columns":[{"field":"claimed","totals":[{"fn":"sum"},{"fn":"sum","show":"share_row"}]}],"groups":[{"field":"category"}],
		"across":[{"field":"status","top":1,"rest":"Others","order":{"by":"count","desc":true}}]`)
	require.Equal(t, []string{"level", "Category", "claims", "total claimed, Settled", "share of the line's total claimed, Settled", "total claimed, Others", "share of the line's total claimed, Others",
		"total claimed, all", "share of the line's total claimed, all"}, rows[0])
	for _, row := range rows[1:] {
		require.Equal(t, "100.00", row[len(row)-1])
	}
	rows = totals(`"columns":[{"field":"claimed","totals":[{"fn":"sum"}]},{"field":"ref","totals":[{"fn":"last","by":"opened_at"}]}],"groups":[{"field":"category"}],
		"filter":{"field":"status","op":"is","value":"Settled"},"compare":{"with":"filter","label":"every claim"}`)
	require.Equal(t, []string{"level", "Category", "claims", "claims, every claim", "total claimed", "total claimed, every claim", "total claimed, change", "total claimed, change in percent",
		"last ref by opened at", "last ref by opened at, every claim"}, rows[0], "texts have no change")
	last := rows[len(rows)-1]
	require.Equal(t, "400", last[3])
	require.True(t, strings.HasPrefix(last[6], "-"), "some claims are not settled: %s", last)
}

func TestMistakesOnTheCommandLine(t *testing.T) {
	url := pgtest.Database(t)
	doc := file(t, "v.json", `{"gavrik":1,"records":"claims","columns":[]}`)
	for _, l := range []struct {
		args []string
		want string
	}{
		{[]string{"run", "nowhere.json"}, "there is no file nowhere.json"},
		{[]string{"run", file(t, "x.json", "{oops")}, "x.json: line 1 is not valid JSON"},
		{[]string{"run", doc}, "name the database with --database-url"},
		{[]string{"run", doc, "--database-url", url}, `there is no record set "claims"`},
		{
			[]string{"run", doc, "--database-url", url, "--zone", "Mars/Olympus"},
			`there is no time zone "Mars/Olympus"`,
		},
		{
			[]string{"run", doc, "--database-url", url, "--week-start", "noday"},
			"a week starts on monday, sunday or saturday",
		},
		{[]string{"run", doc, "--database-url", url, "--fiscal-start", "13"}, "a month from 1 to 12, not 13"},
		{[]string{"import", "nowhere.csv"}, "nowhere.csv cannot be read"},
		{[]string{"import", file(t, "e.csv", ""), "--database-url", url}, "the file is empty"},
		{
			[]string{"person", "add", "x@marrowby.example", "--database-url", "nonsense"},
			"the database URL cannot be read",
		},
	} {
		_, err := gavrik(t, t.Context(), l.args...)
		require.ErrorContains(t, err, l.want, strings.Join(l.args, " "))
	}
	taken, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer taken.Close()
	_, err = gavrik(t, t.Context(), "serve", "--database-url", url, "--listen", taken.Addr().String())
	require.ErrorContains(
		t, err,
		"something else is serving on "+taken.Addr().String()+" already; stop it, or choose another port: --listen 127.0.0.1:",
	)
}

// Serve offers a database of one's own with an imported file in it, and stops
// when asked.
func TestServeOverADatabaseOfOnesOwn(t *testing.T) {
	url := ferry(t)
	_, err := gavrik(
		t, t.Context(), "import", file(t, "landings.csv", "Ref,Weight\nA,1.5\nB,x\nC,2.25\n"), "--database-url",
		url, "--type", "weight=decimal",
	)
	require.NoError(t, err)
	out, err := gavrik(
		t, t.Context(), "run",
		file(
			t, "l.json", `{"gavrik":1,"records":"landings","columns":[{"field":"weight","totals":[{"fn":"sum"}]}]}`,
		),
		"--database-url", url, "--totals",
	)
	require.NoError(t, err)
	require.Equal(t, "level,landings,total weight\n0,2,3.75\n", out)

	free, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	address := free.Addr().String()
	require.NoError(t, free.Close())
	ctx, stop := context.WithCancel(t.Context())
	ended := make(chan error, 1)
	go func() {
		_, err := gavrik(
			t, ctx, "serve", "--database-url", url, "--schema", "ferry", "--listen", address, "--refresh", "50ms",
		)
		ended <- err
	}()
	require.Eventually(t, func() bool {
		res, err := http.Get("http://" + address + "/healthz")
		if err != nil {
			return false
		}
		defer res.Body.Close()
		return res.StatusCode == http.StatusOK
	}, 20*time.Second, 50*time.Millisecond)
	stop()
	require.NoError(t, <-ended)
}

// A view that uses definitions runs where the database holds them, and says what is
// missing where it does not.
func TestRunUsesDefinitions(t *testing.T) {
	url := ferry(t)
	doc := file(
		t, "v.json",
		`{"gavrik":1,"records":"bookings","columns":[{"field":"fare_each","totals":[{"fn":"largest"}]}],"groups":[{"field":"channel"}]}`,
	)
	run := func() (string, error) {
		return gavrik(t, t.Context(), "run", doc, "--totals", "--database-url", url, "--schema", "ferry")
	}
	_, err := run()
	require.ErrorContains(t, err, `Bookings have no field "fare_each"`)
	state, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	defer state.Close()
	require.NoError(t, demo.Populate(t.Context(), state, people.NewDesk(state), time.Now()))
	out, err := run()
	require.NoError(t, err)
	require.Contains(t, out, "level,Channel,bookings,largest fare for each passenger\n")
	conn, err := records.Connect(t.Context(), url)
	require.NoError(t, err)
	defer conn.Close(context.Background())
	var most string
	require.NoError(
		t,
		conn.QueryRow(t.Context(), "SELECT max(round(fare / passengers, 2))::text FROM ferry.bookings").Scan(&most),
	)
	require.Contains(t, out, ","+most+"\n")
}

// A saved view is run by its name; its questions are answered, or waited for.
func TestRunASavedViewWithAnswers(t *testing.T) {
	url := ferry(t)
	state, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	defer state.Close()
	owner, err := state.AddPerson(t.Context(), store.Person{
		Email: "tamsin@marrowby.example", Name: "Tamsin Marlow", PasswordHash: "x",
	})
	require.NoError(t, err)
	doc := `{"gavrik":1,"records":"claims","columns":[],"filter":{"all":[{"field":"status","op":"one_of","ask":{"name":"status","label":"Which status?","required":true}},
		{"field":"claimed","op":"over","value":"50","ask":{"name":"amount","label":"Over how much?"}}]}}`
	_, err = state.AddView(t.Context(), owner, store.NewVersion{Name: "Asked claims", Document: []byte(doc)})
	require.NoError(t, err)
	run := func(args ...string) (string, error) {
		return gavrik(
			t, t.Context(),
			append([]string{
				"run", "Asked claims", "--totals", "--database-url", url, "--schema", "ferry",
			}, args...)...,
		)
	}
	_, err = run()
	require.ErrorContains(t, err, "“Which status?” waits for an answer; give it with --answer name=value")
	_, err = run("--answer", "stauts=Open")
	require.ErrorContains(t, err, `asks nothing called "stauts"; it asks status, amount`)
	conn, err := records.Connect(t.Context(), url)
	require.NoError(t, err)
	defer conn.Close(context.Background())
	for _, c := range []struct{ where, amount string }{{"claimed > 50", ""}, {"claimed > 80.5", "80.5"}} {
		args := []string{"--answer", "status=Refused\nWithdrawn"}
		if c.amount != "" {
			args = append(args, "--answer", "amount="+c.amount)
		}
		out, err := run(args...)
		require.NoError(t, err)
		var want string
		require.NoError(
			t,
			conn.QueryRow(
				t.Context(),
				"SELECT count(*)::text FROM ferry.claims WHERE status IN ('Refused', 'Withdrawn') AND "+c.where,
			).Scan(&want),
		)
		require.Equal(t, "level,claims\n0,"+want+"\n", out)
	}
	_, err = gavrik(t, t.Context(), "run", "No such view", "--database-url", url)
	require.ErrorContains(t, err, `neither a file nor a saved view called "No such view"`)
}
