package export

import (
	"context"
	"fmt"
	"io"
	"strings"

	"github.com/xuri/excelize/v2"

	"gavrik/internal/core/calendar"
)

// The bounds of a sheet (ECMA-376, part 1, and what spreadsheet programs keep to).
const (
	sheetRows  = 1_048_576
	sheetCols  = 16_384
	sheetName  = 31 // characters of a sheet's name
	outlineMax = 7  // levels that lines can be folded by
)

// workbook is a file of sheets that is being written. Lines go to the disk as they come: what
// is kept in memory is a part of one sheet.
type workbook struct {
	file   *excelize.File
	source Source
	about  About
	clock  *calendar.Clock
	styles map[style]int
	// totals say of the ledger's columns how their totals come about.
	totals []totalNote
	// most is how many rows a sheet has.
	most int
	// unlike counts the values that a spreadsheet cannot hold as they are.
	unlike unlike
}

// unlike counts values that arrive otherwise than they are.
type unlike struct {
	// long are numbers of more digits than spreadsheets keep, early dates before their first
	// one, pictures those left out.
	long, early, pictures int
}

// writeWorkbook writes an Office Open XML spreadsheet.
func writeWorkbook(ctx context.Context, to io.Writer, s Source, o Options) (err error) {
	b := newWorkbook(s)
	defer func() {
		if e := b.file.Close(); e != nil && err == nil { // its files on the disk
			err = e
		}
	}()
	if o.Rows == AsLaid {
		err = b.ledger(ctx, s.ledger(o))
	} else {
		var sheet Sheet
		if sheet, err = s.sheet(ctx, o); err == nil {
			err = b.rows(sheet, o)
		}
	}
	if err != nil {
		return err
	}
	if err := b.aboutSheet(); err != nil {
		return err
	}
	if err := b.properties(); err != nil {
		return err
	}
	b.file.SetActiveSheet(0)
	b.file.SetZipWriter(straight(to))
	_, err = b.file.WriteToBuffer() // which stays empty
	return err
}

func newWorkbook(s Source) *workbook {
	return &workbook{
		file: excelize.NewFile(), source: s, about: s.about(), styles: map[style]int{}, most: sheetRows,
		clock: s.Result.Summarize().Plan.Calendar.Clock(),
	}
}

// properties are those of the file.
func (b *workbook) properties() error {
	return b.file.SetDocProps(&excelize.DocProperties{
		Title: b.source.heading(), Subject: b.about.Brief, Creator: b.about.By, Language: "en-GB",
		Created: instant(b.about.AsOf), Modified: instant(b.about.AsOf),
	})
}

// sheet adds a sheet and returns its name, which no other has.
func (b *workbook) sheet(name string) (string, error) {
	clean := strings.TrimSpace(strings.Map(func(r rune) rune {
		if strings.ContainsRune(`:\/?*[]'`, r) {
			return ' '
		}
		return r
	}, name))
	if clean == "" {
		clean = "Sheet"
	}
	runes := []rune(clean)
	clean = string(runes[:min(len(runes), sheetName-4)])
	first := len(b.file.GetSheetList()) == 1 && len(b.styles) == 0
	out := clean
	for n := 2; !first && b.has(out); n++ {
		out = fmt.Sprintf("%s %d", clean, n)
	}
	if first {
		return out, b.file.SetSheetName("Sheet1", out)
	}
	_, err := b.file.NewSheet(out)
	return out, err
}

func (b *workbook) has(name string) bool {
	at, err := b.file.GetSheetIndex(name)
	return err != nil || at >= 0
}

// cellName is the name of a cell, both numbers from 1.
func cellName(col, row int) string {
	name, err := excelize.CoordinatesToCellName(col, row)
	if err != nil {
		panic(err) // columns and rows are bounded before
	}
	return name
}
