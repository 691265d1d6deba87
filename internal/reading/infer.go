package reading

import (
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/local"
	"example.org/kavlo/internal/value"
)

// mostFit is the share of a column's filled cells, in tenths, that must fit a type.
const mostFit = 7

// placeholders stand where a value is not known yet: they do not speak against
// a type, though they stay odd.
var placeholders = []string{"-", "–", "—", "?", "n/a", "na", "#n/a", "tbc", "tbd", "none", "null", "unknown", "open", "pending"}

// evidence is what a column's filled cells are.
type evidence struct {
	filled, waiting, links, mails int // waiting: those with a placeholder
	kinds                         map[value.Kind]int
	texts                         []string       // of the text cells
	options                       []string       // of the dropdown
	displays                      map[string]int // how numbers are shown
	some                          bool           // they are a sample, over all of the column
}

func (t *Table) gather(g *Grid, i int) *evidence {
	e := &evidence{kinds: map[value.Kind]int{}, displays: map[string]int{}}
	step := 1
	if len(t.lines) > 2*sampled {
		step = len(t.lines) / sampled
	}
	e.some = step > 1
	for n := 0; n < len(t.lines); n += step {
		row := t.lines[n]
		c := g.At(row, t.Range.Left+i)
		if c.More != nil && e.options == nil {
			e.options = c.More.Choices
		}
		if c.Value.IsBlank() {
			continue
		}
		e.filled++
		e.kinds[c.Value.Kind()]++
		if c.More != nil {
			if strings.HasPrefix(c.More.Link, "mailto:") {
				e.mails++
			} else if c.More.Link != "" {
				e.links++
			}
			if c.More.Display != "" {
				e.displays[c.More.Display]++
			}
		}
		if c.Value.Kind() == value.Text {
			text := strings.TrimSpace(c.Value.Raw())
			e.texts = append(e.texts, text)
			if len(text) < 10 && slices.Contains(placeholders, value.Fold(text)) {
				e.waiting++
			}
		}
	}
	return e
}

// most reports whether n of the filled cells are enough to make the type.
func (e *evidence) most(n int) bool {
	return n > 0 && n*10 >= (e.filled-e.waiting)*mostFit && n*2 >= e.filled
}

// count gives how many of the texts fit, or 0 as soon as they cannot be most.
func (e *evidence) count(fits func(string) bool) int {
	n, misses := 0, 0
	for _, s := range e.texts {
		if fits(s) {
			n++
		} else if misses++; misses*10 > (10-mostFit)*e.filled+mostFit*e.waiting || misses*2 > e.filled {
			return 0
		}
	}
	return n
}

// sampled is how many of a long column's cells are looked at, over all of it, to
// guess its type. What does not fit the type is found in all of them.
const sampled = 2000

// any reports whether any of the texts fits, as far as a sample over all of the
// column tells.
func (e *evidence) any(fits func(string) bool) bool {
	step := max(1, len(e.texts)/sampled)
	for i := 0; i < len(e.texts); i += step {
		if fits(e.texts[i]) {
			return true
		}
	}
	return false
}

// infer decides a column's type and says why; what does not fit is listed as odd.
func (t *Table) infer(g *Grid, i int) {
	if g.over() {
		return
	}
	c := &t.Columns[i]
	e := t.gather(g, i)
	c.Kind, c.Reason, c.parse = t.decide(c.Name, e, g.Texts)
	c.blank = e.filled == 0
	lacking, why := g.uncomputed(t, t.Range.Left+i)
	typ, reason, asked := t.fromSheet(g, i, e)
	switch {
	case asked && (e.filled == 0 || e.fitAll(typ)):
		c.Kind, c.Reason, c.blank = typ, reason, false
		if typ.Kind == value.Checkbox {
			c.parse = local.AnyYesNo
		}
	case e.filled == 0 && lacking > 0:
		c.Reason = "its formulas have no results"
	case e.filled == 0 && t.HeaderRows > 0 && g.unnamed(t, i):
		c.LeaveOut, c.Reason = true, "a blank column"
	}
	if lacking > 0 {
		t.Doubts = append(t.Doubts, fmt.Sprintf("%d cells of %s hold formulas whose results the file does not store (%s): they were taken as blank; save the file anew in the program that made it", lacking, c.Name, why))
	}
	if c.Kind.Kind == value.Number && c.Kind.Display == "" {
		for display, n := range e.displays {
			if e.most(n) {
				c.Kind.Display = display
			}
		}
	}
	t.settle(g, i)
	t.rules(g, i)
}

// fitAll reports whether all filled cells of a column, few as they are, fit a type.
func (e *evidence) fitAll(typ value.Type) bool {
	switch typ.Kind {
	case value.Checkbox:
		return e.filled == e.kinds[value.Checkbox]+e.count(fits(local.AnyYesNo))
	case value.Number, value.Date:
		return e.filled == e.kinds[typ.Kind]
	}
	return false
}

// unnamed reports whether nothing stands over a column.
func (g *Grid) unnamed(t *Table, i int) bool {
	for row := t.Range.Top; row < t.Range.Top+t.HeaderRows; row++ {
		if !g.At(row, t.Range.Left+i).Value.IsBlank() {
			return false
		}
	}
	return true
}

// settle says what a column's type comes to: its name, its choices, its odd cells.
func (t *Table) settle(g *Grid, i int) {
	c := &t.Columns[i]
	c.Type, c.Display, c.Choices, c.Odd = c.Kind.Kind.String(), c.Kind.Display, nil, nil
	for _, o := range c.Kind.Options {
		c.Choices = append(c.Choices, o.Name)
	}
	var digits []string
	for _, row := range t.lines {
		cell := g.At(row, t.Range.Left+i)
		if v := c.read(cell); v.IsOdd() {
			c.Odd = append(c.Odd, OddCell{CellName(row, t.Range.Left+i), v.Raw()})
		}
		if text := cell.Value; text.Kind() == value.Text && local.NumericDate.MatchString(text.String()) {
			digits = append(digits, text.String())
		}
	}
	if c.ordered {
		return
	}
	c.DayOrder = ""
	if len(digits) > 0 && (c.Kind.Kind == value.Date || c.Kind.Kind == value.DateTime) {
		if c.DayOrder = MonthFirst; dayFirst(digits) {
			c.DayOrder = DayFirst
		}
	}
}

func dayFirst(texts []string) bool {
	first, _, _ := local.DayOrder(texts)
	return first
}

func (t *Table) decide(name string, e *evidence, texts bool) (value.Type, string, local.Parser) {
	say := func(k value.Kind, n int, what string, parse local.Parser) (value.Type, string, local.Parser) {
		looked := ""
		if e.some {
			looked = "looked at "
		}
		return value.Type{Kind: k}, fmt.Sprintf("%d of %d filled cells %s%s", n, e.filled, looked, what), parse
	}
	truths := e.kinds[value.Checkbox]
	dates := e.kinds[value.Date] + e.kinds[value.DateTime]
	switch {
	case e.filled == 0 && e.options == nil:
		return value.Type{Kind: value.Text}, "no cell is filled", nil
	case e.most(truths):
		return say(value.Checkbox, truths, "are ticks", nil)
	case len(e.options) > 1:
		typ := value.Type{Kind: value.Choice}
		for _, o := range e.options {
			typ.Options = append(typ.Options, value.Option{Name: o})
		}
		return typ, "a dropdown offers the choices", nil
	case e.most(e.links):
		return say(value.Link, e.links, "are links", nil)
	case e.most(dates):
		parse, _ := t.dateParser(name, e)
		if !e.most(e.kinds[value.Date]) && e.kinds[value.DateTime] > 0 {
			return say(value.DateTime, dates, "are dates with times", parse)
		}
		return say(value.Date, dates, "are dates", parse)
	case e.kinds[value.Number] > 0 && e.zeroLed():
		return value.Type{Kind: value.Text}, "some begin with zeros: they are codes", nil
	case e.most(e.kinds[value.Number]):
		mark, _ := local.DecimalMark(e.texts)
		return say(value.Number, e.kinds[value.Number], "are numbers", local.ReadAmount(mark))
	}
	if typ, reason, parse := t.decideText(name, e, texts); parse != nil {
		return typ, reason, parse
	}
	return say(value.Text, e.filled, "are text or of mixed types", nil)
}

// look gives how a cell, read as v, is set off from others of the column.
func (c *Column) look(cell Cell, v value.Value) value.CellStyle {
	switch {
	case cell.More == nil:
		return value.CellStyle{}
	case c.Usual != nil:
		return cell.More.Style.Beyond(c.Usual(v))
	case cell.More.Link != "" && slices.Contains(linkInks, cell.More.Style.Ink):
		return cell.More.Style.Beyond(value.CellStyle{Ink: cell.More.Style.Ink})
	}
	return cell.More.Style
}

// sure reads what can mean only one thing, as every door does.
func (c *Column) sure(text string) (value.Value, bool) {
	if zeroLed.MatchString(strings.TrimSpace(text)) { // a code: its zeros are part of it
		return value.Value{}, false
	}
	v, taken, err := (&local.Form{}).Read(text, c.Kind)
	return v, err == nil && taken == ""
}

// linkInks are the colours by which programs show that a cell is a link.
var linkInks = []string{"#0563C1", "#0000FF", "#954F72", "#000080", "#1155CC"}

// noteOn gives the note on a cell, with where the cell leads if its value does not say.
func (c *Column) noteOn(cell Cell) string {
	note, link := cell.note(), cell.link()
	switch {
	case link == "", c.Kind.Kind == value.Link, c.Kind.Kind == value.File, cell.Value.IsBlank():
		return note
	case strings.Contains(cell.Value.String(), strings.TrimPrefix(link, "mailto:")), strings.Contains(note, link):
		return note
	case note == "":
		return link
	}
	return note + "\n" + link
}

// read reads a cell into the column's type; what does not fit is odd.
func (c *Column) read(cell Cell) value.Value {
	v := cell.Value
	if v.IsBlank() {
		return value.Value{}
	}
	switch link := cell.link(); {
	case link == "":
	case c.Kind.Kind == value.Link:
		return value.OfLink(link, v.String())
	case c.Kind.Kind == value.File:
		return value.OfFile(link, v.String())
	}
	if v.Kind() == value.Text && c.parse != nil {
		got, ok := c.parse(strings.TrimSpace(v.Raw()))
		if !ok {
			got, ok = c.sure(v.Raw())
		}
		if !ok {
			return value.OfOdd(v.Raw())
		}
		v = got
	}
	if c.Kind.Kind == value.DateTime && v.Kind() == value.Date {
		return value.OfSeconds(v.Seconds())
	}
	fitted, _ := value.Fit(v, c.Kind) // a misfit is kept, as an odd value
	return fitted
}
