package export

import (
	"embed"
	"errors"
	"fmt"
	"strings"

	"golang.org/x/image/font"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"

	"gavrik/internal/core/page"
)

// fontFiles are the product's fonts as TrueType, made by the build: a file for each face and
// script.
//
//go:embed all:fonts
var fontFiles embed.FS

// scripts are those that the fonts have, in the order in which they are looked through.
var scripts = []string{"latin", "latin-ext", "greek", "cyrillic"}

// errNoFonts says that the program was not built as a whole.
var errNoFonts = errors.New("the fonts for paper are not built in; build with make")

// typeface measures and cuts texts in the product's fonts. It belongs to one goroutine.
type typeface struct {
	fonts  map[page.Face][]*sfnt.Font // by script
	known  map[glyphOf]glyph
	buffer sfnt.Buffer
}

type glyphOf struct {
	face page.Face
	r    rune
}

// glyph is a character in the first script that has it.
type glyph struct {
	script  int
	advance float64 // at size 1
}

func newTypeface() (*typeface, error) {
	t := &typeface{fonts: map[page.Face][]*sfnt.Font{}, known: map[glyphOf]glyph{}}
	for _, face := range []page.Face{page.Sans, page.SansBold, page.Serif, page.SerifBold} {
		for _, script := range scripts {
			text, err := fontFile(face, script)
			if err != nil {
				return nil, err
			}
			f, err := sfnt.Parse(text)
			if err != nil {
				return nil, fmt.Errorf("fonts: %s, %s: %w", face, script, err)
			}
			t.fonts[face] = append(t.fonts[face], f)
		}
	}
	return t, nil
}

func fontFile(face page.Face, script string) ([]byte, error) {
	text, err := fontFiles.ReadFile("fonts/" + string(face) + "." + script + ".ttf")
	if err != nil {
		return nil, errNoFonts
	}
	return text, nil
}

// unit is the size at which glyphs are measured: large, so that nothing is rounded away.
const unit = 1000

func (t *typeface) glyph(face page.Face, r rune) glyph {
	key := glyphOf{face, r}
	if g, ok := t.known[key]; ok {
		return g
	}
	// What no script has is measured as the box that stands for it.
	out := glyph{}
	for script, f := range t.fonts[face] {
		index, err := f.GlyphIndex(&t.buffer, r)
		if err != nil || index == 0 && script > 0 {
			continue
		}
		advance, err := f.GlyphAdvance(&t.buffer, index, fixed.I(unit), font.HintingNone)
		if err != nil {
			continue
		}
		out = glyph{script, float64(advance) / 64 / unit}
		if index != 0 {
			break
		}
	}
	t.known[key] = out
	return out
}

// Width is that of a text, without kerning.
func (t *typeface) Width(face page.Face, size float64, text string) float64 {
	sum := 0.0
	for _, r := range text {
		sum += t.glyph(face, r).advance
	}
	return sum * size
}

// run is a part of a text that one script has.
type run struct {
	script int
	text   string
}

// runs cuts a text where its script changes. What lies beyond the first plane, which the fonts
// do not have, becomes a question mark.
func (t *typeface) runs(face page.Face, text string) []run {
	var out []run
	from, script := 0, -1
	text = strings.Map(func(r rune) rune {
		if r > 0xffff {
			return '?'
		}
		return r
	}, text)
	for i, r := range text {
		g := t.glyph(face, r)
		if script >= 0 && g.script != script {
			out = append(out, run{script, text[from:i]})
			from = i
		}
		script = g.script
	}
	if from < len(text) {
		out = append(out, run{script, text[from:]})
	}
	return out
}
