package export

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// ofTexts is a view of records that hold one text and one picture each, grouped by the text.
func ofTexts(t require.TestingT, texts []string, pictures []string) Source {
	set := &catalog.RecordSet{Key: "notes", Label: "Notes", One: "note", Many: "notes", Fields: []catalog.Field{
		{Key: "text", Label: "Text", Type: catalog.Text}, {Key: "sketch", Label: "Sketch", Type: catalog.Picture},
	}}
	tb := table.New("notes", len(texts))
	for i, values := range [][]string{texts, pictures} {
		dict, codes := table.NewDictBuilder(), make([]uint32, len(values))
		for j, v := range values {
			codes[j] = dict.CodeOf(v)
		}
		tb.Add(set.Fields[i].Key, dict.Build(codes))
	}
	c := &catalog.Catalog{Sets: []*catalog.RecordSet{set}}
	doc := &view.Document{Gavrik: 1, Records: "notes", Columns: []view.Column{{Field: "text"}, {Field: "sketch"}}}
	p, err := plan.Check(doc, c, calendar.Calendar{})
	require.NoError(t, err)
	res, err := engine.New(
		&table.Snapshot{Tables: map[string]*table.Table{"notes": tb}}, c, engine.Options{},
	).Run(context.Background(), p)
	require.NoError(t, err)
	return Source{Result: res, Document: doc, Set: set}
}

// Separated values come back as they went, whatever stands in them; guarded ones begin with
// nothing that a spreadsheet would run.
func TestSeparatedValuesComeBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		texts := rapid.SliceOfN(rapid.StringMatching(`[-=+@\t"',;|a\n é€Ł]{0,6}`), 1, 8).Draw(t, "texts")
		separator := rapid.SampledFrom([]Separator{"comma", "semicolon", "tab"}).Draw(t, "separator")
		guard := rapid.Bool().Draw(t, "guard")
		var b bytes.Buffer
		require.NoError(t, Write(context.Background(), &b, ofTexts(t, texts, make([]string, len(texts))), Options{
			Format: "csv", Separator: separator, Guard: guard, Columns: []string{"text"}, Encoding: "utf-8-marked",
		}))
		text, marked := strings.CutPrefix(b.String(), "\ufeff")
		require.True(t, marked)
		// A lone empty value makes an empty line, which readers pass over.
		r := csv.NewReader(strings.NewReader(text))
		r.Comma = separators[separator]
		rows, err := r.ReadAll()
		require.NoError(t, err)
		var want [][]string
		for _, s := range append([]string{"Text"}, texts...) {
			if guard && s != "" && strings.ContainsRune("=+-@\t\n", rune(s[0])) {
				s = "'" + s
			}
			if s != "" {
				want = append(want, []string{s})
			}
		}
		require.Equal(t, want, rows)
	})
}

func TestWhatAnEncodingHasNot(t *testing.T) {
	var b bytes.Buffer
	source := ofTexts(t, []string{"Łódź – 3 €"}, []string{""})
	require.NoError(t, Write(t.Context(), &b, source, Options{Format: "csv", Encoding: "windows-1252", Columns: []string{"text"}}))
	require.Equal(t, "Text\n?\xf3d? \x96 3 \x80\n", b.String())
}

// A page runs nothing and asks nobody, whatever stands in the records.
func TestAPageHoldsNothingForeign(t *testing.T) {
	var b bytes.Buffer
	png := "data:image/png;base64,iVBORw0KGgo="
	source := ofTexts(
		t, []string{"<script>alert(1)</script>", `"><img src=x>`, "kept"},
		[]string{"https://elsewhere.example/x.png", `data:image/svg+xml,<svg onload="x">`, png},
	)
	source.Title = "<b>Notes</b>"
	for _, rows := range []Rows{AsLaid, ByRecord} {
		b.Reset()
		require.NoError(t, Write(t.Context(), &b, source, Options{Format: "html", Rows: rows}))
		page := b.String()
		for _, foreign := range []string{"<script", "<img src=x", "elsewhere.example", "onload", "<b>Notes"} {
			require.NotContains(t, page, foreign)
		}
		require.Contains(t, page, "&lt;script&gt;alert(1)")
		require.Equal(t, 1, strings.Count(page, "<img"))
		require.Contains(t, page, `src="`+png+`"`)
	}
}

// failing takes so many bytes, like a disk that is nearly full.
type failing struct{ left int }

var errFull = errors.New("no space left")

func (f *failing) Write(p []byte) (int, error) {
	if f.left -= len(p); f.left < 0 {
		return 0, errFull
	}
	return len(p), nil
}

// A full disk and a reader that goes away end an export with that, in every format.
func TestExportsEndWithTheirCause(t *testing.T) {
	texts := make([]string, 5000)
	for i := range texts {
		texts[i] = strings.Repeat("note ", 20) + string(rune('a'+i%26))
	}
	source := ofTexts(t, texts, make([]string, len(texts)))
	gone, cancel := context.WithCancel(t.Context())
	cancel()
	for _, f := range formats {
		for _, rows := range f.Rows {
			o := Options{Format: f.Key, Rows: rows}
			require.ErrorIs(t, Write(t.Context(), &failing{5}, source, o), errFull, "%s %s", f.Key, rows)
			if rows != ByGroup { // of one group
				require.ErrorIs(t, Write(gone, io.Discard, source, o), context.Canceled, "%s %s", f.Key, rows)
			}
		}
	}
}

// What does not fit into a sheet goes on in the next, each with its headings, and nothing is lost.
func TestRowsGoOnInFurtherSheets(t *testing.T) {
	texts := make([]string, 25)
	for i := range texts {
		texts[i] = strings.Repeat("=", i%3) + string(rune('a'+i))
	}
	b := newWorkbook(ofTexts(t, texts, make([]string, len(texts))))
	b.most = 11
	sheet, err := Records(t.Context(), b.source.Result).Only([]string{"text"})
	require.NoError(t, err)
	require.NoError(t, b.rows(sheet, Options{}))
	var file bytes.Buffer
	b.file.SetZipWriter(straight(&file))
	_, err = b.file.WriteToBuffer()
	require.NoError(t, err)
	book, err := excelize.OpenReader(&file)
	require.NoError(t, err)
	require.Equal(t, []string{"Notes", "Notes 2", "Notes 3"}, book.GetSheetList())
	var got []string
	for _, name := range book.GetSheetList() {
		rows, err := book.GetRows(name)
		require.NoError(t, err)
		require.Equal(t, []string{"Text"}, rows[0])
		for i, row := range rows[1:] {
			got = append(got, row[0])
			formula, err := book.GetCellFormula(name, cellName(1, i+2))
			require.NoError(t, err)
			require.Empty(t, formula, "a text is never a formula")
		}
	}
	require.Equal(t, texts, got)
	require.Equal(t, []int{1, 1, 2}, []int{Pages(0), Pages(sheetRows - 1), Pages(sheetRows)})
}
