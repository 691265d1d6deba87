package reading

import (
	"slices"

	"example.org/kavlo/internal/value"
)

// What formulas gave, and zeros, may be rows or what somebody filled down beforehand. A
// row that no hand has touched counts where its formulas go on to give something new, or
// where a table of numbers simply holds zeros.

// shownBy reports whether a formula gave something to be seen there.
func shownBy(c Cell) bool {
	if !c.Formula || c.Value.IsBlank() {
		return false
	}
	return c.Value.Kind() != value.Checkbox && !value.Equal(c.Value, zero) || c.Value.IsTrue()
}

// lively reports whether formulas gave something new in a row: not what they gave above,
// and not the next of a series; words says that it is words.
func (g *Grid) lively(r Range, row int) (is, words bool) {
	for col := r.Left; col <= r.Right; col++ {
		c := g.At(row, col)
		if !shownBy(c) {
			continue
		}
		above, over := g.At(row-1, col).Value, g.At(row-2, col).Value
		if value.Equal(c.Value, above) || nextOf(over, above, c.Value) {
			continue
		}
		is = true
		words = words || c.Value.Kind() == value.Text
	}
	return is, words
}

// nextOf reports whether three numbers or dates go on by the same step.
func nextOf(a, b, c value.Value) bool {
	n := func(v value.Value) (value.Value, bool) {
		switch v.Kind() {
		case value.Number:
			return v, true
		case value.Date:
			return value.OfInt(v.Days()), true
		}
		return value.Value{}, false
	}
	x, okX := n(a)
	y, okY := n(b)
	z, okZ := n(c)
	if !okY || !okZ {
		return false
	}
	step, err := value.Sub(z, y)
	if err != nil {
		return false
	}
	if !okX { // it begins here: one after the other is enough
		return value.Equal(step, value.OfInt(1))
	}
	before, err := value.Sub(y, x)
	return err == nil && value.Equal(step, before)
}

// zeros reports whether a row without anything else holds zeros that somebody wrote into
// a table of numbers: columns of other things are not blank there.
func (f *frame) zeros(g *Grid, row int) bool {
	typed, filled := false, 0
	for col := f.block.Left; col <= f.block.Right; col++ {
		c := g.At(row, col)
		if c.Value.IsBlank() {
			if k := f.kind(g, col); k != isNumber && k != isNothing {
				return false
			}
			continue
		}
		filled++
		typed = typed || !c.Formula && value.Equal(c.Value, zero)
	}
	return typed && filled*2 > f.block.width()
}

// filledDown is how many rows of nothing but zeros below a table are what somebody filled
// down beforehand.
const filledDown = 5

// stretch takes into a block the rows right below it that count though no hand has
// touched them, down to where another block begins.
func (f *frame) stretch(g *Grid, frames []*frame) {
	if f.why != "" || f.body() > f.block.Bottom+1 {
		return
	}
	end := g.Height()
	for _, o := range frames {
		if o.block.Top > f.block.Bottom && o.block.Left <= f.block.Right && f.block.Left <= o.block.Right {
			end = min(end, o.block.Top)
		}
	}
	last, numbers, zeros := f.block.Bottom, 0, 0
	for row := f.block.Bottom + 1; row < end && !g.empty(f.block, row) && g.hollow(f.block, row); row++ {
		is, words := g.lively(f.block, row)
		switch {
		case words:
			last = row
		case is:
			if numbers++; numbers > 1 { // one alone is what a difference gives after the last row
				last = row
			}
		case f.zeros(g, row):
			zeros++
		}
	}
	if zeros > 0 && zeros < filledDown && last == f.block.Bottom {
		for last+1 < end && f.zeros(g, last+1) {
			last++
		}
	}
	f.block.Bottom = last
}

// counts reports whether a row that no hand has touched is a row of the table all the same.
func (f *frame) countsAnyway(g *Grid, row int) bool {
	if f.made {
		for col := f.block.Left; col <= f.block.Right; col++ {
			if shownBy(g.At(row, col)) {
				return true
			}
		}
		return false
	}
	if row > f.typed { // it was stretched over
		return true
	}
	is, _ := g.lively(f.block, row)
	return is || f.zeros(g, row)
}

// widen takes into each block the columns right beside it that are filled by formulas,
// zeros or boxes in most of its rows: no hand touched them, and they belong to it.
func (g *Grid) widen(blocks []Range) []Range {
	for i := range blocks {
		b := &blocks[i]
		if b.height() < 2 {
			continue
		}
		for b.Right+1 < MaxColumns && g.mostlyFilled(*b, b.Right+1) {
			b.Right++
		}
		for b.Left > 0 && g.mostlyFilled(*b, b.Left-1) {
			b.Left--
		}
	}
	return joinOverlaps(blocks)
}

func (g *Grid) mostlyFilled(b Range, col int) bool {
	filled := 0
	for row := b.Top; row <= b.Bottom; row++ {
		if c := g.At(row, col); c.Formula || c.Value.Kind() != value.Blank {
			filled++
		}
	}
	return filled > 0 && filled*2 >= b.height()-1
}

// madeBlocks finds the blocks of cells that formulas filled, where no table has been
// found and no table's own formulas go on below it.
func (g *Grid) madeBlocks(frames []*frame) []Range {
	type tail struct{ Range }
	var taken []tail
	for _, f := range frames {
		r := f.block
		r.Bottom += hollowBelow(g, r)
		for _, d := range g.Declared {
			if d.Exact && d.Name == f.name { // it goes on to where the file says
				r.Bottom = max(r.Bottom, d.Range.Bottom)
			}
		}
		taken = append(taken, tail{r})
	}
	free := func(row, col int) bool {
		return !slices.ContainsFunc(taken, func(t tail) bool {
			return t.Top <= row && row <= t.Bottom && t.Left <= col && col <= t.Right
		})
	}
	some := false
	for row := 0; row < g.Height() && !some; row++ {
		for col := range g.Width(row) {
			some = some || shownBy(g.At(row, col)) && free(row, col)
		}
	}
	if !some {
		return nil
	}
	blocks := g.blocksOf(func(row, col int) bool { return shownBy(g.At(row, col)) && free(row, col) })
	return slices.DeleteFunc(blocks, func(b Range) bool {
		return b.width() < 2 || b.height() < 2 || len(blocks) > mostBlocks || slices.ContainsFunc(taken, func(t tail) bool { return t.meets(b) })
	})
}
