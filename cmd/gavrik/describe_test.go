package main

import (
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

// What is said about records goes to a file and comes back; a view that is run sees it, with the facts.
func TestDescriptionsTravelAsAFile(t *testing.T) {
	url := ferry(t)
	state, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	defer state.Close()
	require.NoError(t, demo.Populate(t.Context(), state, people.NewDesk(state), time.Now()))
	describe := func(args ...string) (string, error) {
		return gavrik(t, t.Context(), append([]string{"describe", "--database-url", url, "--schema", "ferry"}, args...)...)
	}
	first, err := describe("--export", "-")
	require.NoError(t, err)
	require.Contains(t, first, `"label": "Distance"`)
	require.Contains(t, first, `"sensitive": true`)
	path := filepath.Join(t.TempDir(), "records.json")
	_, err = describe("--export", path)
	require.NoError(t, err)
	text, err := os.ReadFile(path)
	require.NoError(t, err)
	require.Equal(t, first, string(text))
	out, err := describe("--import", path)
	require.NoError(t, err)
	require.Equal(t, "Nothing is said otherwise.\n", out)

	changed := file(t, "changed.json", strings.ReplaceAll(first, `"label": "Distance"`, `"label": "Miles", "type": "whole"`))
	out, err = describe("--import", changed, "--check")
	require.NoError(t, err)
	require.Contains(t, out, `routes: fields.distance_nm.label is "Miles"`)
	again, err := describe("--export", "-")
	require.NoError(t, err)
	require.Equal(t, first, again, "a check writes nothing")
	_, err = describe("--import", changed)
	require.NoError(t, err)
	view := file(t, "v.json", `{"gavrik":1,"records":"routes","columns":[{"field":"distance_nm","totals":[{"fn":"filled"}]}]}`)
	out, err = gavrik(t, t.Context(), "run", view, "--database-url", url, "--schema", "ferry")
	require.NoError(t, err)
	require.True(t, strings.HasPrefix(out, "Miles\n"), out)
	docks := file(t, "d.json", `{"gavrik":1,"records":"vessels","columns":[{"field":"dry_dock"}],"filter":{"field":"dry_dock","op":"filled"}}`)
	out, err = gavrik(t, t.Context(), "run", docks, "--database-url", url, "--schema", "ferry")
	require.NoError(t, err)
	require.Len(t, strings.Split(strings.TrimSpace(out), "\n"), 5)

	// What the file does not say is set back; a mark is taken away only where it says so.
	out, err = describe("--import", file(t, "empty.json", `{"gavrik":1,"sets":{"customers":{"fields":{"email":{"sensitive":false}}}}}`))
	require.NoError(t, err)
	require.Contains(t, out, "routes: fields.distance_nm.label is as the database has it")
	require.Contains(t, out, "customers: fields.email.sensitive is false")

	for text, want := range map[string]string{
		`{"gavrik":1,"sets":{"ports":{"fields":{"code":{"labell":"X"}}}}}`: `unknown field "labell"`,
		`{"gavrik":9,"sets":{}}`:             "this program reads version 1",
		`{"gavrik":1,"sets":{"ports":null}}`: `nothing is said about "ports"`,
		`no JSON`:                            "is no description of records",
	} {
		_, err := describe("--import", file(t, "bad.json", text))
		require.ErrorContains(t, err, want)
	}
	_, err = describe("--check", "--import", file(t, "wrong.json", `{"gavrik":1,"sets":{"ports":{"fields":{"code":{"type":"date"}}},"gone":{"label":"X"}}}`))
	require.ErrorContains(t, err, "statements do not hold")
	require.ErrorContains(t, err, `There is no record set "gone" any more`)
	_, err = describe()
	require.ErrorContains(t, err, "say either --export FILE or --import FILE")
}

// A further database is named by a flag, and its schemas are chosen.
func TestSourcesAreFlags(t *testing.T) {
	url, billing := ferry(t), pgtest.Database(t)
	conn, err := records.Connect(t.Context(), billing)
	require.NoError(t, err)
	defer conn.Close(t.Context())
	_, err = conn.Exec(t.Context(), "CREATE SCHEMA ledger; CREATE TABLE ledger.dues (no int PRIMARY KEY); INSERT INTO ledger.dues VALUES (7)")
	require.NoError(t, err)
	view := file(t, "v.json", `{"gavrik":1,"records":"dues","columns":[{"field":"no"}]}`)
	run := func(args ...string) (string, error) {
		return gavrik(t, t.Context(), append([]string{"run", view, "--database-url", url, "--schema", "ferry"}, args...)...)
	}
	out, err := run("--source", "billing="+billing, "--schema", "billing:ledger")
	require.NoError(t, err)
	require.Equal(t, "No\n7\n", out)
	for _, c := range []struct {
		args []string
		want string
	}{
		{[]string{"--schema", "billing:ledger"}, `there is no --source of the name "billing"`},
		{[]string{"--source", "Billing=" + billing}, "its name in small letters"},
		{[]string{"--source", "a=" + billing + " a=" + billing}, `there are two sources "a"`},
		{[]string{"--source", "billing=" + billing, "--schema", "billing:nothing"}, `source billing: the database has no schema "nothing"`},
	} {
		_, err := run(c.args...)
		require.ErrorContains(t, err, c.want)
	}
}
