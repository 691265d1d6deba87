package sheet

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/value"
)

// FindRow finds a row of a tab by id, by label, or by any column, as in "Loan no=L-1004".
// A name that several rows share is an *Ambiguous error; a row that has gone to another
// tab is an *Elsewhere error.
func (t *Tracker) FindRow(tab *TabShape, name string) (*Row, error) {
	if id, ok := ParseRowID(strings.TrimSpace(name)); ok {
		if r := t.Row(id); r != nil {
			if r.Tab == tab.ID {
				return r, nil
			}
			return nil, t.elsewhere(r, tab)
		}
	}
	column, wanted := tab.LabelColumn(), name
	if left, right, is := strings.Cut(name, "="); is && len(t.labelled(tab, column, name)) == 0 {
		c, err := tab.Column(left)
		if err != nil {
			return nil, err
		}
		column, wanted = c, right
	}
	if column == nil {
		return nil, &NotFound{What: "row", Name: name, In: tab.Name}
	}
	found := t.labelled(tab, column, wanted)
	switch len(found) {
	case 1:
		return found[0], nil
	case 0:
		return nil, t.missed(tab, column, name, wanted)
	}
	slices.SortFunc(found, func(a, b *Row) int { return cmp.Compare(a.Pos, b.Pos) })
	ids := make([]RowID, len(found))
	for i, r := range found {
		ids[i] = r.ID
	}
	return nil, &Ambiguous{Label: name, Tab: tab.Name, Rows: ids}
}

// labelled gives the rows of a tab that hold what a text says in a column.
func (t *Tracker) labelled(tab *TabShape, column *Column, text string) []*Row {
	if column == nil {
		return nil
	}
	var found []*Row
	if column.Type.Kind == value.Text && !column.Computed() {
		for r := range t.Holding(column.ID, value.OfText(text)) {
			if r.Tab == tab.ID {
				found = append(found, r)
			}
		}
		return found
	}
	v, _, err := t.Form(Writing{}).Read(text, column.Type)
	slot := tab.Slot(column.ID)
	for r := range t.Rows(tab.ID) {
		if has := r.At(slot); err == nil && value.Equal(has, v) || value.EqualText(has.Show(column.Type), text) {
			found = append(found, r)
		}
	}
	return found
}

// missed says that no row of a tab is called so: it is in another, or another is nearly.
func (t *Tracker) missed(tab *TabShape, column *Column, name, wanted string) error {
	for i := range t.Tabs {
		other := &t.Tabs[i]
		c := other.ByID(column.ID)
		if c == nil {
			c, _ = other.Column(column.Name)
		}
		if other.ID == tab.ID || c == nil {
			continue
		}
		if found := t.labelled(other, c, wanted); len(found) == 1 {
			return t.elsewhere(found[0], tab)
		}
	}
	var names []string
	for _, r := range t.Page(tab.ID, 0, 10_000) {
		names = append(names, r.Get(tab, column.ID).String())
	}
	nearest := value.Nearest(wanted, names)
	if nearest != "" && wanted != name {
		nearest = column.Name + "=" + nearest
	}
	return &NotFound{What: "row", Name: name, In: tab.Name, Nearest: nearest}
}

func (t *Tracker) elsewhere(r *Row, not *TabShape) error {
	return &Elsewhere{Row: r.ID, Label: t.Label(r), Tab: t.TabOf(r).Name, Not: not.Name}
}

// Elsewhere says that a row is in another tab than the one named.
type Elsewhere struct {
	Row      RowID
	Label    string
	Tab, Not string
}

func (e *Elsewhere) Error() string {
	return fmt.Sprintf("%s is not in %s: it is in %s", e.Label, e.Not, e.Tab)
}
