package files

import (
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/reading"
)

// readHeadings looks at the first lines for the one that names the fields, unless it was given.
func (f *File) readHeadings(ctx context.Context) error {
	rows, err := f.body(ctx)
	if err != nil {
		return err
	}
	defer rows.Close()
	for range max(firstLines, f.Heading) {
		row, err := rows.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return err
		}
		if row.Line <= firstLines || row.Line == f.Heading {
			f.First = append(f.First, row)
		}
		if row.Line >= max(f.Heading, firstLines) {
			break
		}
	}
	if f.Heading == 0 {
		f.Heading = headingOf(f.First)
	}
	var cells []string
	for _, row := range f.First {
		switch {
		case f.Heading == NoHeading:
			if len(row.Cells) > len(cells) {
				cells = make([]string, len(row.Cells))
			}
		case row.Line != f.Heading:
		case row.Wrong != nil:
			return refuse("the heading line cannot be read: %s", row.Wrong)
		default:
			cells = row.Cells
		}
	}
	if len(f.First) > firstLines {
		f.First = f.First[:firstLines]
	}
	if cells == nil {
		return refuse("there is nothing in line %d, which should name the fields", f.Heading)
	}
	return f.name(cells)
}

// headingOf is the first line that is half as full as the fullest and holds words alone: a title may
// stand above it, and a heading over several columns fills one. Without such a line, it is the first
// that is nearly as full as the fullest.
func headingOf(first []Row) int {
	most := 0
	for _, row := range first {
		most = max(most, filled(row))
	}
	for _, row := range first {
		if row.Wrong == nil && 2*filled(row) > most && !slices.ContainsFunc(row.Cells, isValue) {
			return row.Line
		}
	}
	for _, row := range first {
		if row.Wrong == nil && 5*filled(row) >= 4*most {
			return row.Line
		}
	}
	if len(first) > 0 {
		return first[0].Line
	}
	return 1
}

// isValue says whether a cell is more likely a value than a heading: a number, a day, a moment.
func isValue(cell string) bool {
	g := reading.Guessed([]string{strings.TrimSpace(cell)}, calendar.Calendar{Zone: time.UTC})
	return cell != "" && g.Type != catalog.Text && g.Type != catalog.YesNo || len(g.Open) > 0
}

func filled(row Row) (n int) {
	for _, c := range row.Cells {
		if c != "" {
			n++
		}
	}
	return n
}

// name takes over headings; each gets a name of its own.
func (f *File) name(cells []string) error {
	if f.Format == Workbook {
		for len(cells) > 0 && cells[len(cells)-1] == "" {
			cells = cells[:len(cells)-1]
		}
	}
	if len(cells) > MaxFields {
		return refuse("the heading line names %d fields; at most %d are taken. Leave out what is not needed", len(cells), MaxFields)
	}
	taken := map[string]bool{}
	var empty []string
	for i, c := range cells {
		if !utf8.ValidString(c) {
			return refuse("the heading line is not in %s; choose another encoding", f.Encoding.Words())
		}
		name := strings.Join(strings.Fields(c), " ")
		if len(name) > maxHeading {
			name = strings.ToValidUTF8(name[:maxHeading], "")
		}
		if name == "" {
			name = "Column " + f.place(i)
			empty = append(empty, f.place(i))
		}
		for n, stem := 2, name; taken[strings.ToLower(name)]; n++ {
			name = fmt.Sprintf("%s %d", stem, n)
		}
		taken[strings.ToLower(name)] = true
		f.Headings = append(f.Headings, name)
	}
	switch {
	case f.Heading == NoHeading:
	case len(empty) == 1:
		f.Notices = append(f.Notices, fmt.Sprintf("Column %s has no heading; it is called “Column %s”.%s", empty[0], empty[0], f.merged()))
	case len(empty) > 1:
		f.Notices = append(f.Notices, fmt.Sprintf("The columns %s have no heading; they are called “Column %s” and so on.%s",
			strings.Join(empty[:min(len(empty), 10)], ", "), empty[0], f.merged()))
	}
	return nil
}

func (f *File) merged() string {
	if f.Format == Workbook {
		return " Perhaps one heading is merged over several columns: if the line below names them, choose that one."
	}
	return ""
}

// place is what people call a column by where it stands: a letter in spreadsheets.
func (f *File) place(i int) string {
	if f.Format == Workbook {
		return letters(i)
	}
	return fmt.Sprint(i + 1)
}

// letters is a spreadsheet's name of a column: A to Z, AA to AZ.
func letters(i int) string {
	if i < 26 {
		return string(rune('A' + i))
	}
	return letters(i/26-1) + string(rune('A'+i%26))
}
