package digest

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/derive"
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
	To    []string // addresses
	order value.Value
}

// Holding is what a reminder holds at a moment.
type Holding struct {
	Reminder   *Reminder
	Items      []Item
	PassedOver []string // rows that could not be judged, in words
	Nobody     []Item   // rows that no address could be found for
}

// Directory finds people's addresses by name; a name that is an address
// already stands for itself.
type Directory map[string]string

// Address gives the mail address of a name or address, or "".
func (d Directory) Address(name string) string {
	name = strings.TrimSpace(name)
	if v, err := value.Parse(name, value.Type{Kind: value.Person}); err == nil {
		return v.Raw()
	}
	return d[value.Fold(name)]
}

// Collect gives the rows that a reminder holds, in its order.
func (c *Compiled) Collect(t *sheet.Tracker, people Directory, now time.Time) Holding {
	h := Holding{Reminder: c.Reminder}
	for _, tr := range c.tabs {
		tab := t.TabByID(tr.tab)
		env := c.bound.Env(t, tab, now)
		for row := range t.Rows(tr.tab) {
			derive.Look(env, row)
			switch tr.where(env) {
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
			item := c.item(tr, env, t, tab, row, people)
			if len(item.To) == 0 {
				h.Nobody = append(h.Nobody, item)
			} else {
				h.Items = append(h.Items, item)
			}
		}
	}
	slices.SortStableFunc(h.Items, func(a, b Item) int { return value.Compare(a.order, b.order) })
	return h
}

func (c *Compiled) item(tr tabReminder, env *clause.Env, t *sheet.Tracker, tab *sheet.TabShape, row *sheet.Row, people Directory) Item {
	item := Item{Row: row.ID, Tab: tab.Name, TabID: tab.ID, Label: t.Label(row)}
	for _, s := range tr.show {
		item.Shown = append(item.Shown, s.get(env).Show(s.typ))
	}
	if tr.order != nil {
		item.order = tr.order(env)
	}
	for _, name := range strings.FieldsFunc(tr.to(env).String(), func(r rune) bool { return r == ';' || r == ',' }) {
		if a := people.Address(name); a != "" && !slices.Contains(item.To, a) {
			item.To = append(item.To, a)
		}
	}
	return item
}
