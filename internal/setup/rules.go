package setup

import (
	"errors"
	"strconv"
	"strings"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"go.yaml.in/yaml/v3"
)

// tabIDs reads the names of tabs.
func (d *decoder) tabIDs(a at) ([]sheet.TabID, error) {
	names, err := a.texts()
	if err != nil {
		return nil, err
	}
	var ids []sheet.TabID
	for _, n := range names {
		t, err := d.shape.Tab(n)
		if err != nil {
			return nil, a.wrap(err)
		}
		ids = append(ids, t.ID)
	}
	return ids, nil
}

// column finds a column by name in the given tabs, or in any when there are none.
func (d *decoder) column(a at, name string, tabs []sheet.TabID) (sheet.ColumnID, error) {
	var first *sheet.NotFound
	for i := range d.shape.Tabs {
		t := &d.shape.Tabs[i]
		if len(tabs) > 0 && !containsTab(tabs, t.ID) {
			continue
		}
		c, err := t.Column(name)
		if err == nil {
			return c.ID, nil
		}
		var nf *sheet.NotFound
		if errors.As(err, &nf) && (first == nil || nf.Nearest != "" && first.Nearest == "") {
			first = nf
		}
	}
	if first == nil {
		first = &sheet.NotFound{What: "column", Name: name}
	}
	return 0, a.wrap(first)
}

func containsTab(tabs []sheet.TabID, id sheet.TabID) bool {
	for _, t := range tabs {
		if t == id {
			return true
		}
	}
	return false
}

// storeClause checks a clause against the tabs and gives its stored form.
func (d *decoder) storeClause(a at, tabs []sheet.TabID, edit bool) (string, error) {
	return d.store(a, d.scope(tabs, edit), clause.CheckValue)
}

func (d *decoder) storeTemplate(a at, tabs []sheet.TabID, edit bool) (string, error) {
	return d.store(a, d.scope(tabs, edit), clause.CheckTemplate)
}

// scope gives what names mean: in a rule that files wake, the file's facts.
func (d *decoder) scope(tabs []sheet.TabID, edit bool) *clause.Scope {
	if d.file {
		return d.bound.ScopeOfFile(rule.FileNames)
	}
	return d.bound.ScopeOfAll(tabs, edit)
}

func (d *decoder) store(a at, scope *clause.Scope, check func(string, *clause.Scope) (*clause.Expr, error)) (string, error) {
	text, err := a.text()
	if err != nil || text == "" {
		return "", err
	}
	expr, err := check(text, scope)
	if err != nil {
		return "", a.wrap(err)
	}
	return expr.Print(clause.ByID), nil
}

func (d *decoder) readRule(m *mapping) (any, error) {
	r := &rule.Rule{}
	var err error
	if r.Remark, err = m.get("remark").text(); err != nil {
		return nil, err
	}
	if r.Paused, err = m.get("paused").yes(); err != nil {
		return nil, err
	}
	if r.Watching, err = m.get("watching only").yes(); err != nil {
		return nil, err
	}
	if r.Limit, err = m.get("limit").int(); err != nil {
		return nil, err
	}
	if r.In, err = d.tabIDs(m.get("in")); err != nil {
		return nil, err
	}
	if r.Wake, err = d.readWake(m.get("wake"), r.In); err != nil {
		return nil, err
	}
	if d.file = r.Wake.File != ""; d.file {
		defer func() { d.file = false }()
	}
	if r.Where, err = d.storeClause(m.get("where"), r.In, r.Wake.ByEdit()); err != nil {
		return nil, err
	}
	err = m.get("steps").each(func(a at) error {
		s, err := d.readStep(a, r)
		r.Steps = append(r.Steps, s)
		return err
	})
	return r, err
}

func (d *decoder) readWake(a at, tabs []sheet.TabID) (rule.Wake, error) {
	var w rule.Wake
	if !a.present() || a.node.Value == "hand" {
		return w, nil
	}
	m, err := a.mapping()
	if err != nil {
		return w, err
	}
	names, err := m.get("edit").texts()
	if err != nil {
		return w, err
	}
	for _, n := range names {
		if n == "any" {
			w.Any = true
			continue
		}
		id, err := d.column(m.get("edit"), n, tabs)
		if err != nil {
			return w, err
		}
		w.Edit = append(w.Edit, id)
	}
	if w.Added, err = m.get("new row").yes(); err != nil {
		return w, err
	}
	if w.Skip, err = readMissed(m.get("missed")); err != nil {
		return w, err
	}
	if w.Clock, err = m.get("clock").text(); err != nil {
		return w, err
	}
	if w.Call, err = m.get("call").yes(); err != nil {
		return w, err
	}
	if w.File, err = m.get("file").text(); err != nil {
		return w, err
	}
	return w, m.done()
}

func (d *decoder) readStep(a at, r *rule.Rule) (rule.Step, error) {
	var s rule.Step
	m, err := a.mapping()
	if err != nil {
		return s, err
	}
	if s.Name, err = m.get("name").text(); err != nil {
		return s, err
	}
	if s.Remark, err = m.get("remark").text(); err != nil {
		return s, err
	}
	kinds := 0
	edit := r.Wake.ByEdit()
	if move := m.get("move"); move.present() {
		kinds++
		if s.Move, err = d.readMove(move, r.In, edit); err != nil {
			return s, err
		}
	}
	if cp := m.get("copy"); cp.present() {
		kinds++
		if s.Copy, err = d.readCopy(cp, r.In, edit); err != nil {
			return s, err
		}
	}
	if set := m.get("set"); set.present() {
		kinds++
		if s.Set, err = d.readCells(set, r.In, r.In, edit); err != nil {
			return s, err
		}
	}
	if put := m.get("put"); put.present() {
		kinds++
		if s.Put, err = d.readPut(put, r.In, edit); err != nil {
			return s, err
		}
	}
	if take := m.get("take"); take.present() {
		kinds++
		if s.Take, err = d.readTake(take); err != nil {
			return s, err
		}
	}
	if tally := m.get("tally"); tally.present() {
		if s.Tally, err = d.readTally(tally); err != nil {
			return s, err
		}
		kinds++
	}
	if write := m.get("write"); write.present() {
		kinds++
		if s.Write, err = d.readWrite(write); err != nil {
			return s, err
		}
	}
	if err := m.done(); err != nil {
		return s, err
	}
	if kinds != 1 {
		return s, a.fail("a step is one of move, copy, set, put, take, tally and write")
	}
	return s, nil
}

func (d *decoder) readMove(a at, in []sheet.TabID, edit bool) (*rule.Move, error) {
	m, err := a.mapping()
	if err != nil {
		return nil, err
	}
	mv := &rule.Move{}
	if mv.Place, err = d.readPlace(m, in, edit); err != nil {
		return nil, err
	}
	names, err := m.get("clear").texts()
	if err != nil {
		return nil, err
	}
	for _, n := range names {
		id, err := d.column(m.get("clear"), n, nil)
		if err != nil {
			return nil, err
		}
		mv.Clear = append(mv.Clear, id)
	}
	if mv.Set, err = d.readCells(m.get("set"), nil, in, edit); err != nil {
		return nil, err
	}
	return mv, m.done()
}

func (d *decoder) readCopy(a at, in []sheet.TabID, edit bool) (*rule.Copy, error) {
	m, err := a.mapping()
	if err != nil {
		return nil, err
	}
	c := &rule.Copy{}
	if c.Place, err = d.readPlace(m, in, edit); err != nil {
		return nil, err
	}
	if c.Set, err = d.readCells(m.get("set"), nil, in, edit); err != nil {
		return nil, err
	}
	if c.Again, err = m.get("again").yes(); err != nil {
		return nil, err
	}
	return c, m.done()
}

// readPlace reads where a row goes: to, tracker, create and columns.
func (d *decoder) readPlace(m *mapping, in []sheet.TabID, edit bool) (rule.Place, error) {
	var p rule.Place
	var err error
	if p.To, err = d.storeTemplate(m.get("to"), in, edit); err != nil {
		return p, err
	}
	if p.To == "" {
		return p, m.fail("say where to: to: \"{Stage}\"")
	}
	if p.Tracker, err = m.get("tracker").text(); err != nil {
		return p, err
	}
	create, err := m.get("create").text()
	if err != nil {
		return p, err
	}
	if create != "" {
		like, ok := strings.CutPrefix(create, "like ")
		if !ok {
			return p, m.get("create").fail("%q does not say what the new tab is like: write like TAB", create)
		}
		p.Create = strings.TrimSpace(like)
	}
	return p, m.get("columns").pairs(func(from string, v at) error {
		id, err := d.column(v, from, in)
		if err != nil {
			return err
		}
		to, err := v.text()
		p.Columns = append(p.Columns, rule.Pair{From: id, To: to})
		return err
	})
}

func (d *decoder) readPut(a at, in []sheet.TabID, edit bool) (*rule.Put, error) {
	m, err := a.mapping()
	if err != nil {
		return nil, err
	}
	p := &rule.Put{}
	tabs, err := d.tabIDs(m.get("tab"))
	if err != nil {
		return nil, err
	}
	if len(tabs) != 1 {
		return nil, a.fail("say into which tab: tab: NAME")
	}
	p.Tab = tabs[0]
	key, err := m.get("key").text()
	if err != nil {
		return nil, err
	}
	if p.Key, err = d.column(m.get("key"), key, tabs); err != nil {
		return nil, err
	}
	if p.Values, err = d.readCells(m.get("values"), tabs, in, edit); err != nil {
		return nil, err
	}
	return p, m.done()
}

// readCells reads a mapping of columns of target to templates over the rows of in.
func (d *decoder) readCells(a at, target, in []sheet.TabID, edit bool) ([]rule.Cell, error) {
	var cells []rule.Cell
	err := a.pairs(func(name string, v at) error {
		id, err := d.column(v, name, target)
		if err != nil {
			return err
		}
		to, err := d.storeTemplate(v, in, edit)
		cells = append(cells, rule.Cell{Column: id, To: to})
		return err
	})
	return cells, err
}

func (e *encoder) rule(p *sheet.Part) (*yaml.Node, error) {
	r, err := rule.Decode(p)
	if err != nil {
		return nil, err
	}
	b := build().text("name", p.Name).text("remark", r.Remark)
	wake := build()
	var edits []string
	if r.Wake.Any {
		edits = append(edits, "any")
	}
	for _, id := range r.Wake.Edit {
		edits = append(edits, e.columnName(id))
	}
	if len(edits) > 0 {
		wake.put("edit", scalars(edits))
	}
	wake.yes("new row", r.Wake.Added).text("clock", r.Wake.Clock).text("missed", missedWord(r.Wake.Skip)).yes("call", r.Wake.Call).text("file", r.Wake.File)
	if len(wake.n.Content) > 0 {
		b.put("wake", flow(wake.n))
	} else {
		b.put("wake", word("hand"))
	}
	if len(r.In) > 0 {
		b.put("in", e.tabNames(r.In))
	}
	if e.file = r.Wake.File != ""; e.file {
		defer func() { e.file = false }()
	}
	b.text("where", e.across(r.In, r.Where)).yes("paused", r.Paused).yes("watching only", r.Watching)
	if r.Limit > 0 {
		b.put("limit", word(strconv.Itoa(r.Limit)))
	}
	steps := list()
	for _, s := range r.Steps {
		steps.Content = append(steps.Content, e.step(r, s))
	}
	return b.put("steps", steps).n, nil
}

func (e *encoder) step(r *rule.Rule, s rule.Step) *yaml.Node {
	b := build().text("name", s.Name).text("remark", s.Remark)
	switch {
	case s.Copy != nil:
		m := e.place(r, &s.Copy.Place)
		if len(s.Copy.Set) > 0 {
			m.put("set", e.cells(r.In, s.Copy.Set))
		}
		b.put("copy", flow(m.yes("again", s.Copy.Again).n))
	case s.Move != nil:
		m := e.place(r, &s.Move.Place)
		var clear []string
		for _, id := range s.Move.Clear {
			clear = append(clear, e.columnName(id))
		}
		if len(clear) > 0 {
			m.put("clear", scalars(clear))
		}
		if len(s.Move.Set) > 0 {
			m.put("set", e.cells(r.In, s.Move.Set))
		}
		b.put("move", flow(m.n))
	case s.Put != nil:
		m := build().put("tab", e.tabNames([]sheet.TabID{s.Put.Tab})).text("key", e.columnName(s.Put.Key))
		b.put("put", flow(m.put("values", e.cells(r.In, s.Put.Values)).n))
	case s.Take != nil:
		m := build().put("tab", e.tabNames([]sheet.TabID{s.Take.Tab})).text("key", e.columnName(s.Take.Key)).text("sheet", s.Take.Sheet)
		b.put("take", flow(m.n))
	case s.Tally != nil:
		b.put("tally", e.tally(s.Tally))
	case s.Write != nil:
		b.put("write", flow(e.write(s.Write).n))
	default:
		b.put("set", e.cells(r.In, s.Set))
	}
	return b.n
}

func (e *encoder) place(r *rule.Rule, p *rule.Place) builder {
	m := build().text("to", e.template(r.In, p.To)).text("tracker", p.Tracker)
	if p.Create != "" {
		m.text("create", "like "+p.Create)
	}
	columns := build()
	for _, pair := range p.Columns {
		columns.text(e.columnName(pair.From), pair.To)
	}
	if len(columns.n.Content) > 0 {
		m.put("columns", flow(columns.n))
	}
	return m
}

func (e *encoder) cells(in []sheet.TabID, cells []rule.Cell) *yaml.Node {
	b := build()
	for _, c := range cells {
		b.put(e.columnName(c.Column), scalar(e.template(in, c.To)))
	}
	return flow(b.n)
}

// readMissed reads what becomes of occurrences that passed while the service was
// down: one run makes up for them, or they are let go.
func readMissed(a at) (skip bool, err error) {
	text, err := a.text()
	switch text {
	case "", "run once":
		return false, err
	case "skip":
		return true, err
	}
	return false, a.fail("%q is not a way to treat what was missed: write run once or skip", text)
}

func missedWord(skip bool) string {
	if skip {
		return "skip"
	}
	return ""
}
