package export

import (
	"bufio"
	"context"
	_ "embed"
	"html"
	"html/template"
	"io"
	"strconv"
	"strings"

	"gavrik/internal/core/cell"
	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
)

//go:embed page.html
var pageSource string

// pageText is one file: what the view says, a table that a screen reader can walk, its style.
var pageText = template.Must(template.New("page").Parse(pageSource))

// htmlHead is what stands before the lines of a page.
type htmlHead struct {
	About
	AsOfText, Counted string
	// Label heads the lines' own headings; Labelled says that they have some.
	Label    string
	Labelled bool
	Rows     [][]htmlHeading
	Deep     int // rows of headings
}

type htmlHeading struct {
	Text  string
	Over  int
	Right bool
}

// htmlLine is a line of the table.
type htmlLine struct {
	// Class is empty for a record.
	Class, Label, Count string
	Labelled            bool
	Cells               []htmlCell
}

type htmlCell struct {
	Text    string
	Picture string // an address that holds the picture itself
	Right   bool
}

// write writes a line. A page may have a million of them, for which templates are slow.
func (l htmlLine) write(b *bufio.Writer) error {
	b.WriteString("<tr")
	attribute(b, "class", l.Class)
	b.WriteByte('>')
	switch {
	case l.Labelled && l.Class != "":
		b.WriteString(`<th scope="row">` + html.EscapeString(l.Label) + " <small>" + l.Count + "</small></th>")
	case l.Labelled:
		b.WriteString("<td></td>")
	}
	for _, c := range l.Cells {
		b.WriteString("<td")
		if c.Right {
			attribute(b, "class", "n")
		}
		b.WriteByte('>')
		if c.Picture != "" {
			b.WriteString(`<img alt=""`)
			attribute(b, "src", c.Picture)
			b.WriteByte('>')
		}
		b.WriteString(html.EscapeString(c.Text))
		b.WriteString("</td>")
	}
	_, err := b.WriteString("</tr>\n") // it is the first error of all these
	return err
}

func attribute(b *bufio.Writer, name, value string) {
	if value != "" {
		b.WriteString(" " + name + `="` + html.EscapeString(value) + `"`)
	}
}

func writeHTML(ctx context.Context, to io.Writer, s Source, o Options) error {
	b := bufio.NewWriter(to)
	if o.Rows == AsLaid {
		if err := s.htmlLedger(ctx, b, s.ledger(o)); err != nil {
			return err
		}
		return b.Flush()
	}
	sheet, err := s.sheet(ctx, o)
	if err != nil {
		return err
	}
	if err := s.htmlSheet(b, sheet, o); err != nil {
		return err
	}
	return b.Flush()
}

// htmlHead is the head of a page.
func (s Source) htmlHead() htmlHead {
	h := htmlHead{About: s.about(), Counted: s.counts()}
	h.Title, h.AsOfText = s.heading(), s.moment(h.AsOf)
	return h
}

func (s Source) htmlLedger(ctx context.Context, to *bufio.Writer, l ledger) error {
	h := s.htmlHead()
	h.Labelled, h.Label = l.labelled(), l.levelsInWords()
	right := make([]bool, len(l.heads))
	for i, at := range l.heads {
		right[i] = l.sum.Heads[at].Field.Type.Numeric()
	}
	for _, row := range l.headings() {
		var out []htmlHeading
		at := 0
		for _, part := range row.spans {
			out = append(out, htmlHeading{part.text, part.over, right[at]})
			at += part.over
		}
		h.Rows = append(h.Rows, out)
	}
	h.Deep = len(h.Rows)
	if err := pageText.ExecuteTemplate(to, "head", h); err != nil {
		return err
	}
	pen := l.sum.Pen(format.People)
	line := func(of result.Line) error {
		out := htmlLine{Labelled: h.Labelled, Label: pen.Label(of), Cells: make([]htmlCell, len(l.heads))}
		if !of.IsRecord {
			out.Class, out.Count = "g"+strconv.Itoa(of.Level), thousands(of.Count)
			if of.Level > 0 {
				out.Label = result.Named(out.Label)
			}
		}
		for i, at := range l.heads {
			if c := of.Cells[at]; c.Kind == cell.Picture {
				out.Cells[i] = htmlCell{Picture: picture(c.Text)}
			} else if c.Kind != cell.Blank && of.IsRecord {
				out.Cells[i] = htmlCell{Text: pen.Value(at, c), Right: right[i]}
			} else if c.Kind != cell.Blank {
				out.Cells[i] = htmlCell{Text: pen.Figure(at, c), Right: true}
			}
		}
		return out.write(to)
	}
	if err := l.each(ctx, line); err != nil {
		return err
	}
	if l.closes() {
		if err := line(l.sum.GrandTotal); err != nil {
			return err
		}
	}
	return pageText.ExecuteTemplate(to, "end", nil)
}

func (s Source) htmlSheet(to *bufio.Writer, sheet Sheet, o Options) error {
	h, row := s.htmlHead(), []htmlHeading(nil)
	for i, name := range sheet.Names(o.Keys) {
		row = append(row, htmlHeading{name, 1, sheet.Columns[i].Field.Type.Numeric()})
	}
	h.Rows, h.Deep = [][]htmlHeading{row}, 1
	if err := pageText.ExecuteTemplate(to, "head", h); err != nil {
		return err
	}
	w := format.NewWriter(format.People, sheet.calendar)
	err := sheet.Each(func(row []cell.Cell) error {
		line := htmlLine{Cells: make([]htmlCell, len(row))}
		for i, c := range row {
			col := sheet.Columns[i]
			line.Cells[i] = htmlCell{Text: col.text(w, sheet.calendar, c), Right: col.Field.Type.Numeric()}
			if c.Kind == cell.Picture {
				line.Cells[i] = htmlCell{Picture: picture(c.Text)}
			}
		}
		return line.write(to)
	})
	if err != nil {
		return err
	}
	return pageText.ExecuteTemplate(to, "end", nil)
}

// picture is the address of a picture if it holds the picture itself: a page asks nobody.
func picture(address string) string {
	for _, kind := range []string{"png", "jpeg", "gif", "webp"} {
		if data, ok := strings.CutPrefix(address, "data:image/"+kind+";base64,"); ok && data != "" {
			return address
		}
	}
	return ""
}
