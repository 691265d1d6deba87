package formula

import (
	"errors"
	"fmt"
	"strings"

	"example.org/kavlo/internal/value"
)

// Book gives what a formula's references lead to. Days and times come as serial numbers,
// as worksheets count them.
type Book interface {
	// Cell gives what stands in a cell; ErrNotComputed where that is a formula whose
	// result is not known.
	Cell(sheet string, row, col int) (value.Value, error)
	// Extent gives how many rows and columns a sheet has; not ok where there is none of
	// that name.
	Extent(sheet string) (rows, columns int, ok bool)
}

// ErrNotComputed says that a formula, or one that it rests on, is not computed here.
var ErrNotComputed = errors.New("it is not computed")

// Mistake is a result that worksheets show instead of a value, such as #DIV/0!.
type Mistake string

func (m Mistake) Error() string { return string(m) }

const (
	divided  = Mistake("#DIV/0!")
	notFound = Mistake("#N/A")
	badValue = Mistake("#VALUE!")
	badRef   = Mistake("#REF!")
	badNum   = Mistake("#NUM!")
)

// mostVisited is how many cells one formula may look at.
const mostVisited = 200_000

// env is a cell whose formula is computed.
type env struct {
	book     Book
	sheet    string
	row, col int
	visited  int
}

// Compute gives what a formula in a cell comes to: a number, a text or a truth. A Mistake
// is given as the text that worksheets show.
func (f *Formula) Compute(book Book, sheet string, row, col int) (value.Value, error) {
	e := &env{book: book, sheet: sheet, row: row, col: col}
	v, err := e.single(f.root)
	var m Mistake
	if errors.As(err, &m) {
		return value.OfText(string(m)), nil
	}
	if _, refers := f.root.(area); err == nil && refers && v.Kind() == value.Blank {
		v = value.OfInt(0) // as worksheets show a reference to a blank cell
	}
	return v, err
}

// single computes a node that gives one value.
func (e *env) single(n node) (value.Value, error) {
	switch n := n.(type) {
	case constant:
		return n.v, nil
	case nothing:
		return value.Value{}, nil
	case mistake:
		return value.Value{}, Mistake(n.code)
	case area:
		if !n.single {
			return value.Value{}, ErrNotComputed
		}
		sheet, r, err := e.reach(n)
		if err != nil {
			return value.Value{}, err
		}
		return e.cell(sheet, r.top, r.left)
	case negative:
		x, err := e.number(n.x)
		if err != nil {
			return value.Value{}, err
		}
		return value.Sub(value.OfInt(0), x)
	case percent:
		x, err := e.number(n.x)
		if err != nil {
			return value.Value{}, err
		}
		return value.Div(x, value.OfInt(100))
	case binary:
		return e.binary(n)
	case call:
		f, known := functions[n.name]
		if !known {
			return value.Value{}, fmt.Errorf("%w: %s", ErrNotComputed, n.name)
		}
		if len(n.args) < f.least || f.most >= 0 && len(n.args) > f.most {
			return value.Value{}, ErrNotComputed
		}
		return f.compute(e, n.args)
	}
	return value.Value{}, ErrNotComputed
}

// block is a range of cells that are there.
type block struct{ top, left, bottom, right int }

// at gives where a place is for a formula in a cell.
func (p place) at(row, col int) (int, int) {
	if p.held {
		row = 0
	}
	if p.heldAt {
		col = 0
	}
	return p.row + row, p.col + col
}

// reach gives where a reference leads from the formula's cell.
func (e *env) reach(a area) (string, block, error) {
	sheet := a.sheet
	if sheet == "" {
		sheet = e.sheet
	}
	rows, columns, ok := e.book.Extent(sheet)
	if !ok {
		return "", block{}, badRef
	}
	top, left := a.from.at(e.row, e.col)
	bottom, right := a.to.at(e.row, e.col)
	if a.columns {
		top, bottom = 0, rows-1
	}
	if a.rows {
		left, right = 0, columns-1
	}
	if top < 0 || left < 0 || bottom < 0 || right < 0 {
		if a.columns || a.rows { // of an empty sheet
			return sheet, block{0, 0, -1, -1}, nil
		}
		return "", block{}, badRef
	}
	r := block{min(top, bottom), min(left, right), max(top, bottom), max(left, right)}
	if !a.single {
		r.bottom, r.right = min(r.bottom, rows-1), min(r.right, columns-1)
	}
	return sheet, r, nil
}

func (e *env) cell(sheet string, row, col int) (value.Value, error) {
	if e.visited++; e.visited > mostVisited {
		return value.Value{}, fmt.Errorf("%w: it looks at too many cells", ErrNotComputed)
	}
	v, err := e.book.Cell(sheet, row, col)
	if err == nil && v.Kind() == value.Text && isMistake(v.Raw()) {
		return value.Value{}, Mistake(v.Raw())
	}
	return v, err
}

func isMistake(s string) bool {
	switch Mistake(s) {
	case divided, notFound, badValue, badRef, badNum, "#NAME?", "#NULL!":
		return true
	}
	return false
}

// number computes a node as a number: a blank is 0, a truth 1 or 0, a text what it says.
func (e *env) number(n node) (value.Value, error) {
	v, err := e.single(n)
	if err != nil {
		return v, err
	}
	return asNumber(v)
}

func asNumber(v value.Value) (value.Value, error) {
	switch v.Kind() {
	case value.Number:
		return v, nil
	case value.Blank:
		return value.OfInt(0), nil
	case value.Checkbox:
		if v.IsTrue() {
			return value.OfInt(1), nil
		}
		return value.OfInt(0), nil
	case value.Text:
		if n, err := value.ParseNumber(strings.TrimSpace(v.Raw())); err == nil {
			return n, nil
		}
	}
	return value.Value{}, badValue
}

// text computes a node as a text.
func (e *env) text(n node) (string, error) {
	v, err := e.single(n)
	return asText(v), err
}

func asText(v value.Value) string {
	switch v.Kind() {
	case value.Checkbox:
		if v.IsTrue() {
			return "TRUE"
		}
		return "FALSE"
	case value.Text:
		return v.Raw()
	}
	return v.String()
}

// truth computes a node as yes or no.
func (e *env) truth(n node) (bool, error) {
	v, err := e.single(n)
	if err != nil {
		return false, err
	}
	switch v.Kind() {
	case value.Checkbox:
		return v.IsTrue(), nil
	case value.Text:
		switch strings.ToUpper(v.Raw()) {
		case "TRUE":
			return true, nil
		case "FALSE":
			return false, nil
		}
		return false, badValue
	}
	x, err := asNumber(v)
	return err == nil && !value.Equal(x, value.OfInt(0)), err
}

func (e *env) binary(n binary) (value.Value, error) {
	switch n.op {
	case "&":
		l, err := e.text(n.l)
		if err != nil {
			return value.Value{}, err
		}
		r, err := e.text(n.r)
		return value.OfText(l + r), err
	case "=", "<>", "<", ">", "<=", ">=":
		l, err := e.single(n.l)
		if err != nil {
			return value.Value{}, err
		}
		r, err := e.single(n.r)
		if err != nil {
			return value.Value{}, err
		}
		return value.OfBool(holds(n.op, compare(l, r))), nil
	}
	l, err := e.number(n.l)
	if err != nil {
		return value.Value{}, err
	}
	r, err := e.number(n.r)
	if err != nil {
		return value.Value{}, err
	}
	switch n.op {
	case "+":
		return fits(value.Add(l, r))
	case "-":
		return fits(value.Sub(l, r))
	case "*":
		return fits(value.Mul(l, r))
	case "/":
		if value.Equal(r, value.OfInt(0)) {
			return value.Value{}, divided
		}
		return fits(value.Div(l, r))
	}
	return value.Value{}, fmt.Errorf("%w: the operator %s", ErrNotComputed, n.op)
}

// fits says that a result is too large to be held.
func fits(v value.Value, err error) (value.Value, error) {
	if err != nil {
		return value.Value{}, badNum
	}
	return v, nil
}

// each visits the values of arguments: those of a block one by one, without blanks.
func (e *env) each(args []node, visit func(v value.Value, written bool) error) error {
	for _, n := range args {
		a, is := n.(area)
		if !is {
			v, err := e.single(n)
			if err == nil {
				err = visit(v, true)
			}
			if err != nil {
				return err
			}
			continue
		}
		if err := e.within(a, func(_, _ int, v value.Value) error { return visit(v, false) }); err != nil {
			return err
		}
	}
	return nil
}

// within visits the cells of a block that hold something.
func (e *env) within(a area, visit func(row, col int, v value.Value) error) error {
	sheet, r, err := e.reach(a)
	if err != nil {
		return err
	}
	for row := r.top; row <= r.bottom; row++ {
		for col := r.left; col <= r.right; col++ {
			v, err := e.cell(sheet, row, col)
			if err != nil {
				return err
			}
			if v.Kind() == value.Blank {
				continue
			}
			if err := visit(row, col, v); err != nil {
				return err
			}
		}
	}
	return nil
}

// AddsUp reports whether a formula in a row makes a figure of cells of rows above it: a
// range of them, or several one by one.
func (f *Formula) AddsUp(row int) bool {
	single, ranges := 0, false
	walk(f.root, func(n node) {
		a, is := n.(area)
		if !is {
			return
		}
		end := a.to.row
		if !a.to.held {
			end += row
		}
		switch {
		case a.columns || a.rows || end >= row && a.single:
		case !a.single:
			ranges = ranges || end < row && (a.from.row != a.to.row || a.from.held != a.to.held || a.from.col == a.to.col)
		default:
			single++
		}
	})
	return ranges || single > 1
}

func walk(n node, visit func(node)) {
	visit(n)
	switch n := n.(type) {
	case call:
		for _, a := range n.args {
			walk(a, visit)
		}
	case binary:
		walk(n.l, visit)
		walk(n.r, visit)
	case negative:
		walk(n.x, visit)
	case percent:
		walk(n.x, visit)
	}
}

// Reads tells which cells a formula in a cell looks at: ranges of a sheet, zero-based and
// inclusive, as far as a sheet can reach.
func (f *Formula) Reads(sheet string, row, col int, visit func(sheet string, top, left, bottom, right int)) {
	walk(f.root, func(n node) {
		a, is := n.(area)
		if !is {
			return
		}
		on := sheet
		if a.sheet != "" {
			on = a.sheet
		}
		top, left := a.from.at(row, col)
		bottom, right := a.to.at(row, col)
		if a.columns {
			top, bottom = 0, maxRows-1
		}
		if a.rows {
			left, right = 0, maxColumns-1
		}
		visit(on, min(top, bottom), min(left, right), max(top, bottom), max(left, right))
	})
}
