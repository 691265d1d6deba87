package edit

import (
	"fmt"
	"strings"

	"example.org/kavlo/internal/sheet"
)

// Drops says what loading a setup file would drop.
type Drops struct {
	Tracker sheet.TrackerID
	Items   []Drop
}

// Drop is a column with what rows hold in it, or a definition, that would go.
type Drop struct {
	What       string // in words
	Tab        sheet.TabID
	Column     sheet.ColumnID     // 0: it is a definition
	Definition sheet.DefinitionID // 0: it is a column
}

func (e *Drops) Error() string {
	items := make([]string, len(e.Items))
	for i, d := range e.Items {
		items[i] = d.What
	}
	return "loading this file would drop " + strings.Join(items, "; ")
}

// dropped gives what a tracker would lose with another shape, or nil.
func dropped(t *sheet.Tracker, after *sheet.Shape) error {
	out := &Drops{Tracker: t.ID}
	for i := range t.Tabs {
		tab := &t.Tabs[i]
		kept := after.TabByID(tab.ID)
		if kept == nil {
			if n := t.Count(tab.ID); n > 0 {
				out.Items = append(out.Items, Drop{What: fmt.Sprintf("tab %s, which has %s", tab.Name, rows(n)), Tab: tab.ID})
			}
			continue
		}
		for slot := range tab.Columns {
			c := &tab.Columns[slot]
			if c.Computed() || kept.ByID(c.ID) != nil {
				continue
			}
			if other, err := kept.Column(c.Name); err == nil && !other.Computed() { // what it held is fitted to its namesake
				continue
			}
			n := 0
			for r := range t.Rows(tab.ID) {
				if !r.At(slot).IsBlank() {
					n++
				}
			}
			if n > 0 {
				out.Items = append(out.Items, Drop{What: fmt.Sprintf("column %s of %s, which is filled in %s", c.Name, tab.Name, rows(n)), Tab: tab.ID, Column: c.ID})
			}
		}
	}
	for i := range t.Definitions {
		d := &t.Definitions[i]
		if after.DefinitionByID(d.ID) == nil {
			if _, err := after.Definition(d.Kind, d.Name); err != nil {
				out.Items = append(out.Items, Drop{What: fmt.Sprintf("%s %s", d.Kind, d.Name), Definition: d.ID})
			}
		}
	}
	if len(out.Items) == 0 {
		return nil
	}
	return out
}

func rows(n int) string {
	if n == 1 {
		return "1 row"
	}
	return fmt.Sprintf("%d rows", n)
}
