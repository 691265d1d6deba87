package patch

import (
	"fmt"
	"io"
	"strings"

	"example.org/kavlo/internal/formula"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// Holes fills the holes of a template: texts with {clauses} in its cells.
type Holes interface {
	// Text gives what a text without a row comes to; an error where it asks for one.
	Text(text string) (value.Value, error)
	// Row gives what fills a text for each row, and how many rows there are.
	Row(text string) (of func(row int) value.Value, rows int, err error)
}

// Filled tells what was filled in.
type Filled struct {
	Holes int      // texts filled
	Rows  int      // rows repeated, of all blocks
	Where []string // the blocks, with their sheets
}

// mostBlocks is how many rows of a template may be repeated.
const mostBlocks = 50

// Fill makes a workbook of a template: its holes are filled wherever they stand, and a row
// with holes about a row is repeated for each row. All else in it stays, and what refers to
// such a row grows with it.
func Fill(w io.Writer, template []byte, holes Holes) (Filled, error) {
	b, err := open(template)
	if err != nil {
		return Filled{}, err
	}
	var done Filled
	for _, s := range append([]sheetPart(nil), b.sheets...) {
		if err := b.fill(s, holes, &done); err != nil {
			return done, fmt.Errorf("sheet %s: %w", s.name, err)
		}
	}
	return done, b.write(w)
}

// fill fills all the holes of a sheet.
func (b *book) fill(s sheetPart, holes Holes, done *Filled) error {
	from := 0
	for n := 0; from >= 0; n++ {
		if n > mostBlocks {
			return fmt.Errorf("there are more than %d rows with holes", mostBlocks)
		}
		next, err := b.fillSheet(s, holes, from, n == 0, done)
		if err != nil {
			return err
		}
		from = next
	}
	return nil
}

// hole is a cell with a text to be filled.
type hole struct {
	row, col int
	value    value.Value               // of one that asks for no row
	of       func(row int) value.Value // of one that does
	rows     int
}

// fillSheet fills the single holes of a sheet, and the first row from a place on that is to
// be repeated; it gives where to go on, or -1.
func (b *book) fillSheet(s sheetPart, holes Holes, from int, singles bool, done *Filled) (int, error) {
	g, err := b.gridOf(s)
	if err != nil {
		return -1, err
	}
	single := newPlan(s)
	single.across = reading.Range{Top: reading.MaxRows, Left: reading.MaxColumns, Bottom: -1, Right: -1}
	for row := from; row < g.Height(); row++ {
		found, repeats, err := holesIn(g, row, holes)
		if err != nil {
			return -1, err
		}
		if !repeats {
			for _, h := range found {
				if singles {
					single.set(h.row, h.col, cell{value: h.value})
					single.across = reading.Range{Top: min(single.across.Top, h.row), Left: min(single.across.Left, h.col), Bottom: max(single.across.Bottom, h.row), Right: max(single.across.Right, h.col)}
					done.Holes++
				}
			}
			continue
		}
		if singles { // those below, too, while their places hold
			continue
		}
		return b.repeat(s, g, row, found, done)
	}
	if !singles {
		return -1, nil
	}
	if len(single.rows) > 0 {
		if err := b.carryOut(single); err != nil {
			return -1, err
		}
	}
	return from, nil
}

// holesIn gives the holes of a row, and whether it is to be repeated for each row.
func holesIn(g *reading.Grid, row int, holes Holes) (found []hole, repeats bool, err error) {
	for col := range g.Width(row) {
		c := g.At(row, col)
		text := c.Value.Raw()
		if c.Formula || c.Value.Kind() != value.Text || !strings.Contains(text, "{") || !strings.Contains(text, "}") {
			continue
		}
		h := hole{row: row, col: col}
		if h.value, err = holes.Text(text); err != nil {
			if h.of, h.rows, err = holes.Row(text); err != nil {
				return nil, false, fmt.Errorf("cell %s: %w", reading.CellName(row, col), err)
			}
			repeats = true
		}
		found = append(found, h)
	}
	return found, repeats, nil
}

// repeat lays a row of a template out for each row, with all that stands in it.
func (b *book) repeat(s sheetPart, g *reading.Grid, row int, found []hole, done *Filled) (int, error) {
	p := newPlan(s)
	width, n := g.Width(row), 0
	for _, h := range found {
		n = max(n, h.rows)
	}
	p.grows = formula.Growth{Sheet: s.name, Top: row, Bottom: row, Right: max(0, width-1), Rows: max(0, n-1)}
	p.like = row
	p.across = reading.Range{Top: row, Bottom: row + max(1, n) - 1, Right: max(0, width-1)}
	at := map[int]hole{}
	for _, h := range found {
		at[h.col] = h
	}
	for i := range max(1, n) {
		for col := range width {
			h, is := at[col]
			c := g.At(row, col)
			switch {
			case is && n == 0:
				p.set(row, col, cell{clear: true})
			case is && h.of != nil && i >= h.rows: // another hole of the row has more
				p.set(row+i, col, cell{clear: true})
			case is && h.of != nil:
				p.set(row+i, col, cell{value: h.of(i)})
			case is:
				p.set(row+i, col, cell{value: h.value})
			case i > 0 && !c.Formula && !c.Value.IsBlank():
				p.set(row+i, col, cell{value: c.Value})
			}
		}
	}
	for _, cells := range p.rows {
		for _, c := range cells {
			if _, _, _, err := b.shownAs(c.value); err != nil {
				return -1, err
			}
		}
	}
	if err := b.carryOut(p); err != nil {
		return -1, err
	}
	done.Rows += n
	done.Holes += len(found)
	done.Where = append(done.Where, s.name+"!"+p.across.String())
	return row + max(1, n), nil
}
