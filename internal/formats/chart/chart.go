// Package chart draws figures by group as pictures, PNG or SVG, with a plotting library:
// for mails and files, and for the console.
package chart

import (
	"bytes"
	"errors"
	"fmt"
	"image/color"
	"io"
	"math"
	"strconv"
	"strings"

	"gonum.org/v1/plot"
	"gonum.org/v1/plot/font"
	"gonum.org/v1/plot/plotter"
	"gonum.org/v1/plot/text"
	"gonum.org/v1/plot/vg"
	"gonum.org/v1/plot/vg/draw"
	"gonum.org/v1/plot/vg/vgimg"
	"gonum.org/v1/plot/vg/vgsvg"
)

// Kind is how figures are drawn.
type Kind int

// The kinds of drawing.
const (
	Bars Kind = iota
	Line
	Stacked
)

// Series is one row of figures, as many as there are labels.
type Series struct {
	Name   string // "" where there is one alone
	Values []float64
	Faint  bool // of an earlier day, beside those of now
}

// Picture is what is drawn.
type Picture struct {
	Kind   Kind
	Labels []string
	Series []Series
	Unit   string // beside the numbers of the axis: a currency code, %, or ""
	Comma  bool   // whether decimals are written after a comma
	Dark   bool
	Width  int // in points; 0: 640
}

// ErrNothing says that there is nothing to draw.
var ErrNothing = errors.New("there is nothing to draw")

// Size of a picture, in points of the SVG and half pixels of the PNG.
const (
	usual  = 640 // its width unless told otherwise
	height = 320
	dense  = 144 // dots an inch of a PNG
)

type colours struct {
	ground, ink, quiet, line color.Color
	series                   []color.Color
}

var (
	light = colours{
		ground: hex("FFFFFF"), ink: hex("1F2A37"), quiet: hex("566070"), line: hex("DDD8CA"),
		series: []color.Color{hex("1D6B5C"), hex("C7831A"), hex("4A6FA5"), hex("B23A2E"), hex("7A5C99"), hex("5B8C3A"), hex("8C8577"), hex("B05C86")},
	}
	dark = colours{
		ground: hex("1F262E"), ink: hex("E9E6DC"), quiet: hex("A9B0B8"), line: hex("36404A"),
		series: []color.Color{hex("66BBA7"), hex("E3AC55"), hex("85A8DB"), hex("F08B7E"), hex("B99AD6"), hex("9CCB7C"), hex("BDB6A7"), hex("DE97BB")},
	}
)

func hex(s string) color.Color {
	n, _ := strconv.ParseUint(s, 16, 32) // the strings stand above
	return color.RGBA{uint8(n >> 16), uint8(n >> 8), uint8(n), 255}
}

// SVG draws the picture as SVG.
func (p *Picture) SVG(w io.Writer) error {
	drawn, err := p.plot()
	if err != nil {
		return err
	}
	c := vgsvg.New(p.size())
	p.framed(drawn, draw.New(c))
	var out bytes.Buffer
	if _, err := c.WriteTo(&out); err != nil {
		return fmt.Errorf("drawing: %w", err)
	}

	text := strings.NewReplacer("<svg ", `<svg role="img" `, "font-family:Liberation Sans", "font-family:Liberation Sans,Arial,sans-serif").Replace(out.String())
	_, err = io.WriteString(w, text)
	return err
}

// PNG draws the picture as PNG.
func (p *Picture) PNG(w io.Writer) error {
	drawn, err := p.plot()
	if err != nil {
		return err
	}
	x, y := p.size()
	c := vgimg.NewWith(vgimg.UseWH(x, y), vgimg.UseDPI(dense))
	p.framed(drawn, draw.New(c))
	_, err = vgimg.PngCanvas{Canvas: c}.WriteTo(w)
	return err
}

// framed draws with room on all sides.
func (p *Picture) framed(drawn *plot.Plot, c draw.Canvas) {
	c.FillPolygon(p.colours().ground, []vg.Point{c.Min, {X: c.Max.X, Y: c.Min.Y}, c.Max, {X: c.Min.X, Y: c.Max.Y}})
	drawn.Draw(draw.Crop(c, vg.Points(8), vg.Points(-14), vg.Points(8), vg.Points(-10)))
}

// size gives the picture more height where names stand upright below it.
func (p *Picture) size() (x, y vg.Length) {
	if p.slanted() {
		return vg.Length(p.width()), height + 40
	}
	return vg.Length(p.width()), height
}

// slanted reports whether names are too long to stand side by side.
func (p *Picture) slanted() bool {
	letters := 0
	for _, l := range p.shownLabels() {
		letters = max(letters, len([]rune(l)))
	}
	return letters*len(p.Labels) > mostLetters*p.width()/usual
}

func (p *Picture) width() int {
	if p.Width > 0 {
		return p.Width
	}
	return usual
}

const mostLetters = 95

func (p *Picture) colours() colours {
	if p.Dark {
		return dark
	}
	return light
}

func (p *Picture) plot() (*plot.Plot, error) {
	if len(p.Labels) == 0 || len(p.Series) == 0 {
		return nil, ErrNothing
	}
	c := p.colours()
	out := plot.New()
	out.BackgroundColor = c.ground
	out.X.Color, out.Y.Color = c.line, c.line
	small := func(s *text.Style) {
		s.Color = c.quiet
		s.Font = font.From(font.Font{Typeface: "Liberation", Variant: "Sans"}, 10)
	}
	for _, a := range []*plot.Axis{&out.X, &out.Y} {
		small(&a.Tick.Label)
		small(&a.Label.TextStyle)
		a.Tick.Color, a.Padding = c.line, vg.Points(2)
	}
	out.X.Tick.Length, out.Y.Tick.Length = 0, vg.Points(3)
	grid := plotter.NewGrid()
	grid.Vertical.Color, grid.Horizontal.Color = nil, c.line
	grid.Horizontal.Width = vg.Points(0.5)
	out.Add(grid)
	if err := p.draw(out, c); err != nil {
		return nil, fmt.Errorf("drawing: %w", err)
	}
	out.NominalX(p.shownLabels()...)
	out.X.Min, out.X.Max = -0.6, float64(len(p.Labels))-0.4
	out.X.Tick.Label.Font = font.From(font.Font{Typeface: "Liberation", Variant: "Sans"}, 10)
	if p.slanted() {
		out.X.Tick.Label.Rotation, out.X.Tick.Label.XAlign, out.X.Tick.Label.YAlign = math.Pi/5, draw.XRight, draw.YCenter
	}
	out.Y.Min, out.Y.Max = min(0, out.Y.Min), max(out.Y.Max, 0)
	if out.Y.Max == out.Y.Min {
		out.Y.Max = 1
	}
	out.Y.Tick.Marker = ticks{p.Unit, p.Comma}
	if len(p.Series) > 1 {
		small(&out.Legend.TextStyle)
		out.Legend.Top, out.Legend.Left, out.Legend.XOffs = true, true, vg.Points(6)
		out.Legend.Padding, out.Legend.ThumbnailWidth = vg.Points(2), vg.Points(12)
		out.Y.Max += (out.Y.Max - out.Y.Min) * legendRoom * float64(min(len(p.Series), mostInLegend))
	}
	return out, nil
}

const (
	legendRoom   = 0.07 // of the height, for each line
	mostInLegend = 8
)

func (p *Picture) draw(out *plot.Plot, c colours) error {
	plain := 0
	for _, s := range p.Series {
		if !s.Faint {
			plain++
		}
	}
	colour := func(i int, s *Series) color.Color {
		if s.Faint {
			return c.line
		}
		return c.series[i%len(c.series)]
	}
	if p.Kind == Line {
		for i := range p.Series {
			s := &p.Series[i]
			points := make(plotter.XYs, len(s.Values))
			for x, y := range s.Values {
				points[x].X, points[x].Y = float64(x), y
			}
			line, dots, err := plotter.NewLinePoints(points)
			if err != nil {
				return err
			}
			line.Color, line.Width = colour(i, s), vg.Points(1.8)
			dots.Color, dots.Shape, dots.Radius = colour(i, s), draw.CircleGlyph{}, vg.Points(2.2)
			out.Add(line, dots)
			if len(p.Series) > 1 {
				out.Legend.Add(s.Name, line)
			}
		}
		return nil
	}
	side := len(p.Series)
	if p.Kind == Stacked {
		side = 1
	}
	wide := vg.Points(float64(p.width()-70) / float64(len(p.Labels)) * 0.7 / float64(side))
	var below *plotter.BarChart
	for i := range p.Series {
		s := &p.Series[i]
		bars, err := plotter.NewBarChart(plotter.Values(s.Values), wide)
		if err != nil {
			return err
		}
		bars.Color, bars.LineStyle.Width = colour(i, s), 0
		if p.Kind == Stacked {
			if below != nil {
				bars.StackOn(below)
			}
			below = bars
		} else {
			bars.Offset = wide * vg.Length(float64(i)-float64(side-1)/2)
		}
		out.Add(bars)
		if len(p.Series) > 1 {
			out.Legend.Add(s.Name, bars)
		}
	}
	return nil
}

// shownLabels gives the names below the picture: all, or every so many where they would
// run into each other.
func (p *Picture) shownLabels() []string {
	most := max(1, mostShown*p.width()/usual)
	every := (len(p.Labels) + most - 1) / most
	out := make([]string, len(p.Labels))
	for i, l := range p.Labels {
		if i%every == 0 {
			out[i] = shorten(l)
		}
	}
	return out
}

const (
	mostShown  = 26 // names
	longestOne = 22 // letters
)

func shorten(s string) string {
	if r := []rune(s); len(r) > longestOne {
		return string(r[:longestOne-1]) + "…"
	}
	return s
}

// ticks writes the numbers of the axis as people read them.
type ticks struct {
	unit  string
	comma bool
}

// Ticks gives the marks between two numbers.
func (t ticks) Ticks(low, high float64) []plot.Tick {
	marks := plot.DefaultTicks{}.Ticks(low, high)
	for i := range marks {
		if marks[i].Label != "" {
			marks[i].Label = t.write(marks[i].Value)
		}
	}
	return marks
}

func (t ticks) write(v float64) string {
	written := t.plain(v)
	if t.comma {
		return strings.Replace(written, ".", ",", 1)
	}
	return written
}

func (t ticks) plain(v float64) string {
	if t.unit == "%" {
		return strconv.FormatFloat(math.Round(v*1000)/10, 'f', -1, 64) + " %"
	}
	short := ""
	switch size := math.Abs(v); {
	case size >= 1e9:
		v, short = v/1e9, " bn"
	case size >= 1e6:
		v, short = v/1e6, " m"
	case size >= 1e4:
		v, short = v/1e3, "k"
	}
	out := strconv.FormatFloat(math.Round(v*100)/100, 'f', -1, 64) + short
	if t.unit != "" {
		out += " " + t.unit
	}
	return out
}
