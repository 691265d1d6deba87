package sheet

import (
	"fmt"
	"maps"
	"slices"
	"sync/atomic"
	"unicode/utf8"

	"example.org/kavlo/internal/local"
	"example.org/kavlo/internal/value"
)

// Draft is a workspace being changed. It is used by one goroutine.
type Draft struct {
	w       *Workspace
	seq     int64
	t       *token
	newRow  RowID
	changes []Change
	was     []*Row // the row of each change before it

	writing  Writing
	forms    map[TrackerID]*local.Form
	readings Readings
}

// Edit begins a draft. Rows it touches get version seq; rows it adds get ids
// from nextRow on.
func (w *Workspace) Edit(seq int64, nextRow RowID) *Draft {
	return &Draft{w: &Workspace{trackers: maps.Clone(w.trackers)}, seq: seq, t: &token{}, newRow: nextRow}
}

// Fork gives a draft that begins from this one's present state and shares
// nothing that either alters, for trying something out. The draft forked from
// must not be used until the fork is thrown away.
func (d *Draft) Fork() *Draft {
	return &Draft{w: &Workspace{trackers: maps.Clone(d.w.trackers)}, seq: d.seq, t: &token{}, newRow: d.newRow, writing: d.writing}
}

// Expect makes room for so many more changes at once.
func (d *Draft) Expect(changes int) {
	d.changes, d.was = slices.Grow(d.changes, changes), slices.Grow(d.was, changes)
}

// Tracker gives a tracker as the draft has it now. It stays valid and unchanged
// only until the draft's next change.
func (d *Draft) Tracker(id TrackerID) *Tracker { return d.w.trackers[id] }

// Now gives the draft's present state for looking up names; see Tracker.
func (d *Draft) Now() *Workspace { return d.w }

// Seq gives the version that rows touched by the draft get.
func (d *Draft) Seq() int64 { return d.seq }

// NewRow gives an id that no row has had.
func (d *Draft) NewRow() RowID {
	id := d.newRow
	d.newRow++
	return id
}

// NextRow gives the id that the next new row will get.
func (d *Draft) NextRow() RowID { return d.newRow }

// Changes gives what has been applied so far, in order.
func (d *Draft) Changes() []Change { return d.changes }

// Was gives the row of change i as it was before it, or nil where there was none.
func (d *Draft) Was(i int) *Row { return d.was[i] }

// Before gives a tracker as it was when the draft began; nil where there was none.
func (d *Draft) Before(id TrackerID) *Tracker {
	t := d.w.trackers[id]
	if t != nil && t.owner == d.t {
		return t.base
	}
	return t
}

// Own gives a tracker whose pointer stays good, and up to date, for as long as
// the draft lives.
func (d *Draft) Own(id TrackerID) *Tracker { return d.tracker(id) }

// Snapshot gives a tracker as it stands now, which what the draft does next leaves as it
// is; nil where there is none.
func (d *Draft) Snapshot(id TrackerID) *Tracker {
	t := d.w.trackers[id]
	if t == nil || t.owner != d.t {
		return t
	}
	was := d.t
	d.t = &token{} // what lies below the trackers is shared from now on, and copied before it is altered
	for _, own := range d.w.trackers {
		if own.owner == was {
			own.owner = d.t
		}
	}
	snap := *t
	snap.owner, snap.base, snap.tabs = was, nil, maps.Clone(t.tabs)
	snap.kept = new(atomic.Pointer[indexes])
	snap.kept.Store(shareIndexes(t.kept.Load()))
	t.kept = new(atomic.Pointer[indexes])
	t.kept.Store(shareIndexes(snap.kept.Load()))
	return &snap
}

// Done finishes the draft into a new workspace; the draft must not be used after.
func (d *Draft) Done() *Workspace {
	for _, t := range d.w.trackers {
		if t.owner == d.t {
			t.base = nil // or every state would hold on to all before it
		}
	}
	d.t = nil
	return d.w
}

// tracker gives a tracker that the draft may alter.
func (d *Draft) tracker(id TrackerID) *Tracker {
	t := d.w.trackers[id]
	if t == nil || t.owner == d.t {
		return t
	}
	t = t.Load()
	c := *t
	c.owner, c.Version = d.t, d.seq
	c.tabs = maps.Clone(t.tabs)
	c.base = t
	c.kept = new(atomic.Pointer[indexes])
	c.kept.Store(shareIndexes(t.kept.Load()))
	d.w.trackers[id] = &c
	return &c
}

func (t *Tracker) ownTab(id TabID, tok *token) *tabRows {
	rows := t.tabs[id]
	if rows == nil {
		rows = &tabRows{next: posGap}
		rows.owner = tok
		t.tabs[id] = rows
		return rows
	}
	if rows.owner == tok {
		return rows
	}
	c := *rows
	c.owner = tok
	c.blocks = append(make([]*block, 0, len(rows.blocks)+1), rows.blocks...)
	t.tabs[id] = &c
	return &c
}

// Apply makes one change. A change whose "before" does not hold gives a
// *Conflict and alters nothing.
func (d *Draft) Apply(c Change) error {
	if c.Kind == Move && c.ToTracker == 0 {
		c.ToTracker = c.Tracker
	}
	var was *Row
	if t := d.w.trackers[c.Tracker]; t != nil && c.Row != 0 {
		was = t.Row(c.Row)
	}
	if err := d.apply(&c); err != nil {
		return err
	}
	d.changes = append(d.changes, c)
	d.was = append(d.was, was)
	return nil
}

// MaxText is how many characters a cell or a note holds at most.
const MaxText = 100_000

// fits refuses texts that no cell holds, whichever way they come.
func (d *Draft) fits(c *Change) error {
	long := func(s string) bool { return len(s) > MaxText && utf8.RuneCountInString(s) > MaxText }
	var column ColumnID
	switch {
	case c.Kind == Add && c.Image != nil:
		for id, v := range c.Image.Cells() {
			if long(v.Raw()) {
				column = id
			}
		}
		for id, note := range c.Image.Notes() {
			if long(note) {
				column = id
			}
		}
	case c.Kind == Set || c.Kind == Note:
		if long(c.After.Raw()) {
			column = c.Column
		}
	}
	if column == 0 {
		return nil
	}
	r := &Refusal{Row: c.Row, Column: column.String(), Reason: fmt.Sprintf("the text is longer than %d characters", MaxText), Hint: "keep it in a file, and put a link to that here"}
	if t := d.w.trackers[c.Tracker]; t != nil {
		if col := t.ColumnByID(column); col != nil {
			r.Column = col.Name
		}
	}
	return r
}

func (d *Draft) apply(c *Change) error {
	switch c.Kind {
	case Reshape:
		return d.reshape(c)
	case Grant: // what it tells of is kept beside the trackers
		return nil
	}
	if err := d.fits(c); err != nil {
		return err
	}
	t := d.w.trackers[c.Tracker]
	if t == nil {
		return &Conflict{Change: *c, Reason: fmt.Sprintf("tracker %s is not there any more", c.Tracker)}
	}
	row := t.Row(c.Row)
	if c.Kind == Add {
		return d.add(c, row)
	}
	if row == nil {
		return &Conflict{Change: *c, Reason: "the row is not there any more"}
	}
	if row.Tab != c.Tab {
		return &Conflict{Change: *c, Reason: fmt.Sprintf("the row is in %s now", t.TabOf(row).Name)}
	}
	t = d.tracker(c.Tracker)
	tab := t.TabByID(c.Tab)
	switch c.Kind {
	case Set:
		if now := row.Get(tab, c.Column); now != c.Before {
			return &Conflict{Change: *c, Current: now, Reason: fmt.Sprintf("%s is %s now", columnName(t, c.Column), quoted(now))}
		}
		now := row.withCell(tab, c.Column, c.After, d.seq)
		d.put(t, now)
		t.follow(row, now)
	case Note:
		if now := row.Notes()[c.Column]; now != c.Before.Raw() {
			return &Conflict{Change: *c, Current: value.OfText(now), Reason: fmt.Sprintf("the note on %s is another now", columnName(t, c.Column))}
		}
		d.put(t, row.withNote(c.Column, c.After.Raw(), d.seq))
	case Style:
		if now := row.Styles()[c.Column]; now != c.Before.Raw() {
			return &Conflict{Change: *c, Current: value.OfText(now), Reason: fmt.Sprintf("the look of %s is another now", columnName(t, c.Column))}
		}
		d.put(t, row.withLook(c.Column, c.After.Raw(), d.seq))
	case Remove:
		now := row.Image(tab)
		if c.Image != nil && !c.Image.sameContent(now) {
			return &Conflict{Change: *c, Reason: "the row has been changed since it was added"}
		}
		c.Image = now
		t.ownTab(c.Tab, d.t).remove(row.Pos, d.t)
		t.rows.set(row.ID, nil, d.t)
		t.follow(row, nil)
	case Move:
		return d.move(c, t, tab, row)
	default:
		return fmt.Errorf("unknown kind of change %q", c.Kind)
	}
	return nil
}

func (d *Draft) put(t *Tracker, r *Row) {
	t.ownTab(r.Tab, d.t).replace(r, d.t)
	t.rows.set(r.ID, r, d.t)
}

func (d *Draft) add(c *Change, present *Row) error {
	t := d.tracker(c.Tracker)
	tab := t.TabByID(c.Tab)
	if present != nil {
		return &Conflict{Change: *c, Reason: "a row with this id is there already"}
	}
	if tab == nil {
		return &Conflict{Change: *c, Reason: "its tab is not there any more"}
	}
	rows := t.ownTab(c.Tab, d.t)
	r := newRow(c.Row, tab, c.Image, d.seq)
	if r.Pos == 0 || rows.taken(r.Pos) {
		r.Pos = rows.next
	}
	rows.next = max(rows.next, r.Pos+posGap)
	c.Image = r.Image(tab)
	rows.insert(r, d.t)
	t.rows.set(r.ID, r, d.t)
	t.follow(nil, r)
	d.newRow = max(d.newRow, c.Row+1)
	return nil
}

func (d *Draft) move(c *Change, t *Tracker, from *TabShape, row *Row) error {
	target := d.tracker(c.ToTracker)
	if target == nil {
		return &Conflict{Change: *c, Reason: "the tracker it should go to is not there any more"}
	}
	to := target.TabByID(c.ToTab)
	if to == nil {
		return &Conflict{Change: *c, Reason: "the tab it should go to is not there any more"}
	}
	c.Pos = row.Pos
	t.ownTab(from.ID, d.t).remove(row.Pos, d.t)
	rows := target.ownTab(to.ID, d.t)
	if c.ToPos == 0 || rows.taken(c.ToPos) {
		c.ToPos = rows.next
	}
	rows.next = max(rows.next, c.ToPos+posGap)
	moved := row.relaid(from, to, c.ToPos, d.seq)
	rows.insert(moved, d.t)
	if target.ID != t.ID {
		t.rows.set(row.ID, nil, d.t)
		t.follow(row, nil)
		target.follow(nil, moved)
	} else {
		t.follow(row, moved)
	}
	target.rows.set(row.ID, moved, d.t)
	return nil
}

func columnName(t *Tracker, id ColumnID) string {
	if c := t.ColumnByID(id); c != nil {
		return c.Name
	}
	return id.String()
}

func quoted(v value.Value) string {
	if v.IsBlank() {
		return "blank"
	}
	return fmt.Sprintf("%q", v.String())
}
