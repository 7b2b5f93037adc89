package export

import (
	"encoding/csv"
	"fmt"
	"io"
	"slices"
	"strings"
)

// CSV says how a file of comma-separated values is written.
type CSV struct {
	// Guard puts an apostrophe before texts that a spreadsheet would take for a formula
	// and carry out. It is for files that people open; a program gets the texts as they
	// are.
	Guard bool
}

// Write writes a sheet after RFC 4180, row by row.
func (c CSV) Write(to io.Writer, s Sheet) error {
	w := csv.NewWriter(to)
	headings := s.Headings
	if c.Guard {
		headings = slices.Clone(headings)
		for i, h := range headings {
			headings[i] = guarded(h)
		}
	}
	if err := w.Write(headings); err != nil {
		return fmt.Errorf("export: %w", err)
	}
	err := s.Each(func(row []string) error {
		if c.Guard {
			for i, text := range row {
				if s.Texts[i] {
					row[i] = guarded(text)
				}
			}
		}
		return w.Write(row)
	})
	if err != nil {
		return fmt.Errorf("export: %w", err)
	}
	w.Flush()
	return w.Error()
}

// guarded is a text that no spreadsheet takes for a formula (OWASP, "CSV Injection").
func guarded(text string) string {
	if text != "" && strings.ContainsRune("=+-@\t\r\n", rune(text[0])) {
		return "'" + text
	}
	return text
}
