package setup

import (
	"strings"

	"go.yaml.in/yaml/v3"

	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/setup/schema"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// readAccess reads who may read, edit and keep the tracker, and who alone may see and
// change single tabs and columns of it.
func (d *Reader) readAccess(a At) error {
	if !a.Present() {
		return nil
	}
	m, err := a.Mapping()
	if err != nil {
		return err
	}
	out := &sheet.Access{}
	for key, to := range map[string]*sheet.Who{"read": &out.Read, "edit": &out.Edit, "keep": &out.Keep} {
		if *to, err = ReadWho(m.Get(key)); err != nil {
			return err
		}
	}
	err = m.Get("tabs").Pairs(func(name string, v At) error {
		tab, err := d.Shape.Tab(name)
		if err != nil {
			return v.Wrap(err)
		}
		if out.Tabs == nil {
			out.Tabs = map[sheet.TabID]sheet.Bar{}
		}
		out.Tabs[tab.ID], err = readBar(v)
		return err
	})
	if err != nil {
		return err
	}
	err = m.Get("columns").Pairs(func(name string, v At) error {
		id, err := d.Column(v, name, nil)
		if err != nil {
			return err
		}
		if out.Columns == nil {
			out.Columns = map[sheet.ColumnID]sheet.Bar{}
		}
		out.Columns[id], err = readBar(v)
		return err
	})
	if err != nil {
		return err
	}
	d.keepOutlived(out)
	d.Shape.Access = out
	return m.Done()
}

// keepOutlived keeps what was said of tabs and columns that are not there now: they may
// come back, and rows may carry them.
func (d *Reader) keepOutlived(out *sheet.Access) {
	if d.old == nil || d.old.Access == nil {
		return
	}
	for id, b := range d.old.Access.Tabs {
		if d.Shape.TabByID(id) == nil {
			if out.Tabs == nil {
				out.Tabs = map[sheet.TabID]sheet.Bar{}
			}
			out.Tabs[id] = b
		}
	}
	for id, b := range d.old.Access.Columns {
		if d.Shape.ColumnByID(id) == nil {
			if out.Columns == nil {
				out.Columns = map[sheet.ColumnID]sheet.Bar{}
			}
			out.Columns[id] = b
		}
	}
}

func readBar(a At) (sheet.Bar, error) {
	var b sheet.Bar
	m, err := a.Mapping()
	if err != nil {
		return b, err
	}
	if b.See, err = ReadWho(m.Get("see")); err != nil {
		return b, err
	}
	if b.Change, err = ReadWho(m.Get("change")); err != nil {
		return b, err
	}
	if b.See == nil && b.Change == nil {
		return b, a.Fail("say who alone may see it or change it: see: [ADDRESS, admins], change: [editors]")
	}
	return b, m.Done()
}

// ReadWho reads people by their addresses, or roles.
func ReadWho(a At) (sheet.Who, error) {
	names, err := a.Texts()
	if err != nil || !a.Present() {
		return nil, err
	}
	out := sheet.Who{}
	for _, n := range names {
		n = strings.TrimSpace(n)
		if role := policy.AccessNamed(strings.TrimSuffix(strings.ToLower(n), "s")); role != policy.Nobody {
			out = append(out, role.String()+"s")
			continue
		}
		v, err := value.Parse(n, value.Type{Kind: value.Person})
		if err != nil || v.IsBlank() {
			return nil, a.Fail("%q is nobody: write a mail address, or %s", n, strings.Join(policy.RoleWords, ", "))
		}
		out = append(out, v.Raw())
	}
	return out, nil
}

func (e *Writer) access() *yaml.Node {
	a := e.Shape.Access
	if a == nil {
		return nil
	}
	who := func(b Builder, key string, w sheet.Who) {
		if w != nil {
			b.Put(key, Scalars(w))
		}
	}
	bar := func(of sheet.Bar) *yaml.Node {
		b := Build()
		who(b, "see", of.See)
		who(b, "change", of.Change)
		return Flow(b.Node())
	}
	out, tabs, columns := Build(), Build(), Build()
	who(out, "read", a.Read)
	who(out, "edit", a.Edit)
	who(out, "keep", a.Keep)
	done := map[sheet.ColumnID]bool{}
	for i := range e.Shape.Tabs {
		t := &e.Shape.Tabs[i]
		if b, is := a.Tabs[t.ID]; is {
			tabs.Put(t.Name, bar(b))
		}
		for _, c := range t.Columns {
			if b, is := a.Columns[c.ID]; is && !done[c.ID] {
				done[c.ID] = true
				columns.Put(c.Name, bar(b))
			}
		}
	}
	if len(tabs.Node().Content) > 0 {
		out.Put("tabs", tabs.Node())
	}
	if len(columns.Node().Content) > 0 {
		out.Put("columns", columns.Node())
	}
	return out.Node()
}

func accessSchema() schema.Object {
	who := func(says string) schema.Object {
		return schema.OneOrMore(says + ": mail addresses, or readers, editors, admins")
	}
	bar := schema.Closed(schema.Object{"see": who("who alone may see it"), "change": who("who alone may change it")})
	return schema.Closed(schema.Object{"read": who("who may read the tracker"), "edit": who("who may change its rows"), "keep": who("who may change its setup, besides admins of the workspace"),
		"tabs": schema.MapOf(bar), "columns": schema.MapOf(bar)})
}
