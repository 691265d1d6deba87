package xlsx

// How cells look in workbooks that are written: the colours of choices, and what
// people have set off by hand. What is read is in ink.go.

import (
	"github.com/xuri/excelize/v2"

	"example.org/kavlo/internal/value"
)

// linkInk is the colour of links.
const linkInk = "1D6B5C"

// choiceLook is the look of cells with a choice of that colour word.
func choiceLook(colour string) value.CellStyle {
	w := value.Washes[colour]
	return value.CellStyle{Fill: w.Paper, Ink: w.Ink}
}

// colours gives the colour words of a type's options by name.
func colours(t value.Type) map[string]string {
	out := map[string]string{}
	for _, o := range t.Options {
		if _, known := value.Washes[o.Colour]; known && !t.Several {
			out[o.Name] = o.Colour
		}
	}
	return out
}

// UsualLook gives how the cells of a column look in a workbook that Kavlo wrote
// if nobody has set them off.
func UsualLook(t value.Type) func(value.Value) value.CellStyle {
	chosen := colours(t)
	return func(v value.Value) value.CellStyle {
		switch {
		case t.Kind == value.Link, t.Kind == value.File:
			return value.CellStyle{Ink: "#" + linkInk}
		case v.Kind() == value.Choice && chosen[v.String()] != "":
			return choiceLook(chosen[v.String()])
		}
		return value.CellStyle{}
	}
}

// looked gives a style, and a name for it, that shows a look over another style.
func looked(name string, under excelize.Style, l value.CellStyle) (string, excelize.Style) {
	if l.Fill != "" {
		under.Fill = excelize.Fill{Type: "pattern", Pattern: 1, Color: []string{l.Fill[1:]}}
	}
	if l.Ink != "" || l.Bold || l.Italic || l.Struck {
		font := excelize.Font{Family: "Calibri", Size: 11}
		if under.Font != nil {
			font = *under.Font
		}
		if l.Ink != "" {
			font.Color = l.Ink[1:]
		}
		font.Bold, font.Italic, font.Strike = l.Bold, l.Italic, l.Struck
		under.Font = &font
	}
	return name + "; " + l.String(), under
}

// setOff gives a cell the look that it has besides that of its type.
func (s *sheetWriter) setOff(c *excelize.Cell, col int, v value.Value, look string) error {
	if look == "" {
		return nil
	}
	l, err := value.ParseCellStyle(look)
	if err != nil {
		return err
	}
	name, under := usual(s.table.Columns[col].Type)
	if c.StyleID == 0 { // a date that a workbook cannot hold stands as text
		name, under = "", excelize.Style{}
	}
	if colour := s.chosen[col][v.String()]; colour != "" && v.Kind() == value.Choice {
		name, under = looked("choice "+colour, excelize.Style{}, choiceLook(colour))
	}
	c.StyleID, err = s.style(looked(name, under, l))
	return err
}
