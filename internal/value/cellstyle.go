package value

import (
	"fmt"
	"strings"
)

// CellStyle is how a cell is set off from others: what somebody painted or wrote in
// bold. It says nothing of the cell's value. The zero CellStyle is a plain cell's,
// which is black on white: as colours of a look those two are none.
type CellStyle struct {
	Fill, Ink            string // colours as #RRGGBB, or empty
	Bold, Italic, Struck bool   // struck: crossed out
}

// Washes are the papers and inks, as #RRGGBB, that colour words stand for.
var Washes = map[string]struct{ Paper, Ink string }{
	"grey": {"#E9E7E0", "#3F4854"}, "blue": {"#DEE8F3", "#24507F"}, "teal": {"#DDEFEA", "#195E51"}, "green": {"#E3EFDC", "#35611F"},
	"amber": {"#F6E7CC", "#7A4C06"}, "brick": {"#F6DED9", "#8F2B21"}, "violet": {"#E9E1F2", "#573A80"}, "rose": {"#F5DFE8", "#8A2C55"}}

// String gives the look's canonical text, such as "fill #F6E7CC, bold"; empty
// for a plain cell.
func (l CellStyle) String() string {
	var parts []string
	if l.Fill != "" {
		parts = append(parts, "fill "+l.Fill)
	}
	if l.Ink != "" {
		parts = append(parts, "ink "+l.Ink)
	}
	for _, p := range []struct {
		is   bool
		word string
	}{{l.Bold, "bold"}, {l.Italic, "italic"}, {l.Struck, "struck"}} {
		if p.is {
			parts = append(parts, p.word)
		}
	}
	return strings.Join(parts, ", ")
}

// Words gives the look as String does, with colour words where there are such.
func (l CellStyle) Words() string {
	for word, w := range Washes {
		if l.Fill == w.Paper {
			l.Fill = word
		}
		if l.Ink == w.Ink {
			l.Ink = word
		}
	}
	return l.String()
}

// ParseCellStyle reads a look: its parts in any order, colours as #RRGGBB or as
// colour words. "plain", or nothing, is a plain cell's.
func ParseCellStyle(text string) (CellStyle, error) {
	var l CellStyle
	for part := range strings.SplitSeq(text, ",") {
		word, colour, _ := strings.Cut(strings.ToLower(strings.TrimSpace(part)), " ")
		colour = strings.TrimSpace(colour)
		var err error
		switch {
		case word == "fill":
			l.Fill, err = parseColour(colour, func(word string) string { return Washes[word].Paper })
		case word == "ink":
			l.Ink, err = parseColour(colour, func(word string) string { return Washes[word].Ink })
		case colour != "":
			err = unknownLook(part)
		case word == "bold":
			l.Bold = true
		case word == "italic":
			l.Italic = true
		case word == "struck":
			l.Struck = true
		case word != "" && word != "plain":
			err = unknownLook(part)
		}
		if err != nil {
			return CellStyle{}, err
		}
	}
	return l.Plainly(), nil
}

// Plainly gives the look without the colours that a plain cell has anyway.
func (l CellStyle) Plainly() CellStyle {
	if l.Fill == "#FFFFFF" {
		l.Fill = ""
	}
	if l.Ink == "#000000" {
		l.Ink = ""
	}
	return l
}

// Beyond gives what of the look is not the usual one's.
func (l CellStyle) Beyond(usual CellStyle) CellStyle {
	if l.Fill == usual.Fill {
		l.Fill = ""
	}
	if l.Ink == usual.Ink {
		l.Ink = ""
	}
	return l
}

func unknownLook(part string) error {
	return fmt.Errorf(`%q is not a style: write it like "fill amber, ink #7A4C06, bold, italic, struck"`, strings.TrimSpace(part))
}

func parseColour(text string, ofWord func(string) string) (string, error) {
	if c := ofWord(text); c != "" {
		return c, nil
	}
	c := strings.ToUpper(text)
	if len(c) != 7 || c[0] != '#' || strings.Trim(c[1:], "0123456789ABCDEF") != "" {
		return "", fmt.Errorf("%q is not a colour: write it like #F6E7CC, or one of grey, blue, teal, green, amber, brick, violet, rose", text)
	}
	return c, nil
}
