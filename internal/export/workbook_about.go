package export

import (
	"fmt"
	"strings"

	"github.com/xuri/excelize/v2"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
)

// totalNote says how the totals of a column come about.
type totalNote struct{ column, how string }

// about writes the sheet that says what the file is.
func (b *workbook) about() error {
	name, err := b.sheet("About")
	if err != nil {
		return err
	}
	to, err := b.file.NewStreamWriter(name)
	if err != nil {
		return err
	}
	if err := to.SetColWidth(1, 1, 22); err != nil {
		return err
	}
	if err := to.SetColWidth(2, 2, 100); err != nil {
		return err
	}
	heading, err := b.style(style{look: note})
	if err != nil {
		return err
	}
	text, err := b.style(style{look: wrapped, number: "@"})
	if err != nil {
		return err
	}
	for i, l := range b.aboutLines() {
		// A row that is streamed does not grow to what is in it.
		height := 16 * float64(1+len([]rune(l.text))/105+strings.Count(l.text, "\n"))
		err := to.SetRow(cellName(1, i+1), []any{
			excelize.Cell{StyleID: heading, Value: l.label}, excelize.Cell{StyleID: text, Value: l.text},
		}, excelize.RowOpts{Height: min(height, 400)})
		if err != nil {
			return err
		}
	}
	return to.Flush()
}

type aboutLine struct{ label, text string }

func (b *workbook) aboutLines() []aboutLine {
	about, plan := b.source.about(), b.source.Result.Summarize().Plan
	var out []aboutLine
	add := func(label string, texts ...string) {
		for _, text := range texts {
			if text != "" {
				out, label = append(out, aboutLine{label, text}), ""
			}
		}
	}
	add("View", about.Title)
	add("What it says", about.Brief)
	add("Conditions", about.Conditions...)
	for _, a := range about.Answers {
		add(a.Question, a.Answer)
	}
	w := format.NewWriter(format.People, plan.Calendar)
	add("Records as of", w.Number(about.AsOf.UnixMicro(), catalog.Field{Type: catalog.DateTime}))
	add("Records", fmt.Sprintf("%s of %s %s", thousands(about.Kept), thousands(about.All), plan.Many))
	if plan.Calendar.Zone != nil {
		add("Dates and times", "in the zone "+plan.Calendar.Zone.String())
	}
	add("Taken away by", about.By)
	add("Left out", strings.Join(about.Withheld, ", "))
	add("To know", about.Notes...)
	if n := b.unlike.long; n > 0 {
		add("Long numbers", fmt.Sprintf("%s numbers have more than 15 digits, of which spreadsheets keep 15", thousands(n)))
	}
	if n := b.unlike.early; n > 0 {
		add("Early dates", fmt.Sprintf("%s dates lie before 1 March 1900 and are written as texts", thousands(n)))
	}
	if n := b.unlike.pictures; n > 0 {
		add("Pictures", fmt.Sprintf("%s pictures are left out", thousands(n)))
	}
	for _, t := range b.totals {
		add(t.column, t.how)
	}
	return out
}
