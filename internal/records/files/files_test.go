package files

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"
	"time"

	"github.com/parquet-go/parquet-go"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/reading"
)

var utc = calendar.Calendar{Zone: time.UTC}

func open(text string, s Settings) (*File, error) {
	return Open(context.Background(), io.NewSectionReader(strings.NewReader(text), 0, int64(len(text))), "a file.csv", s)
}

// all reads a file to its end.
func all(t require.TestingT, f *File) (rows []Row) {
	in, err := f.Rows(context.Background())
	require.NoError(t, err)
	defer in.Close()
	for {
		row, err := in.Next()
		if errors.Is(err, io.EOF) {
			return rows
		}
		require.NoError(t, err)
		rows = append(rows, row)
	}
}

// What is written in any format and encoding is read back as it was, whatever stands in it.
func TestRowsAreReadAsWritten(t *testing.T) {
	words := []string{"", "a", "b c", `x"y`, "two\nlines", "a,b", "a;b", `"`, "é", "Größe", "12", "0.5", "2026-11-23", " tab\tbed"}
	writers := map[string]func(*rapid.T, [][]string) string{
		"comma":  func(t *rapid.T, rows [][]string) string { return separated(t, rows, ',', `"`) },
		"semi":   func(t *rapid.T, rows [][]string) string { return separated(t, rows, ';', `"`) },
		"utf-16": func(t *rapid.T, rows [][]string) string { return utf16(separated(t, rows, '\t', `"`)) },
		"1252":   func(t *rapid.T, rows [][]string) string { return latin(separated(t, rows, ',', `"`)) },
		"lines":  jsonLines, "workbook": workbookOf, "parquet": parquetOf,
	}
	for name, write := range writers {
		t.Run(name, rapid.MakeCheck(func(t *rapid.T) {
			width := rapid.IntRange(2, 4).Draw(t, "width")
			rows := [][]string{[]string{"First", "Second", "Third", "Fourth"}[:width]}
			for range rapid.IntRange(1, 8).Draw(t, "rows") {
				row := rapid.SliceOfN(rapid.SampledFrom(words), width, width).Draw(t, "row")
				row[0] = "é" + row[0] // no row is blank, and the encoding can be told
				rows = append(rows, row)
			}
			text := write(t, rows)
			f, err := open(text, Settings{Heading: map[bool]int{true: 1}[name != "lines" && name != "parquet"]})
			require.NoError(t, err)
			require.Equal(t, rows[0], f.Headings)
			var got [][]string
			for _, row := range all(t, f) {
				require.NoError(t, row.Wrong, "%q", text)
				got = append(got, row.Cells)
			}
			require.Equal(t, rows[1:], got, "%q", text)
		}))
	}
}

func separated(t *rapid.T, rows [][]string, comma rune, _ string) string {
	var b strings.Builder
	w := csv.NewWriter(&b)
	w.Comma, w.UseCRLF = comma, rapid.Bool().Draw(t, "returns")
	for _, row := range rows {
		// A carriage return before each line feed would change what is within quotation marks.
		w.UseCRLF = w.UseCRLF && !strings.Contains(strings.Join(row, ""), "\n")
		require.NoError(t, w.Write(row))
	}
	w.Flush()
	return b.String()
}

func utf16(text string) string {
	out, _ := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewEncoder().String(text) // its letters all have codes
	return out
}

func latin(text string) string {
	out, _ := charmap.Windows1252.NewEncoder().String(text) // its letters all have codes
	return out
}

func jsonLines(t *rapid.T, rows [][]string) string {
	var b strings.Builder
	for i, row := range rows[1:] {
		one := "{"
		for j, cell := range row {
			if cell == "" && i > 0 && rapid.Bool().Draw(t, "absent") {
				continue
			}
			text, _ := json.Marshal(cell)
			if one != "{" {
				one += ", "
			}
			one += fmt.Sprintf("%q: %s", rows[0][j], text)
		}
		b.WriteString(one + "}\n")
	}
	return b.String()
}

func workbookOf(t *rapid.T, rows [][]string) string {
	book := excelize.NewFile()
	for i, row := range rows {
		for j, cell := range row {
			at, err := excelize.CoordinatesToCellName(j+1, i+1)
			require.NoError(t, err)
			if cell != "" {
				require.NoError(t, book.SetCellStr("Sheet1", at, cell))
			}
		}
	}
	var b bytes.Buffer
	require.NoError(t, book.Write(&b))
	return b.String()
}

func parquetOf(t *rapid.T, rows [][]string) string {
	group := parquet.Group{}
	var names []string
	for _, name := range rows[0] {
		group[name] = parquet.Optional(parquet.String())
	}
	schema := parquet.NewSchema("rows", group)
	for _, c := range schema.Columns() {
		names = append(names, c[0])
	}
	var b bytes.Buffer
	w := parquet.NewGenericWriter[map[string]any](&b, schema)
	for _, row := range rows[1:] {
		one := map[string]any{}
		for j, cell := range row {
			if cell != "" {
				one[rows[0][j]] = cell
			}
		}
		_, err := w.Write([]map[string]any{one})
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	// A group has its columns in the order of their names.
	for i, row := range rows {
		sorted := make([]string, len(row))
		for j, name := range names {
			for k, heading := range []string{"First", "Second", "Third", "Fourth"}[:len(row)] {
				if heading == name {
					sorted[j] = row[k]
				}
			}
		}
		rows[i] = sorted
	}
	return b.String()
}

// What is wrong with one line is said of that line, and costs no other.
func TestBadLinesCostNoOthers(t *testing.T) {
	many := strings.Repeat("X,\"a \"\"good\"\" one\",1\n", 50)
	f, err := open("Ref,Note,Weight\nÉ,ééé,0\n"+many+
		"B,\"opened and not closed,2\n"+many+ // and a later line has marks of its own
		"C,\"two\nlines\",3\n"+
		"D,\""+strings.Repeat("long ", 300_000)+"\",4\n"+
		"E,short\nF,\xff\xfe,5\n"+
		"G,\"the last, unclosed,5\n", Settings{})
	require.NoError(t, err)
	var wrong []string
	good := 0
	for _, row := range all(t, f) {
		switch {
		case row.Wrong != nil:
			wrong = append(wrong, fmt.Sprint(row.Line, ": ", row.Wrong))
		case row.Broken != nil:
			wrong = append(wrong, fmt.Sprint(row.Line, ": ", row.Broken))
		default:
			good++
		}
	}
	require.Equal(t, 102, good)
	require.Equal(t, []string{
		"53: a quotation mark is opened and not closed", "106: the line is longer than 1024 KB",
		"107: 2 fields, not 3 as in the heading line", "108: map[1:is not in UTF-8]", "109: a quotation mark is opened and not closed",
	}, wrong)

	f, err = open("Ref,Weight\rA,1\rB,2\r", Settings{}) // lines that end in a carriage return alone
	require.NoError(t, err)
	require.Len(t, all(t, f), 2)
}

// A spreadsheet's dates, percentages, durations, truths and errors come as people see them, its
// numbers with the digits that it shows.
func TestCellsOfSpreadsheets(t *testing.T) {
	book := excelize.NewFile()
	_, err := book.NewSheet("Prices 2026")
	require.NoError(t, err)
	style := func(format string) int {
		id, err := book.NewStyle(&excelize.Style{CustomNumFmt: &format})
		require.NoError(t, err)
		return id
	}
	day, moment, clock, share, euro := style("dd/mm/yyyy"), style("yyyy-mm-dd hh:mm"), style("[h]:mm"), style("0.0%"), style(`#,##0.00 "days"`)
	set := func(at string, value any, style int) {
		require.NoError(t, book.SetCellValue("Prices 2026", at, value))
		require.NoError(t, book.SetCellStyle("Prices 2026", at, at, style))
	}
	require.NoError(t, book.MergeCell("Prices 2026", "A1", "C1"))
	set("A1", "All prices", 0)
	for i, heading := range []string{"Day", "Moment", "Took", "Share", "Price", "Open", "Sum"} {
		at, _ := excelize.CoordinatesToCellName(i+1, 3) // in range
		set(at, heading, 0)
	}
	set("A4", 46349.0, day)
	set("B4", 46349.604166666664, moment)
	set("C4", 1.5625, clock)
	set("D4", 0.125, share)
	set("E4", 1.1000000000000001, euro)
	set("F4", true, 0)
	require.NoError(t, book.SetCellFormula("Prices 2026", "G4", "1/0"))
	set("A5", 59.0, day) // the false leap day of 1900 stands behind it
	set("H9", "far out", 0)
	var b bytes.Buffer
	require.NoError(t, book.Write(&b))
	text := b.String()
	f, err := open(text, Settings{Sheet: "Prices 2026"})
	require.NoError(t, err)
	require.Equal(t, []string{"Sheet1", "Prices 2026"}, f.Sheets)
	require.Equal(t, 3, f.Heading, "a title stands above the headings")
	rows := all(t, f)
	require.Equal(t, []string{"2026-11-23", "2026-11-23 14:30:00", "37:30:00", "12.5%", "1.1", "yes"}, rows[0].Cells[:6])
	require.Equal(t, "1900-02-28", rows[1].Cells[0])
	require.EqualError(t, rows[2].Wrong, "8 fields, not 7 as in the heading line")

	// A heading over two columns fills one; years may be headings; a file may have none.
	for text, want := range map[string]int{
		"Port;Berths;Dues;;Since\n;;Day;Night;\nANS;4;120;150;2026-01-02\n": 1, "2024;2025\n1;2\n": 1, "A title\n\nRef;Due\nA;1\n": 3,
		"Ref;Due;On\nA;;\nB;;\n": 1,
	} {
		f, err := open(text, Settings{Separator: ";"})
		require.NoError(t, err)
		require.Equal(t, want, f.Heading, text)
	}
	bare, err := open("A;1\nB;2\n", Settings{Heading: NoHeading})
	require.NoError(t, err)
	require.Equal(t, []string{"Column 1", "Column 2"}, bare.Headings)
	require.Len(t, all(t, bare), 2)

	for code, want := range map[string]cellStyle{
		"General": plainNumber, "0.00": plainNumber, `"day" 0`: plainNumber, `[Red]0.0`: plainNumber, "mmm yy": aDay, "h:mm AM/PM": aClock,
		"mm:ss": aClock, "[mm]:ss": aClock, "d.m.yy h:mm": aMoment, "0%": aPercent, `\d0`: plainNumber, "yyyy-mm-dd;@": aDay,
	} {
		require.Equal(t, want, styleOf(code), code)
	}
	s := &sheetRows{book: &workbook{}}
	text, fault, err := s.text(&cellAt{kind: "e", value: built("#N/A")})
	require.NoError(t, err)
	require.Equal(t, []string{"#N/A", "is no value: the formula came to #N/A"}, []string{text, fault})
}

func built(s string) (b strings.Builder) {
	b.WriteString(s)
	return b
}

// A Parquet file's logical types come as texts; lists and groups are left out, and told of.
func TestColumnsOfParquet(t *testing.T) {
	type row struct {
		Ref   string    `parquet:"ref"`
		On    int32     `parquet:"on,date"`
		At    time.Time `parquet:"at,timestamp(microsecond)"`
		Price int64     `parquet:"price,decimal(2:12)"`
		Open  bool      `parquet:"open"`
		Wind  float32   `parquet:"wind"`
		Tags  []string  `parquet:"tags"`
		Where struct {
			X float64 `parquet:"x"`
		} `parquet:"where"`
		Last *int64 `parquet:"last,optional"`
	}
	var b bytes.Buffer
	one := row{Ref: "A", On: 20780, At: time.Date(2026, 11, 23, 14, 30, 0, 5000, time.UTC), Price: -1205, Open: true, Wind: 9.1, Tags: []string{"x", "y"}}
	w := parquet.NewGenericWriter[row](&b)
	_, err := w.Write([]row{one, {Ref: "B", Price: 7}})
	require.NoError(t, err)
	require.NoError(t, w.Close())
	f, err := open(b.String(), Settings{})
	require.NoError(t, err)
	require.Equal(t, []string{"ref", "on", "at", "price", "open", "wind", "last"}, f.Headings)
	require.Equal(t, []string{"Left out, because they hold lists or groups: tags, where."}, f.Notices)
	rows := all(t, f)
	require.Equal(t, []string{"A", "2026-11-23", "2026-11-23T14:30:00.000005Z", "-12.05", "true", "9.1", ""}, rows[0].Cells)
	require.Equal(t, "0.07", rows[1].Cells[3])
	for cut := range len(b.String()) / 7 {
		if g, err := open(b.String()[:7*cut], Settings{}); err == nil { // what is damaged is refused, in words
			if in, err := g.Rows(t.Context()); err == nil {
				for err == nil {
					_, err = in.Next()
				}
			}
		} else {
			var said *FileError
			require.ErrorAs(t, err, &said)
		}
	}
}

func TestFilesThatCannotBeTaken(t *testing.T) {
	zipped := func(name, content string) string {
		var b bytes.Buffer
		w := zip.NewWriter(&b)
		part, err := w.Create(name)
		require.NoError(t, err)
		_, err = part.Write([]byte(content))
		require.NoError(t, err)
		require.NoError(t, w.Close())
		return b.String()
	}
	wide := excelize.NewFile()
	for i := range 10_000 {
		at, _ := excelize.CoordinatesToCellName(i+1, 1) // in range
		require.NoError(t, wide.SetCellStr("Sheet1", at, fmt.Sprint("c", i)))
	}
	var wideText bytes.Buffer
	require.NoError(t, wide.Write(&wideText))
	for given, want := range map[string]string{
		"": "the file is empty", " \n \n": "the file is empty", "\x01\x02\x00\x00": "this is a binary file",
		"PK\x03\x04\x00\x00": "the spreadsheet is damaged", zipped("a.txt", "x"): "this is a ZIP archive and no spreadsheet",
		zipped("xl/workbook.xml", "<workbook"): "is damaged", "PAR1xxxx": "the Parquet file is damaged",
		"\xd0\xcf\x11\xe0xxx": "the old format, or one with a password", "[{\"a\": 1}]": "this is one JSON list",
		strings.Repeat("one line ", 300_000): "the heading line cannot be read: the line is longer than 1024 KB", "{ \n": "no line of the file is a JSON object", "\"a": "the heading line cannot be read",
		strings.Repeat("x,", 600) + "x\n": "names 601 fields; at most 500", wideText.String(): "names 10000 fields; at most 500",
	} {
		_, err := open(given, Settings{})
		require.ErrorContains(t, err, want, "%.40q", given)
	}
}

// A spreadsheet that unpacks to far more than it is does not fill the memory.
func TestZipBombs(t *testing.T) {
	book := excelize.NewFile()
	require.NoError(t, book.SetCellStr("Sheet1", "A1", "Ref"))
	var b bytes.Buffer
	require.NoError(t, book.Write(&b))
	in, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
	require.NoError(t, err)
	bomb := func(bombed string, head string) string {
		var out bytes.Buffer
		w := zip.NewWriter(&out)
		for _, part := range in.File {
			to, err := w.Create(part.Name)
			require.NoError(t, err)
			if part.Name == bombed {
				_, err = to.Write([]byte(head))
				require.NoError(t, err)
				_, err = io.CopyN(to, zeros{}, 200<<20)
				require.NoError(t, err)
				continue
			}
			from, err := part.Open()
			require.NoError(t, err)
			_, err = io.Copy(to, from)
			require.NoError(t, err)
		}
		require.NoError(t, w.Close())
		return out.String()
	}
	_, err = open(bomb("xl/worksheets/sheet1.xml", "<worksheet><sheetData><row r=\"1\"><c r=\"A1\"><v>"), Settings{})
	require.ErrorContains(t, err, "is longer than 1024 KB")
	_, err = open(bomb("xl/sharedStrings.xml", "<sst><si><t>"), Settings{})
	require.ErrorContains(t, err, "is longer than 1024 KB")
	_, err = open(bomb("xl/styles.xml", "<styleSheet>"), Settings{})
	require.ErrorContains(t, err, "unpacks to 200 MB; at most 16 MB")
}

type zeros struct{}

func (zeros) Read(p []byte) (int, error) {
	for i := range p {
		p[i] = '0'
	}
	return len(p), nil
}

// A file with everything that has to be recognised.
func TestALook(t *testing.T) {
	text := "\xef\xbb\xbfList of the day\r\n\r\nRef;Landed On;Weight, kg;Price EUR;Fresh;Zip;When;line;Either\r\n" +
		"A1;2026-01-02;12.5;1,50;yes;01234;2026-01-02 10:00;1;3/4/2026\r\n" +
		"A2;2026-01-03;\"1,007.125\";2,00;no;01235;2026-01-02 10:30:15;2;5/6/2026\n" +
		strings.Repeat("B;2026-02-01;3;7,25;no;99999;2026-01-02 11:00;3;1/2/2026\n", 60) +
		"A3;soon;3;1,00;yes;1;2026-01-02 10:00;4;\n" + // no date
		"A4;2026-01-05\n" + // short
		";2026-01-05;1;1,00;yes;1;;4;\n" + // no key
		";;;;;;;;\n" // blanks only
	f, err := open(text, Settings{})
	require.NoError(t, err)
	look, err := f.Look(t.Context(), nil, utc)
	require.NoError(t, err)
	require.Equal(t, Settings{Format: Separated, Encoding: UTF8, Separator: ";", Heading: 3}, look.File.Settings)
	var got []string
	for i, field := range look.Recipe.Fields {
		got = append(got, fmt.Sprint(field.Key, " “", field.Label, "” ", field.Type, ":", field.Way, " ", field.Currency, " ", look.Fields[i].Misfits))
	}
	require.Equal(t, []string{
		"ref “Ref” text:  0", "landed_on “Landed On” date:iso  1", "weight_kg “Weight, kg” decimal:point  0",
		"price “Price” money:comma EUR 0", "fresh “Fresh” yesno:words  0", "zip “Zip” text:  0", "when “When” datetime:iso  0",
		"line_2 “Line” whole:whole  0", "either “Either” text:  0",
	}, got)
	require.Equal(t, []Misfit{{66, "soon", `cannot be read: "soon" is not a date written as 2026-11-23`}}, look.Fields[1].Examples)
	require.Equal(t, []reading.As{{Type: catalog.Date, Way: "day/month/year"}, {Type: catalog.Date, Way: "month/day/year"}}, look.Fields[8].Open)
	require.Equal(t, []int{65, 2}, []int{look.Rows, look.Aside})

	r := *look.Recipe
	r.By, r.Fields[8].Type, r.Fields[8].Way = []string{"ref"}, catalog.Date, "month/day/year"
	look, err = f.Look(t.Context(), &r, utc)
	require.NoError(t, err)
	require.Equal(t, []int{3, 59}, []int{look.Aside, look.Repeats})
	require.Equal(t, "Ref is blank, and should tell the record from others", look.Rejects[2].Reason)
	require.Empty(t, look.Fields[8].Open)

	for what, wrong := range map[string]func(*Recipe){
		"Two fields are called":     func(r *Recipe) { r.Fields[1].Label = "ref" },
		"is no key":                 func(r *Recipe) { r.Fields[1].Key = "ref" },
		"cannot be written in":      func(r *Recipe) { r.Fields[1].Way = "comma" },
		"no field that comes in":    func(r *Recipe) { r.Fields[0].Out = true },
		"is no currency":            func(r *Recipe) { r.Fields[3].Currency = "EURO" },
		"Every column is left out":  func(r *Recipe) { r.Fields, r.By = nil, nil },
		"Give the column “Ref” a n": func(r *Recipe) { r.Fields[0].Label = " " },
	} {
		bad := r
		bad.Fields = append([]RecipeField{}, r.Fields...)
		wrong(&bad)
		require.ErrorContains(t, bad.Check(), what)
	}
}

// What was set aside is read again as it was, once nothing is wrong with it.
func TestRowsSetAsideAreReadAgain(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		words := []string{"", "a", `x"y`, "two\nlines", "a,b", "a;b", `"`, "é", "12"}
		cells := rapid.SliceOfN(rapid.SampledFrom(words), 3, 3).Draw(t, "cells")
		cells[0] = "r" + cells[0]
		headings := []string{"A", "B", "C"}
		s := rapid.SampledFrom([]Settings{
			{Format: Separated, Separator: ";"}, {Format: Separated, Separator: "\t"}, {Format: Workbook}, {Format: Parquet}, {Format: JSONLines},
		}).Draw(t, "settings")
		row := Row{Line: 7, Cells: cells}
		if s.Format == JSONLines {
			row.Raw = strings.TrimSpace(jsonLines(t, [][]string{headings, cells}))
		}
		again, err := Again(Content(row, s), headings, s)
		require.NoError(t, err)
		require.NoError(t, again.Wrong)
		require.Equal(t, cells, again.Cells)
	})
	_, err := Again(" \n", []string{"A"}, Settings{Format: Separated})
	require.EqualError(t, err, "there is nothing in it")
	long := Content(Row{Cells: []string{strings.Repeat("é", maxContent)}}, Settings{Format: Separated, Separator: ","})
	require.True(t, strings.HasSuffix(long, TooLong))
}

// Of a large file, rows from all over it are looked at; and a later file of another format is read as
// its values are written.
func TestLargeAndLaterFiles(t *testing.T) {
	var text strings.Builder
	text.WriteString("Ref,Weight,Note\n")
	for i := 0; text.Len() <= wholly; i++ {
		weight := "1.5"
		if i > 2_200_000 { // in the last part
			weight = "about a ton"
		}
		fmt.Fprintf(&text, "R%d,%s,\n", i, weight)
	}
	f, err := open(text.String(), Settings{})
	require.NoError(t, err)
	look, err := f.Look(t.Context(), nil, utc)
	require.NoError(t, err)
	require.Equal(t, []any{false, lookedRows - places + 1, catalog.Text}, []any{look.Whole, look.Rows, look.Recipe.Fields[1].Type})

	first, err := open("Ref;Price EUR;On;Left\nA;1,50;1.2.2026;2\nB;2,50;2.2.2026;4\n", Settings{})
	require.NoError(t, err)
	look, err = first.Look(t.Context(), nil, utc)
	require.NoError(t, err)
	ways := func(l *Look) (out []string) {
		for _, field := range l.Recipe.Fields {
			out = append(out, field.Way)
		}
		return out
	}
	require.Equal(t, []string{"", "comma", "day.month.year", "whole"}, ways(look))
	lines, err := open(`{"Ref": "A", "Price EUR": 1.125, "On": "2026-02-01"}`+"\n", Settings{})
	require.NoError(t, err)
	later, err := lines.Look(t.Context(), look.Recipe, utc)
	require.NoError(t, err)
	require.Equal(t, []string{"", "point", "iso", "whole"}, ways(later))
	require.True(t, later.Recipe.Fields[3].Out, "what the file does not have stays as it is")
	require.Zero(t, later.Aside)
	// And back, where a date can be read in two ways: it is asked about.
	back, err := open("Ref;Price EUR;On\nA;1,50;3/4/2026\n", Settings{})
	require.NoError(t, err)
	again, err := back.Look(t.Context(), later.Recipe, utc)
	require.NoError(t, err)
	require.Equal(t, []string{"", "comma", "day/month/year"}, ways(again)[:3])
	require.Len(t, again.Fields[2].Open, 2)
}

// One value that can be read in one way only decides for all, wherever in the file it stands.
func TestALateValueDecides(t *testing.T) {
	f, err := open("Ref,Weight\n"+strings.Repeat("A,1\n", 100_000)+strings.Repeat("B,about a ton\n", 100_000), Settings{})
	require.NoError(t, err)
	look, err := f.Look(t.Context(), nil, utc)
	require.NoError(t, err)
	require.Equal(t, catalog.Text, look.Recipe.Fields[1].Type)
	for given, want := range map[string]reading.As{
		"1.234 2.345": {Type: catalog.Text}, "1.234 12.5": {Type: catalog.Decimal, Way: "point"}, "1,234 12,5": {Type: catalog.Decimal, Way: "comma"},
		"1.234,50 7,00": {Type: catalog.Decimal, Way: "comma"}, "1234 17": {Type: catalog.Whole, Way: "whole"},
		"-12 +7 999999999999999999": {Type: catalog.Whole, Way: "whole"}, "12345678901234567890": {Type: catalog.Text},
		"Yes no TRUE f": {Type: catalog.YesNo, Way: "words"}, "2026-02-30": {Type: catalog.Text}, "31.1.2026 01.02.2026": {Type: catalog.Date, Way: "day.month.year"},
		"2026-01-31T10:00:59 2026-01-31T10:00:00+02:00": {Type: catalog.DateTime, Way: "iso"}, "": {Type: catalog.Text},
		"7 7 7 7 7 7 7 seven": {Type: catalog.Whole, Way: "whole"}, "7 7 7 7 7 7 six seven": {Type: catalog.Text},
		"01234 17": {Type: catalog.Text}, "5% 7.5%": {Type: catalog.Percent, Way: "point"}, "0 1": {Type: catalog.Whole, Way: "whole"},
		"3/4/2026 13/4/2026": {Type: catalog.Date, Way: "day/month/year"},
	} {
		require.Equal(t, want, reading.Guessed(strings.Fields(given), utc).As, given)
	}
}
