package setup

import (
	"encoding/json"
	"fmt"

	"example.org/kavlo/internal/derive"
	"example.org/kavlo/internal/digest"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"go.yaml.in/yaml/v3"
)

func (d *decoder) readReminder(m *mapping) (any, error) {
	r := &digest.Reminder{}
	var err error
	if r.Remark, err = m.get("remark").text(); err != nil {
		return nil, err
	}
	if r.In, err = d.tabIDs(m.get("in")); err != nil {
		return nil, err
	}
	if len(r.In) == 0 {
		return nil, m.fail("say in which tab the rows are: in: TAB")
	}
	if r.Where, err = d.storeClause(m.get("where"), r.In, false); err != nil {
		return nil, err
	}
	if r.Where == "" {
		return nil, m.fail("say which rows are meant: where: CLAUSE")
	}
	if r.Order, err = d.storeClause(m.get("order"), r.In, false); err != nil {
		return nil, err
	}
	if r.To, err = d.storeTemplate(m.get("to"), r.In, false); err != nil {
		return nil, err
	}
	if r.To == "" {
		return nil, m.fail("say who must be told: to: \"{Registrar}\"")
	}
	return r, m.get("show").each(func(a at) error {
		if a.node.Kind == yaml.MappingNode {
			return a.pairs(func(title string, v at) error {
				c, err := d.storeClause(v, r.In, false)
				r.Show = append(r.Show, digest.Shown{Title: title, Clause: c})
				return err
			})
		}
		name, err := a.text()
		if err != nil {
			return err
		}
		id, err := d.column(a, name, r.In)
		r.Show = append(r.Show, digest.Shown{Title: name, Clause: fmt.Sprintf("[#%d]", id)})
		return err
	})
}

func (e *encoder) reminder(p *sheet.Part) (*yaml.Node, error) {
	r, err := digest.DecodeReminder(p)
	if err != nil {
		return nil, err
	}
	b := build().text("name", p.Name).text("remark", r.Remark).put("in", e.tabNames(r.In)).text("where", e.across(r.In, r.Where))
	show := flow(list())
	for _, s := range r.Show {
		shown := e.across(r.In, s.Clause)
		if shown == s.Title || shown == "["+s.Title+"]" {
			show.Content = append(show.Content, scalar(s.Title))
		} else {
			show.Content = append(show.Content, flow(build().text(s.Title, shown).n))
		}
	}
	if len(show.Content) > 0 {
		b.put("show", show)
	}
	return b.text("order", e.across(r.In, r.Order)).text("to", e.template(r.In, r.To)).n, nil
}

func (d *decoder) readRound(m *mapping) (any, error) {
	r := &digest.Round{}
	var err error
	if r.Remark, err = m.get("remark").text(); err != nil {
		return nil, err
	}
	if r.Clock, err = m.get("clock").text(); err != nil {
		return nil, err
	}
	if r.Subject, err = m.get("subject").text(); err != nil {
		return nil, err
	}
	names, err := m.get("reminders").texts()
	if err != nil {
		return nil, err
	}
	for _, n := range names {
		if n == "all" {
			r.All = true
			continue
		}
		p, err := d.shape.Part(sheet.PartReminder, n)
		if err != nil {
			return nil, m.get("reminders").wrap(err)
		}
		r.Reminders = append(r.Reminders, p.ID)
	}
	missed, err := m.get("missed").text()
	switch digest.Missed(missed) {
	case "", digest.RunOnce, digest.Skip:
		r.Missed = digest.Missed(missed)
	default:
		return nil, m.get("missed").fail("%q is not a way to treat a missed round: write run once or skip", missed)
	}
	return r, err
}

func (e *encoder) round(p *sheet.Part) (*yaml.Node, error) {
	r, err := digest.DecodeRound(p)
	if err != nil {
		return nil, err
	}
	b := build().text("name", p.Name).text("remark", r.Remark).text("clock", r.Clock)
	if r.All {
		b.put("reminders", word("all"))
	} else {
		var names []string
		for _, id := range r.Reminders {
			for i := range e.shape.Parts {
				if e.shape.Parts[i].ID == id {
					names = append(names, e.shape.Parts[i].Name)
				}
			}
		}
		b.put("reminders", scalars(names))
	}
	return b.text("subject", r.Subject).text("missed", string(r.Missed)).n, nil
}

// List says where records kept elsewhere are had from, in stored form.
type List struct {
	HTTP   string `json:"http"`            // address
	Items  string `json:"items,omitempty"` // JSON Pointer (RFC 6901) to the array of records
	Next   string `json:"next,omitempty"`  // "link": follow Link rel=next (RFC 8288)
	Remark string `json:"remark,omitempty"`
}

// Sync pairs a list with a tab, in stored form.
type Sync struct {
	List   sheet.PartID   `json:"list"`
	Tab    sheet.TabID    `json:"tab"`
	Key    sheet.ColumnID `json:"key"`
	From   string         `json:"from"` // JSON Pointer to the key in a record
	Fields []Field        `json:"fields"`
	Clock  string         `json:"clock,omitempty"`
	Remark string         `json:"remark,omitempty"`
}

// Field pairs a column with a place in a record.
type Field struct {
	Column sheet.ColumnID `json:"column"`
	From   string         `json:"from"`
}

// DecodeList reads a list from a tracker's part.
func DecodeList(p *sheet.Part) (*List, error) {
	l := &List{}
	return l, json.Unmarshal(p.Body, l)
}

// DecodeSync reads a sync from a tracker's part.
func DecodeSync(p *sheet.Part) (*Sync, error) {
	s := &Sync{}
	return s, json.Unmarshal(p.Body, s)
}

func (d *decoder) readList(m *mapping) (any, error) {
	l := &List{}
	var err error
	if l.Remark, err = m.get("remark").text(); err != nil {
		return nil, err
	}
	from, err := m.get("from").mapping()
	if err != nil {
		return nil, err
	}
	for key, to := range map[string]*string{"http": &l.HTTP, "items": &l.Items, "next": &l.Next} {
		if *to, err = from.get(key).text(); err != nil {
			return nil, err
		}
	}
	if err := from.done(); err != nil {
		return nil, err
	}
	if l.HTTP == "" {
		return nil, from.fail("say where the list is: http: ADDRESS")
	}
	if l.Next != "" && l.Next != "link" {
		return nil, from.get("next").fail("%q is not a way to page: write link", l.Next)
	}
	return l, nil
}

func (e *encoder) list(p *sheet.Part) (*yaml.Node, error) {
	l, err := DecodeList(p)
	if err != nil {
		return nil, fmt.Errorf("reading list %s: %w", p.Name, err)
	}
	from := build().text("http", l.HTTP).text("items", l.Items).text("next", l.Next)
	return build().text("name", p.Name).text("remark", l.Remark).put("from", flow(from.n)).n, nil
}

func (d *decoder) readSync(m *mapping) (any, error) {
	s := &Sync{}
	name, err := m.get("list").text()
	if err != nil {
		return nil, err
	}
	l, err := d.shape.Part(sheet.PartList, name)
	if err != nil {
		return nil, m.get("list").wrap(err)
	}
	s.List = l.ID
	tabs, err := d.tabIDs(m.get("tab"))
	if err != nil {
		return nil, err
	}
	if len(tabs) != 1 {
		return nil, m.fail("say which tab: tab: NAME")
	}
	s.Tab = tabs[0]
	keys := 0
	err = m.get("key").pairs(func(column string, v at) error {
		keys++
		if s.Key, err = d.column(v, column, tabs); err != nil {
			return err
		}
		s.From, err = v.text()
		return err
	})
	if err != nil {
		return nil, err
	}
	if keys != 1 {
		return nil, m.get("key").fail("the key is one column and its field: key: { Lender no: id }")
	}
	err = m.get("fields").pairs(func(column string, v at) error {
		id, err := d.column(v, column, tabs)
		if err != nil {
			return err
		}
		from, err := v.text()
		s.Fields = append(s.Fields, Field{id, from})
		return err
	})
	if err != nil {
		return nil, err
	}
	if s.Clock, err = m.get("clock").text(); err != nil {
		return nil, err
	}
	direction, err := m.get("direction").text()
	if err != nil {
		return nil, err
	}
	if direction != "" && direction != "in" {
		return nil, m.get("direction").fail("%q is not a direction that a list over http can take: write in", direction)
	}
	s.Remark, err = m.get("remark").text()
	return s, err
}

func (e *encoder) sync(p *sheet.Part) (*yaml.Node, error) {
	s, err := DecodeSync(p)
	if err != nil {
		return nil, fmt.Errorf("reading sync %s: %w", p.Name, err)
	}
	b := build().text("name", p.Name).text("remark", s.Remark)
	for i := range e.shape.Parts {
		if e.shape.Parts[i].ID == s.List {
			b.text("list", e.shape.Parts[i].Name)
		}
	}
	b.put("tab", e.tabNames([]sheet.TabID{s.Tab}))
	b.put("key", flow(build().text(e.columnName(s.Key), s.From).n))
	fields := build()
	for _, f := range s.Fields {
		fields.text(e.columnName(f.Column), f.From)
	}
	return b.put("fields", flow(fields.n)).text("direction", "in").text("clock", s.Clock).n, nil
}

// checkPart compiles a part against the shape.
func checkPart(p *sheet.Part, bound *derive.Bound, shape *sheet.Shape) error {
	switch p.Kind {
	case sheet.PartRule:
		r, err := rule.Decode(p)
		if err != nil {
			return err
		}
		_, err = rule.Compile(r, bound)
		return err
	case sheet.PartReminder:
		r, err := digest.DecodeReminder(p)
		if err != nil {
			return err
		}
		_, err = digest.Compile(r, bound)
		return err
	case sheet.PartRound:
		r, err := digest.DecodeRound(p)
		if err != nil {
			return err
		}
		_, err = digest.CompileRound(r)
		return err
	case sheet.PartSync:
		s, err := DecodeSync(p)
		if err != nil {
			return err
		}
		tab := shape.TabByID(s.Tab)
		for _, f := range append([]Field{{Column: s.Key}}, s.Fields...) {
			if c := tab.ByID(f.Column); c == nil || c.Computed() {
				return fmt.Errorf("column %s of %s cannot take a list's values", f.Column, tab.Name)
			}
		}
	}
	return nil
}

// Check compiles every part against the shape: what refuses here would fail later.
func Check(shape *sheet.Shape) error {
	if err := shape.Check(); err != nil {
		return err
	}
	bound, err := derive.Bind(shape)
	if err != nil {
		return err
	}
	for i := range shape.Parts {
		p := &shape.Parts[i]
		if err := checkPart(p, bound, shape); err != nil {
			return fmt.Errorf("%s %s: %w", p.Kind, p.Name, err)
		}
	}
	return nil
}
