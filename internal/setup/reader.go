package setup

import (
	"errors"
	"slices"
	"strings"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Cell is a column with a template for its value, in stored form.
type Cell struct {
	Column sheet.ColumnID `json:"column"`
	To     string         `json:"to"`
}

// IDs gives ids that no tab, column or part of the workspace has had.
type IDs func() int64

func (f IDs) next() int64 { return f() }

// Reader reads a setup file into a shape.
type Reader struct {
	Shape *sheet.Shape    // as far as it has been read
	Facts []clause.Column // what names mean where there is no row but a file; nil: columns
	old   *sheet.Shape    // nil for a new tracker
	ids   IDs
	kinds program.Kinds
	bound *program.Program

	own     ownTabs            // of the definition that is being read
	replace sheet.DefinitionID // whose place it takes; 0: that of the one of its name
}

// TabIDs reads the names of tabs.
func (d *Reader) TabIDs(a At) ([]sheet.TabID, error) {
	names, err := a.Texts()
	if err != nil {
		return nil, err
	}
	var ids []sheet.TabID
	for _, n := range names {
		t, err := d.Shape.Tab(n)
		if err != nil {
			return nil, a.Wrap(err)
		}
		ids = append(ids, t.ID)
	}
	return ids, nil
}

// Column finds a column by name in the given tabs, or in any when there are none.
func (d *Reader) Column(a At, name string, tabs []sheet.TabID) (sheet.ColumnID, error) {
	var first *sheet.NotFound
	for i := range d.Shape.Tabs {
		t := &d.Shape.Tabs[i]
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
	return 0, a.Wrap(first)
}

func containsTab(tabs []sheet.TabID, id sheet.TabID) bool {
	for _, t := range tabs {
		if t == id {
			return true
		}
	}
	return false
}

// Clause checks a clause against the tabs and gives its stored form.
func (d *Reader) Clause(a At, tabs []sheet.TabID, edit bool) (string, error) {
	return d.store(a, d.scope(tabs, edit), named(clause.CheckValue))
}

// Condition does the same for one that must come out as yes or no.
func (d *Reader) Condition(a At, tabs []sheet.TabID, edit bool) (string, error) {
	return d.store(a, d.scope(tabs, edit), named(clause.CheckCondition))
}

// named lets a name alone be one, of however many words.
func named(check func(string, *clause.Scope) (*clause.Expr, error)) func(string, *clause.Scope) (*clause.Expr, error) {
	return func(text string, scope *clause.Scope) (*clause.Expr, error) {
		for _, c := range scope.Columns {
			if value.EqualText(c.Name, text) {
				text = "[" + c.Name + "]"
			}
		}
		return check(text, scope)
	}
}

// Template checks a text with holes against the tabs and gives its stored form.
func (d *Reader) Template(a At, tabs []sheet.TabID, edit bool) (string, error) {
	return d.store(a, d.scope(tabs, edit), clause.CheckTemplate)
}

// Scope gives what names mean in tabs.
func (d *Reader) Scope(tabs []sheet.TabID) *clause.Scope { return d.scope(tabs, false) }

// Stored reads a clause in a scope and gives its stored form; check says what it is.
func (d *Reader) Stored(a At, scope *clause.Scope, check func(string, *clause.Scope) (*clause.Expr, error)) (string, error) {
	return d.store(a, scope, check)
}

// scope gives what names mean: in a rule that files wake, the file's facts.
func (d *Reader) scope(tabs []sheet.TabID, edit bool) *clause.Scope {
	if d.Facts != nil {
		return d.bound.ScopeOfFile(d.Facts)
	}
	return d.bound.ScopeOfAll(tabs, edit)
}

func (d *Reader) store(a At, scope *clause.Scope, check func(string, *clause.Scope) (*clause.Expr, error)) (string, error) {
	text, err := a.Text()
	if err != nil || text == "" {
		return "", err
	}
	expr, err := check(text, scope)
	if err != nil {
		return "", a.Wrap(err)
	}
	return expr.Print(clause.ByID), nil
}

// Cells reads a mapping of columns of target to templates over the rows of in.
func (d *Reader) Cells(a At, target, in []sheet.TabID, edit bool) ([]Cell, error) {
	var cells []Cell
	err := a.Pairs(func(name string, v At) error {
		id, err := d.Column(v, name, target)
		if err != nil {
			return err
		}
		to, err := d.Template(v, in, edit)
		cells = append(cells, Cell{Column: id, To: to})
		return err
	})
	return cells, err
}

// ReadMissed reads what becomes of occurrences that passed while the service was
// down: one run makes up for them, or they are let go.
func ReadMissed(a At) (skip bool, err error) {
	text, err := a.Text()
	switch text {
	case "", "run once":
		return false, err
	case "skip":
		return true, err
	}
	return false, a.Fail("%q is not a way to treat what was missed: write run once or skip", text)
}

// MissedWord writes what ReadMissed reads.
func MissedWord(skip bool) string {
	if skip {
		return "skip"
	}
	return ""
}

// OneTab reads the name of one tab.
func (d *Reader) OneTab(m *Mapping) (sheet.TabID, error) {
	tabs, err := d.TabIDs(m.Get("tab"))
	if err != nil {
		return 0, err
	}
	if len(tabs) != 1 {
		return 0, m.Fail("say which tab: tab: NAME")
	}
	return tabs[0], nil
}

// ReadTexts reads the texts of some keys.
func ReadTexts(m *Mapping, into map[string]*string) error {
	var err error
	for key, to := range into {
		if *to, err = m.Get(key).Text(); err != nil {
			return err
		}
	}
	return nil
}

// ReadSubTexts reads a mapping of texts that may be absent.
func ReadSubTexts(a At, into map[string]*string) error {
	if !a.Present() {
		return nil
	}
	m, err := a.Mapping()
	if err != nil {
		return err
	}
	if err := ReadTexts(m, into); err != nil {
		return err
	}
	return m.Done()
}

// OneOf reads one of some words.
func OneOf[W ~string](a At, words ...W) (W, error) {
	text, err := a.Text()
	if err != nil || text == "" || slices.Contains(words, W(text)) {
		return W(text), err
	}
	names := make([]string, len(words))
	for i, w := range words {
		names[i] = string(w)
	}
	return "", a.Fail("%q is not known here: write %s", text, strings.Join(names, ", "))
}
