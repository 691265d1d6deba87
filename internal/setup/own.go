package setup

import (
	"strings"

	"go.yaml.in/yaml/v3"

	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
)

// ownTabs are the tabs in which a definition keeps rows of its own, as it is read.
type ownTabs struct {
	of     *sheet.Definition
	before *sheet.Definition // what it takes the place of; may be nil
}

// before gives what a definition takes the place of, or nil.
func (d *Reader) before(p *sheet.Definition) *sheet.Definition {
	if d.old == nil {
		return nil
	}
	if d.replace != 0 {
		return d.old.DefinitionByID(d.replace)
	}
	old, err := d.old.Definition(p.Kind, p.Name)
	if err != nil {
		return nil
	}
	return old
}

// OwnTab gives the definition that is being read a tab in which it keeps rows of its own;
// role says for what, such as log, and about of which tabs' rows. It keeps its id, and its columns theirs by name, from
// before. What is read after it may name the tab.
func (d *Reader) OwnTab(role string, about []sheet.TabID, columns []sheet.Column) (*sheet.TabShape, error) {
	p := d.own.of
	tab := sheet.TabShape{Name: p.Name + " (" + role + ")", Of: p.ID, About: about}
	var old *sheet.TabShape
	if was := d.own.before; was != nil {
		for i := range was.Tabs {
			if strings.HasSuffix(was.Tabs[i].Name, " ("+role+")") {
				old = &was.Tabs[i]
				tab.ID = old.ID
			}
		}
	}
	if tab.ID == 0 {
		tab.ID = sheet.TabID(d.ids.next())
	}
	for _, c := range columns {
		if c.ID == 0 {
			if old != nil {
				if x, err := old.Column(c.Name); err == nil && sameColumn(x, &c) {
					c.ID = x.ID
				}
			}
			if c.ID == 0 {
				c.ID = sheet.ColumnID(d.ids.next())
			}
		}
		tab.Columns = append(tab.Columns, c)
	}
	p.Tabs = append(p.Tabs, tab)
	for i := range d.Shape.Tabs {
		if d.Shape.Tabs[i].ID == tab.ID {
			d.Shape.Tabs[i] = tab
			return &tab, d.rebind()
		}
	}
	d.Shape.Tabs = append(d.Shape.Tabs, tab)
	return &tab, d.rebind()
}

func (d *Reader) rebind() error {
	if err := d.Shape.Check(); err != nil {
		return err
	}
	bound, err := program.Bind(d.Shape)
	if err == nil {
		d.bound = bound
	}
	return err
}

// Columns reads columns that people fill in, as those of a tab are written. Their ids are
// still to be given.
func (d *Reader) Columns(a At) ([]sheet.Column, error) {
	var out []sheet.Column
	err := a.Pairs(func(name string, v At) error {
		c, err := readColumn(strings.TrimSpace(name), v)
		if err != nil {
			return err
		}
		if c.Computed() {
			return v.Fail("%s is computed: here stand columns that people fill in", c.Name)
		}
		if len(out) == MaxColumns {
			return v.Fail("at most %d columns", MaxColumns)
		}
		out = append(out, c)
		return nil
	})
	return out, err
}

// ColumnsNode writes columns as Columns reads them.
func (e *Writer) ColumnsNode(t *sheet.TabShape, want func(*sheet.Column) bool) *yaml.Node {
	b := Build()
	for i := range t.Columns {
		if want(&t.Columns[i]) {
			b.Put(t.Columns[i].Name, e.column(t, &t.Columns[i]))
		}
	}
	return b.Node()
}
