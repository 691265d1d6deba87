package rule

import (
	"fmt"

	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
	"go.yaml.in/yaml/v3"
)

// readTake reads a step that takes rows from the file that woke the
func readTake(d *setup.Reader, a setup.At) (*Take, error) {
	m, err := a.Mapping("tab")
	if err != nil {
		return nil, err
	}
	t := &Take{}
	if t.Tab, err = d.OneTab(m); err != nil {
		return nil, err
	}
	key, err := m.Get("key").Text()
	if err != nil {
		return nil, err
	}
	if key == "" {
		return nil, m.Fail("say by which column rows are found again: key: COLUMN")
	}
	if t.Key, err = d.Column(m.Get("key"), key, []sheet.TabID{t.Tab}); err != nil {
		return nil, err
	}
	if t.Sheet, err = m.Get("sheet").Text(); err != nil {
		return nil, err
	}
	if err := readTakeGone(d, m.Get("gone"), t); err != nil {
		return nil, err
	}
	return t, m.Done()
}

// readTakeGone reads what is done with rows that are gone from a file.
func readTakeGone(d *setup.Reader, a setup.At, t *Take) error {
	if !a.Present() || a.IsScalar() {
		switch text, err := a.Text(); text {
		case "", "keep":
			return err
		case "remove":
			t.Gone = GoneRemove
			return err
		default:
			return a.Fail("%q does not say what is done with rows that are gone: write keep, remove, or mark: { Column: text }", text)
		}
	}
	m, err := a.Mapping()
	if err != nil {
		return err
	}
	t.Gone = GoneMark
	err = m.Get("mark").Pairs(func(column string, v setup.At) error {
		id, err := d.Column(v, column, []sheet.TabID{t.Tab})
		if err != nil {
			return err
		}
		text, err := v.Text()
		t.Marks = append(t.Marks, MarkGone{id, text})
		return err
	})
	if err != nil {
		return err
	}
	return m.Done()
}

// goneNode writes what readTakeGone reads.
func goneNode(e *setup.Writer, t *Take) *yaml.Node {
	switch t.Gone {
	case GoneKeep:
		return nil
	case GoneRemove:
		return setup.Scalar(string(t.Gone))
	}
	m := setup.Build()
	for _, k := range t.Marks {
		m.Text(e.ColumnName(k.Column), k.Value)
	}
	return setup.Flow(setup.Build().Put("mark", setup.Flow(m.Node())).Node())
}

// readWrite reads a step that writes a file; in is where the rows that matched stand by then.
func readWrite(d *setup.Reader, a setup.At, in []sheet.TabID) (*Write, error) {
	m, err := a.Mapping("tab")
	if err != nil {
		return nil, err
	}
	w := &Write{}
	if err := readKeep(d, m.Get("keep"), w); err != nil {
		return nil, err
	}
	if name := m.Get("reminder"); name.Present() {
		return readWriteReminder(d, m, w)
	}
	if w.Matched, err = readMatched(m); err != nil {
		return nil, err
	}
	if w.Tab, err = readWhose(d, m, "tab", w.Matched, in); err != nil {
		return nil, err
	}
	order, err := m.Get("order").Text()
	if err != nil {
		return nil, err
	}
	if w.Order, err = query.ParseOrder(order, d.Shape.TabByID(w.Tab)); err != nil {
		return nil, m.Get("order").Wrap(err)
	}
	facts := d.Facts
	d.Facts = nil // the clause is about the tab's rows, whatever wakes the rule
	w.Where, err = d.Condition(m.Get("where"), []sheet.TabID{w.Tab}, false)
	d.Facts = facts
	if err != nil {
		return nil, err
	}
	names, err := m.Get("columns").Texts()
	if err != nil {
		return nil, err
	}
	for _, n := range names {
		id, err := d.Column(m.Get("columns"), n, []sheet.TabID{w.Tab})
		if err != nil {
			return nil, err
		}
		w.Columns = append(w.Columns, id)
	}
	if w.File, err = d.Template(m.Get("file"), nil, false); err != nil { // perhaps one for each row
		var each error
		if w.File, each = d.Template(m.Get("file"), []sheet.TabID{w.Tab}, false); each != nil {
			return nil, err
		}
	}
	if w.File == "" {
		return nil, m.Fail("say to which file: file: \"outbound/transit {today}.xlsx\"")
	}
	for key, to := range map[string]*bool{"totals": &w.Totals, "replace": &w.Replace, "bare": &w.Bare, "over": &w.Over, "insert": &w.Insert, "append": &w.Append} {
		if *to, err = m.Get(key).Yes(); err != nil {
			return nil, err
		}
	}
	for key, to := range map[string]*string{"sheet": &w.Sheet, "at": &w.At, "table": &w.Table} {
		if *to, err = m.Get(key).Text(); err != nil {
			return nil, err
		}
	}
	if w.Skip, err = readEmpty(m.Get("empty")); err != nil {
		return nil, err
	}
	if w.At != "" {
		if _, _, err := reading.ParseCell(w.At); err != nil {
			return nil, m.Get("at").Wrap(err)
		}
	}
	if key, err := m.Get("key").Text(); err != nil {
		return nil, err
	} else if key != "" {
		if w.Key, err = d.Column(m.Get("key"), key, []sheet.TabID{w.Tab}); err != nil {
			return nil, err
		}
	}
	if w.Chart, err = readChart(d, m.Get("chart"), w.Tab); err != nil {
		return nil, err
	}
	err = m.Get("labels").Pairs(func(label string, v setup.At) error {
		text, err := d.Template(v, nil, false)
		w.Figures = append(w.Figures, Labelled{label, text})
		return err
	})
	if err != nil {
		return nil, err
	}
	ways := 0
	for _, way := range []bool{w.At != "", w.Key != 0, w.Append, len(w.Figures) > 0} {
		if way {
			ways++
		}
	}
	if w.From, err = m.Get("from").Workbook(); err != nil {
		return nil, err
	}
	switch {
	case ways > 1:
		return nil, m.Fail("at, key, append and labels are four ways to write into a workbook: choose one")
	case (ways == 1) != (w.Sheet != ""):
		return nil, m.Fail("a place in a workbook is a sheet and a cell, or a table to which rows are added: write sheet and at, key, append or labels")
	}
	return w, m.Done()
}

// readWhose reads the tab whose rows a step is about. The rows that matched need none named while
// they stand in one tab.
func readWhose(d *setup.Reader, m *setup.Mapping, key string, matched bool, in []sheet.TabID) (sheet.TabID, error) {
	tabs, err := d.TabIDs(m.Get(key))
	switch {
	case err != nil:
		return 0, err
	case len(tabs) == 1:
		return tabs[0], nil
	case len(tabs) > 1:
		return 0, m.Get(key).Fail("name one tab")
	case matched && len(in) == 1:
		return in[0], nil
	case matched:
		return 0, m.Fail("the rows that matched may stand in several tabs: say whose are meant: %s: TAB", key)
	}
	return 0, m.Fail("say which tab: %s: TAB, or rows: matched for the rows that the rule matched", key)
}

// readMatched reads whether a step is about the rows alone that the rule matched.
func readMatched(m *setup.Mapping) (bool, error) {
	text, err := m.Get("rows").Text()
	if err != nil || text == "" || text == "matched" {
		return text != "", err
	}
	return false, m.Get("rows").Fail("%q does not say which rows: write matched, for those that the rule matched, or leave it out", text)
}

func matchedWord(matched bool) string {
	if matched {
		return "matched"
	}
	return ""
}

func readChart(d *setup.Reader, a setup.At, tab sheet.TabID) (*Chart, error) {
	if !a.Present() {
		return nil, nil
	}
	m, err := a.Mapping()
	if err != nil {
		return nil, err
	}
	c := &Chart{}
	if c.Title, err = m.Get("title").Text(); err != nil {
		return nil, err
	}
	for key, to := range map[string]*sheet.ColumnID{"names": &c.Names, "values": &c.Values} {
		name, err := m.Get(key).Text()
		if err != nil {
			return nil, err
		}
		if *to, err = d.Column(m.Get(key), name, []sheet.TabID{tab}); err != nil {
			return nil, err
		}
	}
	return c, m.Done()
}

func writeNode(e *setup.Writer, w *Write) setup.Builder {
	keep := ""
	if w.Keep > 0 {
		keep = fmt.Sprintf("%d days", w.Keep)
	}
	if w.Reminder != 0 {
		return setup.Build().Text("reminder", e.DefinitionNames([]sheet.DefinitionID{w.Reminder})).Text("file", e.Template(nil, w.File)).Yes("replace", w.Replace).Text("keep", keep)
	}
	m := setup.Build().Put("tab", e.TabNames([]sheet.TabID{w.Tab})).Text("rows", matchedWord(w.Matched)).Text("where", whereOf(e, w))
	if tab := e.Shape.TabByID(w.Tab); tab != nil {
		m.Text("order", w.Order.String(tab))
	}
	var columns []string
	for _, id := range w.Columns {
		columns = append(columns, e.ColumnName(id))
	}
	if len(columns) > 0 {
		m.Put("columns", setup.Scalars(columns))
	}
	return m.Text("from", w.From).Text("file", e.Template(nil, w.File)).Text("sheet", w.Sheet).Text("table", w.Table).Text("at", w.At).Put("labels", figuresNode(e, w.Figures)).Yes("insert", w.Insert).Text("key", keyName(e, w.Key)).Yes("append", w.Append).Put("chart", chartNode(e, w.Chart)).Yes("totals", w.Totals).Yes("replace", w.Replace).Yes("bare", w.Bare).Yes("over", w.Over).Text("empty", emptyWord(w.Skip)).Text("keep", keep)
}

// readEmpty reads whether a file without rows is written.
func readEmpty(a setup.At) (skip bool, err error) {
	text, err := a.Text()
	switch text {
	case "", "write":
		return false, err
	case "skip":
		return true, err
	}
	return false, a.Fail("%q does not say what is done without rows: write skip, or leave it out", text)
}

func emptyWord(skip bool) string {
	if skip {
		return "skip"
	}
	return ""
}

// whereOf gives a write's clause, which is about its tab's rows whatever wakes
// the
func whereOf(e *setup.Writer, w *Write) string {
	rows := *e
	rows.Facts = nil
	return rows.Across([]sheet.TabID{w.Tab}, w.Where)
}

func keyName(e *setup.Writer, id sheet.ColumnID) string {
	if id == 0 {
		return ""
	}
	return e.ColumnName(id)
}

func figuresNode(e *setup.Writer, figures []Labelled) *yaml.Node {
	if len(figures) == 0 {
		return nil
	}
	m := setup.Build()
	for _, f := range figures {
		m.Text(f.Label, e.Template(nil, f.Value))
	}
	return m.Node()
}

func chartNode(e *setup.Writer, c *Chart) *yaml.Node {
	if c == nil {
		return nil
	}
	return setup.Flow(setup.Build().Text("title", c.Title).Text("names", e.ColumnName(c.Names)).Text("values", e.ColumnName(c.Values)).Node())
}

// readKeep reads for how many days a file is kept.
func readKeep(d *setup.Reader, a setup.At, w *Write) error {
	text, err := a.Text()
	if err != nil || text == "" {
		return err
	}
	if _, err := fmt.Sscanf(text, "%d days", &w.Keep); err != nil || w.Keep < 1 || text != fmt.Sprintf("%d days", w.Keep) {
		return a.Fail("%q does not say how long: write 30 days", text)
	}
	return nil
}

// readWriteReminder reads a step that writes what a reminder holds.
func readWriteReminder(d *setup.Reader, m *setup.Mapping, w *Write) (*Write, error) {
	name, err := m.Get("reminder").Text()
	if err != nil {
		return nil, err
	}
	p, err := d.Shape.Definition(sheet.KindReminder, name)
	if err != nil {
		return nil, m.Get("reminder").Wrap(err)
	}
	w.Reminder = p.ID
	if w.File, err = d.Template(m.Get("file"), nil, false); err != nil {
		return nil, err
	}
	if w.File == "" {
		return nil, m.Fail("say to which file: file: \"outbound/late {today}.xlsx\"")
	}
	if w.Replace, err = m.Get("replace").Yes(); err != nil {
		return nil, err
	}
	return w, m.Done()
}
