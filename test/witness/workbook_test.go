package witness

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"html"
	"io"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/engine/windows"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
	"gavrik/internal/export"
	"gavrik/internal/records"
)

// spreadsheets are views whose totals a spreadsheet is to work out; live are the columns, by
// their places among the heads, in which every group's figure is to be a formula.
var spreadsheets = []struct {
	name, view string
	live       []int
}{
	{"totals of records at two levels", `"groups":[{"field":"booking.sailing.route.name"},{"field":"opened_at","unit":"month"}],
		"columns":[{"field":"ref","totals":[{"fn":"filled"}]},
			{"field":"claimed","totals":[{"fn":"sum"},{"fn":"average"},{"fn":"smallest"},{"fn":"largest"},{"fn":"spread"},{"fn":"variance"},{"fn":"filled"}]},
			{"field":"opened_at","totals":[{"fn":"smallest"},{"fn":"largest"}]},{"field":"paid","totals":[{"fn":"sum"}]}]`,
		[]int{0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10}},
	{"what a spreadsheet cannot total stays a value", `"groups":[{"field":"category"},{"field":"status"}],
		"columns":[{"field":"claimed","totals":[{"fn":"median"},{"fn":"sum"}]},{"field":"paid","totals":[{"fn":"sum"},{"fn":"sum","show":"share_all"}]},
			{"field":"handler.name","totals":[{"fn":"distinct"}]},{"field":"booking.fare","totals":[{"fn":"sum"}]}]`, []int{2}},
	{"ratios of totals", `"calculated":[{"key":"owed","label":"Owed","formula":"1 - SUM(Paid) / SUM(Claimed)","unit":"percent","decimals":1},
			{"key":"mean","label":"Mean","formula":"SUM(Claimed) / COUNT(Claimed)"}],
		"groups":[{"field":"category"},{"field":"status"}],
		"columns":[{"field":"claimed","totals":[{"fn":"sum"}]},{"field":"paid","totals":[{"fn":"sum"}]},{"field":"owed"},{"field":"mean"}]`,
		[]int{0, 1, 2, 3}},
	{"durations add up past a day", `"groups":[{"field":"booking.sailing.vessel.name"}],"calculated":[{"key":"open","label":"Open","formula":"'Closed at' - 'Opened at'"}],
		"columns":[{"field":"open","totals":[{"fn":"sum"},{"fn":"average"}]},{"field":"booking.sailing.delay"}]`, []int{0, 1}},
	{"a crosstab", `"groups":[{"field":"category"},{"field":"status"}],"across":[{"field":"booking.channel"}],
		"columns":[{"field":"claimed","totals":[{"fn":"sum"},{"fn":"average"}]}]`, nil},
	{"a comparison", `"groups":[{"field":"category"}],"filter":{"field":"status","op":"is","value":"Settled"},"compare":{"with":"filter","label":"all"},
		"columns":[{"field":"claimed","totals":[{"fn":"sum"}]},{"field":"paid","totals":[{"fn":"average"}]}]`, []int{0, 2, 3}},
	{"no records", `"groups":[{"field":"category"}],"filter":{"field":"claimed","op":"over","value":"99999999"},
		"columns":[{"field":"claimed","totals":[{"fn":"sum"}]}]`, nil},
}

// A spreadsheet program that works the file out anew gets every total of Gavrik's, from the
// records that stand in it.
func TestSpreadsheetsWorkOutTheSameTotals(t *testing.T) {
	_, loaded, cal := ferry(t)
	e := engine.New(loaded.Snapshot, loaded.Catalog, engine.Options{})
	for _, s := range spreadsheets {
		t.Run(s.name, func(t *testing.T) {
			doc, err := view.Parse([]byte(`{"gavrik":1,"records":"claims",` + s.view + `}`))
			require.NoError(t, err)
			b := laidOut(t, e, loaded, cal, doc)
			b.equal(t, b.recalculated(t))
			for _, head := range s.live {
				for _, line := range b.lines {
					if !line.IsRecord && line.Cells[head].Kind != cell.Blank {
						f, err := b.file.GetCellFormula(b.sheet, b.at(line.row, head))
						require.NoError(t, err)
						require.NotEmpty(t, f, "line %d, column %d", line.row, head)
					}
				}
			}
		})
	}
	// Random views, each the same in every run.
	documents := rapid.Custom(
		func(t *rapid.T) *view.Document { return everyField.drawDocument(t, loaded.Catalog) },
	)
	for seed := range 12 {
		doc := documents.Example(seed)
		if _, err := plan.Check(doc, loaded.Catalog, cal); err != nil {
			continue // a range the wrong way round
		}
		b := laidOut(t, e, loaded, cal, doc)
		b.equal(t, b.recalculated(t))
	}
}

// A figure that somebody changes in the file changes every total above it, and no other.
func TestAChangedFigureReachesItsTotals(t *testing.T) {
	_, loaded, cal := ferry(t)
	e := engine.New(loaded.Snapshot, loaded.Catalog, engine.Options{})
	doc, err := view.Parse([]byte(`{"gavrik":1,"records":"claims","groups":[{"field":"category"},{"field":"status"}],
		"columns":[{"field":"claimed","totals":[{"fn":"sum"}]}],"chart":{"kind":"stacked","field":"claimed"}}`))
	require.NoError(t, err)
	b := laidOut(t, e, loaded, cal, doc)
	drawn := b.sheetOf(t, "Chart")
	changed := -1
	for i, line := range b.lines {
		if line.IsRecord && i > 40 {
			changed = i
			break
		}
	}
	var above []int // the lines of the groups that the record lies in, and the grand total's
	for i, level := changed-1, 3; i >= 0 && level > 1; i-- {
		if l := b.lines[i]; !l.IsRecord && l.Level < level {
			above, level = append(above, i), l.Level
		}
	}
	above = append(above, len(b.lines)-1)
	was, err := strconv.ParseFloat(b.raw(t, b.lines[changed].row, 0), 64)
	require.NoError(t, err)
	require.NoError(t, b.file.SetCellValue(b.sheet, b.at(b.lines[changed].row, 0), was+1000))
	got := b.recalculated(t)
	before := b.expected(t)
	for i, line := range b.lines {
		if line.IsRecord {
			continue
		}
		more := 0.0
		for _, at := range above {
			if at == i {
				more = 1000
			}
		}
		require.InDelta(t, before[i][0].(float64)+more, number(t, got[line.row-1][2]), 0.001, "line %d", line.row)
	}
	require.Len(t, above, 3)
	// The chart is the spreadsheet's own, over cells that read the ledger.
	now, moved := b.sheetOf(t, "Chart"), 0.0
	for i, row := range now[1:] {
		for j, text := range row[1:] {
			if was := drawn[i+1][j+1]; text != was {
				moved += number(t, text) - number(t, was)
			}
		}
	}
	require.InDelta(t, 1000, moved, 0.001)
	pkg, err := b.file.WriteToBuffer()
	require.NoError(t, err)
	parts, err := zip.NewReader(bytes.NewReader(pkg.Bytes()), int64(pkg.Len()))
	require.NoError(t, err)
	chart, err := parts.Open("xl/charts/chart1.xml")
	require.NoError(t, err)
	defer chart.Close()
	text, err := io.ReadAll(chart)
	require.NoError(t, err)
	require.Contains(t, html.UnescapeString(string(text)), "'Chart'!$B$2:$B$")
}

// book is an exported workbook beside the result that it was made of.
type book struct {
	res   *windows.Result
	cal   calendar.Calendar
	file  *excelize.File
	sheet string
	front int
	lines []bookLine
}

type bookLine struct {
	result.Line
	row int
}

func laidOut(t *testing.T, e *engine.Engine, l *records.Loaded, cal calendar.Calendar, doc *view.Document) *book {
	p, err := plan.Check(doc, l.Catalog, cal)
	require.NoError(t, err)
	res, err := e.Run(t.Context(), p)
	require.NoError(t, err)
	var text bytes.Buffer
	require.NoError(t, export.Write(
		t.Context(), &text, export.Source{Result: res, Document: doc, Set: l.Catalog.Set("claims")}, export.Options{Format: "xlsx"},
	))
	file, err := excelize.OpenReader(&text)
	require.NoError(t, err)
	t.Cleanup(func() { _ = file.Close() })
	b := &book{res: res, cal: cal, file: file, sheet: file.GetSheetList()[0]}
	if len(p.Groups)+len(p.Across) > 0 {
		b.front = 2
	}
	rows, err := file.GetRows(b.sheet)
	require.NoError(t, err)
	open := result.Open{Depth: len(p.Groups)}
	all, err := res.Window(t.Context(), open, 0, 1<<20)
	require.NoError(t, err)
	first := len(rows) - all.Total // the last is the grand total's
	require.NoError(t, res.EachLine(t.Context(), open, func(line result.Line) error {
		want := all.Lines[len(b.lines)]
		require.Equal(t, want.Group, line.Group)
		require.Equal(t, want.Cells, line.Cells)
		b.lines = append(b.lines, bookLine{want, first + len(b.lines)})
		return nil
	}))
	require.Len(t, b.lines, all.Total)
	b.lines = append(b.lines, bookLine{res.GrandTotal, first + all.Total})
	return b
}

// at is the cell of a head in a row.
func (b *book) at(row, head int) string {
	name, err := excelize.CoordinatesToCellName(b.front+1+head, row)
	if err != nil {
		panic(err)
	}
	return name
}

func (b *book) raw(t *testing.T, row, head int) string {
	text, err := b.file.GetCellValue(b.sheet, b.at(row, head), excelize.Options{RawCellValue: true})
	require.NoError(t, err)
	return text
}

// recalculated is what another program shows in the sheet after working out its formulas.
func (b *book) recalculated(t *testing.T) [][]string { return b.sheetOf(t, b.sheet) }

func (b *book) sheetOf(t *testing.T, sheet string) [][]string {
	dir := t.TempDir()
	path := filepath.Join(dir, "book.xlsx")
	require.NoError(t, b.file.SaveAs(path))
	out, err := exec.CommandContext(
		t.Context(), "ssconvert", "--recalc", "-T", "Gnumeric_stf:stf_assistant",
		"-O", "format=raw separator=, quoting-mode=always sheet="+sheet, path, filepath.Join(dir, "book.csv"),
	).CombinedOutput()
	require.NoError(t, err, string(out))
	text, err := os.ReadFile(filepath.Join(dir, "book.csv"))
	require.NoError(t, err)
	r := csv.NewReader(bytes.NewReader(text))
	r.FieldsPerRecord = -1
	rows, err := r.ReadAll()
	require.NoError(t, err)
	return rows
}

// expected are the cells of all lines in a spreadsheet's units: nil, a number, a text, a bool.
func (b *book) expected(t *testing.T) [][]any {
	clock, sum, out := b.cal.Clock(), b.res.Summarize(), [][]any(nil)
	pen := sum.Pen(0)
	for _, line := range b.lines {
		var row []any
		for head, c := range line.Cells {
			f := sum.Heads[head].Field
			if line.IsRecord {
				f = sum.Plan.Columns[sum.Heads[head].Column].Ref.Field
			}
			parts := 1.0
			if f.Type == catalog.Percent {
				parts = 100
			}
			var v any
			switch c.Kind {
			case cell.Number:
				v = float64(c.Int) / math.Pow10(int(c.Scale)) / parts
			case cell.Approximate:
				v = c.Float() / parts
			case cell.Duration:
				v = float64(c.Int) / float64(calendar.DayLen)
			case cell.Date:
				v = float64(c.Int) + 25569
			case cell.Moment:
				v = float64(clock.Local(c.Int))/float64(calendar.DayLen) + 25569
			case cell.YesNo:
				v = c.Int == 1
			case cell.Text:
				v = c.Text
			case cell.Several:
				v = pen.Figure(head, c)
			}
			row = append(row, v)
		}
		out = append(out, row)
	}
	return out
}

// equal compares what another program shows with the result.
func (b *book) equal(t *testing.T, got [][]string) {
	sum := b.res.Summarize()
	for i, want := range b.expected(t) {
		line := b.lines[i]
		for head, v := range want {
			text := ""
			if row := got[line.row-1]; b.front+head < len(row) {
				text = row[b.front+head]
			}
			where := fmt.Sprintf("line %d, column %d: %s", line.row, head, sum.Label(sum.Heads[head]))
			switch v := v.(type) {
			case nil:
				require.Empty(t, text, where)
			case bool:
				require.Equal(t, strings.ToUpper(strconv.FormatBool(v)), text, where)
			case string:
				require.Equal(t, v, text, where)
			case float64:
				near := math.Max(math.Abs(v)*1e-9, 1e-9)
				if sum.Heads[head].Part == result.Percent { // kept to two decimals
					near = 0.50001e-4
				}
				require.InDelta(t, v, number(t, text), near, where)
			}
		}
	}
}

func number(t *testing.T, text string) float64 {
	v, err := strconv.ParseFloat(text, 64)
	require.NoError(t, err)
	return v
}

// Another program's reader of Parquet finds the types and the values that were written.
func TestParquetIsReadElsewhere(t *testing.T) {
	_, loaded, cal := ferry(t)
	doc, err := view.Parse([]byte(`{"gavrik":1,"records":"claims","groups":[{"field":"category"},{"field":"opened_at","unit":"month"}],
		"calculated":[{"key":"open","label":"Open","formula":"'Closed at' - 'Opened at'"},{"key":"root","label":"Root","formula":"SQRT(Claimed)"}],
		"columns":[{"field":"ref"},{"field":"claimed"},{"field":"opened_at"},{"field":"open"},{"field":"root"},
			{"field":"booking.sailing.route.seasonal"},{"field":"booking.passengers"},{"field":"handler.name"}]}`))
	require.NoError(t, err)
	p, err := plan.Check(doc, loaded.Catalog, cal)
	require.NoError(t, err)
	res, err := engine.New(loaded.Snapshot, loaded.Catalog, engine.Options{}).Run(t.Context(), p)
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "claims.parquet")
	file, err := os.Create(path)
	require.NoError(t, err)
	source := export.Source{Result: res, Document: doc, Set: loaded.Catalog.Set("claims")}
	require.NoError(t, export.Write(t.Context(), file, source, export.Options{Format: "parquet", Keys: true}))
	require.NoError(t, file.Close())
	out, err := exec.CommandContext(t.Context(), "node", "parquet.mjs", path).Output()
	require.NoError(t, err)
	var read struct {
		Brief string
		Types map[string]string
		Rows  []map[string]any
	}
	require.NoError(t, json.Unmarshal(out, &read))
	require.Contains(t, read.Brief, "Claims, grouped by category then month opened")
	require.Equal(t, map[string]string{
		"category": "STRING", "opened_at_month": "DATE", "ref": "STRING", "claimed": "DECIMAL", "opened_at": "TIMESTAMP",
		"open": "INTEGER", "root": "DOUBLE", "booking.sailing.route.seasonal": "BOOLEAN", "booking.passengers": "INTEGER",
		"handler.name": "STRING",
	}, read.Types)
	i := 0
	sheet := export.Records(t.Context(), res)
	require.NoError(t, sheet.Each(func(row []cell.Cell) error {
		for at, c := range row {
			got := read.Rows[i][sheet.Columns[at].Key]
			switch c.Kind {
			case cell.Blank:
				require.Nil(t, got)
			case cell.Text:
				require.Equal(t, c.Text, got)
			case cell.YesNo:
				require.Equal(t, c.Int == 1, got)
			case cell.Number:
				require.InDelta(t, float64(c.Int)/math.Pow10(int(c.Scale)), got, 1e-9)
			case cell.Approximate:
				require.InDelta(t, c.Float(), got, 1e-12)
			case cell.Date: // milliseconds, as the reader's language counts
				require.InDelta(t, float64(c.Int)*86_400_000, got, 0)
			case cell.Moment:
				require.InDelta(t, math.Floor(float64(c.Int)/1000), got, 0)
			case cell.Duration:
				require.InDelta(t, float64(c.Int), got, 0)
			}
		}
		i++
		return nil
	}))
	require.Len(t, read.Rows, i)
}
