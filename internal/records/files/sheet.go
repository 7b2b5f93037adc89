package files

import (
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"
	"time"
)

// sheetRows are the rows of a sheet as they stand in it.
type sheetRows struct {
	book  *workbook
	in    *unpacked
	xml   *xml.Decoder
	name  string
	share float64 // bytes of the file for each that was unpacked
	line  int
	bytes int // of the row at hand
}

// cellAt is a cell while it is read.
type cellAt struct {
	place       int
	kind, style string
	value       strings.Builder
}

func (s *sheetRows) Next() (Row, error) {
	for {
		token, err := s.xml.RawToken()
		if err != nil {
			return Row{}, s.fault(err)
		}
		switch t := token.(type) {
		case xml.StartElement:
			if t.Name.Local == "row" {
				return s.row(t)
			}
		case xml.EndElement:
			if t.Name.Local == "sheetData" {
				return Row{}, io.EOF
			}
		}
	}
}

func (s *sheetRows) fault(err error) error {
	if errors.Is(err, io.EOF) {
		return io.EOF // the end of a part that holds no cells
	}
	return damaged(s.name, err)
}

func (s *sheetRows) row(start xml.StartElement) (Row, error) {
	s.line++
	if n, err := strconv.Atoi(attribute(start, "r")); err == nil && n > s.line {
		s.line = n
	}
	s.bytes = 0
	row := Row{Line: s.line}
	var cell *cellAt
	inValue := false
	for {
		token, err := s.xml.RawToken()
		if errors.Is(err, io.EOF) {
			return row, refuse("the sheet ends within row %d; the spreadsheet is damaged", s.line)
		}
		if err != nil {
			return row, s.fault(err)
		}
		switch t := token.(type) {
		case xml.StartElement:
			switch t.Name.Local {
			case "c":
				cell = &cellAt{place: len(row.Cells), kind: attribute(t, "t"), style: attribute(t, "s")}
				if place, ok := placeOf(attribute(t, "r")); ok {
					cell.place = place
				}
			case "v", "t":
				inValue = cell != nil
			case "rPh":
				if err := s.skip("rPh"); err != nil {
					return row, err
				}
			}
		case xml.CharData:
			if inValue {
				cell.value.Write(t)
			}
		case xml.EndElement:
			switch t.Name.Local {
			case "v", "t":
				inValue = false
			case "c":
				if cell != nil {
					if err := s.put(&row, cell); err != nil {
						return row, err
					}
				}
				cell = nil
			case "row":
				return row, nil
			}
		}
	}
}

// skip passes over an element.
func (s *sheetRows) skip(name string) error {
	for {
		token, err := s.xml.RawToken()
		if err != nil {
			return damaged(s.name, err)
		}
		if end, ok := token.(xml.EndElement); ok && end.Name.Local == name {
			return nil
		}
	}
}

// maxPlaces is how many columns of a row are looked at: as many as a heading may name before it is
// refused by their number.
const maxPlaces = 16_384

// put takes a cell into its row.
func (s *sheetRows) put(row *Row, c *cellAt) error {
	text, fault, err := s.text(c)
	if err != nil {
		return err
	}
	if text == "" && fault == "" {
		return nil
	}
	if s.bytes += len(text); c.place >= maxPlaces || s.bytes > MaxRow {
		return refuse("row %d of the sheet is longer than %d KB", s.line, MaxRow>>10)
	}
	for len(row.Cells) <= c.place {
		row.Cells = append(row.Cells, "")
	}
	row.Cells[c.place] = text
	if fault != "" {
		if row.Broken == nil {
			row.Broken = map[int]string{}
		}
		row.Broken[c.place] = fault
	}
	return nil
}

// text is what a cell holds, as people would write it; fault says that a formula has none.
func (s *sheetRows) text(c *cellAt) (text, fault string, err error) {
	raw := c.value.String()
	switch c.kind {
	case "s":
		n, err := strconv.Atoi(strings.TrimSpace(raw))
		if err != nil || n < 0 || n >= len(s.book.shared) {
			return "", "", refuse("row %d of the sheet names a text that is not there; the spreadsheet is damaged", s.line)
		}
		return s.book.shared[n], "", nil
	case "e":
		return raw, "is no value: the formula came to " + raw, nil
	case "b":
		if raw == "1" {
			return "yes", "", nil
		}
		return "no", "", nil
	case "str", "inlineStr", "d":
		return raw, "", nil
	}
	if raw = strings.TrimSpace(raw); raw == "" {
		return "", "", nil
	}
	n, err := strconv.ParseFloat(raw, 64)
	if err != nil || math.IsInf(n, 0) || math.IsNaN(n) {
		return "", "", refuse("row %d of the sheet holds %q in place of a number; the spreadsheet is damaged", s.line, raw)
	}
	style := plainNumber
	if at, err := strconv.Atoi(c.style); err == nil && at >= 0 && at < len(s.book.styles) {
		style = s.book.styles[at]
	}
	return s.number(n, style), "", nil
}

// A spreadsheet counts days from the last of 1899, with a 29 February 1900 that never was, or from
// the first of 1904.
var (
	epoch1900 = time.Date(1899, 12, 30, 0, 0, 0, 0, time.UTC)
	epoch1904 = time.Date(1904, 1, 1, 0, 0, 0, 0, time.UTC)
)

const (
	beforeFalseDay = 60
	lastDay        = 2958465 // 31 December 9999
)

func (s *sheetRows) number(n float64, style cellStyle) string {
	switch {
	case style == aPercent:
		return digits(n*100) + "%"
	case style == plainNumber || n < 0 || n > lastDay:
		return digits(n)
	case style == aClock:
		seconds := int64(math.Round(n * 86400))
		return fmt.Sprintf("%d:%02d:%02d", seconds/3600, seconds/60%60, seconds%60)
	}
	epoch := epoch1900
	if s.book.from1904 {
		epoch = epoch1904
	} else if n < beforeFalseDay {
		n++
	}
	// Spreadsheets keep 15 digits: a millisecond of today.
	day := math.Floor(n)
	at := epoch.AddDate(0, 0, int(day)).Add(time.Duration(math.Round((n-day)*86400_000)) * time.Millisecond)
	if style == aDay && n == day {
		return at.Format(time.DateOnly)
	}
	return at.Format("2006-01-02 15:04:05.999")
}

// digits writes a number with the 15 digits that a spreadsheet shows, never with an exponent.
func digits(n float64) string {
	rounded, _ := strconv.ParseFloat(strconv.FormatFloat(n, 'g', 15, 64), 64) // what was just written
	return strconv.FormatFloat(rounded, 'f', -1, 64)
}

func attribute(e xml.StartElement, name string) string {
	for _, a := range e.Attr {
		if a.Name.Local == name && a.Name.Space == "" {
			return a.Value
		}
	}
	return ""
}

// placeOf is the column of a reference: 2 of "C5".
func placeOf(ref string) (int, bool) {
	n, i := 0, 0
	for ; i < len(ref) && ref[i] >= 'A' && ref[i] <= 'Z' && i < 4; i++ {
		n = 26*n + int(ref[i]-'A') + 1
	}
	return n - 1, i > 0
}
