package sheet

import (
	"fmt"
	"maps"
	"slices"
	"strings"
)

// Refusal says why a row may not be as an edit would leave it.
type Refusal struct {
	Row    RowID
	Label  string
	Tab    string
	Column string
	Reason string
	Hint   string
	// Because is the cause of the change that is refused, as an index into those of its
	// change set: 0 is what set the whole off.
	Because int
}

func (r *Refusal) Error() string {
	between := ": "
	if says, _, _ := strings.Cut(r.Reason, " "); says == "is" || says == "has" || says == "cannot" { // of the column
		between = " "
	}
	s := r.Column + between + r.Reason
	if r.Hint != "" {
		s += ": " + r.Hint
	}
	return s
}

// Needed says why a tracker, a tab or a column may not be deleted.
type Needed struct {
	Name string
	From string   // what it would be deleted from
	By   []string // what needs it, in words
}

func (n *Needed) Error() string {
	from := ""
	if n.From != "" {
		from = " from " + n.From
	}
	return fmt.Sprintf("%s cannot be deleted%s while it is needed by %s: %s", n.Name, from, strings.Join(n.By, ", "), n.Hint())
}

// Hint says what to do.
func (n *Needed) Hint() string { return "change or delete that first" }

// CheckRows says what is wrong with the rows that changes touched: a required
// cell left blank by an edit to it, a unique value that is there twice.
// A row that has moved is held to all that its new tab asks for. Unique is within a tab.
func CheckRows(d *Draft) error {
	type where struct {
		tracker TrackerID
		tab     TabID
		column  ColumnID
	}
	unique := map[where]map[RowID]int{}
	for i := range d.changes {
		c := &d.changes[i]
		if c.Kind != Set && c.Kind != Add && c.Kind != Move {
			continue
		}
		t := d.Tracker(c.Tracker)
		if c.Kind == Move {
			t = d.Tracker(c.ToTracker)
		}
		if t == nil {
			continue
		}
		row := t.Row(c.Row)
		if row == nil {
			continue
		}
		tab := t.TabOf(row)
		for j := range tab.Columns {
			col := &tab.Columns[j]
			if c.Kind == Set && col.ID != c.Column {
				continue
			}
			v := row.At(j)
			if col.Required && v.IsBlank() {
				return &Refusal{Row: row.ID, Label: t.Label(row), Tab: tab.Name, Column: col.Name, Reason: "is required in " + tab.Name, Hint: "fill it in first", Because: c.Because}
			}
			if col.Unique && !v.IsBlank() {
				key := where{t.ID, tab.ID, col.ID}
				if unique[key] == nil {
					unique[key] = map[RowID]int{}
				}
				unique[key][row.ID] = c.Because
			}
		}
	}
	for key, rows := range unique {
		if err := checkUnique(d.Tracker(key.tracker), key.tab, key.column, rows); err != nil {
			return err
		}
	}
	return nil
}

func checkUnique(t *Tracker, tabID TabID, column ColumnID, touched map[RowID]int) error {
	tab := t.TabByID(tabID)
	slot := tab.Slot(column)
	for _, id := range slices.Sorted(maps.Keys(touched)) {
		row := t.Row(id)
		if row == nil || row.Tab != tabID {
			continue
		}
		for other := range t.Holding(column, row.At(slot)) {
			if other.Tab == tabID && other.ID != id {
				r := notUnique(t, tab, slot, row, other)
				r.Because = touched[id]
				return r
			}
		}
	}
	return nil
}

func notUnique(t *Tracker, tab *TabShape, slot int, row, other *Row) *Refusal {
	return &Refusal{Row: row.ID, Label: t.Label(row), Tab: tab.Name, Column: tab.Columns[slot].Name,
		Reason: fmt.Sprintf("%q is already used in %s, by %s", strings.TrimSpace(row.At(slot).String()), tab.Name, t.Label(other))}
}
