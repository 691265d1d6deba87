package sheet

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode/utf8"

	"example.org/kavlo/internal/value"
)

// Refusal says why a row may not be as an edit would leave it.
type Refusal struct {
	Row    RowID
	Label  string
	Tab    string
	Column string
	Reason string
	Hint   string
}

func (r *Refusal) Error() string {
	s := r.Column + ": " + r.Reason
	if r.Hint != "" {
		s += ": " + r.Hint
	}
	return s
}

// Read reads what somebody wrote into a cell of the column: JSON's value or
// text. What does not fit becomes an odd value, or a *Refusal where the column
// refuses bad input.
func (c *Column) Read(raw any) (value.Value, error) {
	if c.Computed() {
		return value.Value{}, &Refusal{Column: c.Name, Reason: "is computed", Hint: "change what it is computed from"}
	}
	v, err := value.FromJSON(raw, c.Type)
	if err == nil {
		if hint := c.outside(v); hint != "" {
			return value.Value{}, &Refusal{Column: c.Name, Reason: fmt.Sprintf("%q is out of bounds", v.String()), Hint: hint}
		}
		return v, nil
	}
	var m *value.Misfit
	if !errors.As(err, &m) {
		return value.Value{}, err
	}
	if c.BadInput == Refuse {
		return value.Value{}, &Refusal{Column: c.Name, Reason: fmt.Sprintf("%q %s", m.Text, m.Reason), Hint: m.Hint}
	}
	return value.OfOdd(m.Text), nil
}

// outside says how a value breaks the column's bounds, or "".
func (c *Column) outside(v value.Value) string {
	if v.IsBlank() || v.IsOdd() {
		return ""
	}
	if c.Longest > 0 && utf8.RuneCountInString(v.Raw()) > c.Longest {
		return fmt.Sprintf("at most %d characters", c.Longest)
	}
	if c.Min != "" {
		if low, err := value.Parse(c.Min, c.Type); err == nil && value.Compare(v, low) < 0 {
			return "at least " + c.Min
		}
	}
	if c.Max != "" {
		if high, err := value.Parse(c.Max, c.Type); err == nil && value.Compare(v, high) > 0 {
			return "at most " + c.Max
		}
	}
	return ""
}

// CheckRows says what is wrong with the rows that changes touched: a required
// cell left blank by an edit to it, a unique value that is there twice.
// Rows that only moved are not held to what their new tab requires.
func CheckRows(d *Draft) error {
	type where struct {
		tracker TrackerID
		tab     TabID
		column  ColumnID
	}
	unique := map[where]map[RowID]bool{}
	for i := range d.changes {
		c := &d.changes[i]
		if c.Kind != Set && c.Kind != Add {
			continue
		}
		t := d.Tracker(c.Tracker)
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
				return &Refusal{Row: row.ID, Label: t.Label(row), Tab: tab.Name, Column: col.Name, Reason: "must not be blank"}
			}
			if col.Unique && !v.IsBlank() {
				key := where{t.ID, tab.ID, col.ID}
				if unique[key] == nil {
					unique[key] = map[RowID]bool{}
				}
				unique[key][row.ID] = true
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

func checkUnique(t *Tracker, tabID TabID, column ColumnID, touched map[RowID]bool) error {
	tab := t.TabByID(tabID)
	slot := tab.Slot(column)
	for _, id := range slices.Sorted(maps.Keys(touched)) {
		row := t.Row(id)
		if row == nil || row.Tab != tabID {
			continue
		}
		for other := range t.Holding(column, row.At(slot)) {
			if other.Tab == tabID && other.ID != id {
				return notUnique(t, tab, slot, row, other)
			}
		}
	}
	return nil
}

func notUnique(t *Tracker, tab *TabShape, slot int, row, other *Row) error {
	return &Refusal{Row: row.ID, Label: t.Label(row), Tab: tab.Name, Column: tab.Columns[slot].Name,
		Reason: fmt.Sprintf("%q is there already", strings.TrimSpace(row.At(slot).String())),
		Hint:   fmt.Sprintf("row %s has it", other.ID)}
}
