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
	faces  map[page.Face]*faceGlyphs
	buffer sfnt.Buffer
}

// faceGlyphs are the characters of a face that were met: those of European scripts and signs
// by their place, others by name.
type faceGlyphs struct {
	fonts []*sfnt.Font // by script
	near  [0x2400]glyph
	far   map[rune]glyph
}

// glyph is a character in the first script that has it.
type glyph struct {
	script  int
	advance float64 // at size 1
	known   bool
}

func newTypeface() (*typeface, error) {
	t := &typeface{faces: map[page.Face]*faceGlyphs{}}
	for _, face := range []page.Face{page.Sans, page.SansBold, page.Serif, page.SerifBold} {
		glyphs := &faceGlyphs{far: map[rune]glyph{}}
		for _, script := range scripts {
			text, err := fontFile(face, script)
			if err != nil {
				return nil, err
			}
			f, err := sfnt.Parse(text)
			if err != nil {
				return nil, fmt.Errorf("fonts: %s, %s: %w", face, script, err)
			}
			glyphs.fonts = append(glyphs.fonts, f)
		}
		t.faces[face] = glyphs
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

func (t *typeface) glyph(face *faceGlyphs, r rune) glyph {
	if r < rune(len(face.near)) {
		g := &face.near[r]
		if !g.known {
			*g = t.find(face, r)
		}
		return *g
	}
	g, ok := face.far[r]
	if !ok {
		g = t.find(face, r)
		face.far[r] = g
	}
	return g
}

// find looks a character up in the fonts. What no script has is measured as the box that stands
// for it.
func (t *typeface) find(face *faceGlyphs, r rune) glyph {
	out := glyph{known: true}
	for script, f := range face.fonts {
		index, err := f.GlyphIndex(&t.buffer, r)
		if err != nil || index == 0 && script > 0 {
			continue
		}
		advance, err := f.GlyphAdvance(&t.buffer, index, fixed.I(unit), font.HintingNone)
		if err != nil {
			continue
		}
		out.script, out.advance = script, float64(advance)/64/unit
		if index != 0 {
			break
		}
	}
	return out
}

// Width is that of a text, without kerning.
func (t *typeface) Width(face page.Face, size float64, text string) float64 {
	glyphs, sum := t.faces[face], 0.0
	for _, r := range text {
		sum += t.glyph(glyphs, r).advance
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
	glyphs := t.faces[face]
	for i, r := range text {
		g := t.glyph(glyphs, r)
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
