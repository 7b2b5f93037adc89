package api

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/test/harness"
)

// made is a file that was begun, once it is ready.
func (c *client) made(t *testing.T, body map[string]any) (id string, file answer) {
	t.Helper()
	begun := c.do("POST", "/api/exports", body)
	require.Equal(t, 201, begun.code, begun.text)
	id = begun.body["id"].(string)
	told := c.do("GET", "/api/exports/"+id+"/progress", nil)
	require.Contains(t, told.text, "event: ready", "it is told how it ends")
	return id, c.do("GET", "/api/exports/"+id+"/file", nil)
}

// A file is the same from the browser and for a program, is its maker's alone, and its leaving
// is written down.
func TestFilesLeaveTheSameWayForAll(t *testing.T) {
	g := harness.Start(t)
	tamsin, jory := person(t, g, 0), person(t, g, 1)
	doc := claims(map[string]any{
		"groups":  []any{map[string]any{"field": "category"}},
		"columns": []any{map[string]any{"field": "ref"}, map[string]any{"field": "claimed", "totals": []any{map[string]any{"fn": "sum"}}}},
	})
	saved := tamsin.do("POST", "/api/views", map[string]any{"name": "Claims = all", "document": doc})
	require.Equal(t, 201, saved.code, saved.text)
	token := tamsin.do("POST", "/api/tokens", map[string]any{"name": "sheet", "days": 1}).body["token"].(string)
	program := stranger(t, g)
	program.header["Authorization"] = "Bearer " + token
	address := "/api/views/" + saved.body["key"].(string) + "/result"
	for _, format := range []string{"csv", "json", "jsonl", "html", "parquet", "xlsx"} {
		_, file := tamsin.made(t, map[string]any{
			"name": "Claims = all", "view": doc, "options": map[string]any{"format": format},
		})
		require.Equal(t, 200, file.code)
		require.Contains(t, file.head.Get("Content-Disposition"), "Claims = all."+format)
		direct := program.do("GET", address+"?format="+format, nil)
		require.Equal(t, 200, direct.code)
		require.True(t, direct.text == file.text, "%s: the same bytes", format)
	}
	// A token of one view may stand in an address, and does nothing else.
	key := saved.body["key"].(string)
	jory.do("POST", "/api/tokens", map[string]any{"name": "x", "days": 9, "view": key}).refused(t, 404, "no such view")
	link := tamsin.do("POST", "/api/tokens", map[string]any{"name": "link", "days": 9, "view": key}).body["token"].(string)
	nobody := stranger(t, g)
	require.Equal(t, program.do("GET", address, nil).text, nobody.do("GET", address+"?token="+link, nil).text)
	nobody.do("GET", address+"?token="+token, nil).refused(t, 401, "not known")
	other := tamsin.do("POST", "/api/views", map[string]any{"name": "Other", "document": doc}).body["key"].(string)
	nobody.do("GET", "/api/views/"+other+"/result?token="+link, nil).refused(t, 401, "not known")
	nobody.header["Authorization"] = "Bearer " + link
	nobody.do("GET", "/api/views/"+other+"/result", nil).refused(t, 401, "not known")
	require.Equal(t, 200, nobody.do("GET", address, nil).code)

	trail := tamsin.do("GET", "/api/audit?what=exported", nil)
	require.Contains(t, trail.text, "view “Claims = all” as parquet, ")
	require.Contains(t, trail.text, "with Ref, Claimed, Category")

	id, _ := tamsin.made(t, map[string]any{"view": doc, "options": map[string]any{"format": "csv"}})
	jory.do("GET", "/api/exports/"+id+"/file", nil).refused(t, 404, "not there any more")
	jory.do("DELETE", "/api/exports/"+id, nil).refused(t, 404, "not there any more")
	require.Equal(t, 204, tamsin.do("DELETE", "/api/exports/"+id, nil).code)
	tamsin.do("GET", "/api/exports/"+id+"/file", nil).refused(t, 404, "not there any more")

	_, all := tamsin.made(t, map[string]any{
		"views": []any{saved.body["key"], saved.body["key"]}, "options": map[string]any{"format": "csv", "guard": true},
	})
	archive, err := zip.NewReader(strings.NewReader(all.text), int64(len(all.text)))
	require.NoError(t, err)
	require.Len(t, archive.File, 2)
	require.Equal(t, "Claims = all (2).csv", archive.File[1].Name)
	inside, err := archive.File[1].Open()
	require.NoError(t, err)
	text, err := io.ReadAll(inside)
	require.NoError(t, err)
	require.Equal(t, program.do("GET", address+"?people=true", nil).text, string(text))
	require.Equal(t, byte('C'), bytes.TrimSpace(text)[0])

	for want, options := range map[string]map[string]any{
		"There is no column \\\"claimd\\\"; did you mean \\\"claimed\\\"?": {"format": "xlsx", "rows": "records", "columns": []string{"claimd"}},
		"Parquet has no lines by \\\"ledger\\\"; use records, totals.":     {"format": "parquet", "rows": "ledger"},
	} {
		for _, path := range []string{"/api/exports", "/api/exports/preview"} {
			tamsin.do("POST", path, map[string]any{"view": doc, "options": options}).refused(t, 422, want)
		}
	}
	program.do("GET", address+"?format=parquet&rows=ledger", nil).refused(t, 422, "use records, totals")
	look := tamsin.do("POST", "/api/exports/preview", map[string]any{"view": doc, "options": map[string]any{"format": "csv"}})
	require.Equal(t, g.Ask(t, "SELECT count(*)::text FROM claims"), fmt.Sprint(look.body["lines"]))
	require.Equal(t, true, look.body["exact"])
}
