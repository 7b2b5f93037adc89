package export

import (
	"strings"
)

// totalNote says how the totals of a column come about.
type totalNote struct{ column, how string }

// aboutSheet writes the sheet that says what the file is.
func (b *workbook) aboutSheet() error {
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
	about := b.about
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
	add("Records as of", b.source.moment(about.AsOf))
	add("Records", b.source.counts())
	if zone := b.source.Result.Summarize().Plan.Calendar.Zone; zone != nil {
		add("Dates and times", "in the zone "+zone.String())
	}
	add("Taken away by", about.By)
	add("Left out", strings.Join(about.Withheld, ", "))
	add("To know", about.Notes...)
	for _, u := range []struct {
		label, words string
		n            int
	}{
		{"Long numbers", "numbers have more than 15 digits, of which spreadsheets keep 15", b.unlike.long},
		{"Early dates", "dates lie before 1 March 1900 and are written as texts", b.unlike.early},
		{"Pictures", "pictures are left out", b.unlike.pictures},
	} {
		if u.n > 0 {
			add(u.label, thousands(u.n)+" "+u.words)
		}
	}
	for _, t := range b.totals {
		add(t.column, t.how)
	}
	return out
}
