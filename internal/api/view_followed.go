package api

import (
	"fmt"

	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/wire"
)

// deed is something that a rule did to rows, each time alike but for a value.
type deed struct {
	what, rule string
	value      string
	several    bool // with several values
	rows       int
}

// followed says in words what rules did, a sentence a rule, kind and place.
func (v *view) followed(set *sheet.ChangeSet) []string {
	deeds := map[[2]string]*deed{}
	var order []*deed
	for i := range set.Changes {
		c := &set.Changes[i]
		if c.Because >= len(set.Causes) || set.Causes[c.Because].Kind != sheet.ByRule {
			continue
		}
		what, value := v.did(c)
		key := [2]string{what, set.Causes[c.Because].Name}
		d := deeds[key]
		if d == nil {
			d = &deed{what: what, rule: key[1], value: value}
			deeds[key] = d
			order = append(order, d)
		}
		d.rows++
		d.several = d.several || d.value != value
	}
	out := make([]string, len(order))
	for i, d := range order {
		out[i] = d.String()
	}
	return out
}

func (d *deed) String() string {
	s := d.what
	if d.value != "" && !d.several {
		s += " to " + d.value
	}
	if d.rows > 1 {
		s += fmt.Sprintf(" in %d rows", d.rows)
	}
	return fmt.Sprintf("Rule %q: %s", d.rule, s)
}

// did says what a change did and, for a cell, the value it was set to.
func (v *view) did(c *sheet.Change) (what, value string) {
	t := v.state.Tracker(c.Tracker)
	if t == nil {
		return "changed", ""
	}
	switch c.Kind {
	case sheet.Move:
		if to := v.state.Tracker(c.ToTracker); to != nil {
			return "moved to " + tabName(to, c.ToTab), ""
		}
	case sheet.Add:
		return "added to " + tabName(t, c.Tab), ""
	case sheet.Remove:
		return "deleted from " + tabName(t, c.Tab), ""
	case sheet.Set:
		name := columnName(t, t.TabByID(c.Tab), c.Column)
		if c.After.IsBlank() {
			return name + " cleared", ""
		}
		return name + " set", c.After.ShowIn(columnType(t, c.Column), t.Style())
	}
	return "changed", ""
}

func passedOver(reports []rule.Report) []wire.PassedOver {
	out := []wire.PassedOver{}
	for _, r := range reports {
		for _, p := range r.PassedOver {
			out = append(out, wire.PassedOver{Row: p.Row, Label: p.Label, Tab: p.Tab, Column: p.Column, Why: p.Why})
		}
	}
	return out
}
