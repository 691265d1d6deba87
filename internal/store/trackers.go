package store

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"example.org/kavlo/internal/sheet"
)

// Unreadable is a record that could not be read at a start. It stays in the file
// as it is and is left out of what runs.
type Unreadable struct {
	What string // tracker or row
	ID   string
	In   string // the tracker of a row
	Why  string
}

func (u Unreadable) String() string {
	in := ""
	if u.In != "" {
		in = " of tracker " + u.In
	}
	return fmt.Sprintf("%s %s%s cannot be read and was set aside: %s", u.What, u.ID, in, u.Why)
}

// Load gives every tracker with its rows; row versions are kept. A record that
// cannot be read is set aside and named, and keeps nothing else from being read.
func (s *Store) Load(ctx context.Context) (*sheet.Workspace, []Unreadable, error) {
	l := &loading{Loader: sheet.NewLoader(), known: map[sheet.TrackerID]bool{}}
	err := s.loadShapes(ctx, l, l.Tracker)
	if err != nil {
		return nil, nil, err
	}
	if err := s.loadRows(ctx, l, "", nil); err != nil {
		return nil, nil, err
	}
	return l.Done(), l.aside, nil
}

// LoadLazily gives every tracker, with rows that are read when they are first asked
// for; aside is told then of what could not be read.
func (s *Store) LoadLazily(ctx context.Context, aside func([]Unreadable)) (*sheet.Workspace, []Unreadable, error) {
	l := &loading{Loader: sheet.NewLoader(), known: map[sheet.TrackerID]bool{}}
	err := s.loadShapes(ctx, l, func(id sheet.TrackerID, version int64, shape *sheet.Shape) {
		l.Lazy(id, version, shape, func() (*sheet.Tracker, error) {
			own := &loading{Loader: sheet.NewLoader(), known: map[sheet.TrackerID]bool{id: true}}
			own.Tracker(id, version, shape)
			if err := s.loadRows(context.Background(), own, "WHERE tracker=?", []any{int64(id)}); err != nil {
				return nil, err
			}
			if len(own.aside) > 0 {
				aside(own.aside)
			}
			return own.Done().Tracker(id), nil
		})
	})
	return l.Done(), l.aside, err
}

func (s *Store) loadShapes(ctx context.Context, l *loading, add func(sheet.TrackerID, int64, *sheet.Shape)) error {
	rows, err := s.read.QueryContext(ctx, "SELECT id, version, shape FROM tracker ORDER BY id")
	if err != nil {
		return fmt.Errorf("loading trackers: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		var id sheet.TrackerID
		var version int64
		var text []byte
		if err := rows.Scan(&id, &version, &text); err != nil {
			return fmt.Errorf("loading trackers: %w", err)
		}
		shape := &sheet.Shape{}
		if err := json.Unmarshal(text, shape); err != nil {
			l.aside = append(l.aside, Unreadable{What: "tracker", ID: id.String(), Why: err.Error()})
			continue
		}
		l.known[id] = true
		add(id, version, shape)
	}
	if err := rows.Err(); err != nil {
		return fmt.Errorf("loading trackers: %w", err)
	}
	return nil
}

// loading is a load under way.
type loading struct {
	*sheet.Loader
	known map[sheet.TrackerID]bool
	aside []Unreadable
}

func (s *Store) loadRows(ctx context.Context, l *loading, which string, args []any) error {
	rows, err := s.read.QueryContext(ctx, "SELECT id, tracker, tab, pos, version, cells, coalesce(notes, ''), coalesce(looks, ''), coalesce(origin, '') FROM row "+which+" ORDER BY tracker, tab, pos", args...)
	if err != nil {
		return fmt.Errorf("loading rows: %w", err)
	}
	defer rows.Close()
	reader := newCellReader()
	for rows.Next() {
		var r storedRow
		if err := rows.Scan(&r.id, &r.tracker, &r.tab, &r.pos, &r.version, &r.cells, &r.notes, &r.looks, &r.origin); err != nil {
			return fmt.Errorf("loading rows: %w", err)
		}
		if !l.known[r.tracker] {
			continue // it was set aside with its tracker
		}
		if err := r.load(l, reader); err != nil {
			l.aside = append(l.aside, Unreadable{What: "row", ID: r.id.String(), In: r.tracker.String(), Why: err.Error()})
		}
	}
	return rows.Err()
}

// storedRow is a row as the file holds it.
type storedRow struct {
	id                  sheet.RowID
	tracker             sheet.TrackerID
	tab                 sheet.TabID
	pos, version        int64
	cells, notes, looks []byte
	origin              string
}

func (r *storedRow) load(l *loading, reader *cellReader) (err error) {
	besides := sheet.Besides{Origin: r.origin}
	if besides.Notes, err = readTexts(r.notes); err != nil {
		return fmt.Errorf("notes: %w", err)
	}
	if besides.Styles, err = readTexts(r.looks); err != nil {
		return fmt.Errorf("looks: %w", err)
	}
	img, err := reader.image(l.Tab(r.tracker, r.tab), r.cells, besides)
	if err != nil {
		return err
	}
	return l.Row(r.tracker, r.tab, r.id, r.version, img.At(r.pos))
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
		if c.Kind == sheet.Reshape || c.Kind == sheet.Grant {
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
	rowFields  = 10
	rowsAtOnce = 16 // rows that one statement adds where there are many
)

// appendRow gives the fields of a row in the order of the table.
func (b *Batch) appendRow(to []any, t *sheet.Tracker, row *sheet.Row) ([]any, error) {
	img := row.Image(t.TabOf(row))
	notes, err := texts(img.Notes())
	if err != nil {
		return nil, fmt.Errorf("writing the notes of row %s: %w", row.ID, err)
	}
	looks, err := texts(img.Styles())
	if err != nil {
		return nil, fmt.Errorf("writing the looks of row %s: %w", row.ID, err)
	}
	var origin any
	if o := img.Origin(); o != "" {
		origin = o
	}
	b.buf = appendCells(b.buf[:0], img)
	cells := string(b.buf)
	return append(to, int64(row.ID), int64(t.ID), int64(row.Tab), row.Pos, row.Version, cells, notes, looks, origin, sumOf(cells, notes, looks, origin)), nil
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
