package engine

import (
	"context"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/engine/windows"
	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
)

// The tests read results as text, as people and programs do.

type textLine struct {
	result.Line
	Label string
	Cells []string
	Mixes []textMix
}

type textMix struct{ Low, High string }

type textGroup struct {
	textLine
	Labels []string
}

type textWindow struct {
	Total, Offset int
	Lines, Above  []textLine
}

func asText(pen *result.Pen, l result.Line) textLine {
	out := textLine{Line: l, Label: pen.Label(l), Cells: pen.Cells(l)}
	for _, m := range l.Mixes {
		low, high := pen.Mix(m)
		out.Mixes = append(out.Mixes, textMix{low, high})
	}
	return out
}

func allAsText(r *windows.Result, style format.Style, lines []result.Line) []textLine {
	out := make([]textLine, 0, len(lines))
	pen := r.Pen(style)
	for _, l := range lines {
		out = append(out, asText(pen, l))
	}
	return out
}

func window(
	t require.TestingT, r *windows.Result, open result.Open, offset, limit int, style format.Style,
) textWindow {
	w, err := r.Window(context.Background(), open, offset, limit)
	require.NoError(t, err)
	return textWindow{w.Total, w.Offset, allAsText(r, style, w.Lines), allAsText(r, style, w.Above)}
}

func grand(r *windows.Result, style format.Style) textLine { return asText(r.Pen(style), r.GrandTotal) }

func eachGroup(ctx context.Context, r *windows.Result, style format.Style, do func(textGroup) error) error {
	pen := r.Pen(style)
	return r.EachGroup(ctx, result.Groups{}, func(g result.GroupLine) error {
		return do(textGroup{asText(pen, g.Line), pen.Labels(g.Keys[:g.Level])})
	})
}

// written writes a cell as conditions take it.
func (w *world) written(c cell.Cell, f catalog.Field) string { return result.Operand(w.cal, c, f) }
