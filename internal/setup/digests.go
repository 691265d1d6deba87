package setup

import (
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
	if err := d.readReminderMore(m, r); err != nil {
		return nil, err
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
	b.text("order", e.across(r.In, r.Order)).text("to", e.template(r.In, r.To))
	e.reminderMore(b, r)
	return b.n, nil
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
	if err := readTexts(m, map[string]*string{"opening": &r.Opening, "closing": &r.Closing}); err != nil {
		return nil, err
	}
	names, err := m.get("reminders").texts()
	if err != nil {
		return nil, err
	}
	for _, n := range names {
		if n == "all" || n == "all trackers" {
			r.All, r.Everywhere = true, r.Everywhere || n == "all trackers"
			continue
		}
		p, err := d.shape.Part(sheet.PartReminder, n)
		if err != nil {
			return nil, m.get("reminders").wrap(err)
		}
		r.Reminders = append(r.Reminders, p.ID)
	}
	files, err := m.get("attach").texts()
	if err != nil {
		return nil, err
	}
	for _, n := range files {
		p, err := d.shape.Part(sheet.PartRule, n)
		if err != nil {
			return nil, m.get("attach").wrap(err)
		}
		r.Attach = append(r.Attach, p.ID)
	}
	missed, err := m.get("missed").text()
	switch digest.Missed(missed) {
	case "", digest.RunOnce, digest.Skip:
		r.Missed = digest.Missed(missed)
	default:
		return nil, m.get("missed").fail("%q is not a way to treat a missed round: write run once or skip", missed)
	}
	if err != nil {
		return nil, err
	}
	closed, err := m.get("closed days").text()
	switch r.Closed = digest.Closed(closed); r.Closed {
	case digest.Open, digest.LeaveOut, digest.NextOpened:
	default:
		return nil, m.get("closed days").fail("%q is not a way to treat closed days: write skip or next working day", closed)
	}
	return r, err
}

// partList gives the names of parts as a list, or nil for none.
func (e *encoder) partList(ids []sheet.PartID) *yaml.Node {
	var names []string
	for _, id := range ids {
		for i := range e.shape.Parts {
			if e.shape.Parts[i].ID == id {
				names = append(names, e.shape.Parts[i].Name)
			}
		}
	}
	if names == nil {
		return nil
	}
	return scalars(names)
}

func (e *encoder) round(p *sheet.Part) (*yaml.Node, error) {
	r, err := digest.DecodeRound(p)
	if err != nil {
		return nil, err
	}
	b := build().text("name", p.Name).text("remark", r.Remark).text("clock", r.Clock)
	switch {
	case r.Everywhere:
		b.put("reminders", word("all trackers"))
	case r.All:
		b.put("reminders", word("all"))
	default:
		b.put("reminders", e.partList(r.Reminders))
	}
	return b.text("subject", r.Subject).text("missed", string(r.Missed)).text("closed days", string(r.Closed)).text("opening", r.Opening).text("closing", r.Closing).put("attach", e.partList(r.Attach)).n, nil
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
		return s.check(shape)
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
