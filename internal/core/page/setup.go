package page

import "gavrik/internal/core/view"

// Points to a millimetre.
const perMillimetre = 72 / 25.4

// sizes are width and height of upright sheets, in points (ISO 216, ANSI Y14.1).
var sizes = map[view.PaperSize][2]float64{
	view.A4: {210 * perMillimetre, 297 * perMillimetre}, view.A3: {297 * perMillimetre, 420 * perMillimetre},
	view.Letter: {612, 792}, view.Legal: {612, 1008},
}

// sheet is the room on a page.
type sheet struct {
	width, height, margin float64
	// size is that of the type.
	size float64
}

// The sizes of type and margins that are usual.
const (
	usualMargin = 15 // mm
	usualType   = 9  // points
	leastType   = 5  // that can be read, when columns are made to fit
)

func sheetOf(p *view.Paper) sheet {
	size, ok := sizes[p.Size]
	if !ok {
		size = sizes[view.A4]
	}
	if p.Sideways {
		size[0], size[1] = size[1], size[0]
	}
	s := sheet{width: size[0], height: size[1], margin: usualMargin * perMillimetre, size: usualType}
	if p.Margin > 0 {
		s.margin = float64(p.Margin) * perMillimetre
	}
	if p.Type > 0 {
		s.size = float64(p.Type)
	}
	return s
}

// room is the width between the margins.
func (s sheet) room() float64 { return s.width - 2*s.margin }

// leading is the distance of lines of a size.
func leading(size float64) float64 { return size * 1.35 }
