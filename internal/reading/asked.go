package reading

import (
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/value"
)

// Asked is what a sheet asks of cells, filled or not: a validation.
type Asked struct {
	Range    Range
	Kind     value.Kind // Date, Number, Choice, Checkbox; Blank where it says nothing of a type
	Whole    bool       // of numbers: without decimals
	Choices  []string
	Refuse   bool   // what does not fit is refused, not only warned of
	Min, Max string // of numbers, where they are constants
}

// Formatted is a blank cell whose number format says what is to stand there.
type Formatted struct {
	Row, Col int
	Kind     value.Kind // Date, DateTime or Number
	Display  string     // of a number
}

// Coloured is a colour that a sheet gives to cells that hold a text.
type Coloured struct {
	Range  Range
	Text   string
	Colour string // a colour word
}

// mostAhead is how far below a table's header a sheet is asked what is to stand there.
const mostAhead = 200

// asked gives the validation of a column's cells, or nil: of its rows, and where there are
// none of those below its header.
func (g *Grid) asked(t *Table, col int) *Asked {
	from := t.Range.Top + t.HeaderRows
	to := max(t.Range.Bottom, from)
	for i := range g.Asks {
		a := &g.Asks[i]
		if a.Range.Left <= col && col <= a.Range.Right && a.Range.Top <= to && a.Range.Bottom >= from {
			return a
		}
	}
	return nil
}

// fromSheet decides the type of a column that is blank, or all but blank, from what the
// sheet asks of its cells and how they are to show.
func (t *Table) fromSheet(g *Grid, i int, e *evidence) (value.Type, string, bool) {
	col := t.Range.Left + i
	if a := g.asked(t, col); a != nil && a.Kind != value.Blank {
		typ := value.Type{Kind: a.Kind}
		for _, name := range a.Choices {
			if a.Kind == value.Choice {
				typ.Options = append(typ.Options, value.Option{Name: name})
			}
		}
		return typ, "a validation asks for " + askedFor(a), true
	}
	if e.filled > 0 {
		return value.Type{}, "", false
	}
	from := t.Range.Top + t.HeaderRows
	for _, f := range g.Formats {
		if f.Col == col && f.Row >= from && f.Row <= max(t.Range.Bottom, from+mostAhead) {
			return value.Type{Kind: f.Kind, Display: f.Display}, "its blank cells are formatted so", true
		}
	}
	return value.Type{}, "", false
}

func askedFor(a *Asked) string {
	switch {
	case a.Kind == value.Checkbox:
		return "TRUE or FALSE"
	case a.Kind == value.Choice:
		return "one of a list"
	case a.Whole:
		return "whole numbers"
	}
	return a.Kind.Phrase()
}

// rules takes over what a sheet asks of a column's cells besides their type.
func (t *Table) rules(g *Grid, i int) {
	c := &t.Columns[i]
	col := t.Range.Left + i
	if c.Kind.Kind == value.Choice {
		for n := range c.Kind.Options {
			o := &c.Kind.Options[n]
			for _, k := range g.Colours {
				if o.Colour == "" && k.Range.Left <= col && col <= k.Range.Right && value.EqualText(k.Text, o.Name) {
					o.Colour = k.Colour
				}
			}
		}
	}
	a := g.asked(t, col)
	if a == nil || !a.Refuse || a.Kind != c.Kind.Kind {
		return
	}
	if len(c.Odd) > 0 {
		t.Doubts = append(t.Doubts, fmt.Sprintf("the sheet refuses what does not fit in %s, and %d cells do not fit: they are kept, and so is what is typed later", c.Name, len(c.Odd)))
		return
	}
	c.Refuse = true
	if c.Kind.Kind == value.Number && t.within(g, i, a) {
		c.Min, c.Max = a.Min, a.Max
	}
}

// within reports whether all numbers of a column are within the bounds asked for.
func (t *Table) within(g *Grid, i int, a *Asked) bool {
	low, errLow := value.ParseNumber(a.Min)
	high, errHigh := value.ParseNumber(a.Max)
	return !slices.ContainsFunc(t.lines, func(row int) bool {
		v := t.Columns[i].read(g.At(row, t.Range.Left+i))
		return v.Kind() == value.Number && (errLow == nil && value.Compare(v, low) < 0 || errHigh == nil && value.Compare(v, high) > 0)
	})
}

// likeSiblings gives columns the types of the same columns on other sheets with mostly the same
// headers: columns that are blank any type, columns of text a choice all of whose values they
// hold. An archive has seldom the dropdowns of the sheet that it archives.
func (r *Reading) likeSiblings() {
	for i := range r.Sheets {
		for j := range r.Sheets[i].Tables {
			t := &r.Sheets[i].Tables[j]
			for n := range t.Columns {
				if c := &t.Columns[n]; !c.LeaveOut && (c.blank || c.Kind.Kind == value.Text) {
					r.likeSibling(&r.Sheets[i], t, n)
				}
			}
		}
	}
}

func (r *Reading) likeSibling(s *Sheet, t *Table, n int) {
	for i := range r.Sheets {
		for j := range r.Sheets[i].Tables {
			o := &r.Sheets[i].Tables[j]
			if o == t || !alikeHeaders(t, o) {
				continue
			}
			for k := range o.Columns {
				other := &o.Columns[k]
				if other.blank || other.Kind.Kind == value.Text || !value.EqualText(other.Name, t.Columns[n].Name) {
					continue
				}
				if t.Columns[n].blank || other.Kind.Kind == value.Choice && t.among(s.grid, n, other.Kind) {
					s.Retype(t, n, other.Kind, "as in "+strings.TrimSpace(r.Sheets[i].Name))
					return
				}
			}
		}
	}
}

// among reports whether all filled cells of a column are options of a choice.
func (t *Table) among(g *Grid, i int, choice value.Type) bool {
	return !slices.ContainsFunc(t.lines, func(row int) bool {
		v := g.At(row, t.Range.Left+i).Value
		if v.IsBlank() {
			return false
		}
		_, is := choice.Option(v.String())
		return !is
	})
}

// alikeHeaders reports whether two tables share most of their columns' names.
func alikeHeaders(a, b *Table) bool {
	shared := 0
	for _, h := range a.Headers {
		if slices.ContainsFunc(b.Headers, func(o string) bool { return value.EqualText(h, o) }) {
			shared++
		}
	}
	return shared*10 >= max(len(a.Headers), len(b.Headers))*7
}
