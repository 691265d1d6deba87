// Package reconcile brings a tab into step with records from elsewhere: a list,
// or the table of a file. It compares by key and gives the changes that add
// what is new and update what differs; what is the same is left alone, so doing
// it twice changes nothing. It is part of the core: no I/O and no clock.
package reconcile

import (
	"fmt"
	"iter"
	"maps"
	"slices"
	"strings"

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
}

// Report tells what became of the records.
type Report struct {
	Added     int       `json:"added"`
	Updated   int       `json:"updated"`
	Unchanged int       `json:"unchanged"`
	Odd       int       `json:"odd"` // cells kept as odd
	Troubles  []Trouble `json:"troubles,omitempty"`
}

// Trouble is a record that was not taken, and why.
type Trouble struct {
	Where string `json:"where"`
	Key   string `json:"key,omitempty"`
	Why   string `json:"why"`
}

// Take applies to the draft what brings the tab into step with the records, of
// which it never holds more than one. An error among them ends it.
func Take(d *sheet.Draft, into Into, records iter.Seq2[Record, error]) (*Report, error) {
	t := d.Own(into.Tracker)
	if t == nil || t.TabByID(into.Tab) == nil {
		return nil, fmt.Errorf("taking records in: the tab is not there")
	}
	rep := &Report{}
	if into.Key == 0 {
		return rep, byOrigin(d, t, into, records, rep)
	}
	return rep, byKey(d, t, into, records, rep)
}

// byOrigin adds the records whose fingerprint the origin of no row of the tracker has,
// wherever that row has gone since.
func byOrigin(d *sheet.Draft, t *sheet.Tracker, into Into, records iter.Seq2[Record, error], rep *Report) error {
	seen := map[Fingerprint]int32{}
	for rec, err := range records {
		if err != nil {
			return err
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

func byKey(d *sheet.Draft, t *sheet.Tracker, into Into, records iter.Seq2[Record, error], rep *Report) error {
	taken := map[string]int{}
	slot := t.TabByID(into.Tab).Slot(into.Key)
	for rec, err := range records {
		if err != nil {
			return err
		}
		key := rec.Cells[slot]
		trouble := func(format string, args ...any) {
			rep.Troubles = append(rep.Troubles, Trouble{Where: into.Where(rec.Line), Key: key.String(), Why: fmt.Sprintf(format, args...)})
		}
		folded := value.Fold(key.String())
		first, twice := taken[folded]
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
		taken[folded] = rec.Line
		rows := slices.Collect(t.Holding(into.Key, key)) // in any tab: a row that moved on is still the one with that key
		if len(rows) == 0 {
			if err := add(d, into, rec, into.Origin, rep); err != nil {
				return err
			}
			continue
		}
		if len(rows) > 1 {
			trouble("%d rows of the tab have this key, so none was updated", len(rows))
			continue
		}
		changed, err := update(d, t, into, rec, rows[0].ID, rep)
		if err != nil {
			return err
		}
		if changed {
			rep.Updated++
		} else {
			rep.Unchanged++
		}
	}
	return nil
}

// there reports whether there is any such row.
func there(rows iter.Seq[*sheet.Row]) bool {
	for range rows {
		return true
	}
	return false
}

func add(d *sheet.Draft, into Into, rec Record, origin string, rep *Report) error {
	rep.Added++
	for _, v := range rec.Cells {
		if v.IsOdd() {
			rep.Odd++
		}
	}
	_, err := d.AddLaid(sheet.Place{Tracker: into.Tracker, Tab: into.Tab}, rec.Cells, into.Spoken, sheet.Besides{Notes: rec.Notes, Styles: rec.Styles, Origin: origin}, into.Because)
	return err
}

func update(d *sheet.Draft, t *sheet.Tracker, into Into, rec Record, id sheet.RowID, rep *Report) (bool, error) {
	changed := false
	tab := t.TabOf(t.Row(id))
	for i := range t.TabByID(into.Tab).Columns {
		column := t.TabByID(into.Tab).Columns[i].ID
		v, before := rec.Cells[i], t.Row(id).Get(tab, column)
		if !into.Spoken[i] || column == into.Key || before == v {
			continue
		}
		if v.IsOdd() {
			rep.Odd++
		}
		changed = true
		if err := d.Put(sheet.Cell{Tracker: into.Tracker, Row: id, Column: column}, v, into.Because); err != nil {
			return false, err
		}
	}
	for _, given := range []struct {
		kind  sheet.Kind
		texts map[sheet.ColumnID]string
	}{{sheet.Note, rec.Notes}, {sheet.Style, rec.Styles}} {
		for _, column := range slices.Sorted(maps.Keys(given.texts)) {
			text := given.texts[column]
			if strings.TrimSpace(t.Row(id).Texts(given.kind)[column]) == strings.TrimSpace(text) {
				continue
			}
			changed = true
			if err := d.Annotate(sheet.Cell{Tracker: into.Tracker, Row: id, Column: column}, given.kind, text, into.Because); err != nil {
				return false, err
			}
		}
	}
	return changed, nil
}
