package sheet

import (
	"fmt"
	"sync/atomic"

	"example.org/kavlo/internal/value"
)

func (d *Draft) reshape(c *Change) error {
	t := d.w.trackers[c.Tracker]
	switch {
	case c.ShapeBefore == nil && t != nil:
		return &Conflict{Change: *c, Reason: "a tracker with this id is there already"}
	case c.ShapeBefore != nil && t == nil:
		return &Conflict{Change: *c, Reason: "the tracker is not there any more"}
	case c.ShapeBefore != nil && t.Shape != c.ShapeBefore && !sameShape(t.Shape, c.ShapeBefore):
		return &Conflict{Change: *c, Reason: "the tracker's setup has been changed since"}
	}
	if c.ShapeAfter == nil {
		for i := range t.Tabs {
			if t.Count(t.Tabs[i].ID) > 0 {
				return fmt.Errorf("tab %s still holds rows", t.Tabs[i].Name)
			}
		}
		delete(d.w.trackers, c.Tracker)
		return nil
	}
	if err := c.ShapeAfter.Check(); err != nil {
		return err
	}
	for _, other := range d.w.trackers {
		if other.ID != c.Tracker && value.EqualText(other.Name, c.ShapeAfter.Name) {
			return fmt.Errorf("there is a tracker called %s already", other.Name)
		}
	}
	if t == nil {
		d.w.trackers[c.Tracker] = &Tracker{ID: c.Tracker, Version: d.seq, Shape: c.ShapeAfter, owner: d.t, tabs: map[TabID]*tabRows{}, kept: new(atomic.Pointer[indexes])}
		return nil
	}
	t = d.tracker(c.Tracker)
	for i := range t.Tabs {
		old := &t.Tabs[i]
		now := c.ShapeAfter.TabByID(old.ID)
		if now == nil {
			if t.Count(old.ID) > 0 {
				return fmt.Errorf("tab %s still holds %d rows: move or remove them first", old.Name, t.Count(old.ID))
			}
			delete(t.tabs, old.ID)
			continue
		}
		if !sameColumns(old.Columns, now.Columns) {
			d.relay(t, old, now)
		}
	}
	t.Shape = c.ShapeAfter
	return nil
}

// relay lays a tab's rows out anew after its columns changed.
func (d *Draft) relay(t *Tracker, old, now *TabShape) {
	rows := t.ownTab(old.ID, d.t)
	rows.edits++
	for at := range rows.blocks {
		b := rows.ownBlock(at, d.t)
		for i := range b.chunks {
			c := b.own(i, d.t)
			for j, r := range c.rows {
				moved := r.relaid(old, now, r.Pos, r.Version)
				c.rows[j] = moved
				t.rows.set(r.ID, moved, d.t)
			}
		}
	}
}

func sameColumns(a, b []Column) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if a[i].ID != b[i].ID {
			return false
		}
	}
	return true
}
