package reading

import (
	"fmt"
	"strings"

	"example.org/kavlo/internal/value"
)

// mostFit is the share of a column's filled cells, in tenths, that must fit a type.
const mostFit = 8

// evidence is what a column's filled cells are.
type evidence struct {
	filled, links, choices int
	kinds                  map[value.Kind]int
	texts                  []string // of the text cells
	options                []string // of the dropdown
}

func (t *Table) gather(g *Grid, i int) *evidence {
	e := &evidence{kinds: map[value.Kind]int{}}
	for _, row := range t.lines {
		c := g.At(row, t.Range.Left+i)
		if len(c.Choices) > 0 {
			e.choices++
			if e.options == nil {
				e.options = c.Choices
			}
		}
		if c.Value.IsBlank() {
			continue
		}
		e.filled++
		e.kinds[c.Value.Kind()]++
		if c.Link != "" {
			e.links++
		}
		if c.Value.Kind() == value.Text {
			e.texts = append(e.texts, strings.TrimSpace(c.Value.Raw()))
		}
	}
	return e
}

// most reports whether n of the filled cells are enough to make the type.
func (e *evidence) most(n int) bool { return n > 0 && n*10 >= e.filled*mostFit }

// count gives how many of the texts fit.
func (e *evidence) count(fits func(string) bool) int {
	n := 0
	for _, s := range e.texts {
		if fits(s) {
			n++
		}
	}
	return n
}

// infer decides a column's type and says why; what does not fit is listed as odd.
func (t *Table) infer(g *Grid, i int) {
	c := &t.Columns[i]
	e := t.gather(g, i)
	c.Kind, c.Reason, c.parse = t.decide(c.Name, e, g.Texts)
	c.Type = c.Kind.Kind.String()
	for _, o := range c.Kind.Options {
		c.Choices = append(c.Choices, o.Name)
	}
	for _, row := range t.lines {
		cell := g.At(row, t.Range.Left+i)
		if v := c.read(cell); v.IsOdd() {
			c.Odd = append(c.Odd, OddCell{CellName(row, t.Range.Left+i), v.Raw()})
		}
	}
}

func (t *Table) decide(name string, e *evidence, texts bool) (value.Type, string, parser) {
	say := func(k value.Kind, n int, what string) (value.Type, string, parser) {
		return value.Type{Kind: k}, fmt.Sprintf("%d of %d filled cells %s", n, e.filled, what), nil
	}
	truths := e.kinds[value.Checkbox]
	switch {
	case e.filled == 0 && e.choices == 0:
		return value.Type{Kind: value.Text}, "no cell is filled", nil
	case e.most(truths):
		return say(value.Checkbox, truths, "are ticks")
	case e.choices > 0 && len(e.options) > 1:
		typ := value.Type{Kind: value.Choice}
		for _, o := range e.options {
			typ.Options = append(typ.Options, value.Option{Name: o})
		}
		return typ, "a dropdown offers the choices", nil
	case e.most(e.links):
		return say(value.Link, e.links, "are links")
	case e.most(e.kinds[value.Date]):
		return say(value.Date, e.kinds[value.Date], "are dates")
	case e.most(e.kinds[value.Date] + e.kinds[value.DateTime]):
		return say(value.DateTime, e.kinds[value.Date]+e.kinds[value.DateTime], "are dates with times")
	case e.most(e.kinds[value.Number]):
		return say(value.Number, e.kinds[value.Number], "are numbers")
	}
	if typ, reason, parse := t.decideText(name, e, texts); parse != nil {
		return typ, reason, parse
	}
	return say(value.Text, e.filled, "are texts or of several kinds")
}

// decideText looks for dates, numbers and the like among texts.
func (t *Table) decideText(name string, e *evidence, texts bool) (value.Type, string, parser) {
	all := func(k value.Kind, parse parser, what string) (value.Type, string, parser) {
		n := e.count(func(s string) bool { _, ok := parse(s); return ok })
		if !e.most(n + e.kinds[k]) {
			return value.Type{}, "", nil
		}
		return value.Type{Kind: k}, fmt.Sprintf("%d of %d filled cells %s", n+e.kinds[k], e.filled, what), parse
	}
	if n := e.count(isoDate.MatchString); e.most(n) {
		kind := value.Date
		if e.count(func(s string) bool { return len(s) > 10 }) > 0 {
			kind = value.DateTime
		}
		return all(kind, isoParser, "are dates as ISO 8601 writes them")
	}
	if dayFirst, sure, ok := dayOrder(e.texts); ok {
		if typ, reason, parse := all(value.Date, localDateParser(dayFirst), "are dates, the day first"); parse != nil {
			if !dayFirst {
				reason = strings.Replace(reason, "day first", "month first", 1)
			}
			if !sure {
				t.Doubts = append(t.Doubts, fmt.Sprintf("in %s, day and month could be either way round: the day was taken to come first", name))
			}
			return typ, reason, parse
		}
	}
	if typ, reason, parse := all(value.Checkbox, yesNo, "are yes or no"); parse != nil {
		return typ, reason, parse
	}
	if typ, reason, parse := all(value.Person, address, "are mail addresses"); parse != nil {
		return typ, reason, parse
	}
	if typ, reason, parse := all(value.Link, webLink, "are web addresses"); parse != nil {
		return typ, reason, parse
	}
	return t.decideAmount(name, e, texts)
}

func (t *Table) decideAmount(name string, e *evidence, texts bool) (value.Type, string, parser) {
	isFormatted := e.count(formatted)
	isPlain := e.count(plainDigits.MatchString)
	n := isFormatted
	if texts || isFormatted > 0 {
		n = e.count(func(s string) bool { return formatted(s) || plainDigits.MatchString(s) })
	}
	if !e.most(n+e.kinds[value.Number]) || isFormatted == 0 && !texts || isFormatted == 0 && isPlain == 0 {
		return value.Type{}, "", nil
	}
	mark, sure := decimalMark(e.texts)
	if !sure && e.count(func(s string) bool { return strings.ContainsAny(s, ".,") }) > 0 {
		t.Doubts = append(t.Doubts, fmt.Sprintf("in %s, the marks in the numbers could begin decimals or part thousands: thousands were taken for commas", name))
	}
	typ := value.Type{Kind: value.Number, Display: amountDisplay(e.texts)}
	return typ, fmt.Sprintf("%d of %d filled cells are numbers written as text", n+e.kinds[value.Number], e.filled), amountParser(mark)
}

func yesNo(s string) (value.Value, bool) {
	v, err := value.Parse(s, value.Type{Kind: value.Checkbox})
	return v, err == nil
}

func address(s string) (value.Value, bool) {
	v, err := value.Parse(s, value.Type{Kind: value.Person})
	return v, err == nil
}

func webLink(s string) (value.Value, bool) {
	v, err := value.Parse(s, value.Type{Kind: value.Link})
	return v, err == nil && (strings.HasPrefix(s, "https://") || strings.HasPrefix(s, "http://"))
}

// read reads a cell into the column's type; what does not fit is odd.
func (c *Column) read(cell Cell) value.Value {
	v := cell.Value
	if v.IsBlank() {
		return value.Value{}
	}
	if cell.Link != "" && c.Kind.Kind == value.Link {
		return value.OfLink(cell.Link, v.String())
	}
	if v.Kind() == value.Text && c.parse != nil {
		got, ok := c.parse(strings.TrimSpace(v.Raw()))
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
