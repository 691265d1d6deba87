package setup

import (
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
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
	for key, to := range map[string]*bool{"totals": &w.Totals, "replace": &w.Replace, "bare": &w.Bare} {
		if *to, err = m.get(key).yes(); err != nil {
			return nil, err
		}
	}
	for key, to := range map[string]*string{"sheet": &w.Sheet, "at": &w.At} {
		if *to, err = m.get(key).text(); err != nil {
			return nil, err
		}
	}
	if w.At != "" {
		if _, _, err := reading.ParseCell(w.At); err != nil {
			return nil, m.get("at").wrap(err)
		}
	}
	if (w.At == "") != (w.Sheet == "") {
		return nil, m.fail("a place in a workbook is a sheet and a cell: write sheet and at")
	}
	return w, m.done()
}

func (e *encoder) write(w *rule.Write) builder {
	tabs := []sheet.TabID{w.Tab}
	file := e.file
	e.file = false
	where := e.across(tabs, w.Where)
	e.file = file
	m := build().put("tab", e.tabNames(tabs)).text("where", where)
	var columns []string
	for _, id := range w.Columns {
		columns = append(columns, e.columnName(id))
	}
	if len(columns) > 0 {
		m.put("columns", scalars(columns))
	}
	return m.text("file", e.template(nil, w.File)).text("sheet", w.Sheet).text("at", w.At).yes("totals", w.Totals).yes("replace", w.Replace).yes("bare", w.Bare)
}
