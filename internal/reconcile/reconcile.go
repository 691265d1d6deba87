// Package reconcile brings a tab into step with records from elsewhere: a list,
// or the table of a file. It compares by key and gives the changes that add
// what is new and update what differs; what is the same is left alone, so doing
// it twice changes nothing. It is part of the core: no I/O and no clock.
package reconcile

import (
	"fmt"
	"iter"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Record is one record from elsewhere, already read into the types of the
// tab's columns. Its cells, notes and looks are given, not lent.
type Record struct {
	Line        int           // which one it is; see Into.Where
	Cells       []value.Value // in the order of the tab's columns; see Into.Spoken
	Notes       map[sheet.ColumnID]string
	Styles      map[sheet.ColumnID]string // as value.CellStyle writes them
	Fingerprint Fingerprint
	Row         sheet.RowID // the row that it is, where the file knows; or 0
	Marks       CellMarks   // how that row was when the file was written
}

// Fingerprint makes a record recognisable without a key: a hash of all that it says.
type Fingerprint [12]byte

// Into says where the records go.
type Into struct {
	Tracker sheet.TrackerID
	Tab     sheet.TabID
	Key     sheet.ColumnID // 0: records are recognised by their fingerprints
	Origin  string         // of rows that are added
	Because int            // index of the cause
	Spoken  []bool         // which of the tab's columns the records speak of
	Where   func(line int) string
	// Last gives what was said last time of what goes by a key (see KeyOf), as CellMarks.Bytes
	// writes it; nil where nothing was.
	Last func(key string) []byte
	// Made gives the marks of a row as an import without a key added it; nil where none did.
	Made func(sheet.RowID) []byte
	// Prefer says whose value a cell takes that has changed on both sides.
	Prefer Prefer

	order []int  // see ordered
	room  []byte // see said
}

// Prefer says whose value stands where both sides have changed.
type Prefer string

// Neither leaves the value as it is here, and names it; so do the others, as one side has it.
const (
	Neither    Prefer = ""
	PreferFile Prefer = "file"
	PreferHere Prefer = "here"
)

// KeyOf gives what a record found by a column goes by from one time to the next.
func KeyOf(column sheet.ColumnID, key value.Value) string {
	return column.String() + ":" + value.Fold(key.String())
}

// Report tells what became of the records.
type Report struct {
	Added     int       `json:"added"`
	Updated   int       `json:"updated"`
	Unchanged int       `json:"unchanged"`
	Odd       int       `json:"odd"`            // cells kept as odd
	Kept      int       `json:"kept,omitempty"` // cells that have changed here and not in the file
	Troubles  []Trouble `json:"troubles,omitempty"`
	Held      []Held    `json:"held,omitempty"`

	said Said
}

// Said is what a file said, by what its rows go by.
type Said struct {
	New map[string]CellMarks // what is to be kept, where it is not what was said last time
	Met map[string]int       // all that the file holds, with its place there
}

// Bare gives the report without what the records said.
func (r *Report) Bare() Report {
	out := *r
	out.said = Said{}
	return out
}

// Said gives what the records said.
func (r *Report) Said() Said { return r.said }

// Held is a cell that has changed both here and in the file.
type Held struct {
	Row    string `json:"row"`
	Label  string `json:"label"`
	Column string `json:"column"`
	Here   string `json:"here"`
	File   string `json:"file"`
}

// Trouble is a record that was not taken, and why.
type Trouble struct {
	Where string `json:"where"`
	Key   string `json:"key,omitempty"`
	Why   string `json:"why"`
}

// Take applies to the draft what brings the tab into step with the records, of
// which it never holds more than one. An error among them ends it.
func Take(d *sheet.Draft, given Into, records iter.Seq2[Record, error]) (*Report, error) {
	into := &given
	t := d.Own(into.Tracker)
	if t == nil || t.TabByID(into.Tab) == nil {
		return nil, fmt.Errorf("taking records in: the tab is not there")
	}
	rep := &Report{said: Said{map[string]CellMarks{}, map[string]int{}}}
	if into.Key == 0 {
		return rep, byOrigin(d, t, into, records, rep)
	}
	return rep, byKey(d, t, into, records, rep)
}

// byOrigin adds the records whose fingerprint the origin of no row of the tracker has,
// wherever that row has gone since.
func byOrigin(d *sheet.Draft, t *sheet.Tracker, into *Into, records iter.Seq2[Record, error], rep *Report) error {
	seen := map[Fingerprint]int32{}
	for rec, err := range records {
		if err != nil {
			return err
		}
		done, err := byIdentity(d, t, into, rec, rep)
		if err != nil {
			return err
		}
		if done {
			continue
		}
		seen[rec.Fingerprint]++
		origin := fmt.Sprintf("%s %x #%d", into.Origin, rec.Fingerprint, seen[rec.Fingerprint]) // the same row twice in a file is two rows
		if there(t.From(origin)) {
			rep.Unchanged++
			continue
		}
		if err := add(d, into, rec, origin, rep); err != nil {
			return err
		}
	}
	return nil
}

func byKey(d *sheet.Draft, t *sheet.Tracker, into *Into, records iter.Seq2[Record, error], rep *Report) error {
	slot := t.TabByID(into.Tab).Slot(into.Key)
	for rec, err := range records {
		if err != nil {
			return err
		}
		done, err := byIdentity(d, t, into, rec, rep)
		if err != nil {
			return err
		}
		if done {
			continue
		}
		key := rec.Cells[slot]
		trouble := func(format string, args ...any) {
			rep.Troubles = append(rep.Troubles, Trouble{Where: into.Where(rec.Line), Key: key.String(), Why: fmt.Sprintf(format, args...)})
		}
		said := KeyOf(into.Key, key)
		first, twice := rep.said.Met[said]
		switch {
		case key.IsBlank():
			trouble("its key is blank")
			continue
		case key.IsOdd():
			trouble("its key %q does not fit the key column", key.String())
			continue
		case twice:
			trouble("%s has the same key", into.Where(first))
			continue
		}
		rep.said.Met[said] = rec.Line
		row, rows := (*sheet.Row)(nil), 0
		for r := range t.Holding(into.Key, key) { // in any tab: a row that moved on is still the one with that key
			row = r
			rows++
		}
		if rows == 0 {
			if err := add(d, into, rec, into.Origin, rep); err != nil {
				return err
			}
			rep.said.New[said] = into.marks(t, &rec)
			continue
		}
		if rows > 1 {
			trouble("%d rows of the tab have this key, so none was updated", rows)
			continue
		}
		if err := update(d, t, into, &rec, row.ID, said, rep); err != nil {
			return err
		}
	}
	return nil
}

// byIdentity updates the row that a record says it is, in whatever tab it is now; the
// second record that says so is another row.
func byIdentity(d *sheet.Draft, t *sheet.Tracker, into *Into, rec Record, rep *Report) (bool, error) {
	if rec.Row == 0 {
		return false, nil
	}
	said := rec.Row.String()
	if _, twice := rep.said.Met[said]; twice {
		return false, nil
	}
	rep.said.Met[said] = rec.Line
	if t.Row(rec.Row) == nil {
		if into.unchanged(t, &rec) {
			rep.Unchanged++
		} else {
			rep.Troubles = append(rep.Troubles, Trouble{Where: into.Where(rec.Line), Key: said, Why: "it was changed in the file, and its row is not in this tracker any more"})
		}
		return true, nil
	}
	return true, update(d, t, into, &rec, rec.Row, said, rep)
}

// there reports whether there is any such row.
func there(rows iter.Seq[*sheet.Row]) bool {
	for range rows {
		return true
	}
	return false
}

// only reports whether there is one such row.
func only(rows iter.Seq[*sheet.Row]) bool {
	n := 0
	for range rows {
		n++
	}
	return n == 1
}

func add(d *sheet.Draft, into *Into, rec Record, origin string, rep *Report) error {
	rep.Added++
	for _, v := range rec.Cells {
		if v.IsOdd() {
			rep.Odd++
		}
	}
	_, err := d.AddLaid(sheet.Place{Tracker: into.Tracker, Tab: into.Tab}, rec.Cells, into.Spoken, sheet.Besides{Notes: rec.Notes, Styles: rec.Styles, Origin: origin}, into.Because)
	return err
}
