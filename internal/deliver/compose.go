package deliver

import (
	"bytes"
	"cmp"
	"context"
	_ "embed"
	"errors"
	"fmt"
	html "html/template"
	"strconv"
	"strings"
	text "text/template"
	"unicode/utf8"

	"gavrik/internal/app"
	"gavrik/internal/core/format"
	"gavrik/internal/export"
	"gavrik/internal/store"
)

//go:embed letter.html
var htmlSource string

//go:embed letter.txt
var textSource string

var (
	htmlLetter = html.Must(html.New("letter").Funcs(html.FuncMap{
		"indent": func(level int) int { return max(level-1, 0) * 16 }, "sentence": format.Sentence,
		"count": func(n int) string { return format.Thousands(strconv.Itoa(n)) },
	}).Parse(htmlSource))
	textLetter = text.Must(text.New("letter").Funcs(text.FuncMap{
		"table": table, "upper": strings.ToUpper, "sentence": format.Sentence,
	}).Parse(textSource))
)

// Written is a letter as it leaves.
type Written struct {
	Subject, Text, HTML string
	Files               []File
	// Records is how many the view kept.
	Records int
	// View is what the letter says of the view, Board what it says of a board; nil for a notice.
	View  *export.Letter
	Board *boardLetter
}

// File is one that is attached.
type File struct {
	Name, Media string
	Content     []byte
}

// Bytes is how large a letter is, its files before they are encoded.
func (w Written) Bytes() int64 {
	n := int64(len(w.Text) + len(w.HTML))
	for _, f := range w.Files {
		n += int64(len(f.Content))
	}
	return n
}

// letterPage is what the templates are filled with.
type letterPage struct {
	Subject string
	Again   bool
	Note    []string // paragraphs
	Notice  string
	View    *export.Letter
	Board   *boardLetter
	// Told are what else is to be known: a file that is too large.
	Told       []string
	Link, Stop string
	// Why says why its reader gets it.
	Why string
}

// made is what letters of one run have in common that say the same: what they say of the view, and
// their files. It does not change.
type made struct {
	letter export.Letter
	board  *boardLetter // in place of a view's letter
	files  []File
	told   []string
}

// compose writes a letter around what was made for it.
func compose(d store.Delivery, content Content, m *made, p letterPage) (Written, error) {
	out := Written{Subject: cmp.Or(content.Subject, d.ViewName), Files: m.files, Board: m.board}
	if m.board == nil {
		out.View, out.Records = &m.letter, m.letter.Kept
	}
	p.View, p.Board, p.Note, p.Told = out.View, out.Board, paragraphs(content.Note), m.told
	return out, out.fill(p)
}

// making makes what letters of a name have in common once for those that are written about the same time.
func (s *Service) making(ctx context.Context, name string, do func() (*made, error)) (*made, error) {
	if m, ok := s.lately.Get(name); ok {
		return m, nil
	}
	for {
		v, err, shared := s.makes.Do(name, func() (any, error) {
			m, err := do()
			if err == nil {
				s.lately.Add(name, m)
			}
			return m, err
		})
		if err == nil {
			return v.(*made), nil
		}
		gaveUp := errors.Is(err, context.Canceled) || errors.Is(err, context.DeadlineExceeded)
		if !shared || !gaveUp || ctx.Err() != nil { // else whoever made it for all gave up
			return nil, err
		}
	}
}

func (s *Service) make(ctx context.Context, d store.Delivery, content Content, a *app.Answer) (*made, error) {
	source := export.Source{
		Result: a.Result, Document: a.Doc, Set: a.Set, Title: d.ViewName, By: d.OwnerName,
		Made: s.app.Workspace.Now(),
	}
	letter, err := export.LetterOf(ctx, source, cmp.Or(content.Lines, usualLines))
	if err != nil {
		return nil, err
	}
	letterhead, err := s.app.Store.Letterhead(ctx)
	if err != nil {
		return nil, err
	}
	source.Letterhead = (*export.Letterhead)(&letterhead)
	out, room := &made{letter: letter}, mostAttached
	for _, o := range content.Files {
		file, err := attach(ctx, source, d.ViewName, o, room)
		var refused *export.Refused
		switch {
		case errors.Is(err, errTooLarge):
			out.told = append(out.told, fmt.Sprintf(
				"The file of the format %s is larger than %d MB with the others and is not attached; take it from Gavrik.",
				o.Format, mostAttached>>20,
			))
		case errors.As(err, &refused):
			out.told = append(
				out.told, fmt.Sprintf("The file of the format %s could not be made: %s.", o.Format, refused.Why),
			)
		case err != nil:
			return nil, err
		default:
			out.files, room = append(out.files, file), room-len(file.Content)
		}
	}
	return out, nil
}

// fill writes a letter's two texts.
func (w *Written) fill(p letterPage) error {
	var asHTML, asText bytes.Buffer
	p.Subject = w.Subject
	if err := errors.Join(htmlLetter.Execute(&asHTML, p), textLetter.Execute(&asText, p)); err != nil {
		return fmt.Errorf("deliver: %w", err)
	}
	w.HTML, w.Text = asHTML.String(), asText.String()
	return nil
}

var errTooLarge = errors.New("deliver: too large")

// attach makes a file of at most so many bytes.
func attach(ctx context.Context, source export.Source, name string, o export.Options, most int) (File, error) {
	f, err := o.Settle()
	if err != nil {
		return File{}, err
	}
	if o.Format != "pdf" {
		source.Letterhead = nil
	}
	to := &bounded{most: most}
	if err := export.Write(ctx, to, source, o); err != nil {
		return File{}, err
	}
	return File{export.FileName(name) + "." + f.Key, f.Media, to.Bytes()}, nil
}

// bounded is a buffer that takes so many bytes and no more.
type bounded struct {
	bytes.Buffer
	most int
}

func (b *bounded) Write(p []byte) (int, error) {
	if b.Len()+len(p) > b.most {
		return 0, errTooLarge
	}
	return b.Buffer.Write(p)
}

func paragraphs(note string) (out []string) {
	for _, line := range strings.Split(note, "\n") {
		if line = strings.TrimSpace(line); line != "" {
			out = append(out, line)
		}
	}
	return out
}

// table writes a letter's lines for those who read plain text: columns apart by two blanks, figures
// to the right, no wider than they have to be.
func table(l *export.Letter) string {
	rows := [][]string{{}}
	right := []bool{}
	add := func(at int, text string) { rows[at] = append(rows[at], oneLine(text)) }
	if l.Labelled {
		add(0, l.LinesOf)
		right = append(right, false)
	}
	for _, h := range l.Headings {
		add(0, h.Text)
		right = append(right, h.Right)
	}
	for _, line := range l.Lines {
		rows = append(rows, nil)
		at := len(rows) - 1
		if l.Labelled {
			add(at, strings.Repeat("  ", max(line.Level-1, 0))+line.Label+" ("+line.Count+")")
		}
		for _, c := range line.Cells {
			add(at, c.Text)
		}
	}
	widths := make([]int, len(right))
	for _, row := range rows {
		for i, text := range row {
			widths[i] = max(widths[i], utf8.RuneCountInString(text))
		}
	}
	var out strings.Builder
	for _, row := range rows {
		line := ""
		for i, text := range row {
			pad := strings.Repeat(" ", widths[i]-utf8.RuneCountInString(text))
			if right[i] {
				line += pad + text + "  "
			} else {
				line += text + pad + "  "
			}
		}
		out.WriteString(strings.TrimRight(line, " ") + "\n")
	}
	return out.String()
}

// mostText is how wide a column of plain text may be.
const mostText = 40

func oneLine(text string) string {
	indent := len(text) - len(strings.TrimLeft(text, " "))
	text = text[:indent] + strings.Join(strings.Fields(text), " ")
	if utf8.RuneCountInString(text) > mostText {
		return string([]rune(text)[:mostText-1]) + "…"
	}
	return text
}
