// Package logo takes pictures from people and draws them anew: what comes out holds pixels and
// nothing else, whatever stood in what was sent.
package logo

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"image"
	"image/png"
	"io"
	"math"
	"strings"

	"github.com/srwiley/oksvg"
	"github.com/srwiley/rasterx"
	"golang.org/x/image/draw"

	"gavrik/internal/core/fault"
)

// The bounds of what is sent, and the size of what is kept.
const (
	MaxBytes  = 2 << 20
	maxPixels = 16 << 20
	keptWidth = 1000 // at most, in pixels; as high at most
)

// ErrRefused says why a picture cannot be a logo; what wraps it is said to people.
var ErrRefused = errors.New("the logo was not taken")

func refused(format string, args ...any) error {
	return fmt.Errorf("%w: %s", ErrRefused, fmt.Sprintf(format, args...))
}

// Draw reads a PNG or an SVG and returns a PNG.
func Draw(sent []byte) ([]byte, error) {
	if len(sent) > MaxBytes {
		return nil, refused("it has %d MB; at most %d are taken", len(sent)>>20, MaxBytes>>20)
	}
	var drawn image.Image
	err := fault.Caught(func() (err error) { // a reader of foreign files may fail in ways of its own
		if bytes.HasPrefix(sent, []byte("\x89PNG")) {
			drawn, err = fromPNG(sent)
		} else {
			drawn, err = fromSVG(sent)
		}
		return err
	})
	var caught *fault.Error
	if errors.As(err, &caught) {
		return nil, refused("it cannot be read; save it as PNG and send that")
	}
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	if err := png.Encode(&out, drawn); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

func fromPNG(sent []byte) (image.Image, error) {
	size, err := png.DecodeConfig(bytes.NewReader(sent))
	if err != nil {
		return nil, refused("it is no PNG that can be read")
	}
	if size.Width*size.Height > maxPixels {
		return nil, refused("it has %d × %d pixels; 1,000 across are enough", size.Width, size.Height)
	}
	whole, err := png.Decode(bytes.NewReader(sent))
	if err != nil {
		return nil, refused("it is no PNG that can be read")
	}
	return Smaller(whole, keptWidth), nil
}

// Smaller is a picture of at most so many pixels across and down.
func Smaller(whole image.Image, most int) image.Image {
	size := whole.Bounds().Size()
	part := math.Min(1, float64(most)/float64(max(size.X, size.Y, 1)))
	out := image.NewNRGBA(image.Rect(
		0, 0, max(1, int(float64(size.X)*part)), max(1, int(float64(size.Y)*part)),
	))
	draw.CatmullRom.Scale(out, out.Bounds(), whole, whole.Bounds(), draw.Src, nil)
	return out
}

func fromSVG(sent []byte) (image.Image, error) {
	if err := harmless(sent); err != nil {
		return nil, err
	}
	icon, err := oksvg.ReadIconStream(bytes.NewReader(sent), oksvg.IgnoreErrorMode)
	if err != nil || icon.ViewBox.W <= 0 || icon.ViewBox.H <= 0 {
		return nil, refused("it is neither a PNG nor an SVG that says how large it is; save it as PNG and send that")
	}
	part := keptWidth / math.Max(icon.ViewBox.W, icon.ViewBox.H)
	width, height := max(1, int(icon.ViewBox.W*part)), max(1, int(icon.ViewBox.H*part))
	icon.SetTarget(0, 0, float64(width), float64(height))
	out := image.NewRGBA(image.Rect(0, 0, width, height))
	icon.Draw(rasterx.NewDasher(width, height, rasterx.NewScannerGV(width, height, out, out.Bounds())), 1)
	return out, nil
}

// harmless refuses what no logo needs: scripts, what acts on events, what is fetched from
// elsewhere, other documents within.
func harmless(sent []byte) error {
	d := xml.NewDecoder(bytes.NewReader(sent))
	d.Strict = false
	root, depth := "", 0
	for {
		token, err := d.Token()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return refused("it is neither a PNG nor an SVG")
		}
		switch t := token.(type) {
		case xml.Directive:
			return refused("it holds declarations that no logo needs; save it as plain SVG or as PNG")
		case xml.EndElement:
			depth--
		case xml.StartElement:
			if depth++; depth > 100 {
				return refused("its parts are nested more than 100 deep")
			}
			if root == "" {
				root = t.Name.Local
			}
			switch strings.ToLower(t.Name.Local) {
			case "script", "foreignobject", "iframe", "image", "use", "animate", "set", "handler":
				return refused("it holds <%s>, which no logo needs; save it as plain SVG or as PNG", t.Name.Local)
			}
			for _, a := range t.Attr {
				name, value := strings.ToLower(a.Name.Local), strings.ToLower(a.Value)
				if strings.HasPrefix(name, "on") || name == "href" && !strings.HasPrefix(value, "#") ||
					strings.Contains(value, "javascript:") || strings.Contains(value, "url(http") {
					return refused("its %q would run or fetch something; save it as plain SVG or as PNG", a.Name.Local)
				}
			}
		}
	}
	if root != "svg" {
		return refused("it is neither a PNG nor an SVG")
	}
	return nil
}
