package reconcile

import (
	"fmt"
	"strings"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Target says where in a tracker a plan's outcomes go.
type Target struct {
	Tracker sheet.TrackerID
	Tab     sheet.TabID
	Key     sheet.ColumnID
	Columns []sheet.ColumnID // of the fields, in their order
	MoveTo  sheet.TabID      // where rows go that are gone from the list
	Marks   []Marking        // what marks them; none: a note on the key cell
	Note    string           // that note
	Origin  string           // of rows that are added
	Because int              // index of the cause
	// OnlyTab leaves out rows that stand in another tab: what has left the tab is
	// gone from it. Otherwise a row that moved on is still the one with its key.
	OnlyTab bool
}

// Marking is a value that marks a row as gone from its list.
type Marking struct {
	Column sheet.ColumnID
	Value  value.Value
}

// Rows gives the rows of a tracker as items: those of the target's tab, and
// those that stand in another tab and have a key.
func (into *Target) Rows(t *sheet.Tracker) []Item {
	items := make([]Item, 0, t.Count(into.Tab))
	fields := make([]value.Value, 0, t.Count(into.Tab)*len(into.Columns))
	add := func(tab *sheet.TabShape, away bool) {
		key := tab.Slot(into.Key)
		slots := make([]int, len(into.Columns))
		for i, c := range into.Columns {
			slots[i] = tab.Slot(c)
		}
		for r := range t.Rows(tab.ID) {
			it := Item{Row: r.ID, Away: away}
			if key >= 0 {
				it.Key = r.At(key)
			} else {
				it.Key = r.Get(tab, into.Key)
			}
			if away && it.Key.IsBlank() {
				continue
			}
			from := len(fields)
			for i, slot := range slots {
				if slot >= 0 {
					fields = append(fields, r.At(slot))
				} else {
					fields = append(fields, r.Get(tab, into.Columns[i]))
				}
			}
			it.Fields = fields[from:len(fields):len(fields)]
			items = append(items, it)
		}
	}
	add(t.TabByID(into.Tab), false)
	for i := range t.Tabs {
		if t.Tabs[i].ID != into.Tab && !into.OnlyTab {
			add(&t.Tabs[i], true)
		}
	}
	return items
}

// Apply makes on the draft the changes that a plan wants of the tab, and notes
// the ids of the rows that it adds.
func (p *Plan) Apply(d *sheet.Draft, into *Target) error {
	for i := range p.Outcomes {
		if err := p.apply(d, into, &p.Outcomes[i]); err != nil {
			return fmt.Errorf("key %s: %w", p.Outcomes[i].Key, err)
		}
	}
	return nil
}

func (p *Plan) apply(d *sheet.Draft, into *Target, o *Outcome) error {
	switch o.Kind {
	case AddToTab:
		tab := d.Own(into.Tracker).TabByID(into.Tab)
		cells, spoken := make([]value.Value, len(tab.Columns)), make([]bool, len(tab.Columns))
		put := func(column sheet.ColumnID, v value.Value) {
			cells[tab.Slot(column)], spoken[tab.Slot(column)] = v, true
		}
		put(into.Key, o.Key)
		for f, c := range into.Columns {
			put(c, o.List.Fields[f])
		}
		var err error
		o.Row, err = d.AddLaid(sheet.Place{Tracker: into.Tracker, Tab: into.Tab}, cells, spoken, sheet.Besides{Origin: into.Origin}, into.Because)
		return err
	case Update, Conflict, Settled:
		if o.Tab == nil || o.List == nil {
			return nil
		}
		for _, f := range o.ToTab {
			if err := into.set(d, o.Tab.Row, into.Columns[f], o.List.Fields[f]); err != nil {
				return err
			}
		}
		if o.Rekey == ByList {
			if err := into.set(d, o.Tab.Row, into.Key, o.List.Key); err != nil {
				return err
			}
		}
		if o.Base != nil && o.Base.Left == ByList {
			return into.unmark(d, o.Tab.Row)
		}
	case GoneList:
		return into.gone(d, o.Tab.Row, p.Policy.Gone)
	case AddToList, GoneTab:
	}
	return nil
}

func (into *Target) set(d *sheet.Draft, id sheet.RowID, column sheet.ColumnID, to value.Value) error {
	return d.Put(sheet.Cell{Tracker: into.Tracker, Row: id, Column: column}, to, into.Because)
}

func (into *Target) note(d *sheet.Draft, id sheet.RowID, text string) error {
	return d.Annotate(sheet.Cell{Tracker: into.Tracker, Row: id, Column: into.Key}, sheet.Note, text, into.Because)
}

// gone does to a row what is to become of what is gone from the list.
func (into *Target) gone(d *sheet.Draft, id sheet.RowID, how Gone) error {
	t := d.Own(into.Tracker)
	r := t.Row(id)
	switch how {
	case Remove:
		return d.Apply(sheet.Change{Kind: sheet.Remove, Tracker: into.Tracker, Tab: r.Tab, Row: id, Because: into.Because})
	case Move:
		if r.Tab == into.MoveTo {
			return nil
		}
		return d.Apply(sheet.Change{Kind: sheet.Move, Tracker: into.Tracker, Tab: r.Tab, Row: id, ToTab: into.MoveTo, Because: into.Because})
	case Mark:
		for _, m := range into.Marks {
			if err := into.set(d, id, m.Column, m.Value); err != nil {
				return err
			}
		}
		if len(into.Marks) == 0 {
			text := into.Note
			if had := r.Notes()[into.Key]; had != "" {
				text = had + "\n" + into.Note
			}
			return into.note(d, id, text)
		}
	case Keep:
	}
	return nil
}

// unmark takes the marks off a row that the list has again.
func (into *Target) unmark(d *sheet.Draft, id sheet.RowID) error {
	t := d.Own(into.Tracker)
	for _, m := range into.Marks {
		r := t.Row(id)
		if now := r.Get(t.TabOf(r), m.Column); same(&now, &m.Value) {
			if err := into.set(d, id, m.Column, value.Value{}); err != nil {
				return err
			}
		}
	}
	had := t.Row(id).Notes()[into.Key]
	if rest, marked := strings.CutSuffix(had, into.Note); marked && len(into.Marks) == 0 {
		return into.note(d, id, strings.TrimSuffix(rest, "\n"))
	}
	return nil
}
