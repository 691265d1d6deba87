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
var displays = []string{"plain", "percent", "rating"}

// readTabs reads the tabs, keeping the ids of tabs and columns that are there
// already by name. Computed clauses are taken as written, to be stored by id
// once all columns are known.
func (d *decoder) readTabs(a at) error {
	columns := 0
	return a.pairs(func(name string, v at) error {
		if len(d.shape.Tabs) == MaxTabs {
			return v.fail("a tracker has at most %d tabs", MaxTabs)
		}
		m, err := v.mapping()
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
		label, err := m.get("label").text()
		if err != nil {
			return err
		}
		err = m.get("columns").pairs(func(name string, v at) error {
			c, err := readColumn(strings.TrimSpace(name), v)
			if err != nil {
				return err
			}
			if columns++; len(tab.Columns) == MaxColumns || columns > maxCells {
				return v.fail("a tab has at most %d columns, and all tabs together %d", MaxColumns, maxCells)
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
				return m.get("label").wrap(err)
			}
			tab.Label = c.ID
		}
		d.shape.Tabs = append(d.shape.Tabs, tab)
		return m.done()
	})
}

// columnID finds the id for a column: its own of old, that of a namesake of
// the same type in another tab, or a new one.
func (d *decoder) columnID(old *sheet.TabShape, c *sheet.Column) sheet.ColumnID {
	if old != nil {
		if x, err := old.Column(c.Name); err == nil && sameColumn(x, c) {
			return x.ID
		}
	}
	for _, shape := range []*sheet.Shape{d.shape, d.old} {
		if shape == nil {
			continue
		}
		if id := Namesake(shape, c); id != 0 {
			return id
		}
	}
	return sheet.ColumnID(d.ids.next())
}

func readColumn(name string, a at) (sheet.Column, error) {
	c := sheet.Column{Name: name}
	m, err := a.mapping()
	if err != nil {
		return c, err
	}
	typ, err := m.get("type").text()
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
		return c, m.get("type").fail("%q is not a column type: %s", typ, hint)
	}
	c.Type.Kind = kind
	if c.Clause, err = m.get("clause").text(); err != nil {
		return c, err
	}
	if (typ == "computed") != (c.Clause != "") {
		return c, a.fail("a computed column has a clause, and no other column has")
	}
	if err := readOptions(m.get("options"), &c.Type); err != nil {
		return c, err
	}
	for key, to := range map[string]*bool{"required": &c.Required, "unique": &c.Unique, "several": &c.Type.Several, "automatic number": &c.AutoNo} {
		if *to, err = m.get(key).yes(); err != nil {
			return c, err
		}
	}
	for key, to := range map[string]*string{"default": &c.Default, "minimum": &c.Min, "maximum": &c.Max, "format": &c.Type.Display} {
		if *to, err = m.get(key).text(); err != nil {
			return c, err
		}
	}
	if c.Longest, err = m.get("longest text").int(); err != nil {
		return c, err
	}
	bad, err := m.get("bad input").text()
	switch {
	case err != nil:
		return c, err
	case bad == "refuse":
		c.BadInput = sheet.Refuse
	case bad != "" && bad != "mark":
		return c, m.get("bad input").fail("%q is not a way to treat bad input: write refuse or mark", bad)
	}
	return c, checkColumn(m, &c)
}

func checkColumn(m *mapping, c *sheet.Column) error {
	for key, text := range map[string]string{"default": c.Default, "minimum": c.Min, "maximum": c.Max} {
		if text == "" {
			continue
		}
		if _, err := value.Parse(text, c.Type); err != nil {
			return m.get(key).wrap(err)
		}
	}
	if d := c.Type.Display; d != "" {
		currency := len(d) == 3 && strings.ToUpper(d) == d
		known := currency
		for _, x := range displays {
			known = known || x == d
		}
		if !known {
			return m.get("format").fail("%q is not a number format: write plain, percent, rating or a currency code such as EUR", d)
		}
	}
	if c.Type.Kind == value.Choice && len(c.Type.Options) == 0 {
		return m.fail("a choice needs options")
	}
	return m.done()
}

func readOptions(a at, t *value.Type) error {
	if !a.present() {
		return nil
	}
	if a.node.Kind == yaml.SequenceNode {
		return a.each(func(v at) error {
			if v.node.Kind == yaml.MappingNode { // a name with its colour, where mappings have no order
				return v.pairs(func(name string, v at) error { return readOption(name, v, t) })
			}
			name, err := v.text()
			t.Options = append(t.Options, value.Option{Name: name})
			return err
		})
	}
	return a.pairs(func(name string, v at) error { return readOption(name, v, t) })
}

func readOption(name string, v at, t *value.Type) error {
	colour, err := v.text()
	if err != nil {
		return err
	}
	if colour != "" && !slices.Contains(Colours, colour) {
		return v.fail("%q is not a colour: choose from %s", colour, strings.Join(Colours, ", "))
	}
	t.Options = append(t.Options, value.Option{Name: name, Colour: colour})
	return nil
}

func (e *encoder) tabs() *yaml.Node {
	out := build()
	for i := range e.shape.Tabs {
		t := &e.shape.Tabs[i]
		columns := build()
		for j := range t.Columns {
			columns.put(t.Columns[j].Name, e.column(t, &t.Columns[j]))
		}
		b := build()
		if c := t.ByID(t.Label); c != nil {
			b.text("label", c.Name)
		}
		out.put(t.Name, b.put("columns", columns.n).n)
	}
	return out.n
}

func (e *encoder) column(t *sheet.TabShape, c *sheet.Column) *yaml.Node {
	b := build()
	if c.Computed() {
		b.put("type", word("computed")).text("clause", e.clause(t.ID, c.Clause))
	} else {
		b.put("type", word(c.Type.Kind.String()))
	}
	if len(c.Type.Options) > 0 {
		coloured := false
		options, names := build(), []string{}
		for _, o := range c.Type.Options {
			coloured = coloured || o.Colour != ""
			options.put(o.Name, scalar(o.Colour))
			names = append(names, o.Name)
		}
		if coloured {
			b.put("options", flow(options.n))
		} else {
			b.put("options", scalars(names))
		}
	}
	b.yes("several", c.Type.Several).yes("required", c.Required).yes("unique", c.Unique).yes("automatic number", c.AutoNo)
	b.text("default", c.Default).text("minimum", c.Min).text("maximum", c.Max)
	if c.Longest > 0 {
		b.put("longest text", word(strconv.Itoa(c.Longest)))
	}
	b.text("format", c.Type.Display)
	if c.BadInput == sheet.Refuse {
		b.put("bad input", word("refuse"))
	}
	return flow(b.n)
}

var weekdayWords = []string{"sun", "mon", "tue", "wed", "thu", "fri", "sat"}

// readWorking reads { week: mon-fri, closed: [dates] }.
func (d *decoder) readWorking(a at) error {
	if !a.present() {
		return nil
	}
	m, err := a.mapping()
	if err != nil {
		return err
	}
	week, err := m.get("week").text()
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
			return m.get("week").fail("%q is not a range of weekdays: write it like mon-fri", part)
		}
		for k := i; ; k = (k + 1) % 7 {
			d.shape.Working.Week = append(d.shape.Working.Week, time.Weekday(k))
			if k == j {
				break
			}
		}
	}
	closed, err := m.get("closed").texts()
	if err != nil {
		return err
	}
	for _, day := range closed {
		v, err := value.Parse(day, value.Type{Kind: value.Date})
		if err != nil {
			return m.get("closed").wrap(err)
		}
		d.shape.Working.Closed = append(d.shape.Working.Closed, v.Days())
	}
	sortDays(d.shape.Working.Closed)
	return m.done()
}

func dayNumber(s string) int {
	for i, w := range weekdayWords {
		if strings.HasPrefix(strings.ToLower(s), w) {
			return i
		}
	}
	return -1
}

func (e *encoder) working() *yaml.Node {
	b := build()
	if week := e.shape.Working.Week; len(week) > 0 {
		words := make([]string, len(week))
		for i, d := range week {
			words[i] = weekdayWords[d]
		}
		text := strings.Join(words, ", ")
		if consecutive(week) && len(week) > 2 {
			text = words[0] + "-" + words[len(words)-1]
		}
		b.text("week", text)
	}
	var days []*yaml.Node
	for _, d := range e.shape.Working.Closed {
		days = append(days, word(value.OfDays(d).String()))
	}
	if len(days) > 0 {
		b.put("closed", flow(list(days...)))
	}
	return flow(b.n)
}

func consecutive(week []time.Weekday) bool {
	for i := 1; i < len(week); i++ {
		if week[i] != (week[i-1]+1)%7 {
			return false
		}
	}
	return true
}
