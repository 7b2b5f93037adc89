package logo

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

func TestLogosAreDrawnAnew(t *testing.T) {
	got, err := Draw([]byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 40 20"><rect x="0" y="0" width="20" height="20" fill="#7a2e4d"/></svg>`))
	require.NoError(t, err)
	drawn, err := png.Decode(bytes.NewReader(got))
	require.NoError(t, err)
	require.Equal(t, image.Rect(0, 0, 1000, 500), drawn.Bounds())
	require.Equal(t, color.NRGBAModel.Convert(color.NRGBA{0x7a, 0x2e, 0x4d, 255}), color.NRGBAModel.Convert(drawn.At(100, 250)))
	_, _, _, alpha := drawn.At(900, 250).RGBA()
	require.Zero(t, alpha)
	again, err := Draw(got)
	require.NoError(t, err)
	small, err := png.DecodeConfig(bytes.NewReader(again))
	require.NoError(t, err)
	require.Equal(t, []int{1000, 500}, []int{small.Width, small.Height})
}

func TestLogosThatAreRefused(t *testing.T) {
	svg := func(inside string) string {
		return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 4 4">` + inside + `</svg>`
	}
	for sent, why := range map[string]string{
		strings.Repeat("x", MaxBytes+1):                        "it has 2 MB",
		"GIF89a":                                               "neither a PNG nor an SVG",
		"\x89PNG\r\n\x1a\nbroken":                              "no PNG that can be read",
		svg(`<script>alert(1)</script>`):                       "<script>",
		svg(`<rect onload="alert(1)"/>`):                       `"onload" would run`,
		svg(`<a href="https://elsewhere.example">x</a>`):       `"href" would run or fetch`,
		svg(`<image href="https://elsewhere.example/x.png"/>`): "<image>",
		svg(`<foreignObject/>`):                                "<foreignObject>",
		`<!DOCTYPE svg [<!ENTITY a "b">]>` + svg(""):           "declarations",
		svg(strings.Repeat("<g>", 200)):                        "nested",
		`<html></html>`:                                        "neither a PNG nor an SVG",
		`<svg xmlns="http://www.w3.org/2000/svg"/>`:            "says how large it is",
	} {
		_, err := Draw([]byte(sent))
		require.ErrorIs(t, err, ErrRefused, why)
		require.ErrorContains(t, err, why)
	}
}
