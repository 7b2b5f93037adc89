package export

import (
	"bytes"
	"cmp"
	"context"
	"encoding/base64"
	"errors"
	"fmt"
	"image"
	_ "image/gif"
	_ "image/jpeg"
	"image/png"
	"io"
	"strings"
	"time"

	"codeberg.org/go-pdf/fpdf"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/chart"
	"gavrik/internal/core/page"
	"gavrik/internal/core/turn"
	"gavrik/internal/export/logo"
)

// Paper lays a result out on pages, as the view is set up and as far open as the options say.
func Paper(ctx context.Context, s Source, o Options) (*page.Pages, error) {
	face, err := newTypeface()
	if err != nil {
		return nil, err
	}
	drawn, err := chart.Draw(ctx, s.Result)
	if err != nil {
		return nil, err
	}
	p, err := page.Lay(ctx, page.Input{
		Result: s.Result, Table: s.ledger(o).table(), Paper: s.Document.Paper, Words: s.words(),
		Metrics: face, Chart: drawn,
	})
	var wide *page.Error
	if errors.As(err, &wide) {
		return nil, &Refused{"paper", wide.Why}
	}
	return p, err
}

// table is the ledger as pages have it.
func (l ledger) table() page.Table {
	t := page.Table{Depth: l.depth, Records: l.records, Label: l.levelsInWords(), Labelled: l.labelled()}
	for _, at := range l.heads {
		h := l.sum.Heads[at]
		c := l.sum.Plan.Columns[h.Column]
		t.Columns = append(t.Columns, page.Column{
			Head: at, Frozen: c.Frozen, Figures: c.Measure >= 0, Right: h.Field.Type.Numeric(),
			Whole: h.Field.Type.Temporal(), Picture: h.Field.Type == catalog.Picture,
		})
	}
	for i, row := range l.headings() {
		if row.own {
			t.Own = i
		}
		t.Spans = append(t.Spans, i < len(l.sum.Plan.Across))
		at := 0
		for _, part := range row.spans {
			for range part.over {
				t.Columns[at].Heading = append(t.Columns[at].Heading, part.text)
				at++
			}
		}
	}
	return t
}

// words are what stands around the table.
func (s Source) words() page.Words {
	about := s.about()
	w := page.Words{
		Title: s.heading(), Brief: about.Brief, Conditions: about.Conditions,
		Moment: s.moment(about.AsOf), Author: about.By, Notes: about.Notes,
		Count: s.counts(),
	}
	for _, a := range about.Answers {
		w.Answers = append(w.Answers, [2]string{a.Question, a.Answer})
	}
	// Without questions the conditions stand in the brief already.
	if len(w.Answers) == 0 {
		w.Conditions = nil
	}
	if !s.Made.IsZero() {
		w.Made = s.moment(s.Made)
	}
	w.Letterhead = s.Letterhead.onPaper()
	if p := s.Document.Paper; p != nil {
		w.Title, w.Subtitle, w.Lines = cmp.Or(p.Title, w.Title), p.Subtitle, p.Lines
	}
	return w
}

// onPaper is the letterhead as pages have it; nil, if it says nothing.
func (l *Letterhead) onPaper() *page.Letterhead {
	if l == nil || l.Name == "" && l.Address == "" && len(l.Logo) == 0 {
		return nil
	}
	out := &page.Letterhead{Name: l.Name}
	if l.Address != "" {
		out.Address = strings.Split(l.Address, "\n")
	}
	if size, err := png.DecodeConfig(bytes.NewReader(l.Logo)); err == nil && size.Height > 0 {
		out.Logo = "data:image/png;base64," + base64.StdEncoding.EncodeToString(l.Logo)
		out.Ratio = float64(size.Width) / float64(size.Height)
	}
	return out
}

// The inks of paper: the light scheme, black on white.
var (
	fills = map[page.Ink][3]int{
		page.Shade: {246, 243, 236}, page.Bar: {214, 228, 222}, page.Below: {236, 217, 224},
	}
	dark  = [3]int{30, 27, 23}
	quiet = [3]int{100, 94, 84}
	faint = [3]int{205, 198, 184}
)

// writePDF writes the pages as PDF, whose texts can be searched and copied.
func writePDF(ctx context.Context, to io.Writer, s Source, o Options) error {
	pages, err := Paper(ctx, s, o)
	if err != nil {
		return err
	}
	mine, room := turn.Of(ctx), int64(pages.Count)*pageBytes
	if err := mine.Book(ctx, room); err != nil {
		return err
	}
	defer func() { _ = mine.Book(ctx, -room) }() // giving back does not wait
	face, err := newTypeface()
	if err != nil {
		return err
	}
	about := s.about()
	made := s.Made
	if made.IsZero() {
		made = about.AsOf
	}
	p := newPDF(face, s.heading(), about.Brief, about.By, made)
	err = pages.Each(ctx, 1, pages.Count, func(at page.Page) error {
		if s.Progress != nil {
			s.Progress(pages.Lines() * at.Number / max(at.Of, 1))
		}
		return p.draw(at)
	})
	if err != nil {
		return err
	}
	return p.Output(to)
}

// newPDF begins a file.
func newPDF(face *typeface, title, about, by string, made time.Time) *pdf {
	out := fpdf.NewCustom(&fpdf.InitType{UnitStr: "pt"})
	out.SetAutoPageBreak(false, 0)
	out.SetTitle(title, true)
	out.SetSubject(about, true)
	out.SetAuthor(by, true)
	out.SetCreator("Gavrik", true)
	out.SetLang("en-GB")
	out.SetCreationDate(made.UTC())
	out.SetModificationDate(made.UTC())
	out.SetCatalogSort(true)
	return &pdf{Fpdf: out, face: face, fonts: map[string]bool{}, pictures: map[string]string{}}
}

// pageBytes is what a page takes of memory until the whole file is written.
const pageBytes = 72 << 10

// pdf draws pages.
type pdf struct {
	*fpdf.Fpdf
	face *typeface
	// fonts are those in use, pictures the names of those drawn, by their addresses.
	fonts    map[string]bool
	pictures map[string]string
	// font, size and ink are those set on the page.
	font string
	size float64
	ink  *[3]int
}

func (p *pdf) draw(at page.Page) error {
	p.AddPageFormat("P", fpdf.SizeType{Wd: at.Width, Ht: at.Height})
	for _, f := range at.Fills {
		c := fills[f.Ink]
		p.SetFillColor(c[0], c[1], c[2])
		p.Rect(f.X, f.Y, f.Width, f.Height, "F")
	}
	for _, r := range at.Rules {
		c := dark
		if r.Faint {
			c = faint
		}
		p.SetDrawColor(c[0], c[1], c[2])
		p.SetLineWidth(r.Width)
		p.Line(r.X1, r.Y1, r.X2, r.Y2)
	}
	for _, s := range at.Shapes {
		p.shape(s)
	}
	for _, i := range at.Pictures {
		p.picture(i)
	}
	// In the order in which they are read, and copied.
	p.font, p.ink = "", nil
	for _, t := range at.Texts {
		if err := p.text(t); err != nil {
			return err
		}
	}
	return p.Error()
}

// shape draws a mark of a chart.
func (p *pdf) shape(s page.Shape) {
	var r, g, b int
	// The colours are written here, and right.
	_, _ = fmt.Sscanf(inks[s.Series%len(inks)], "%02x%02x%02x", &r, &g, &b)
	points := make([]fpdf.PointType, 0, len(s.Points)/2)
	for i := 0; i+1 < len(s.Points); i += 2 {
		points = append(points, fpdf.PointType{X: s.Points[i], Y: s.Points[i+1]})
	}
	if !s.Line {
		p.SetFillColor(r, g, b)
		p.Polygon(points, "F")
		return
	}
	p.SetDrawColor(r, g, b)
	p.SetLineWidth(1.4)
	for i := 1; i < len(points); i++ {
		p.Line(points[i-1].X, points[i-1].Y, points[i].X, points[i].Y)
	}
}

func (p *pdf) text(t page.Text) error {
	ink := &dark
	if t.Quiet {
		ink = &quiet
	}
	if ink != p.ink {
		p.SetFillColor(ink[0], ink[1], ink[2]) // a text in the ink of surfaces names no ink of its own
		p.SetTextColor(ink[0], ink[1], ink[2])
		p.ink = ink
	}
	x := t.X
	for _, r := range p.face.runs(t.Face, t.Text) {
		family := string(t.Face) + "." + scripts[r.script]
		if !p.fonts[family] {
			text, err := fontFile(t.Face, scripts[r.script])
			if err != nil {
				return err
			}
			p.AddUTF8FontFromBytes(family, "", text)
			p.fonts[family] = true
		}
		if family != p.font || t.Size != p.size {
			p.SetFont(family, "", t.Size)
			p.font, p.size = family, t.Size
		}
		p.Text(x, t.Y, r.text)
		x += p.face.Width(t.Face, t.Size, r.text)
	}
	return nil
}

// The bounds of pictures: those larger are left out, all are made small.
const (
	mostPixels = 16 << 20
	thumbnail  = 600
)

// picture draws a thumbnail; what is no picture leaves its place empty.
func (p *pdf) picture(at page.Picture) {
	name, seen := p.pictures[at.Address]
	if !seen {
		if small := thumbnailOf(at.Address); small != nil {
			name = fmt.Sprintf("picture %d", len(p.pictures))
			p.RegisterImageOptionsReader(name, fpdf.ImageOptions{ImageType: "png"}, small)
		}
		p.pictures[at.Address] = name
	}
	info := p.GetImageInfo(name)
	if name == "" || info == nil {
		return
	}
	part := min(at.Width/info.Width(), at.Height/info.Height())
	width, height := info.Width()*part, info.Height()*part
	p.ImageOptions(name, at.X, at.Y+(at.Height-height)/2, width, height, false, fpdf.ImageOptions{}, 0, "")
}

// thumbnailOf makes a picture small, or returns nil.
func thumbnailOf(address string) io.Reader {
	_, data, ok := strings.Cut(picture(address), ";base64,")
	if !ok {
		return nil
	}
	text, err := base64.StdEncoding.DecodeString(data)
	if err != nil {
		return nil
	}
	size, _, err := image.DecodeConfig(bytes.NewReader(text))
	if err != nil || size.Width*size.Height > mostPixels {
		return nil
	}
	whole, _, err := image.Decode(bytes.NewReader(text))
	if err != nil {
		return nil
	}
	var out bytes.Buffer
	if png.Encode(&out, logo.Smaller(whole, thumbnail)) != nil {
		return nil
	}
	return &out
}
