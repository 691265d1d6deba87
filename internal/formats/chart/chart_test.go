package chart_test

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"image/png"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/formats/chart"
)

func picture(kind chart.Kind, labels, series int) *chart.Picture {
	p := &chart.Picture{Kind: kind, Unit: "EUR"}
	for i := range labels {
		p.Labels = append(p.Labels, fmt.Sprintf("Hall <%d> & more", i))
	}
	for i := range series {
		s := chart.Series{Name: fmt.Sprintf("Series %d", i), Faint: i == 1}
		for j := range labels {
			s.Values = append(s.Values, float64((i+1)*(j%7)-2)*1e4)
		}
		p.Series = append(p.Series, s)
	}
	return p
}

// texts gives the words of a well-formed SVG.
func texts(t *testing.T, svg []byte) []string {
	t.Helper()
	var out []string
	d := xml.NewDecoder(bytes.NewReader(svg))
	for {
		token, err := d.Token()
		if errors.Is(err, io.EOF) {
			return out
		}
		require.NoError(t, err)
		if words, is := token.(xml.CharData); is && strings.TrimSpace(string(words)) != "" {
			out = append(out, strings.TrimSpace(string(words)))
		}
	}
}

func TestEveryKindIsDrawnAsBoth(t *testing.T) {
	for _, kind := range []chart.Kind{chart.Bars, chart.Line, chart.Stacked} {
		for _, size := range [][2]int{{1, 1}, {4, 1}, {4, 3}, {12, 2}, {400, 1}} {
			for _, dark := range []bool{false, true} {
				p := picture(kind, size[0], size[1])
				p.Dark = dark
				var svg, picture bytes.Buffer
				require.NoError(t, p.SVG(&svg))
				words := texts(t, svg.Bytes())
				assert.Contains(t, words, "Hall <0> & more")
				if size[1] > 1 {
					assert.Contains(t, words, "Series 1")
				} else {
					assert.NotContains(t, words, "Series 0")
				}
				require.NoError(t, p.PNG(&picture))
				drawn, err := png.Decode(&picture)
				require.NoError(t, err)
				assert.Equal(t, 1280, drawn.Bounds().Dx())
			}
		}
	}
}

// On a telephone a picture is narrow, and fewer names stand below it.
func TestANarrowPictureNamesFewer(t *testing.T) {
	named := func(width int) (n int) {
		p := picture(chart.Bars, 400, 1)
		p.Width = width
		var svg, drawn bytes.Buffer
		require.NoError(t, p.SVG(&svg))
		for _, word := range texts(t, svg.Bytes()) {
			if strings.HasPrefix(word, "Hall") {
				n++
			}
		}
		require.NoError(t, p.PNG(&drawn))
		seen, err := png.Decode(&drawn)
		require.NoError(t, err)
		assert.Equal(t, 2*width, seen.Bounds().Dx())
		return n
	}
	assert.Equal(t, 25, named(640))
	assert.Equal(t, 14, named(360))
}

func TestNumbersOfTheAxisAreShort(t *testing.T) {
	for unit, want := range map[string]string{"EUR": "300k EUR", "%": "150 %", "": "300k"} {
		p := &chart.Picture{Labels: []string{"a", "b"}, Unit: unit, Series: []chart.Series{{Values: []float64{300_000, 0}}}}
		if unit == "%" {
			p.Series[0].Values[0] = 1.5
		}
		var out bytes.Buffer
		require.NoError(t, p.SVG(&out))
		assert.Contains(t, texts(t, out.Bytes()), want)
	}
	comma := &chart.Picture{Labels: []string{"a"}, Comma: true, Series: []chart.Series{{Values: []float64{1}}}}
	var halves bytes.Buffer
	require.NoError(t, comma.SVG(&halves))
	assert.Contains(t, texts(t, halves.Bytes()), "0,5")
	require.ErrorIs(t, (&chart.Picture{}).SVG(io.Discard), chart.ErrNothing)
	require.ErrorIs(t, (&chart.Picture{}).PNG(io.Discard), chart.ErrNothing)
	var zero bytes.Buffer
	require.NoError(t, (&chart.Picture{Labels: []string{"a"}, Series: []chart.Series{{Values: []float64{0}}}}).SVG(&zero))
}
