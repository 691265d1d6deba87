package setup

import (
	"fmt"
	"strings"

	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
	"go.yaml.in/yaml/v3"
)

// readTally reads a step that counts rows by group.
func (d *decoder) readTally(a at) (*rule.Tally, error) {
	m, err := a.mapping()
	if err != nil {
		return nil, err
	}
	t := &rule.Tally{}
	of, list := m.get("of"), m.get("list")
	if of.present() == list.present() {
		return nil, m.fail("say what is counted by one of: of: TAB, list: LIST")
	}
	one := func(key string) (sheet.TabID, error) {
		ids, err := d.tabIDs(m.get(key))
		if err == nil && len(ids) != 1 {
			err = m.fail("say which tab: %s: TAB", key)
		}
		if err != nil {
			return 0, err
		}
		return ids[0], nil
	}
	if of.present() {
		if t.Of, err = one("of"); err != nil {
			return nil, err
		}
	} else if err := d.readTallyList(m, list, t); err != nil {
		return nil, err
	}
	if t.Into, err = one("into"); err != nil {
		return nil, err
	}
	key, err := m.get("key").text()
	if err != nil {
		return nil, err
	}
	if t.Key, err = d.column(m.get("key"), key, []sheet.TabID{t.Into}); err != nil {
		return nil, err
	}
	file := d.file
	d.file = false // its clauses are about the rows that are counted, whatever wakes the rule
	defer func() { d.file = file }()
	if t.Where, err = d.tallyClause(m.get("where"), t); err != nil {
		return nil, err
	}
	if t.By, err = d.tallyClause(m.get("by"), t); err != nil {
		return nil, err
	}
	if t.By == "" {
		return nil, m.fail("say by what rows are grouped: by: COLUMN")
	}
	err = m.get("figures").pairs(func(column string, v at) error {
		f := rule.Figure{}
		if f.Column, err = d.column(v, column, []sheet.TabID{t.Into}); err != nil {
			return err
		}
		text, err := v.text()
		if err != nil {
			return err
		}
		for _, what := range rule.Figures {
			rest, is := strings.CutPrefix(strings.TrimSpace(text), what)
			if is && (rest == "" || rest[0] == ' ' || rest[0] == '[' || rest[0] == '(') {
				f.What = what
				f.Of, err = d.tallyClause(at{scalar(strings.TrimSpace(rest)), v.path}, t)
				t.Figures = append(t.Figures, f)
				return v.wrap(err)
			}
		}
		return v.fail("%q is not a figure: write count, or count distinct, sum, average, smallest or largest of a column", text)
	})
	if err != nil {
		return nil, err
	}
	if len(t.Figures) == 0 {
		return nil, m.fail("say what is counted: figures: { COLUMN: count }")
	}
	return t, m.done()
}

func (d *decoder) readTallyList(m *mapping, list at, t *rule.Tally) error {
	name, err := list.text()
	if err != nil {
		return err
	}
	p, err := d.shape.Part(sheet.PartList, name)
	if err != nil {
		return list.wrap(err)
	}
	t.List = p.ID
	err = m.get("fields").pairs(func(name string, v at) error {
		f := rule.TallyField{Name: name, Type: value.Text}
		if v.node.Kind == yaml.ScalarNode {
			f.From = v.node.Value
			t.Fields = append(t.Fields, f)
			return nil
		}
		kind := ""
		if err := subTexts(v, map[string]*string{"from": &f.From, "type": &kind}); err != nil {
			return err
		}
		var known bool
		if f.Type, known = value.KindNamed(kind); !known {
			return v.fail("%q is not a type: write text, number, date, date-time or checkbox", kind)
		}
		t.Fields = append(t.Fields, f)
		return nil
	})
	if err == nil && len(t.Fields) == 0 {
		return m.fail("say which fields of the records are meant: fields: { Lender: lender, Covers: { from: covers/amount, type: number } }")
	}
	return err
}

// tallyClause reads a clause over what is counted, into stored form.
func (d *decoder) tallyClause(a at, t *rule.Tally) (string, error) {
	if t.List == 0 {
		return d.storeClause(a, []sheet.TabID{t.Of}, false)
	}
	text, err := a.text() // the fields of a list have no ids: their names are kept
	return strings.TrimSpace(text), err
}

func (e *encoder) tally(t *rule.Tally) *yaml.Node {
	m := build()
	says := func(stored string) string { return stored }
	if t.List == 0 {
		m.put("of", e.tabNames([]sheet.TabID{t.Of}))
		says = func(stored string) string { return e.clause(t.Of, stored) }
	} else {
		m.text("list", e.partNames([]sheet.PartID{t.List}))
		fields := build()
		for _, f := range t.Fields {
			if f.Type == value.Text {
				fields.text(f.Name, f.From)
				continue
			}
			fields.put(f.Name, flow(build().text("from", f.From).text("type", f.Type.String()).n))
		}
		m.put("fields", flow(fields.n))
	}
	if t.Where != "" {
		m.text("where", says(t.Where))
	}
	m.text("by", says(t.By)).put("into", e.tabNames([]sheet.TabID{t.Into})).text("key", e.columnName(t.Key))
	figures := build()
	for _, f := range t.Figures {
		text := f.What
		if f.Of != "" {
			text += " " + says(f.Of)
		}
		figures.text(e.columnName(f.Column), text)
	}
	return flow(m.put("figures", flow(figures.n)).n)
}

func (e *encoder) tallyWords(t *rule.Tally) string {
	of := e.tabWords([]sheet.TabID{t.Of})
	if t.List != 0 {
		of = e.partNames([]sheet.PartID{t.List})
	}
	names := make([]string, len(t.Figures))
	for i, f := range t.Figures {
		names[i] = e.columnName(f.Column)
	}
	return fmt.Sprintf("tally %s into %s by %s (%s)", of, e.tabWords([]sheet.TabID{t.Into}), e.columnName(t.Key), strings.Join(names, ", "))
}
