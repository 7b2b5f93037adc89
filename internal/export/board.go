package export

import (
	"context"
	"io"
	"strings"
	"time"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/text"

	"gavrik/internal/core/page"
)

// Board is a board on its way to paper.
type Board struct {
	page.Board
	// Brief says what it shows, By who takes it away, At when.
	Brief, By string
	At        time.Time
	Heads     *Letterhead
}

// BoardPages lays a board out on paper.
func BoardPages(b Board) ([]page.Page, error) {
	face, err := newTypeface()
	if err != nil {
		return nil, err
	}
	b.Metrics, b.Letterhead = face, b.Heads.onPaper()
	return page.LayBoard(b.Board), nil
}

// WriteBoard writes a board as PDF.
func WriteBoard(ctx context.Context, to io.Writer, b Board) error {
	pages, err := BoardPages(b)
	if err != nil {
		return err
	}
	face, err := newTypeface()
	if err != nil {
		return err
	}
	p := newPDF(face, b.Title, b.Brief, b.By, b.At)
	for _, at := range pages {
		if err := ctx.Err(); err != nil {
			return err
		}
		if err := p.draw(at); err != nil {
			return err
		}
	}
	return p.Output(to)
}

// Paragraphs are the words of a text in Markdown (CommonMark), as paper sets them: how words stand out within a
// paragraph is left out.
func Paragraphs(markdown string) []page.Paragraph {
	source := []byte(markdown)
	var out []page.Paragraph
	_ = ast.Walk(goldmark.DefaultParser().Parse(text.NewReader(source)), func(n ast.Node, entering bool) (ast.WalkStatus, error) {
		if !entering || n.Type() != ast.TypeBlock {
			return ast.WalkContinue, nil
		}
		p := page.Paragraph{}
		switch n := n.(type) {
		case *ast.Heading:
			p.Heading = true
		case *ast.Paragraph, *ast.TextBlock:
			_, p.Item = n.Parent().(*ast.ListItem)
		case *ast.CodeBlock, *ast.FencedCodeBlock:
			p.Text = strings.TrimRight(string(n.Lines().Value(source)), "\n")
		default: // what holds blocks, and HTML, which is no words
			return ast.WalkContinue, nil
		}
		if p.Text == "" {
			p.Text = words(n, source)
		}
		if p.Text != "" {
			out = append(out, p)
		}
		return ast.WalkSkipChildren, nil
	}) // no step of it fails
	return out
}

// words are those of a block.
func words(block ast.Node, source []byte) string {
	var out strings.Builder
	_ = ast.Walk(block, func(n ast.Node, entering bool) (ast.WalkStatus, error) {
		switch n := n.(type) {
		case *ast.Text:
			if entering {
				out.Write(n.Value(source))
				if n.SoftLineBreak() || n.HardLineBreak() {
					out.WriteByte(' ')
				}
			}
		case *ast.AutoLink:
			if entering {
				out.Write(n.Label(source))
			}
		}
		return ast.WalkContinue, nil
	}) // no step of it fails
	return strings.TrimSpace(out.String())
}
