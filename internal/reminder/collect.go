package reminder

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Item is a row that a reminder holds.
type Item struct {
	Row   sheet.RowID
	Tab   string
	TabID sheet.TabID
	Label string
	Shown []string // as people read it, one for each of Reminder.Show
	// Values are the same as values.
	Values []value.Value
	Marks  []string // colours of what is shown, where it is a choice; nil where none is
	To     []string // addresses
	Since  int64    // the day since which it is overdue, days since 1970-01-01; 0: not known
	Group  string
	Why    map[string]Standing // by address: in what standing somebody is told, unless Concerned
	order  value.Value
	raise  []string
	types  []value.Type // of Values
	style  value.Style  // in which sums of them are written
	before []string     // who was told of it by an earlier round
	// Unknown says, of names that it should be told to and that stand for nobody, why.
	Unknown []string
}

// Standing is why somebody is told of a row.
type Standing string

// A row concerns a person, or is told for information, or because it has been
// overdue for long, or because it is nobody's.
const (
	Concerned Standing = ""
	Informed  Standing = "for your information"
	Raised    Standing = "escalated to you"
	Orphaned  Standing = "unassigned"
)

// tell adds people who are not told yet.
func (i *Item) tell(to []string, why Standing) {
	for _, a := range to {
		if slices.Contains(i.To, a) {
			continue
		}
		i.To = append(i.To[:len(i.To):len(i.To)], a)
		if why != Concerned {
			next := map[string]Standing{a: why}
			for k, v := range i.Why {
				next[k] = v
			}
			i.Why = next
		}
	}
}

// Holding is what a reminder holds at a moment.
type Holding struct {
	Reminder   *Reminder
	Items      []Item
	PassedOver []string // rows that could not be judged, in words
	Nobody     []Item   // rows that no address could be found for
	Held       int      // rows, told of or not
	Place      *Place   // where the rows are, if not where the letter says
}

// Place is a tracker whose rows a letter tells of, besides its own.
type Place struct {
	Tracker string
	Link    func(Item) string
	Act     func(r *Reminder, i Item, to, what string) string
}

// Directory finds people's addresses by name, address or group. A name that is an
// address already stands for itself, whatever the case of its letters.
type Directory map[string][]string

// missing says why a name stands for nobody.
func (d Directory) missing(name string) string {
	name = value.OneLine(name)
	if _, known := d[value.Fold(name)]; known { // with no address: see engine.Directory
		return "several people are called " + name + ": write the address"
	}
	return "nobody is called " + name
}

// Addresses gives the mail addresses of a name, an address, "Name <address>" or a group
// such as keepers.
func (d Directory) Addresses(name string) []string {
	name = strings.TrimSpace(name)
	if at := strings.LastIndexByte(name, '<'); at >= 0 && strings.HasSuffix(name, ">") {
		name = name[at+1 : len(name)-1]
	}
	if known := d[value.Fold(name)]; known != nil {
		return known
	}
	if v, err := value.Parse(name, value.Type{Kind: value.Person}); err == nil && !v.IsBlank() {
		return []string{strings.ToLower(v.Raw())}
	}
	return nil
}

// Collect gives the rows that a reminder holds, in its order.
func (c *Compiled) Collect(t *sheet.Tracker, people Directory, now time.Time) Holding {
	h := Holding{Reminder: c.Reminder}
	for _, tr := range c.tabs {
		tab := t.TabByID(tr.tab)
		env := c.bound.Env(t, tab, now, c.meter)
		candidates, most := tr.where.Candidates(env, t, tr.tab)
		if tr.where.ByColumn() { // few of many rows
			h.Items = slices.Grow(h.Items, most)
		}
		for row, ask := range candidates {
			program.Look(env, row)
			outcome := clause.Yes
			if ask {
				outcome = tr.where.Judge(env)
			}
			switch outcome {
			case clause.No:
				continue
			case clause.Odd:
				name := "a cell"
				if col := t.ColumnByID(sheet.ColumnID(env.OddColumn)); col != nil {
					name = col.Name
				}
				h.PassedOver = append(h.PassedOver, fmt.Sprintf("%s (%s in %s): %s does not fit its column", t.Label(row), row.ID, tab.Name, name))
				continue
			}
			h.hold(c.item(tr, env, t, tab, row, people))
		}
	}
	c.sort(&h)
	return h
}

// hold takes a row, with whom it concerns or nobody's.
func (h *Holding) hold(item Item) {
	if len(item.To) == 0 {
		h.Nobody = append(h.Nobody, item)
	} else {
		h.Items = append(h.Items, item)
	}
}

// sort puts what is held into the reminder's order, and counts it.
func (c *Compiled) sort(h *Holding) {
	h.Held = len(h.Items) + len(h.Nobody)
	if c.Order == "" && c.Group == "" {
		return
	}
	order := make([]int32, len(h.Items)) // items are large: they are put in place once
	for i := range order {
		order[i] = int32(i) //nolint:gosec // there are fewer rows
	}
	slices.SortFunc(order, func(i, j int32) int {
		a, b := &h.Items[i], &h.Items[j]
		if c.Group != "" && a.Group != b.Group {
			return cmp.Or(value.CompareText(a.Group, b.Group), cmp.Compare(i, j))
		}
		return cmp.Or(value.Compare(a.order, b.order), cmp.Compare(i, j))
	})
	sorted := make([]Item, len(order))
	for to, from := range order {
		sorted[to] = h.Items[from]
	}
	h.Items = sorted
}

// ShownTypes gives the types of what the reminder shows, as its first tab has them.
func (c *Compiled) ShownTypes() []value.Type {
	out := make([]value.Type, len(c.Show))
	for i := range out {
		out[i] = c.tabs[0].show[i].typ
	}
	return out
}

func (c *Compiled) item(tr tabReminder, env *clause.Env, t *sheet.Tracker, tab *sheet.TabShape, row *sheet.Row, people Directory) Item {
	item := Item{Row: row.ID, Tab: tab.Name, TabID: tab.ID, Label: value.OneLine(t.Label(row))}
	item.Shown, item.Values = make([]string, 0, len(tr.show)), make([]value.Value, 0, len(tr.show))
	for n, s := range tr.show {
		v := s.get(env)
		item.Shown, item.Values = append(item.Shown, value.OneLine(v.ShowIn(s.typ, t.Style()))), append(item.Values, v)
		if c.Totals {
			item.types, item.style = append(item.types, s.typ), t.Style()
		}
		if v.Kind() == value.Choice {
			if o, ok := s.typ.Option(v.Options()[0]); ok && o.Colour != "" {
				for len(item.Marks) < n {
					item.Marks = append(item.Marks, "")
				}
				item.Marks = append(item.Marks, o.Colour)
			}
		}
	}
	if tr.order != nil {
		item.order = tr.order(env)
	}
	if tr.due != nil {
		if v := tr.due(env); !v.IsOdd() && !v.IsBlank() {
			item.Since = v.Days()
		}
	}
	if tr.group != nil {
		item.Group = value.OneLine(tr.group(env).String())
	}
	told := func(of clause.ValueFunc) []string {
		found, unknown := addresses(of, env, people)
		item.Unknown = append(item.Unknown, unknown...)
		return found
	}
	item.tell(told(tr.to), Concerned)
	if len(item.To) == 0 {
		item.tell(told(tr.otherwise), Orphaned)
	}
	if len(item.To) > 0 {
		item.tell(told(tr.copy), Informed)
	}
	item.raise = told(tr.raise)
	return item
}

// addresses gives those that a template yields, each once, and says of the names among
// them that stand for nobody why they do not.
func addresses(of clause.ValueFunc, env *clause.Env, people Directory) (out, unknown []string) {
	if of == nil {
		return nil, nil
	}
	v := of(env)
	if v.IsOdd() {
		return nil, []string{people.missing(v.Raw())}
	}
	for _, name := range strings.FieldsFunc(v.String(), func(r rune) bool { return r == ';' || r == ',' || r == '\n' }) {
		if name = strings.TrimSpace(name); name == "" {
			continue
		}
		found := people.Addresses(name)
		if len(found) == 0 {
			unknown = append(unknown, people.missing(name))
		}
		for _, a := range found {
			if !slices.Contains(out, a) {
				out = append(out, a)
			}
		}
	}
	return out, unknown
}
