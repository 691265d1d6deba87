package patch

import (
	"fmt"
	"io"
	"strings"

	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/formula"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// At is a place in a workbook.
type At struct {
	Sheet   string
	Cell    string // where the block begins
	Headers bool   // the columns' names stand above the rows
	Over    bool   // what stands there and is not Kavlo's is written over
	// Name is what the block is remembered by in the workbook, so that it is known again
	// when it has become longer or shorter; "": it is not.
	Name string
}

// Placed tells what was written.
type Placed struct {
	Range string // with its sheet
	Over  string // what was there and was not Kavlo's, in words; "": nothing
	Made  bool   // the sheet was not there
}

// Says tells it in words.
func (p Placed) Says() string {
	says := p.Range
	if p.Made {
		says += ", on a new sheet"
	}
	if p.Over != "" {
		says += ", over what stood there, such as " + p.Over
	}
	return says
}

// Place puts a table's rows into a place of a workbook and leaves all else in it as it was.
// The block that it wrote there last time makes way for the new one: if that is longer,
// what refers to the block grows with it, and what stands below it goes down; if it is
// shorter, what is no more is cleared.
func Place(w io.Writer, workbook []byte, t *outbound.Table, at At) (Placed, error) {
	b, err := open(workbook)
	if err != nil {
		return Placed{}, err
	}
	var done Placed
	s, err := b.findSheet(at.Sheet)
	if err != nil {
		if value.Nearest(at.Sheet, b.sheetNames()) != "" { // written wrongly, rather than new
			return done, err
		}
		if s, err = b.addSheet(at.Sheet); err != nil {
			return done, err
		}
		done.Made = true
	}
	grid, err := b.gridOf(s)
	if err != nil {
		return done, err
	}
	p := newPlan(s)
	blk, err := b.block(p, grid, t, at)
	if err != nil {
		return done, err
	}
	if done.Over, err = blk.lay(at.Over); err != nil {
		return done, err
	}
	blk.grid = nil // a large sheet is not kept twice
	if err := b.carryOut(p); err != nil {
		return done, err
	}
	if at.Name != "" {
		if err := b.setName(hiddenName(at.Name), "'"+strings.ReplaceAll(s.name, "'", "''")+"'!"+absolute(blk.body())); err != nil {
			return done, err
		}
	}
	done.Range = s.name + "!" + p.across.String()
	return done, b.write(w)
}

// carryOut writes a plan, and lets the rest of the workbook follow.
func (b *book) carryOut(p *plan) error {
	if err := b.writeSheet(p); err != nil {
		return err
	}
	if err := b.follow(p); err != nil {
		return err
	}
	return b.results(p)
}

func hiddenName(name string) string {
	return "_kavlo." + strings.Map(func(r rune) rune {
		if r == '.' || r == '_' || r >= '0' && r <= '9' || r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' {
			return r
		}
		return '_'
	}, name)
}

func absolute(r reading.Range) string {
	return fmt.Sprintf("$%s$%d:$%s$%d", reading.ColumnName(r.Left), r.Top+1, reading.ColumnName(r.Right), r.Bottom+1)
}

// gridOf reads the sheet that is written to, as it is before.
func (b *book) gridOf(s sheetPart) (*reading.Grid, error) {
	grids, err := b.grids(func(name string) bool { return name == s.name })
	if err != nil {
		return nil, err
	}
	for _, g := range grids {
		if g.Name == s.name {
			return g, nil
		}
	}
	return &reading.Grid{Name: s.name}, nil
}

// block is a block of rows that is laid into a sheet.
type block struct {
	plan   *plan
	grid   *reading.Grid
	table  *outbound.Table
	rows   [][]value.Value
	header int // its row; -1: none
	top    int // of the rows
	left   int
	was    int // how many rows it had before
	width  int // columns that it had before, or has
	known  bool
}

func (b *book) block(p *plan, grid *reading.Grid, t *outbound.Table, at At) (*block, error) {
	top, left, err := reading.ParseCell(at.Cell)
	if err != nil {
		return nil, err
	}
	blk := &block{plan: p, grid: grid, table: t, header: -1, top: top, left: left, width: len(t.Columns)}
	if at.Headers {
		blk.header, blk.top = top, top+1
	}
	for r := range t.Rows {
		for i, v := range r.Cells {
			if _, _, _, err := b.shownAs(v); err != nil {
				return nil, fmt.Errorf("column %s: %w", t.Columns[i].Name, err)
			}
		}
		blk.rows = append(blk.rows, append([]value.Value(nil), r.Cells...))
	}
	if at.Name != "" {
		if means, has := b.name(hiddenName(at.Name)); has {
			if sheet, r, ok := reference(means); ok && value.EqualText(sheet, p.sheet.name) {
				blk.known, blk.was, blk.width = true, r.Bottom-r.Top+1, max(blk.width, r.Right-r.Left+1)
				blk.top, blk.left = r.Top, r.Left
				if at.Headers {
					blk.header = r.Top - 1
				}
			}
		}
	}
	return blk, nil
}

// body gives the range of the block's rows after.
func (k *block) body() reading.Range {
	return reading.Range{Top: k.top, Left: k.left, Bottom: k.top + max(1, len(k.rows)) - 1, Right: k.left + len(k.table.Columns) - 1}
}

// lay plans the block's cells. over says that what is not Kavlo's may be written over; it
// gives what that is.
func (k *block) lay(over bool) (string, error) {
	if !k.known && over { // what stands there on end is taken for the block of before
		for k.filled(k.top+k.was) && !k.total(k.top+k.was) {
			k.was++
		}
		k.was = min(k.was, len(k.rows)) // what is not written over stays
	}
	was := max(1, k.was)
	grows := formula.Growth{Sheet: k.plan.sheet.name, Top: k.top, Bottom: k.top + was - 1, Left: k.left, Right: k.left + k.width - 1}
	if n := len(k.rows) - was; n > 0 {
		grows.Rows = n
		for grows.Free < n && k.free(grows.Bottom+grows.Free+1) {
			grows.Free++
		}
	}
	k.plan.grows = grows
	if k.was > 0 || k.free(k.top) {
		k.plan.like = grows.Bottom
	}
	found := k.others(was)
	if found != "" && !over {
		return "", fmt.Errorf("%s holds what was not written by this rule, such as %s: say over: yes to write over it, or choose another place", k.plan.sheet.name, found)
	}
	if k.header >= 0 {
		for i, c := range k.table.Columns {
			k.plan.set(k.header, k.left+i, cell{value: value.OfText(c.Name)})
		}
	}
	for n, cells := range k.rows {
		for i, v := range cells {
			k.plan.set(k.top+n, k.left+i, cell{value: v})
		}
		for i := len(cells); i < k.width; i++ {
			k.plan.set(k.top+n, k.left+i, cell{clear: true})
		}
	}
	for n := len(k.rows); n < k.was; n++ {
		for i := range k.width {
			k.plan.set(k.top+n, k.left+i, cell{clear: true})
		}
	}
	k.plan.across = k.body()
	k.plan.across.Bottom = max(k.plan.across.Bottom, k.top+k.was-1)
	if k.header >= 0 {
		k.plan.across.Top = k.header
	}
	return found, nil
}

// filled reports whether a row holds something in the block's columns.
func (k *block) filled(row int) bool {
	for col := k.left; col < k.left+k.width; col++ {
		if c := k.grid.At(row, col); c.Formula || !c.Value.IsBlank() {
			return true
		}
	}
	return false
}

// total reports whether a row sums up those above it.
func (k *block) total(row int) bool {
	for col := k.left; col < k.left+k.width; col++ {
		if f := k.grid.FormulaAt(row, col); f != nil && f.AddsUp(row) || reading.SaysTotal(k.grid.At(row, col)) {
			return true
		}
	}
	return false
}

// free reports whether a row may be written to: it holds nothing in the block's columns.
func (k *block) free(row int) bool { return row < reading.MaxRows && !k.filled(row) }

// others says what stands in the block's place and was not written by it.
func (k *block) others(was int) string {
	if k.known {
		return ""
	}
	r := reading.Range{Top: k.top, Left: k.left, Bottom: k.top + min(was, max(1, len(k.rows))) - 1, Right: k.left + len(k.table.Columns) - 1}
	for row := r.Top; row <= r.Bottom; row++ {
		for col := r.Left; col <= r.Right; col++ {
			if c := k.grid.At(row, col); c.Formula || !c.Value.IsBlank() {
				return fmt.Sprintf("%q at %s", value.OneLine(c.Value.String()), reading.CellName(row, col))
			}
		}
	}
	if k.header >= 0 {
		for i, col := range k.table.Columns {
			if c := k.grid.At(k.header, k.left+i).Value; !c.IsBlank() && !value.EqualText(c.String(), col.Name) {
				return fmt.Sprintf("%q at %s", value.OneLine(c.String()), reading.CellName(k.header, k.left+i))
			}
		}
	}
	return ""
}

// RangeOf gives the range that a table takes, beginning at a cell.
func RangeOf(t *outbound.Table, cell string, headers bool) string {
	return xlsx.RangeOf(t, cell, headers)
}
