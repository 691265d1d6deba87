package rule

import (
	"strings"

	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
)

// ReadSetup reads a rule from a setup file.
func (r *Rule) ReadSetup(d *setup.Reader, m *setup.Mapping) error {
	var err error
	if r.Remark, err = m.Get("remark").Text(); err != nil {
		return err
	}
	if r.Paused, err = m.Get("paused").Yes(); err != nil {
		return err
	}
	if r.Watching, err = m.Get("watching only").Yes(); err != nil {
		return err
	}
	if r.Limit, err = m.Get("limit").Int(); err != nil {
		return err
	}
	if r.In, err = d.TabIDs(m.Get("in")); err != nil {
		return err
	}
	if r.Wake, err = readWake(d, m.Get("wake"), r.In); err != nil {
		return err
	}
	if r.Wake.File != "" {
		d.Facts = FileNames
		defer func() { d.Facts = nil }()
	}
	if r.Where, err = d.Condition(m.Get("where"), r.In, r.Wake.ByEdit()); err != nil {
		return err
	}
	return m.Get("steps").Each(func(a setup.At) error {
		s, err := readStep(d, a, r, r.standing(d.Shape, len(r.Steps)))
		r.Steps = append(r.Steps, s)
		return err
	})
}

func readWake(d *setup.Reader, a setup.At, tabs []sheet.TabID) (Wake, error) {
	var w Wake
	if !a.Present() || a.Raw() == "hand" {
		return w, nil
	}
	m, err := a.Mapping()
	if err != nil {
		return w, err
	}
	names, err := m.Get("edit").Texts()
	if err != nil {
		return w, err
	}
	for _, n := range names {
		if n == "any" {
			w.Any = true
			continue
		}
		id, err := d.Column(m.Get("edit"), n, tabs)
		if err != nil {
			return w, err
		}
		if d.Shape.ColumnByID(id).Computed() {
			return w, m.Get("edit").Fail("%s is computed, and nobody edits it: write for example becomes true: \"[%s] > 7\"", n, n)
		}
		w.Edit = append(w.Edit, id)
	}
	if w.Becomes, err = d.Condition(m.Get("becomes true"), tabs, false); err != nil {
		return w, err
	}
	if w.Becomes != "" && m.Get("clock").Present() {
		return w, m.Get("clock").Fail("what becomes true by the day is looked at each midnight: make another rule for another hour")
	}
	if w.Added, err = m.Get("new row").Yes(); err != nil {
		return w, err
	}
	if w.Skip, err = setup.ReadMissed(m.Get("missed")); err != nil {
		return w, err
	}
	if w.Clock, err = m.Get("clock").Text(); err != nil {
		return w, err
	}
	if w.Call, err = m.Get("call").Yes(); err != nil {
		return w, err
	}
	if w.File, err = m.Get("file").Text(); err != nil {
		return w, err
	}
	return w, m.Done()
}

func readStep(d *setup.Reader, a setup.At, r *Rule, in []sheet.TabID) (Step, error) {
	var s Step
	m, err := a.Mapping()
	if err != nil {
		return s, err
	}
	if s.Name, err = m.Get("name").Text(); err != nil {
		return s, err
	}
	if s.Remark, err = m.Get("remark").Text(); err != nil {
		return s, err
	}
	kinds := 0
	edit := r.Wake.ByEdit()
	if move := m.Get("move"); move.Present() {
		kinds++
		if s.Move, err = readMove(d, move, in, edit); err != nil {
			return s, err
		}
	}
	if cp := m.Get("copy"); cp.Present() {
		kinds++
		if s.Copy, err = readCopy(d, cp, in, edit); err != nil {
			return s, err
		}
	}
	if set := m.Get("set"); set.Present() {
		kinds++
		if s.Set, err = d.Cells(set, in, in, edit); err != nil {
			return s, err
		}
	}
	if put := m.Get("put"); put.Present() {
		kinds++
		if s.Put, err = readPut(d, put, in, edit); err != nil {
			return s, err
		}
	}
	if take := m.Get("take"); take.Present() {
		kinds++
		if s.Take, err = readTake(d, take); err != nil {
			return s, err
		}
	}
	if tally := m.Get("tally"); tally.Present() {
		if s.Tally, err = readTally(d, tally, in); err != nil {
			return s, err
		}
		kinds++
	}
	if write := m.Get("write"); write.Present() {
		kinds++
		if s.Write, err = readWrite(d, write, in); err != nil {
			return s, err
		}
	}
	if mail := m.Get("mail"); mail.Present() {
		kinds++
		if s.Mail, err = reminder.ReadMail(d, mail, in); err != nil {
			return s, err
		}
	}
	if s.Remove, err = m.Get("remove").Yes(); err != nil {
		return s, err
	}
	if s.Remove {
		kinds++
	}
	if err := m.Done(); err != nil {
		return s, err
	}
	if kinds != 1 {
		return s, a.Fail("a step is one of move, copy, set, put, remove, take, tally, write and mail")
	}
	if n := len(r.Steps); n > 0 && r.Steps[n-1].Remove && s.Tally == nil && s.Write == nil {
		return s, a.Fail("the step before removes the rows: put this one before it")
	}
	return s, nil
}

func readMove(d *setup.Reader, a setup.At, in []sheet.TabID, edit bool) (*Move, error) {
	m, err := a.Mapping("to")
	if err != nil {
		return nil, err
	}
	mv := &Move{}
	if mv.Place, err = readPlace(d, m, in, edit); err != nil {
		return nil, err
	}
	if mv.Back, err = m.Get("and back").Yes(); err != nil {
		return nil, err
	}
	names, err := m.Get("clear").Texts()
	if err != nil {
		return nil, err
	}
	if mv.Tracker != "" { // the columns are that tracker's
		mv.ClearThere = names
		if mv.SetThere, err = cellsThere(d, m.Get("set"), in, edit); err != nil {
			return nil, err
		}
		return mv, m.Done()
	}
	for _, n := range names {
		id, err := d.Column(m.Get("clear"), n, nil)
		if err != nil {
			return nil, err
		}
		mv.Clear = append(mv.Clear, id)
	}
	if mv.Set, err = d.Cells(m.Get("set"), nil, in, edit); err != nil {
		return nil, err
	}
	return mv, m.Done()
}

func readCopy(d *setup.Reader, a setup.At, in []sheet.TabID, edit bool) (*Copy, error) {
	m, err := a.Mapping("to")
	if err != nil {
		return nil, err
	}
	c := &Copy{}
	if c.Place, err = readPlace(d, m, in, edit); err != nil {
		return nil, err
	}
	if c.Tracker != "" {
		c.SetThere, err = cellsThere(d, m.Get("set"), in, edit)
	} else {
		c.Set, err = d.Cells(m.Get("set"), nil, in, edit)
	}
	if err != nil {
		return nil, err
	}
	if c.Again, err = m.Get("again").Yes(); err != nil {
		return nil, err
	}
	return c, m.Done()
}

// cellsThere reads a mapping of another tracker's columns to templates over the rows.
func cellsThere(d *setup.Reader, a setup.At, in []sheet.TabID, edit bool) ([]NamedCell, error) {
	var cells []NamedCell
	err := a.Pairs(func(name string, v setup.At) error {
		to, err := d.Template(v, in, edit)
		cells = append(cells, NamedCell{Column: name, To: to})
		return err
	})
	return cells, err
}

// readPlace reads where a row goes: to, tracker, create and columns.
func readPlace(d *setup.Reader, m *setup.Mapping, in []sheet.TabID, edit bool) (Place, error) {
	var p Place
	var err error
	if p.To, err = d.Template(m.Get("to"), in, edit); err != nil {
		return p, err
	}
	if p.To == "" {
		return p, m.Fail("say where to: to: \"{Stage}\"")
	}
	if p.Tracker, err = m.Get("tracker").Text(); err != nil {
		return p, err
	}
	create, err := m.Get("create").Text()
	if err != nil {
		return p, err
	}
	if create != "" {
		like, ok := strings.CutPrefix(create, "like ")
		if !ok {
			return p, m.Get("create").Fail("%q does not say what the new tab is like: write like TAB", create)
		}
		p.Create = strings.TrimSpace(like)
	}
	return p, m.Get("columns").Pairs(func(from string, v setup.At) error {
		id, err := d.Column(v, from, in)
		if err != nil {
			return err
		}
		to, err := v.Text()
		p.Columns = append(p.Columns, Pair{From: id, To: to})
		return err
	})
}

func readPut(d *setup.Reader, a setup.At, in []sheet.TabID, edit bool) (*Put, error) {
	m, err := a.Mapping("tab")
	if err != nil {
		return nil, err
	}
	p := &Put{}
	tabs, err := d.TabIDs(m.Get("tab"))
	if err != nil {
		return nil, err
	}
	if len(tabs) != 1 {
		return nil, a.Fail("say into which tab: tab: NAME")
	}
	p.Tab = tabs[0]
	key, err := m.Get("key").Text()
	if err != nil {
		return nil, err
	}
	if p.Key, err = d.Column(m.Get("key"), key, tabs); err != nil {
		return nil, err
	}
	if p.Values, err = d.Cells(m.Get("values"), tabs, in, edit); err != nil {
		return nil, err
	}
	return p, m.Done()
}
