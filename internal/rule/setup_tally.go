package rule

import (
	"fmt"
	"strings"

	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
	"go.yaml.in/yaml/v3"
)

// readTally reads a step that counts rows by group.
func readTally(d *setup.Reader, a setup.At, in []sheet.TabID) (*Tally, error) {
	m, err := a.Mapping("of")
	if err != nil {
		return nil, err
	}
	t := &Tally{}
	if t.Matched, err = readMatched(m); err != nil {
		return nil, err
	}
	of, list := m.Get("of"), m.Get("list")
	if of.Present() && list.Present() || !of.Present() && !list.Present() && !t.Matched {
		return nil, m.Fail("say what is counted by one of: of: TAB, list: LIST, rows: matched")
	}
	if t.Matched && list.Present() {
		return nil, m.Get("list").Fail("rows: matched are rows of a tab, not of a list")
	}
	one := func(key string) (sheet.TabID, error) {
		ids, err := d.TabIDs(m.Get(key))
		if err == nil && len(ids) != 1 {
			err = m.Fail("say which tab: %s: TAB", key)
		}
		if err != nil {
			return 0, err
		}
		return ids[0], nil
	}
	if !list.Present() {
		if t.Of, err = readWhose(d, m, "of", t.Matched, in); err != nil {
			return nil, err
		}
	} else if err := readTallyList(d, m, list, t); err != nil {
		return nil, err
	}
	if t.Into, err = one("into"); err != nil {
		return nil, err
	}
	key, err := m.Get("key").Text()
	if err != nil {
		return nil, err
	}
	if t.Key, err = d.Column(m.Get("key"), key, []sheet.TabID{t.Into}); err != nil {
		return nil, err
	}
	facts := d.Facts
	d.Facts = nil // its clauses are about the rows that are counted, whatever wakes the rule
	defer func() { d.Facts = facts }()
	if t.Where, err = tallyClause(d, m.Get("where"), t); err != nil {
		return nil, err
	}
	if t.By, err = tallyClause(d, m.Get("by"), t); err != nil {
		return nil, err
	}
	if t.By == "" {
		return nil, m.Fail("say by what rows are grouped: by: COLUMN")
	}
	err = m.Get("figures").Pairs(func(column string, v setup.At) error {
		f := Figure{}
		if f.Column, err = d.Column(v, column, []sheet.TabID{t.Into}); err != nil {
			return err
		}
		text, err := v.Text()
		if err != nil {
			return err
		}
		for _, what := range query.Figures {
			rest, is := strings.CutPrefix(strings.TrimSpace(text), what)
			if is && (rest == "" || rest[0] == ' ' || rest[0] == '[' || rest[0] == '(') {
				f.What = what
				f.Of, err = tallyClause(d, v.With(strings.TrimSpace(rest)), t)
				t.Figures = append(t.Figures, f)
				return v.Wrap(err)
			}
		}
		return v.Fail("%q is not a figure: write count, or count distinct, sum, average, smallest or largest of a column", text)
	})
	if err != nil {
		return nil, err
	}
	if len(t.Figures) == 0 {
		return nil, m.Fail("say what is counted: figures: { COLUMN: count }")
	}
	return t, m.Done()
}

func readTallyList(d *setup.Reader, m *setup.Mapping, list setup.At, t *Tally) error {
	name, err := list.Text()
	if err != nil {
		return err
	}
	p, err := d.Shape.Definition(sheet.KindList, name)
	if err != nil {
		return list.Wrap(err)
	}
	t.List = p.ID
	err = m.Get("fields").Pairs(func(name string, v setup.At) error {
		f := TallyField{Name: name, Type: value.Text}
		if v.IsScalar() {
			f.From = v.Raw()
			t.Fields = append(t.Fields, f)
			return nil
		}
		kind := ""
		if err := setup.ReadSubTexts(v, map[string]*string{"from": &f.From, "type": &kind}); err != nil {
			return err
		}
		var known bool
		if f.Type, known = value.KindNamed(kind); !known {
			return v.Fail("%q is not a type: write text, number, date, date-time or checkbox", kind)
		}
		t.Fields = append(t.Fields, f)
		return nil
	})
	if err == nil && len(t.Fields) == 0 {
		return m.Fail("say which fields of the records are meant: fields: { Lender: lender, Covers: { from: covers/amount, type: number } }")
	}
	return err
}

// tallyClause reads a clause over what is counted, into stored form.
func tallyClause(d *setup.Reader, a setup.At, t *Tally) (string, error) {
	if t.List == 0 {
		return d.Clause(a, []sheet.TabID{t.Of}, false)
	}
	text, err := a.Text() // the fields of a list have no ids: their names are kept
	return strings.TrimSpace(text), err
}

func tallyNode(e *setup.Writer, t *Tally) *yaml.Node {
	m := setup.Build()
	says := func(stored string) string { return stored }
	if t.List == 0 {
		m.Put("of", e.TabNames([]sheet.TabID{t.Of})).Text("rows", matchedWord(t.Matched))
		says = func(stored string) string { return e.Clause(t.Of, stored) }
	} else {
		m.Text("list", e.DefinitionNames([]sheet.DefinitionID{t.List}))
		fields := setup.Build()
		for _, f := range t.Fields {
			if f.Type == value.Text {
				fields.Text(f.Name, f.From)
				continue
			}
			fields.Put(f.Name, setup.Flow(setup.Build().Text("from", f.From).Text("type", f.Type.String()).Node()))
		}
		m.Put("fields", setup.Flow(fields.Node()))
	}
	if t.Where != "" {
		m.Text("where", says(t.Where))
	}
	m.Text("by", says(t.By)).Put("into", e.TabNames([]sheet.TabID{t.Into})).Text("key", e.ColumnName(t.Key))
	figures := setup.Build()
	for _, f := range t.Figures {
		text := f.What
		if f.Of != "" {
			text += " " + says(f.Of)
		}
		figures.Text(e.ColumnName(f.Column), text)
	}
	return setup.Flow(m.Put("figures", setup.Flow(figures.Node())).Node())
}

func tallyWords(e *setup.Writer, t *Tally) string {
	of := e.TabWords([]sheet.TabID{t.Of})
	if t.List != 0 {
		of = e.DefinitionNames([]sheet.DefinitionID{t.List})
	}
	names := make([]string, len(t.Figures))
	for i, f := range t.Figures {
		names[i] = e.ColumnName(f.Column)
	}
	return fmt.Sprintf("tally %s into %s, grouped by %s (%s)", of, e.TabWords([]sheet.TabID{t.Into}), e.ColumnName(t.Key), strings.Join(names, ", "))
}
