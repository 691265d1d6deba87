package xlsx

import (
	"errors"
	"fmt"
	"strconv"
	"strings"

	"example.org/kavlo/internal/formula"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// pending is a cell whose formula has no stored result.
type pending struct {
	grid     *reading.Grid
	row, col int
	shows    shows
	formula  *formula.Formula // nil where it is not understood
	why      string
	state    computing
	stored   bool // a result is stored all the same, and stands where none is computed
}

type computing byte

const (
	toCompute computing = iota
	underway
	computed
	failed
)

// formula reads an f element; link is where it leads that is nothing but a link.
func (s *sheetReader) formula() (link string, err error) {
	shared, kind := "", ""
	s.eachAttr(func(name, v []byte) {
		switch string(name) {
		case "si":
			shared = string(v)
		case "t":
			kind = string(v)
		}
	})
	text, err := s.content("")
	if err != nil {
		return "", err
	}
	s.formed, s.why = nil, ""
	if link = linkFormula(text); link != "" {
		return link, nil
	}
	if kind == "shared" && text == "" { // filled down from another cell
		s.formed = s.shared[shared]
		s.why = "its formula is not understood"
		return "", nil
	}
	if kind == "dataTable" {
		s.why = "it is a table of what would be"
		return "", nil
	}
	if s.formed, err = formula.Parse(text, s.row, s.col); err != nil {
		s.why = err.Error()
	}
	if kind == "shared" {
		if s.shared == nil {
			s.shared = map[string]*formula.Formula{}
		}
		s.shared[shared] = s.formed
	}
	return "", nil
}

// calculated minds the formula of a cell, and that its result is to be computed where the
// file does not store it.
func (s *sheetReader) calculated(c *reading.Cell, mayLack bool) {
	if s.formed != nil {
		s.grid.PutFormula(s.row, s.col, s.formed)
	}
	stored := c.Value.Kind() != value.Blank || !mayLack
	if stored && (!s.anew || s.formed == nil || !value.Equal(c.Value, value.OfInt(0))) {
		return
	}
	p := pending{stored: stored, grid: s.grid, row: s.row, col: s.col, formula: s.formed, why: s.why}
	if s.styled != nil {
		p.shows = s.styled.shows
	}
	s.pending = append(s.pending, p)
}

// Limits on what is computed of a file: more is named as not computed.
const (
	mostComputed = 200_000    // cells
	mostLooked   = 30_000_000 // cells looked at meanwhile
	deepest      = 300        // formulas that wait for one another
)

type spot struct {
	grid     *reading.Grid
	row, col int
}

// calculator computes the formulas of a book without stored results.
type calculator struct {
	*book
	grids  map[string]*reading.Grid
	waits  map[spot]*pending
	widths map[*reading.Grid]int
	looked int
	depth  int
	bare   bool // results are left as they are, whatever the cell's style shows
}

// compute fills in the results of formulas that the file does not store, as far as they
// are simple; the others are named.
func (b *book) compute(grids []*reading.Grid) {
	if len(b.pending) == 0 {
		return
	}
	c := &calculator{book: b, grids: map[string]*reading.Grid{}, widths: map[*reading.Grid]int{}, waits: make(map[spot]*pending, len(b.pending))}
	for _, g := range grids {
		c.grids[value.Fold(g.Name)] = g
	}
	for i := range b.pending {
		p := &b.pending[i]
		if p.formula == nil || i >= mostComputed {
			p.state = failed
			if p.why == "" {
				p.why = "there are too many of them"
			}
		}
		c.waits[spot{p.grid, p.row, p.col}] = p
	}
	c.settleAll(b.pending)
	for i := range b.pending {
		p := &b.pending[i]
		if p.state != computed && !p.stored {
			p.grid.Missing = append(p.grid.Missing, reading.Uncomputed{Row: p.row, Col: p.col, Why: p.why})
		}
	}
}

var errDeep = fmt.Errorf("%w: it rests on too many others", formula.ErrNotComputed)

// settle computes a cell and puts its result into the grid.
func (c *calculator) settle(p *pending) {
	if p.state != toCompute {
		return
	}
	p.state = underway
	c.depth++
	v, err := p.formula.Compute(c, p.grid.Name, p.row, p.col)
	c.depth--
	if errors.Is(err, errDeep) && c.looked < mostLooked { // perhaps later
		p.state, p.why = toCompute, err.Error()
		return
	}
	if err != nil {
		p.state, p.why = failed, err.Error()
		return
	}
	p.state = computed
	cell := p.grid.At(p.row, p.col)
	if cell.Value = v; !c.bare {
		cell.Value = c.shown(v, p.shows)
	}
	p.grid.Put(p.row, p.col, cell)
}

// shown gives a result as the cell's style shows it.
func (c *calculator) shown(v value.Value, as shows) value.Value {
	if v.Kind() == value.Number && as != showsNumber {
		if d, ok := c.ofSerial(v.String(), as); ok {
			return d
		}
	}
	return v
}

// Cell gives a cell's value to a formula.
func (c *calculator) Cell(sheet string, row, col int) (value.Value, error) {
	if c.looked++; c.looked > mostLooked {
		return value.Value{}, fmt.Errorf("%w: there is too much to compute", formula.ErrNotComputed)
	}
	if c.looked%4096 == 0 {
		if err := c.ended(); err != nil {
			c.looked = mostLooked
			return value.Value{}, err
		}
	}
	g := c.grids[value.Fold(sheet)]
	if g == nil {
		return value.Value{}, formula.ErrNotComputed
	}
	if p := c.waits[spot{g, row, col}]; p != nil {
		if p.state == toCompute {
			if c.depth >= deepest {
				return value.Value{}, errDeep
			}
			c.settle(p)
		}
		switch p.state {
		case computed:
		case underway:
			return value.Value{}, fmt.Errorf("%w: it rests on itself", formula.ErrNotComputed)
		case toCompute:
			return value.Value{}, errDeep
		default:
			return value.Value{}, fmt.Errorf("%w: %s has no result", formula.ErrNotComputed, reading.CellName(row, col))
		}
	}
	cell := g.At(row, col)
	switch v := cell.Value; v.Kind() {
	case value.Date:
		return value.OfInt(v.Days() - c.epoch), nil
	case value.DateTime:
		return value.Div(value.OfInt(v.Seconds()-c.epoch*86400), value.OfInt(86400))
	case value.Number:
		if cell.More != nil && cell.More.Display == value.Duration {
			return value.Div(v, value.OfInt(24))
		}
		return v, nil
	case value.Text:
		if serial, ok := ofClock(v.Raw()); ok && cell.More != nil && cell.More.Clock {
			return serial, nil
		}
		return v, nil
	default:
		return v, nil
	}
}

// Extent gives how far a sheet reaches.
func (c *calculator) Extent(sheet string) (rows, columns int, ok bool) {
	g := c.grids[value.Fold(sheet)]
	if g == nil {
		return 0, 0, false
	}
	width, known := c.widths[g]
	if !known {
		for row := range g.Height() {
			width = max(width, g.Width(row))
		}
		c.widths[g] = width
	}
	return g.Height(), width, true
}

// ofClock gives the part of a day that a time such as 08:30 is.
func ofClock(text string) (value.Value, bool) {
	parts := strings.Split(text, ":")
	if len(parts) < 2 || len(parts) > 3 {
		return value.Value{}, false
	}
	seconds := 0
	for i, p := range parts {
		n, err := strconv.Atoi(p)
		if err != nil || n < 0 {
			return value.Value{}, false
		}
		seconds += n * []int{3600, 60, 1}[i]
	}
	v, err := value.Div(value.OfInt(int64(seconds)), value.OfInt(86400))
	return v, err == nil
}

// Spot is a cell whose formula is to be computed anew.
type Spot struct {
	Sheet    string
	Row, Col int
	Formula  *formula.Formula // nil where it is not understood
}

// Calculate computes formulas anew over the sheets of a workbook. What is not computed is a
// blank with ok false. Days count from 1904, if so.
func Calculate(grids []*reading.Grid, from1904 bool, spots []Spot) (results []value.Value, ok []bool) {
	b := &book{epoch: epoch1900, ended: func() error { return nil }}
	if from1904 {
		b.epoch = epoch1904
	}
	c := &calculator{book: b, grids: map[string]*reading.Grid{}, widths: map[*reading.Grid]int{}, waits: make(map[spot]*pending, len(spots)), bare: true}
	for _, g := range grids {
		c.grids[value.Fold(g.Name)] = g
	}
	all := make([]pending, len(spots))
	for i, s := range spots {
		all[i] = pending{grid: c.grids[value.Fold(s.Sheet)], row: s.Row, col: s.Col, formula: s.Formula}
		if all[i].grid == nil || s.Formula == nil || i >= mostComputed {
			all[i].state = failed
			continue
		}
		c.waits[spot{all[i].grid, s.Row, s.Col}] = &all[i]
	}
	c.settleAll(all)
	results, ok = make([]value.Value, len(spots)), make([]bool, len(spots))
	for i := range all {
		if all[i].state == computed {
			results[i], ok[i] = all[i].grid.At(all[i].row, all[i].col).Value, true
		}
	}
	return results, ok
}

// settleAll computes all, those that rest on others far below in a second turn.
func (c *calculator) settleAll(all []pending) {
	for i := range all {
		c.settle(&all[i])
	}
	for i := len(all) - 1; i >= 0; i-- {
		if all[i].state == toCompute {
			c.settle(&all[i])
		}
	}
}
