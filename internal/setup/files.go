package setup

import (
	"fmt"

	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"go.yaml.in/yaml/v3"
)

// readTake reads a step that takes rows from the file that woke the rule.
func (d *decoder) readTake(a at) (*rule.Take, error) {
	m, err := a.mapping()
	if err != nil {
		return nil, err
	}
	t := &rule.Take{}
	if t.Tab, err = d.oneTab(m); err != nil {
		return nil, err
	}
	key, err := m.get("key").text()
	if err != nil {
		return nil, err
	}
	if key == "" {
		return nil, m.fail("say by which column rows are found again: key: COLUMN")
	}
	if t.Key, err = d.column(m.get("key"), key, []sheet.TabID{t.Tab}); err != nil {
		return nil, err
	}
	if t.Sheet, err = m.get("sheet").text(); err != nil {
		return nil, err
	}
	return t, m.done()
}

func (d *decoder) oneTab(m *mapping) (sheet.TabID, error) {
	tabs, err := d.tabIDs(m.get("tab"))
	if err != nil {
		return 0, err
	}
	if len(tabs) != 1 {
		return 0, m.fail("say which tab: tab: NAME")
	}
	return tabs[0], nil
}

// readWrite reads a step that writes a file.
func (d *decoder) readWrite(a at) (*rule.Write, error) {
	m, err := a.mapping()
	if err != nil {
		return nil, err
	}
	w := &rule.Write{}
	if err := d.readKeep(m.get("keep"), w); err != nil {
		return nil, err
	}
	if name := m.get("reminder"); name.present() {
		return d.readWriteReminder(m, w)
	}
	if w.Tab, err = d.oneTab(m); err != nil {
		return nil, err
	}
	file := d.file
	d.file = false // the clause is about the tab's rows, whatever wakes the rule
	w.Where, err = d.storeClause(m.get("where"), []sheet.TabID{w.Tab}, false)
	d.file = file
	if err != nil {
		return nil, err
	}
	names, err := m.get("columns").texts()
	if err != nil {
		return nil, err
	}
	for _, n := range names {
		id, err := d.column(m.get("columns"), n, []sheet.TabID{w.Tab})
		if err != nil {
			return nil, err
		}
		w.Columns = append(w.Columns, id)
	}
	if w.File, err = d.storeTemplate(m.get("file"), nil, false); err != nil {
		return nil, err
	}
	if w.File == "" {
		return nil, m.fail("say to which file: file: \"outbound/transit {today}.xlsx\"")
	}
	for key, to := range map[string]*bool{"totals": &w.Totals, "replace": &w.Replace, "bare": &w.Bare, "append": &w.Append} {
		if *to, err = m.get(key).yes(); err != nil {
			return nil, err
		}
	}
	for key, to := range map[string]*string{"sheet": &w.Sheet, "at": &w.At, "table": &w.Table} {
		if *to, err = m.get(key).text(); err != nil {
			return nil, err
		}
	}
	if w.At != "" {
		if _, _, err := reading.ParseCell(w.At); err != nil {
			return nil, m.get("at").wrap(err)
		}
	}
	if key, err := m.get("key").text(); err != nil {
		return nil, err
	} else if key != "" {
		if w.Key, err = d.column(m.get("key"), key, []sheet.TabID{w.Tab}); err != nil {
			return nil, err
		}
	}
	if w.Chart, err = d.readChart(m.get("chart"), w.Tab); err != nil {
		return nil, err
	}
	ways := 0
	for _, way := range []bool{w.At != "", w.Key != 0, w.Append} {
		if way {
			ways++
		}
	}
	switch {
	case ways > 1:
		return nil, m.fail("at, key and append are three ways to write into a workbook: choose one")
	case (ways == 1) != (w.Sheet != ""):
		return nil, m.fail("a place in a workbook is a sheet and a cell, or a table to which rows are added: write sheet and at, key or append")
	}
	return w, m.done()
}

func (d *decoder) readChart(a at, tab sheet.TabID) (*rule.Chart, error) {
	if !a.present() {
		return nil, nil
	}
	m, err := a.mapping()
	if err != nil {
		return nil, err
	}
	c := &rule.Chart{}
	if c.Title, err = m.get("title").text(); err != nil {
		return nil, err
	}
	for key, to := range map[string]*sheet.ColumnID{"names": &c.Names, "values": &c.Values} {
		name, err := m.get(key).text()
		if err != nil {
			return nil, err
		}
		if *to, err = d.column(m.get(key), name, []sheet.TabID{tab}); err != nil {
			return nil, err
		}
	}
	return c, m.done()
}

func (e *encoder) write(w *rule.Write) builder {
	keep := ""
	if w.Keep > 0 {
		keep = fmt.Sprintf("%d days", w.Keep)
	}
	if w.Reminder != 0 {
		return build().text("reminder", e.partNames([]sheet.PartID{w.Reminder})).text("file", e.template(nil, w.File)).yes("replace", w.Replace).text("keep", keep)
	}
	m := build().put("tab", e.tabNames([]sheet.TabID{w.Tab})).text("where", e.whereOf(w))
	var columns []string
	for _, id := range w.Columns {
		columns = append(columns, e.columnName(id))
	}
	if len(columns) > 0 {
		m.put("columns", scalars(columns))
	}
	return m.text("file", e.template(nil, w.File)).text("sheet", w.Sheet).text("table", w.Table).text("at", w.At).text("key", e.keyName(w.Key)).yes("append", w.Append).put("chart", e.chart(w.Chart)).yes("totals", w.Totals).yes("replace", w.Replace).yes("bare", w.Bare).text("keep", keep)
}

// whereOf gives a write's clause, which is about its tab's rows whatever wakes
// the rule.
func (e *encoder) whereOf(w *rule.Write) string {
	rows := *e
	rows.file = false
	return rows.across([]sheet.TabID{w.Tab}, w.Where)
}

func (e *encoder) keyName(id sheet.ColumnID) string {
	if id == 0 {
		return ""
	}
	return e.columnName(id)
}

func (e *encoder) chart(c *rule.Chart) *yaml.Node {
	if c == nil {
		return nil
	}
	return flow(build().text("title", c.Title).text("names", e.columnName(c.Names)).text("values", e.columnName(c.Values)).n)
}

// readKeep reads for how many days a file is kept.
func (d *decoder) readKeep(a at, w *rule.Write) error {
	text, err := a.text()
	if err != nil || text == "" {
		return err
	}
	if _, err := fmt.Sscanf(text, "%d days", &w.Keep); err != nil || w.Keep < 1 || text != fmt.Sprintf("%d days", w.Keep) {
		return a.fail("%q does not say how long: write 30 days", text)
	}
	return nil
}

// readWriteReminder reads a step that writes what a reminder holds.
func (d *decoder) readWriteReminder(m *mapping, w *rule.Write) (*rule.Write, error) {
	name, err := m.get("reminder").text()
	if err != nil {
		return nil, err
	}
	p, err := d.shape.Part(sheet.PartReminder, name)
	if err != nil {
		return nil, m.get("reminder").wrap(err)
	}
	w.Reminder = p.ID
	if w.File, err = d.storeTemplate(m.get("file"), nil, false); err != nil {
		return nil, err
	}
	if w.File == "" {
		return nil, m.fail("say to which file: file: \"outbound/late {today}.xlsx\"")
	}
	if w.Replace, err = m.get("replace").yes(); err != nil {
		return nil, err
	}
	return w, m.done()
}
