package store

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"example.org/kavlo/internal/sheet"
)

// Load gives every tracker with its rows. Row versions are kept.
func (s *Store) Load(ctx context.Context) (*sheet.Workspace, error) {
	l := sheet.NewLoader()
	rows, err := s.read.QueryContext(ctx, "SELECT id, version, shape FROM tracker ORDER BY id")
	if err != nil {
		return nil, fmt.Errorf("loading trackers: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		var id sheet.TrackerID
		var version int64
		var text []byte
		if err := rows.Scan(&id, &version, &text); err != nil {
			return nil, fmt.Errorf("loading trackers: %w", err)
		}
		shape := &sheet.Shape{}
		if err := json.Unmarshal(text, shape); err != nil {
			return nil, fmt.Errorf("loading tracker %s: %w", id, err)
		}
		l.Tracker(id, version, shape)
	}
	if err := rows.Err(); err != nil {
		return nil, fmt.Errorf("loading trackers: %w", err)
	}
	if err := s.loadRows(ctx, l); err != nil {
		return nil, err
	}
	return l.Done(), nil
}

func (s *Store) loadRows(ctx context.Context, l *sheet.Loader) error {
	rows, err := s.read.QueryContext(ctx, "SELECT id, tracker, tab, pos, version, cells, coalesce(notes, ''), coalesce(looks, ''), coalesce(origin, '') FROM row ORDER BY tracker, tab, pos")
	if err != nil {
		return fmt.Errorf("loading rows: %w", err)
	}
	defer rows.Close()
	reader := newCellReader()
	for rows.Next() {
		var id sheet.RowID
		var tracker sheet.TrackerID
		var tab sheet.TabID
		var version int64
		var pos int64
		var cells, notes, looks []byte
		var besides sheet.Besides
		if err := rows.Scan(&id, &tracker, &tab, &pos, &version, &cells, &notes, &looks, &besides.Origin); err != nil {
			return fmt.Errorf("loading rows: %w", err)
		}
		if besides.Notes, err = readTexts(notes); err != nil {
			return fmt.Errorf("loading row %s: notes: %w", id, err)
		}
		if besides.Looks, err = readTexts(looks); err != nil {
			return fmt.Errorf("loading row %s: looks: %w", id, err)
		}
		img, err := reader.image(l.Tab(tracker, tab), cells, besides)
		if err == nil {
			err = l.Row(tracker, tab, id, version, img.At(pos))
		}
		if err != nil {
			return fmt.Errorf("loading row %s: %w", id, err)
		}
	}
	return rows.Err()
}

// Save writes what changes did: each touched tracker's shape and each touched
// row as it now stands in the workspace.
func (b *Batch) Save(ctx context.Context, w *sheet.Workspace, changes []sheet.Change) error {
	for i := range changes {
		if c := &changes[i]; c.Kind == sheet.Reshape {
			if err := b.saveShape(ctx, w, c); err != nil {
				return err
			}
		}
	}
	if onlyAdds(changes) {
		return b.addRows(ctx, w, changes)
	}
	if err := b.saveRows(ctx, w, changes); err != nil {
		return err
	}
	return b.dropTrackers(ctx, changes)
}

// onlyAdds reports whether each change adds a row of its own or alters a shape,
// as an import's do. They are then written as they come, with no account kept
// of each row's fate.
func onlyAdds(changes []sheet.Change) bool {
	var last sheet.RowID
	for i := range changes {
		switch c := &changes[i]; {
		case c.Kind == sheet.Reshape && c.ShapeAfter != nil:
		case c.Kind == sheet.Add && c.Row > last:
			last = c.Row
		default:
			return false
		}
	}
	return true
}

func (b *Batch) addRows(ctx context.Context, w *sheet.Workspace, changes []sheet.Change) error {
	fresh := newRows{b: b}
	for i := range changes {
		if c := &changes[i]; c.Kind == sheet.Add {
			t := w.Tracker(c.Tracker)
			if err := fresh.put(ctx, t, t.Row(c.Row)); err != nil {
				return err
			}
		}
	}
	return fresh.flush(ctx)
}

// newRows writes new rows, many by one statement.
type newRows struct {
	b      *Batch
	fields []any
}

func (n *newRows) put(ctx context.Context, t *sheet.Tracker, row *sheet.Row) (err error) {
	if n.fields, err = n.b.appendRow(n.fields, t, row); err != nil {
		return err
	}
	if len(n.fields) < rowsAtOnce*rowFields {
		return nil
	}
	err = n.b.exec(ctx, "rows put", n.fields...)
	n.fields = n.fields[:0]
	return err
}

func (n *newRows) flush(ctx context.Context) error {
	for one := range slices.Chunk(n.fields, rowFields) {
		if err := n.b.exec(ctx, "row put", one...); err != nil {
			return err
		}
	}
	return nil
}

// saveRows writes each row that changes touched as it now stands.
func (b *Batch) saveRows(ctx context.Context, w *sheet.Workspace, changes []sheet.Change) error {
	last := make(map[sheet.RowID]rowFate, len(changes))
	order := make([]sheet.RowID, 0, len(changes))
	fresh := newRows{b: b}
	for i := range changes {
		c := &changes[i]
		if c.Kind == sheet.Reshape {
			continue
		}
		fate, seen := last[c.Row]
		if !seen {
			order = append(order, c.Row)
			fate.onlyMoved, fate.sameTracker = true, true
			fate.isNew = c.Kind == sheet.Add
		}
		fate.tracker = c.Tracker
		if c.Kind == sheet.Move {
			fate.tracker = c.ToTracker
			fate.sameTracker = fate.sameTracker && c.Tracker == c.ToTracker
		} else {
			fate.onlyMoved = false
		}
		last[c.Row] = fate
	}
	for _, id := range order {
		fate := last[id]
		var err error
		if t := w.Tracker(fate.tracker); fate.isNew && t != nil && t.Row(id) != nil {
			err = fresh.put(ctx, t, t.Row(id))
		} else {
			err = b.saveRow(ctx, w, id, fate)
		}
		if err != nil {
			return err
		}
	}
	return fresh.flush(ctx)
}

type rowFate struct {
	tracker     sheet.TrackerID
	onlyMoved   bool // its cells are as stored
	sameTracker bool
	isNew       bool
}

func (b *Batch) saveRow(ctx context.Context, w *sheet.Workspace, id sheet.RowID, fate rowFate) error {
	t := w.Tracker(fate.tracker)
	var row *sheet.Row
	if t != nil {
		row = t.Row(id)
	}
	if row == nil {
		return b.exec(ctx, "row drop", int64(id))
	}
	if fate.onlyMoved && fate.sameTracker { // the tracker's index need not be touched
		return b.exec(ctx, "row shift", int64(row.Tab), row.Pos, row.Version, int64(id))
	}
	if fate.onlyMoved {
		return b.exec(ctx, "row place", int64(t.ID), int64(row.Tab), row.Pos, row.Version, int64(id))
	}
	args, err := b.appendRow(nil, t, row)
	if err != nil {
		return err
	}
	if fate.sameTracker && !fate.isNew {
		return b.exec(ctx, "row set", append(args[2:], args[0])...)
	}
	return b.exec(ctx, "row put", args...)
}

const (
	rowFields  = 9
	rowsAtOnce = 16 // rows that one statement adds where there are many
)

// appendRow gives the fields of a row in the order of the table.
func (b *Batch) appendRow(to []any, t *sheet.Tracker, row *sheet.Row) ([]any, error) {
	img := row.Image(t.TabOf(row))
	notes, err := texts(img.Notes())
	if err != nil {
		return nil, fmt.Errorf("writing the notes of row %s: %w", row.ID, err)
	}
	looks, err := texts(img.Looks())
	if err != nil {
		return nil, fmt.Errorf("writing the looks of row %s: %w", row.ID, err)
	}
	var origin any
	if o := img.Origin(); o != "" {
		origin = o
	}
	b.buf = appendCells(b.buf[:0], img)
	return append(to, int64(row.ID), int64(t.ID), int64(row.Tab), row.Pos, row.Version, string(b.buf), notes, looks, origin), nil
}

// texts writes texts by column as JSON; nil for none.
func texts(of map[sheet.ColumnID]string) (any, error) {
	if len(of) == 0 {
		return nil, nil
	}
	text, err := json.Marshal(of)
	return string(text), err
}

func readTexts(text []byte) (map[sheet.ColumnID]string, error) {
	if len(text) == 0 {
		return nil, nil
	}
	var out map[sheet.ColumnID]string
	err := json.Unmarshal(text, &out)
	return out, err
}

func (b *Batch) saveShape(ctx context.Context, w *sheet.Workspace, c *sheet.Change) error {
	t := w.Tracker(c.Tracker)
	if t == nil {
		return nil // dropped once its rows are gone
	}
	text, err := json.Marshal(t.Shape)
	if err != nil {
		return fmt.Errorf("writing tracker %s: %w", c.Tracker, err)
	}
	_, err = b.tx.ExecContext(ctx, `INSERT INTO tracker(id, name, version, shape) VALUES (?,?,?,?)
	 ON CONFLICT(id) DO UPDATE SET name=excluded.name, version=excluded.version, shape=excluded.shape`, int64(t.ID), t.Name, t.Version, string(text))
	if err != nil {
		return fmt.Errorf("writing tracker %s: %w", c.Tracker, err)
	}
	return nil
}

func (b *Batch) dropTrackers(ctx context.Context, changes []sheet.Change) error {
	for i := range changes {
		if c := &changes[i]; c.Kind == sheet.Reshape && c.ShapeAfter == nil {
			if _, err := b.tx.ExecContext(ctx, "DELETE FROM tracker WHERE id=?", int64(c.Tracker)); err != nil {
				return fmt.Errorf("dropping tracker %s: %w", c.Tracker, err)
			}
		}
	}
	return nil
}
