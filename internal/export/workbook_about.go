package export

import (
	"fmt"
	"strings"

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
	if err := b.file.SetColWidth(name, "A", "A", 22); err != nil {
		return err
	}
	if err := b.file.SetColWidth(name, "B", "B", 100); err != nil {
		return err
	}
	label, err := b.style(style{look: note})
	if err != nil {
		return err
	}
	text, err := b.style(style{look: wrapped, number: "@"})
	if err != nil {
		return err
	}
	for i, l := range b.aboutLines() {
		row := i + 1
		if err := b.file.SetCellStr(name, cellName(1, row), l.label); err != nil {
			return err
		}
		if err := b.file.SetCellStr(name, cellName(2, row), l.text); err != nil {
			return err
		}
		height := 16 * float64(1+len([]rune(l.text))/105+strings.Count(l.text, "\n"))
		if err := b.file.SetRowHeight(name, row, min(height, 400)); err != nil {
			return err
		}
		if err := b.file.SetCellStyle(name, cellName(1, row), cellName(1, row), label); err != nil {
			return err
		}
		if err := b.file.SetCellStyle(name, cellName(2, row), cellName(2, row), text); err != nil {
			return err
		}
	}
	return nil
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
