package files

import (
	"archive/zip"
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"gavrik/internal/core/turn"
)

// A spreadsheet of Office Open XML (ECMA-376, part 1, chapter 18) is a ZIP archive: a list of sheets,
// each sheet's cells, the texts that cells share, and styles, which alone tell a date from a number.
type workbook struct {
	parts  map[string]*zip.File
	sheets []sheet
	shared []string
	styles []cellStyle
	// from1904 says that days are counted from 1904 on.
	from1904 bool
}

type sheet struct{ name, part string }

// Bounds on what a spreadsheet may unpack to: nothing that is smaller by far than what it
// would fill.
const (
	maxParts      = 20_000
	maxSharedText = 256 << 20
	maxSmallPart  = 16 << 20 // the list of sheets, the styles
	maxSheet      = 4 << 30
	maxToken      = 1 << 20 // between two tags
)

func (f *File) openWorkbook(ctx context.Context) error {
	book, err := openBook(ctx, f.in)
	if err != nil {
		return err
	}
	f.book = book
	for _, s := range book.sheets {
		f.Sheets = append(f.Sheets, s.name)
	}
	if f.Sheet == "" {
		f.Sheet = book.sheets[0].name
	}
	at := slices.IndexFunc(book.sheets, func(s sheet) bool { return s.name == f.Sheet })
	if at < 0 {
		return refuse("the spreadsheet has no sheet “%s”; it has %s", f.Sheet, strings.Join(f.Sheets, ", "))
	}
	f.body = func(context.Context) (Rows, error) { return book.rows(book.sheets[at], f.in.Size()) }
	return f.readHeadings(ctx)
}

func openBook(ctx context.Context, in *io.SectionReader) (*workbook, error) {
	archive, err := zip.NewReader(in, in.Size())
	if err != nil {
		return nil, refuse("the spreadsheet is damaged: %s", err)
	}
	if len(archive.File) > maxParts {
		return nil, refuse("the spreadsheet has %d parts; that is no ordinary one", len(archive.File))
	}
	b := &workbook{parts: map[string]*zip.File{}}
	for _, part := range archive.File {
		b.parts[strings.TrimPrefix(path.Clean(part.Name), "/")] = part
	}
	if b.parts["xl/workbook.xml"] == nil {
		return nil, refuse("this is a ZIP archive and no spreadsheet; unpack it first, or save the spreadsheet as .xlsx")
	}
	if err := b.readSheets(); err != nil {
		return nil, err
	}
	if err := b.readStyles(); err != nil {
		return nil, err
	}
	return b, b.readShared(ctx)
}

// open unpacks a part of up to so many bytes.
func (b *workbook) open(name string, most int64) (*unpacked, error) {
	part := b.parts[name]
	if part == nil {
		return nil, refuse("the spreadsheet is damaged: it has no part %s", name)
	}
	if part.UncompressedSize64 > uint64(most) {
		return nil, refuse("the part %s of the spreadsheet unpacks to %d MB; at most %d MB are taken. Save it as CSV",
			name, part.UncompressedSize64>>20, most>>20)
	}
	raw, err := part.Open()
	if err != nil {
		return nil, refuse("the part %s of the spreadsheet cannot be unpacked: %s", name, err)
	}
	return &unpacked{in: raw, left: most, name: name}, nil
}

// unpacked is a part whose size is not believed, and whose pieces between tags are bounded: an XML
// reader keeps those whole.
type unpacked struct {
	in    io.ReadCloser
	name  string
	left  int64
	read  int64
	since int // bytes since the last tag began
}

func (u *unpacked) Read(p []byte) (int, error) {
	n, err := u.in.Read(p)
	u.left, u.read = u.left-int64(n), u.read+int64(n)
	if at := strings.LastIndexByte(string(p[:n]), '<'); at >= 0 {
		u.since = n - at
	} else {
		u.since += n
	}
	switch {
	case u.left < 0:
		return 0, refuse("the part %s of the spreadsheet unpacks to more than it says; it is damaged", u.name)
	case u.since > maxToken:
		return 0, refuse("a value in the part %s of the spreadsheet is longer than %d KB", u.name, maxToken>>10)
	case err != nil && !errors.Is(err, io.EOF):
		return n, refuse("the part %s of the spreadsheet is damaged: %s", u.name, err)
	}
	return n, err
}

func (b *workbook) decode(name string, into any) error {
	in, err := b.open(name, maxSmallPart)
	if err != nil {
		return err
	}
	defer in.in.Close()
	if err := xml.NewDecoder(in).Decode(into); err != nil {
		return damaged(name, err)
	}
	return nil
}

// damaged says that a part is no XML, unless the error says something better.
func damaged(name string, err error) error {
	var said *FileError
	if errors.As(err, &said) {
		return said
	}
	return refuse("the part %s of the spreadsheet is damaged: %s", name, err)
}

func (b *workbook) readSheets() error {
	var book struct {
		Settings struct {
			From1904 string `xml:"date1904,attr"`
		} `xml:"workbookPr"`
		Sheets []struct {
			Name string `xml:"name,attr"`
			ID   string `xml:"http://schemas.openxmlformats.org/officeDocument/2006/relationships id,attr"`
		} `xml:"sheets>sheet"`
	}
	var links struct {
		Links []struct {
			ID   string `xml:"Id,attr"`
			Type string `xml:"Type,attr"`
			To   string `xml:"Target,attr"`
		} `xml:"Relationship"`
	}
	if err := b.decode("xl/workbook.xml", &book); err != nil {
		return err
	}
	if err := b.decode("xl/_rels/workbook.xml.rels", &links); err != nil {
		return err
	}
	b.from1904 = book.Settings.From1904 == "1" || book.Settings.From1904 == "true"
	for _, s := range book.Sheets {
		for _, l := range links.Links {
			if l.ID != s.ID || !strings.HasSuffix(l.Type, "/worksheet") { // a chart has a sheet of its own
				continue
			}
			part := path.Join("xl", l.To)
			if strings.HasPrefix(l.To, "/") {
				part = strings.TrimPrefix(path.Clean(l.To), "/")
			}
			b.sheets = append(b.sheets, sheet{s.Name, part})
		}
	}
	if len(b.sheets) == 0 {
		return refuse("the spreadsheet has no sheet with cells")
	}
	return nil
}

// readShared reads the texts that cells share.
func (b *workbook) readShared(ctx context.Context) error {
	const name = "xl/sharedStrings.xml"
	if b.parts[name] == nil {
		return nil
	}
	in, err := b.open(name, maxSheet)
	if err != nil {
		return err
	}
	defer in.in.Close()
	if err := turn.Of(ctx).Book(ctx, int64(min(b.parts[name].UncompressedSize64, maxSharedText))); err != nil {
		return err
	}
	d := xml.NewDecoder(in)
	var text strings.Builder
	inText, phonetic, bytes := false, 0, 0
	for n := 0; ; n++ {
		if n%10_000 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		token, err := d.RawToken()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return damaged(name, err)
		}
		switch t := token.(type) {
		case xml.StartElement:
			switch t.Name.Local {
			case "si":
				text.Reset()
			case "rPh": // how it is pronounced
				phonetic++
			case "t":
				inText = phonetic == 0
			}
		case xml.CharData:
			if inText {
				text.Write(t)
			}
		case xml.EndElement:
			switch t.Name.Local {
			case "t":
				inText = false
			case "rPh":
				phonetic--
			case "si":
				if bytes += text.Len() + 16; bytes > maxSharedText {
					return refuse("the spreadsheet holds more than %d MB of different texts; save it as CSV", maxSharedText>>20)
				}
				b.shared = append(b.shared, text.String())
			}
		}
	}
}

// rows reads the cells of a sheet.
func (b *workbook) rows(s sheet, size int64) (Rows, error) {
	in, err := b.open(s.part, maxSheet)
	if err != nil {
		return nil, err
	}
	part := b.parts[s.part]
	return &sheetRows{
		book: b, in: in, xml: xml.NewDecoder(in), name: s.part,
		share: float64(size) / float64(max(part.UncompressedSize64, 1)),
	}, nil
}

func (s *sheetRows) Read() int64 { return int64(float64(s.in.read) * s.share) }

func (s *sheetRows) Close() error {
	if err := s.in.in.Close(); err != nil && !errors.Is(err, zip.ErrChecksum) {
		return fmt.Errorf("files: %w", err)
	}
	return nil
}
