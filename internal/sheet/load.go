package sheet

import (
	"fmt"
	"sync/atomic"
)

// Loader builds a workspace from stored trackers and rows, rows in order of
// tab and position.
type Loader struct {
	w *Workspace
	t *token
}

// NewLoader begins with an empty workspace.
func NewLoader() *Loader { return &Loader{w: Empty(), t: &token{}} }

// Tracker adds a tracker.
func (l *Loader) Tracker(id TrackerID, version int64, shape *Shape) {
	l.w.trackers[id] = &Tracker{ID: id, Version: version, Shape: shape, owner: l.t, tabs: map[TabID]*tabRows{}, kept: new(atomic.Pointer[indexes])}
}

// Tab gives a tab of a tracker that has been added, or nil.
func (l *Loader) Tab(tracker TrackerID, tab TabID) *TabShape {
	if t := l.w.trackers[tracker]; t != nil {
		return t.TabByID(tab)
	}
	return nil
}

// Row adds a row. It takes over the image.
func (l *Loader) Row(tracker TrackerID, tab TabID, id RowID, version int64, img *Image) error {
	t := l.w.trackers[tracker]
	if t == nil {
		return fmt.Errorf("its tracker %s is not there", tracker)
	}
	shape := t.TabByID(tab)
	if shape == nil {
		return fmt.Errorf("its tab %s is not there", tab)
	}
	rows := t.ownTab(tab, l.t)
	if rows.taken(img.Pos()) || t.Row(id) != nil {
		return fmt.Errorf("its place %d in tab %s is taken", img.Pos(), shape.Name)
	}
	r := newRow(id, shape, img, version)
	rows.insert(r, l.t)
	rows.next = max(rows.next, r.Pos+posGap)
	t.rows.set(id, r, l.t)
	t.Version = max(t.Version, version)
	return nil
}

// Done gives the workspace; the loader must not be used after.
func (l *Loader) Done() *Workspace { return l.w }
