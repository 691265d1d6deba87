package setup

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
	"go.yaml.in/yaml/v3"
)

// DefaultGuard is the share of either side that a sync may change or remove
// where it does not say.
const DefaultGuard = 0.5

// Sync pairs a list with a tab, in stored form.
type Sync struct {
	List      sheet.PartID        `json:"list"`
	Tab       sheet.TabID         `json:"tab"`
	Key       sheet.ColumnID      `json:"key"`
	From      string              `json:"from"` // JSON Pointer to the key in a record
	Fields    []Field             `json:"fields"`
	Direction reconcile.Direction `json:"direction,omitempty"`
	Conflict  reconcile.Winner    `json:"conflict,omitempty"`
	Gone      reconcile.Gone      `json:"gone,omitempty"`
	Marks     []Marking           `json:"marks,omitempty"` // what marks a row as gone; none: a note on its key
	MoveTo    sheet.TabID         `json:"move_to,omitempty"`
	Guard     string              `json:"guard,omitempty"` // "25%"
	Clock     string              `json:"clock,omitempty"`
	Skip      bool                `json:"skip,omitempty"` // let occurrences go that passed while the service was down
	Remark    string              `json:"remark,omitempty"`
}

// Field pairs a column with a place in a record.
type Field struct {
	Column sheet.ColumnID `json:"column"`
	From   string         `json:"from"`
}

// Marking is a value put into a column of rows that are gone from the list.
type Marking struct {
	Column sheet.ColumnID `json:"column"`
	Value  string         `json:"value"`
}

// Policy gives how the sync keeps both sides in step, with what it does not say
// filled in: the truth wins where there is one, and a person is asked where not.
func (s *Sync) Policy() reconcile.Policy {
	p := reconcile.Policy{Direction: s.Direction, Conflict: s.Conflict, Gone: s.Gone}
	if p.Direction == "" {
		p.Direction = reconcile.In
	}
	if p.Conflict == "" {
		p.Conflict = map[reconcile.Direction]reconcile.Winner{reconcile.In: reconcile.ByList, reconcile.Out: reconcile.ByTab, reconcile.Both: reconcile.Hold}[p.Direction]
	}
	if p.Gone == "" {
		p.Gone = reconcile.Keep
	}
	return p
}

// Share gives the guard's share.
func (s *Sync) Share() float64 {
	n, err := strconv.ParseFloat(strings.TrimSuffix(s.Guard, "%"), 64)
	if err != nil {
		return DefaultGuard
	}
	return n / 100
}

// DecodeSync reads a sync from a tracker's part.
func DecodeSync(p *sheet.Part) (*Sync, error) {
	s := &Sync{}
	return s, json.Unmarshal(p.Body, s)
}

func (d *decoder) readSync(m *mapping) (any, error) {
	s := &Sync{}
	name, err := m.get("list").text()
	if err != nil {
		return nil, err
	}
	part, err := d.shape.Part(sheet.PartList, name)
	if err != nil {
		return nil, m.get("list").wrap(err)
	}
	s.List = part.ID
	l, err := DecodeList(part)
	if err != nil {
		return nil, m.get("list").wrap(err)
	}
	tabs, err := d.tabIDs(m.get("tab"))
	if err != nil {
		return nil, err
	}
	if len(tabs) != 1 {
		return nil, m.fail("say which tab: tab: NAME")
	}
	s.Tab = tabs[0]
	if err := d.readPairs(m, s, l); err != nil {
		return nil, err
	}
	if err := readTexts(m, map[string]*string{"clock": &s.Clock, "remark": &s.Remark, "guard": &s.Guard}); err != nil {
		return nil, err
	}
	if s.Skip, err = readMissed(m.get("missed")); err != nil {
		return nil, err
	}
	if s.Direction, err = oneOfWords(m.get("direction"), reconcile.In, reconcile.Out, reconcile.Both); err != nil {
		return nil, err
	}
	if s.Direction == "" {
		s.Direction = reconcile.In
	}
	if s.Conflict, err = oneOfWords(m.get("conflict"), reconcile.ByList, reconcile.ByTab, reconcile.Newest, reconcile.Hold); err != nil {
		return nil, err
	}
	if err := d.readGone(m.get("gone"), s); err != nil {
		return nil, err
	}
	if g := m.get("guard"); s.Guard != "" {
		if n, err := strconv.ParseFloat(strings.TrimSuffix(s.Guard, "%"), 64); err != nil || n < 0 || n > 100 || !strings.HasSuffix(s.Guard, "%") {
			return nil, g.fail("%q is not a share: write it such as 25%%", s.Guard)
		}
	}
	if s.Direction == reconcile.Out || s.Direction == reconcile.Both {
		if why := l.writable(); why != "" {
			return nil, m.get("direction").fail("%s", why)
		}
		if s.Gone == reconcile.Remove && l.HTTP != "" && l.Send.Remove == "" {
			return nil, m.get("gone").fail("the list does not say how records are removed: give it send: { remove: DELETE ADDRESS/{id} }")
		}
	}
	return s, nil
}

// readPairs reads the key and the fields.
func (d *decoder) readPairs(m *mapping, s *Sync, l *List) error {
	tabs, keys := []sheet.TabID{s.Tab}, 0
	field := func(v at) (string, error) {
		from, err := v.text()
		if err == nil && l.Tasks != "" && !slices.Contains(TaskFields, from) {
			err = v.fail("a task has no field %q: %s", from, nearestField(from))
		}
		return from, err
	}
	err := m.get("key").pairs(func(column string, v at) error {
		keys++
		var err error
		if s.Key, err = d.column(v, column, tabs); err != nil {
			return err
		}
		s.From, err = field(v)
		return err
	})
	if err != nil {
		return err
	}
	if keys != 1 {
		return m.get("key").fail("the key is one column and its field: key: { Lender no: id }")
	}
	return m.get("fields").pairs(func(column string, v at) error {
		id, err := d.column(v, column, tabs)
		if err != nil {
			return err
		}
		from, err := field(v)
		s.Fields = append(s.Fields, Field{id, from})
		return err
	})
}

func oneOfWords[W ~string](a at, words ...W) (W, error) {
	text, err := a.text()
	if err != nil || text == "" || slices.Contains(words, W(text)) {
		return W(text), err
	}
	names := make([]string, len(words))
	for i, w := range words {
		names[i] = string(w)
	}
	return "", a.fail("%q is not known here: write %s", text, strings.Join(names, ", "))
}

func (d *decoder) readGone(a at, s *Sync) error {
	if !a.present() || a.node.Kind == yaml.ScalarNode {
		var err error
		if s.Gone, err = oneOfWords(a, reconcile.Keep, reconcile.Mark, reconcile.Remove); err != nil && a.node.Value == string(reconcile.Move) {
			return a.fail("say where to: gone: { move: TAB }")
		}
		return err
	}
	m, err := a.mapping()
	if err != nil {
		return err
	}
	if to := m.get("move"); to.present() {
		tabs, err := d.tabIDs(to)
		if err != nil {
			return err
		}
		if len(tabs) != 1 || tabs[0] == s.Tab {
			return to.fail("say one other tab")
		}
		s.Gone, s.MoveTo = reconcile.Move, tabs[0]
	}
	err = m.get("mark").pairs(func(column string, v at) error {
		id, err := d.column(v, column, []sheet.TabID{s.Tab})
		if err != nil {
			return err
		}
		text, err := v.text()
		s.Gone, s.Marks = reconcile.Mark, append(s.Marks, Marking{id, text})
		return err
	})
	if err == nil && (s.Gone == "" || s.MoveTo != 0 && s.Marks != nil) {
		return a.fail("write keep, mark, remove, { mark: { COLUMN: VALUE } } or { move: TAB }")
	}
	if err != nil {
		return err
	}
	return m.done()
}

// check holds the sync's columns against the shape.
func (s *Sync) check(shape *sheet.Shape) error {
	tab := shape.TabByID(s.Tab)
	seen := map[sheet.ColumnID]bool{}
	for _, f := range append([]Field{{Column: s.Key}}, s.Fields...) {
		c := tab.ByID(f.Column)
		if c == nil || c.Computed() {
			return fmt.Errorf("column %s of %s cannot be kept in step with a list: it is not stored there", f.Column, tab.Name)
		}
		if seen[f.Column] {
			return fmt.Errorf("column %s stands in the sync twice", c.Name)
		}
		seen[f.Column] = true
	}
	for _, m := range s.Marks {
		c := tab.ByID(m.Column)
		if c == nil || c.Computed() || seen[m.Column] {
			return fmt.Errorf("column %s of %s cannot mark what is gone: it is not stored there, or the list fills it", m.Column, tab.Name)
		}
		if _, err := value.Parse(m.Value, c.Type); err != nil {
			return fmt.Errorf("column %s: %w", c.Name, err)
		}
	}
	if s.MoveTo != 0 && shape.TabByID(s.MoveTo) == nil {
		return fmt.Errorf("the tab to which rows move that are gone is not there")
	}
	return nil
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
	b.put("fields", flow(fields.n)).text("direction", string(s.Policy().Direction)).text("conflict", string(s.Conflict))
	switch {
	case s.MoveTo != 0:
		b.put("gone", flow(build().put("move", e.tabNames([]sheet.TabID{s.MoveTo})).n))
	case len(s.Marks) > 0:
		marks := build()
		for _, m := range s.Marks {
			marks.text(e.columnName(m.Column), m.Value)
		}
		b.put("gone", flow(build().put("mark", flow(marks.n)).n))
	default:
		b.text("gone", string(s.Gone))
	}
	return b.text("guard", s.Guard).text("clock", s.Clock).text("missed", missedWord(s.Skip)).n, nil
}

// syncSentence says what a sync does, as a sentence.
func (e *encoder) syncSentence(p *sheet.Part) (string, error) {
	s, err := DecodeSync(p)
	if err != nil {
		return "", err
	}
	policy := s.Policy()
	list, tab := e.partNames([]sheet.PartID{s.List}), e.tabWords([]sheet.TabID{s.Tab})
	var says string
	switch policy.Direction {
	case reconcile.Out:
		says = fmt.Sprintf("Rows of %s are written to %s by %s", tab, list, e.columnName(s.Key))
	case reconcile.Both:
		says = fmt.Sprintf("%s and %s are kept in step both ways by %s", list, tab, e.columnName(s.Key))
		says += map[reconcile.Winner]string{reconcile.ByList: "; where both changed, the list wins", reconcile.ByTab: "; where both changed, the tab wins",
			reconcile.Newest: "; where both changed, the newer wins", reconcile.Hold: "; where both changed, a person decides"}[policy.Conflict]
	case reconcile.In:
		says = fmt.Sprintf("Records of %s are taken into %s by %s", list, tab, e.columnName(s.Key))
	}
	switch policy.Gone {
	case reconcile.Mark:
		says += "; what is gone is marked"
	case reconcile.Move:
		says += "; what is gone moves to " + e.tabWords([]sheet.TabID{s.MoveTo})
	case reconcile.Remove:
		says += "; what is gone is removed"
	case reconcile.Keep:
	}
	if s.Clock != "" {
		says += ", " + s.Clock
	}
	return says + ".", nil
}
