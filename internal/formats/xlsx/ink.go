package xlsx

// The colours of cells in workbooks that are read: written out, of the theme or
// of the old palette (ECMA-376, 18.3.1.15, 18.8.19, 18.8.27, 20.1.6.2).

import (
	"encoding/xml"
	"fmt"
	"math"
	"strconv"

	"example.org/kavlo/internal/value"
)

// ink is a colour as a style names it.
type ink struct {
	RGB     string `xml:"rgb,attr"`
	Theme   *int   `xml:"theme,attr"`
	Indexed *int   `xml:"indexed,attr"`
	Tint    string `xml:"tint,attr"`
}

// flag is an element that is there for yes, unless it says otherwise.
type flag struct {
	Val string `xml:"val,attr"`
}

func (f *flag) on() bool { return f != nil && f.Val != "0" && f.Val != "false" }

type font struct {
	Bold   *flag `xml:"b"`
	Italic *flag `xml:"i"`
	Struck *flag `xml:"strike"`
	Ink    *ink  `xml:"color"`
}

type fill struct {
	Pattern struct {
		Type string `xml:"patternType,attr"`
		Ink  *ink   `xml:"fgColor"`
	} `xml:"patternFill"`
}

// lookOf gives the look of cells with a font and a fill; usual is the font of
// cells without a style.
func (b *book) lookOf(f, usual font, paper fill) value.CellStyle {
	l := value.CellStyle{Ink: b.colour(f.Ink), Bold: f.Bold.on() && !usual.Bold.on(), Italic: f.Italic.on() && !usual.Italic.on(), Struck: f.Struck.on()}
	if l.Ink == b.colour(usual.Ink) {
		l.Ink = ""
	}
	if paper.Pattern.Type == "solid" {
		l.Fill = b.colour(paper.Pattern.Ink)
	}
	return l.Plainly()
}

// colour gives a colour as #RRGGBB; "" for none, and for the system's own.
func (b *book) colour(c *ink) string {
	switch {
	case c == nil:
		return ""
	case len(c.RGB) == 8 || len(c.RGB) == 6:
		if n, err := strconv.ParseUint(c.RGB[len(c.RGB)-6:], 16, 32); err == nil {
			return tinted(uint32(n), c.Tint)
		}
	case c.Theme != nil && *c.Theme >= themeLinks: // what shows that a cell is a link sets nothing off
	case c.Theme != nil && *c.Theme >= 0 && *c.Theme < len(b.theme):
		return tinted(b.theme[*c.Theme], c.Tint)
	case c.Indexed != nil && *c.Indexed >= 0 && *c.Indexed < 64:
		return tinted(palette[*c.Indexed%len(palette)], c.Tint)
	}
	return ""
}

// tinted gives a colour made lighter (0 to 1) or darker (-1 to 0): its luminance
// is, hue and saturation stay.
func tinted(rgb uint32, tint string) string {
	t, err := strconv.ParseFloat(tint, 64)
	if err != nil || t == 0 || math.Abs(t) > 1 {
		return fmt.Sprintf("#%06X", rgb&0xFFFFFF)
	}
	r, g, bl := float64(rgb>>16&0xFF)/255, float64(rgb>>8&0xFF)/255, float64(rgb&0xFF)/255
	most, least := max(r, g, bl), min(r, g, bl)
	light := (most + least) / 2
	then := light * (1 + t)
	if t > 0 {
		then = light*(1-t) + t
	}
	// with the luminance, the distance of each part from it scales alike
	room := func(l float64) float64 { return 1 - math.Abs(2*l-1) }
	scale := 0.0
	if room(light) > 0 {
		scale = room(then) / room(light)
	}
	part := func(v float64) uint32 { return uint32(math.Round(255 * min(1, max(0, then+(v-light)*scale)))) }
	return fmt.Sprintf("#%02X%02X%02X", part(r), part(g), part(bl))
}

// themeLinks is from where on a theme's colours are those of links.
const themeLinks = 10

// readTheme reads the colours of the workbook's theme, in the order in which
// styles count them.
func (b *book) readTheme() error {
	var doc struct {
		Scheme struct {
			Colours []struct {
				XMLName xml.Name
				Plain   flag `xml:"srgbClr"`
				System  struct {
					Last string `xml:"lastClr,attr"`
				} `xml:"sysClr"`
			} `xml:",any"`
		} `xml:"themeElements>clrScheme"`
	}
	if err := b.decode("#theme", &doc); err != nil {
		return err
	}
	order := []string{"lt1", "dk1", "lt2", "dk2", "accent1", "accent2", "accent3", "accent4", "accent5", "accent6"}
	b.theme = []uint32{0xFFFFFF, 0, 0xE7E6E6, 0x44546A, 0x4472C4, 0xED7D31, 0xA5A5A5, 0xFFC000, 0x5B9BD5, 0x70AD47}
	for _, c := range doc.Scheme.Colours {
		text := c.Plain.Val
		if text == "" {
			text = c.System.Last
		}
		n, err := strconv.ParseUint(text, 16, 32)
		for i, name := range order {
			if err == nil && name == c.XMLName.Local {
				b.theme[i] = uint32(n)
			}
		}
	}
	return nil
}

// palette is the old palette of 56 colours, its first eight twice.
var palette = []uint32{0x000000, 0xFFFFFF, 0xFF0000, 0x00FF00, 0x0000FF, 0xFFFF00, 0xFF00FF, 0x00FFFF,
	0x000000, 0xFFFFFF, 0xFF0000, 0x00FF00, 0x0000FF, 0xFFFF00, 0xFF00FF, 0x00FFFF,
	0x800000, 0x008000, 0x000080, 0x808000, 0x800080, 0x008080, 0xC0C0C0, 0x808080,
	0x9999FF, 0x993366, 0xFFFFCC, 0xCCFFFF, 0x660066, 0xFF8080, 0x0066CC, 0xCCCCFF,
	0x000080, 0xFF00FF, 0xFFFF00, 0x00FFFF, 0x800080, 0x800000, 0x008080, 0x0000FF,
	0x00CCFF, 0xCCFFFF, 0xCCFFCC, 0xFFFF99, 0x99CCFF, 0xFF99CC, 0xCC99FF, 0xFFCC99,
	0x3366FF, 0x33CCCC, 0x99CC00, 0xFFCC00, 0xFF9900, 0xFF6600, 0x666699, 0x969696,
	0x003366, 0x339966, 0x003300, 0x333300, 0x993300, 0x993366, 0x333399, 0x333333}
