package reconcile

import (
	"bytes"
	"cmp"
	"encoding/binary"
	"slices"
	"strings"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// marks gives the marks of what a record says.
func (into *Into) marks(t *sheet.Tracker, rec *Record) CellMarks {
	out := CellMarks{}
	columns := t.TabByID(into.Tab).Columns
	for i := range columns {
		if into.Spoken[i] {
			id := columns[i].ID
			out[id] = CellMarkOf(rec.Cells[i], rec.Notes[id], rec.Styles[id])
		}
	}
	return out
}

// ordered gives the places of the tab's columns that records speak of, by their ids.
func (into *Into) ordered(columns []sheet.Column) []int {
	if into.order == nil {
		for i := range columns {
			if into.Spoken[i] {
				into.order = append(into.order, i)
			}
		}
		slices.SortFunc(into.order, func(a, b int) int { return cmp.Compare(columns[a].ID, columns[b].ID) })
	}
	return into.order
}

// said gives what CellMarks.Bytes would of a record's marks. It is lent until the next.
func (into *Into) said(columns []sheet.Column, rec *Record) []byte {
	out := into.room[:0]
	for _, i := range into.ordered(columns) {
		id := columns[i].ID
		m := CellMarkOf(rec.Cells[i], rec.Notes[id], rec.Styles[id])
		out = binary.AppendUvarint(out, uint64(id)) //nolint:gosec // ids count from 1
		out = binary.BigEndian.AppendUint32(out, m.Value)
		out = binary.BigEndian.AppendUint32(out, m.Dress)
	}
	into.room = out
	return out
}

// unchanged reports whether a record is as its row was when the file was written.
// differ counts the cells of a row that are not what a record says.
func (into *Into) differ(t *sheet.Tracker, columns []sheet.Column, rec *Record, id sheet.RowID) (n int) {
	row := t.Row(id)
	tab := t.TabOf(row)
	for _, i := range into.ordered(columns) {
		if columns[i].ID != into.Key && row.Get(tab, columns[i].ID) != rec.Cells[i] {
			n++
		}
	}
	return n
}

func (into *Into) unchanged(t *sheet.Tracker, rec *Record) bool {
	for id, m := range into.marks(t, rec) {
		if was, marked := rec.Marks[id]; marked && was != m {
			return false
		}
	}
	return true
}

// otherwise gives what was said last time of a row that went by something else then: by
// another column, by itself, or by nothing; nil where nothing was.
func (into *Into) otherwise(t *sheet.Tracker, row *sheet.Row) []byte {
	if last := into.Last(row.ID.String()); last != nil {
		return last
	}
	tab := t.TabOf(row)
	for i := range tab.Columns {
		if c := &tab.Columns[i]; c.ID != into.Key && !c.Computed() && !row.Get(tab, c.ID).IsBlank() {
			v := row.Get(tab, c.ID)
			if last := into.Last(KeyOf(c.ID, v)); last != nil && only(t.Holding(c.ID, v)) {
				return last
			}
		}
	}
	if into.Made != nil {
		return into.Made(row.ID)
	}
	return nil
}

// update brings a row into step with a record. What has changed here since the file last
// said something, and not in the file, stays; what has changed on both sides is held.
func update(d *sheet.Draft, t *sheet.Tracker, into *Into, rec *Record, id sheet.RowID, key string, rep *Report) error {
	columns := t.TabByID(into.Tab).Columns
	var last []byte
	if into.Last != nil {
		if last = into.Last(key); last == nil && rec.Marks == nil {
			last = into.otherwise(t, t.Row(id))
		}
	}
	if last != nil && bytes.Equal(last, into.said(columns, rec)) { // the file says what it said
		rep.Unchanged++
		rep.Kept += into.differ(t, columns, rec, id)
		return nil
	}
	u := &updating{draft: d, tracker: t, into: into, rec: rec, id: id, rep: rep, last: rec.Marks, marks: into.marks(t, rec)}
	known := last != nil
	if known {
		u.last = ParseCellMarks(last)
	}
	for i := range columns {
		if !into.Spoken[i] {
			continue
		}
		if columns[i].ID != into.Key {
			if err := u.value(columns[i].ID, rec.Cells[i]); err != nil {
				return err
			}
		}
		if err := u.dress(columns[i].ID); err != nil {
			return err
		}
	}
	if u.changed {
		rep.Updated++
	} else {
		rep.Unchanged++
	}
	for id, m := range u.last { // of columns that this file does not speak of
		if _, spoken := u.marks[id]; !spoken && known {
			u.marks[id] = m
		}
	}
	if !known || !u.marks.same(u.last) {
		rep.said.New[key] = u.marks
	}
	return nil
}

// updating is a row that is brought into step.
type updating struct {
	draft   *sheet.Draft
	tracker *sheet.Tracker
	into    *Into
	rec     *Record
	id      sheet.RowID
	rep     *Report
	last    CellMarks // what the file said last time, or nil
	marks   CellMarks // what it says now
	changed bool
}

// whose says which value stands: the file's, or the one here, which is then held where
// the file has another.
func (u *updating) whose(known bool, last, file, here uint32) (takes, held bool) {
	switch {
	case !known:
		return true, false
	case file == last:
		u.rep.Kept++
		return false, false
	case here == last, u.into.Prefer == PreferFile:
		return true, false
	case u.into.Prefer == PreferHere:
		u.rep.Kept++
		return false, false
	}
	return false, true
}

func (u *updating) value(column sheet.ColumnID, v value.Value) error {
	row := u.tracker.Row(u.id)
	before := row.Get(u.tracker.TabOf(row), column)
	if before == v {
		return nil
	}
	last, known := u.last[column]
	takes, held := u.whose(known, last.Value, u.marks[column].Value, CellMarkOf(before, "", "").Value)
	if held {
		u.hold(column, "", before.String(), v.String())
		u.marks[column] = CellMark{last.Value, u.marks[column].Dress}
	}
	if !takes {
		return nil
	}
	if v.IsOdd() {
		u.rep.Odd++
	}
	u.changed = true
	return u.draft.Put(sheet.Cell{Tracker: u.into.Tracker, Row: u.id, Column: column}, v, u.into.Because)
}

// dress brings a cell's note and style into step. A file that is new takes nothing away.
func (u *updating) dress(column sheet.ColumnID) error {
	row := u.tracker.Row(u.id)
	note, style := row.Notes()[column], row.Styles()[column]
	fileNote, fileStyle := u.rec.Notes[column], u.rec.Styles[column]
	if strings.TrimSpace(note) == strings.TrimSpace(fileNote) && style == fileStyle {
		return nil
	}
	last, known := u.last[column]
	takes, held := u.whose(known, last.Dress, u.marks[column].Dress, CellMarkOf(value.Value{}, note, style).Dress)
	if held {
		u.hold(column, "note or style of ", strings.TrimSpace(note+" "+style), strings.TrimSpace(fileNote+" "+fileStyle))
		u.marks[column] = CellMark{u.marks[column].Value, last.Dress}
	}
	if !takes {
		return nil
	}
	at := sheet.Cell{Tracker: u.into.Tracker, Row: u.id, Column: column}
	for _, given := range []struct {
		kind      sheet.Kind
		here, has string
	}{{sheet.Note, note, fileNote}, {sheet.Style, style, fileStyle}} {
		if strings.TrimSpace(given.here) == strings.TrimSpace(given.has) || given.has == "" && !known {
			continue
		}
		u.changed = true
		if err := u.draft.Annotate(at, given.kind, given.has, u.into.Because); err != nil {
			return err
		}
	}
	return nil
}

func (u *updating) hold(column sheet.ColumnID, what, here, file string) {
	row := u.tracker.Row(u.id)
	name := column.String()
	if c := u.tracker.ColumnByID(column); c != nil {
		name = c.Name
	}
	u.rep.Held = append(u.rep.Held, Held{Row: u.id.String(), Label: u.tracker.Label(row), Column: what + name, Here: here, File: file})
}
