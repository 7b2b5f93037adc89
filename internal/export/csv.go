package export

import (
	"context"
	"encoding/csv"
	"io"
	"strings"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/runes"
	"golang.org/x/text/transform"

	"gavrik/internal/core/catalog"
)

// Separator is what stands between the values of a line.
type Separator string

// Encoding is how characters are kept.
type Encoding string

var (
	separators = map[Separator]rune{"comma": ',', "semicolon": ';', "tab": '\t'}
	encodings  = map[Encoding]func() transform.Transformer{
		"": nop, "utf-8": nop,
		"utf-8-marked": func() transform.Transformer { return unicode.UTF8BOM.NewEncoder() },
		"windows-1252": func() transform.Transformer {
			return transform.Chain(runes.Map(known), charmap.Windows1252.NewEncoder())
		},
	}
)

func nop() transform.Transformer { return transform.Nop }

// known is a character, or a question mark in place of one that the encoding has not.
func known(r rune) rune {
	if _, ok := charmap.Windows1252.EncodeRune(r); !ok {
		return '?'
	}
	return r
}

// writeCSV writes a sheet after RFC 4180, row by row.
func writeCSV(ctx context.Context, to io.Writer, s Source, o Options) error {
	sheet, err := s.sheet(ctx, o)
	if err != nil {
		return err
	}
	encoded := transform.NewWriter(to, encodings[o.Encoding]())
	w := csv.NewWriter(encoded)
	if sep := separators[o.Separator]; sep != 0 {
		w.Comma = sep
	}
	names := sheet.Names(o.Keys)
	if o.Guard {
		for i, name := range names {
			names[i] = guarded(name)
		}
	}
	if err := w.Write(names); err != nil {
		return err
	}
	texts := make([]bool, len(sheet.Columns)) // what people typed somewhere
	for i, c := range sheet.Columns {
		texts[i] = c.Field.Type == catalog.Text
	}
	err = sheet.EachText(func(row []string) error {
		for i := range row {
			if o.Guard && texts[i] {
				row[i] = guarded(row[i])
			}
		}
		return w.Write(row)
	})
	if err != nil {
		return err
	}
	w.Flush()
	if err := w.Error(); err != nil {
		return err
	}
	return encoded.Close()
}

// guarded is a text that no spreadsheet takes for a formula (OWASP, "CSV Injection").
func guarded(text string) string {
	if text != "" && strings.ContainsRune("=+-@\t\r\n", rune(text[0])) {
		return "'" + text
	}
	return text
}
