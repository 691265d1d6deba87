package setup

import (
	"slices"
	"strconv"
	"strings"
	"time"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
	"go.yaml.in/yaml/v3"
)

// Colours are the words for colours of choices.
var Colours = []string{"grey", "blue", "teal", "green", "amber", "brick", "violet", "rose"}

// displays are the ways a number is shown; a currency code is the other.
var displays = []string{"plain", "percent", "rating", value.Duration}

// readTabs reads the tabs, keeping the ids of tabs and columns that are there
// already by name. Computed clauses are taken as written, to be stored by id
// once all columns are known.
func (d *Reader) readTabs(a At) error {
	columns := 0
	return a.Pairs(func(name string, v At) error {
		if len(d.Shape.Tabs) == MaxTabs {
			return v.Fail("a tracker has at most %d tabs", MaxTabs)
		}
		m, err := v.Mapping()
		if err != nil {
			return err
		}
		tab := sheet.TabShape{Name: strings.TrimSpace(name)}
		var old *sheet.TabShape
		if d.old != nil {
			if old, _ = d.old.Tab(name); old != nil {
				tab.ID = old.ID
			}
		}
		if tab.ID == 0 {
			tab.ID = sheet.TabID(d.ids.next())
		}
		label, err := m.Get("label").Text()
		if err != nil {
			return err
		}
		err = m.Get("columns").Pairs(func(name string, v At) error {
			c, err := readColumn(strings.TrimSpace(name), v)
			if err != nil {
				return err
			}
			if columns++; len(tab.Columns) == MaxColumns || columns > maxCells {
				return v.Fail("a tab has at most %d columns, and all tabs together %d", MaxColumns, maxCells)
			}
			c.ID = d.columnID(old, &c)
			tab.Columns = append(tab.Columns, c)
			return nil
		})
		if err != nil {
			return err
		}
		if label != "" {
			c, err := tab.Column(label)
			if err != nil {
				return m.Get("label").Wrap(err)
			}
			tab.Label = c.ID
		}
		d.Shape.Tabs = append(d.Shape.Tabs, tab)
		return m.Done()
	})
}

// columnID finds the id for a column: that of a namesake of the same type in a tab before,
// since the two are one column however they came to be alike; its own of old; that of a
// namesake of old; or a new one.
func (d *Reader) columnID(old *sheet.TabShape, c *sheet.Column) sheet.ColumnID {
	if id := Namesake(d.Shape, c); id != 0 {
		return id
	}
	if old != nil {
		if x, err := old.Column(c.Name); err == nil && sameColumn(x, c) {
			return x.ID
		}
	}
	if d.old != nil {
		if id := Namesake(d.old, c); id != 0 {
			return id
		}
	}
	return sheet.ColumnID(d.ids.next())
}

func readColumn(name string, a At) (sheet.Column, error) {
	c := sheet.Column{Name: name}
	m, err := a.Mapping()
	if err != nil {
		return c, err
	}
	typ, err := m.Get("type").Text()
	if err != nil {
		return c, err
	}
	kind, ok := value.KindNamed(typ)
	if typ == "computed" {
		kind, ok = value.Text, true // its real type is found from its clause
	}
	if !ok {
		known := []string{"text", "number", "date", "date-time", "checkbox", "choice", "person", "link", "file", "computed"}
		hint := strings.Join(known, ", ")
		if near := value.Nearest(typ, known); near != "" {
			hint = "did you mean " + near + "?"
		}
		return c, m.Get("type").Fail("%q is not a column type: %s", typ, hint)
	}
	c.Type.Kind = kind
	if c.Clause, err = m.Get("clause").Text(); err != nil {
		return c, err
	}
	if (typ == "computed") != (c.Clause != "") {
		return c, a.Fail("a computed column has a clause, and no other column has")
	}
	if err := readOptions(m.Get("options"), &c.Type); err != nil {
		return c, err
	}
	for key, to := range map[string]*bool{"required": &c.Required, "unique": &c.Unique, "several": &c.Type.Several, "automatic number": &c.AutoNo} {
		if *to, err = m.Get(key).Yes(); err != nil {
			return c, err
		}
	}
	if c.Type.Several && kind != value.Choice && kind != value.Person {
		return c, m.Get("several").Fail("only choice and person columns may allow several")
	}
	for key, to := range map[string]*string{"default": &c.Default, "minimum": &c.Min, "maximum": &c.Max, "format": &c.Type.Display} {
		if *to, err = m.Get(key).Text(); err != nil {
			return c, err
		}
	}
	if c.Longest, err = m.Get("longest text").Int(); err != nil {
		return c, err
	}
	bad, err := m.Get("bad input").Text()
	switch {
	case err != nil:
		return c, err
	case bad == "refuse":
		c.BadInput = sheet.Refuse
	case bad != "" && bad != "mark":
		return c, m.Get("bad input").Fail("%q is not a way to treat bad input: write refuse or mark", bad)
	}
	return c, checkColumn(m, &c)
}

func checkColumn(m *Mapping, c *sheet.Column) error {
	for key, text := range map[string]string{"default": c.Default, "minimum": c.Min, "maximum": c.Max} {
		if text == "" || key == "default" && c.Moment() {
			continue
		}
		if _, err := value.Parse(text, c.Type); err != nil {
			return m.Get(key).Wrap(err)
		}
	}
	if d := c.Type.Display; d != "" {
		currency := len(d) == 3 && strings.ToUpper(d) == d
		known := currency
		for _, x := range displays {
			known = known || x == d
		}
		if !known {
			return m.Get("format").Fail("%q is not a number format: write plain, percent, rating or a currency code such as EUR", d)
		}
	}
	if c.Type.Kind == value.Choice && len(c.Type.Options) == 0 {
		return m.Fail("a choice needs options")
	}
	return m.Done()
}

func readOptions(a At, t *value.Type) error {
	if !a.Present() {
		return nil
	}
	if a.node.Kind == yaml.SequenceNode {
		return a.Each(func(v At) error {
			if v.node.Kind == yaml.MappingNode { // a name with its colour, where mappings have no order
				return v.Pairs(func(name string, v At) error { return readOption(name, v, t) })
			}
			name, err := v.Text()
			t.Options = append(t.Options, value.Option{Name: name})
			return err
		})
	}
	return a.Pairs(func(name string, v At) error { return readOption(name, v, t) })
}

func readOption(name string, v At, t *value.Type) error {
	colour, err := v.Text()
	if err != nil {
		return err
	}
	if colour != "" && !slices.Contains(Colours, colour) {
		return v.Fail("%q is not a colour: choose from %s", colour, strings.Join(Colours, ", "))
	}
	t.Options = append(t.Options, value.Option{Name: name, Colour: colour})
	return nil
}

func (e *Writer) tabs() *yaml.Node {
	out := Build()
	for i := range e.Shape.Tabs {
		t := &e.Shape.Tabs[i]
		if !t.Listed() {
			continue
		}
		columns := Build()
		for j := range t.Columns {
			columns.Put(t.Columns[j].Name, e.column(t, &t.Columns[j]))
		}
		b := Build()
		if c := t.ByID(t.Label); c != nil {
			b.Text("label", c.Name)
		}
		out.Put(t.Name, b.Put("columns", columns.n).n)
	}
	return out.n
}

func (e *Writer) column(t *sheet.TabShape, c *sheet.Column) *yaml.Node {
	b := Build()
	if c.Computed() {
		b.Put("type", Word("computed")).Text("clause", e.Clause(t.ID, c.Clause))
	} else {
		b.Put("type", Word(c.Type.Kind.String()))
	}
	if len(c.Type.Options) > 0 {
		coloured := false
		options, names := Build(), []string{}
		for _, o := range c.Type.Options {
			coloured = coloured || o.Colour != ""
			options.Put(o.Name, Scalar(o.Colour))
			names = append(names, o.Name)
		}
		if coloured {
			b.Put("options", Flow(options.n))
		} else {
			b.Put("options", Scalars(names))
		}
	}
	b.Yes("several", c.Type.Several).Yes("required", c.Required).Yes("unique", c.Unique).Yes("automatic number", c.AutoNo)
	b.Text("default", c.Default).Text("minimum", c.Min).Text("maximum", c.Max)
	if c.Longest > 0 {
		b.Put("longest text", Word(strconv.Itoa(c.Longest)))
	}
	b.Text("format", c.Type.Display)
	if c.BadInput == sheet.Refuse {
		b.Put("bad input", Word("refuse"))
	}
	return Flow(b.n)
}

var weekdayWords = []string{"sun", "mon", "tue", "wed", "thu", "fri", "sat"}

// readWorking reads { week: mon-fri, closed: [dates] }.
func (d *Reader) readWorking(a At) error {
	if !a.Present() {
		return nil
	}
	m, err := a.Mapping()
	if err != nil {
		return err
	}
	week, err := m.Get("week").Text()
	if err != nil {
		return err
	}
	for _, part := range strings.FieldsFunc(week, func(r rune) bool { return r == ',' || r == ' ' }) {
		from, to, isRange := strings.Cut(part, "-")
		if !isRange {
			to = from
		}
		i, j := dayNumber(from), dayNumber(to)
		if i < 0 || j < 0 {
			return m.Get("week").Fail("%q is not a range of weekdays: write it like mon-fri", part)
		}
		for k := i; ; k = (k + 1) % 7 {
			d.Shape.Working.Week = append(d.Shape.Working.Week, time.Weekday(k))
			if k == j {
				break
			}
		}
	}
	closed, err := m.Get("closed").Texts()
	if err != nil {
		return err
	}
	for _, day := range closed {
		v, err := value.Parse(day, value.Type{Kind: value.Date})
		if err != nil {
			return m.Get("closed").Wrap(err)
		}
		d.Shape.Working.Closed = append(d.Shape.Working.Closed, v.Days())
	}
	sortDays(d.Shape.Working.Closed)
	return m.Done()
}

func dayNumber(s string) int {
	for i, w := range weekdayWords {
		if strings.HasPrefix(strings.ToLower(s), w) {
			return i
		}
	}
	return -1
}

func (e *Writer) working() *yaml.Node {
	b := Build()
	if week := e.Shape.Working.Week; len(week) > 0 {
		words := make([]string, len(week))
		for i, d := range week {
			words[i] = weekdayWords[d]
		}
		text := strings.Join(words, ", ")
		if consecutive(week) && len(week) > 2 {
			text = words[0] + "-" + words[len(words)-1]
		}
		b.Text("week", text)
	}
	var days []*yaml.Node
	for _, d := range e.Shape.Working.Closed {
		days = append(days, Word(value.OfDays(d).String()))
	}
	if len(days) > 0 {
		b.Put("closed", Flow(Sequence(days...)))
	}
	return Flow(b.n)
}

func consecutive(week []time.Weekday) bool {
	for i := 1; i < len(week); i++ {
		if week[i] != (week[i-1]+1)%7 {
			return false
		}
	}
	return true
}
