package main

import (
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

// A file is looked at, brought in, and changed by a later one, which may be of another format.
func TestImportAndUpdate(t *testing.T) {
	url := ferry(t)
	list := file(t, "dues.csv", "Port,Dues EUR,Since\nANS,120.00,3/4/2026\nVEN,95.50,5/6/2026\nHAR,by agreement,5/6/2026\n"+
		"TAR,64,1/2/2026\nMUL,88,1/2/2026\nOXL,104,1/2/2026\nGAR,58,1/2/2026\nPEN,61.50,1/2/2026\n")
	run := func(args ...string) (string, error) {
		return gavrik(t, t.Context(), append([]string{"import", "--database-url", url}, args...)...)
	}
	out, err := run(list, "--check")
	require.NoError(t, err)
	require.Contains(t, out, `Dues EUR                     money:point, 1 do not fit, as "by agreement"`)
	require.Contains(t, out, "Since                        text, because it could be any of date:day/month/year, date:month/day/year; say which with --type")
	_, err = run(list, "--update")
	require.ErrorContains(t, err, `no file came in as "dues" yet`)
	out, err = run(list, "--as", "Harbour dues", "--key", "Port", "--type", "since=date:day/month/year")
	require.NoError(t, err)
	require.Contains(t, out, "line 4: Dues EUR cannot be read")
	require.Contains(t, out, "harbour_dues: 7 records, 1 rows kept aside")
	_, err = run(list, "--as", "Harbour dues")
	require.ErrorContains(t, err, `there are records called "harbour_dues" already; change them with --update`)

	book := excelize.NewFile()
	for i, row := range [][]any{{"Port", "Dues EUR"}, {"ANS", 125.5}, {"VEN", 95.5}, {"LIN", 70}} {
		require.NoError(t, book.SetSheetRow("Sheet1", "A"+string(rune('1'+i)), &row))
	}
	later := filepath.Join(t.TempDir(), "later.xlsx")
	require.NoError(t, book.SaveAs(later))
	out, err = run(later, "--as", "Harbour dues", "--update", "--missing", "remove")
	require.NoError(t, err)
	require.Contains(t, out, "1 new, 1 changed, 1 the same, 5 missing from the file")
	require.Contains(t, out, "harbour_dues: 3 records, 0 rows kept aside")
	out, err = gavrik(t, t.Context(), "run", file(t, "v.json", `{"gavrik":1,"records":"harbour_dues","columns":[{"field":"dues","totals":[{"fn":"sum"}]},{"field":"since"}]}`),
		"--database-url", url)
	require.NoError(t, err)
	require.Equal(t, "Dues,Since\n125.50,2026-04-03\n70.00,\n95.50,2026-06-05\n", out)

	for want, args := range map[string][]string{
		"there is no type": {"--type", "port=colour"}, "names the column \"Harbour\"": {"--key", "Harbour"},
		"name the records and their field": {"--link", "port=ports"}, "there is no encoding": {"--encoding", "morse"},
		"cannot part values": {"--separator", "x"}, "there is nothing in line 40": {"--heading", "40"},
	} {
		_, err := run(append([]string{list, "--as", "Wrong"}, args...)...)
		require.ErrorContains(t, err, want)
	}
	_, err = run(file(t, "words.csv", "N\nx\n"), "--type", "n=whole")
	require.ErrorContains(t, err, "nothing came in: all 1 rows do not fit")
}
