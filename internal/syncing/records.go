package syncing

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"example.org/kavlo/internal/local"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// readEntries reads a list's records into the types of the tab's columns.
func (j *syncJob) readEntries(ctx context.Context, t *sheet.Tracker, entries []reconcile.Entry) error {
	tab := t.TabByID(j.sync.Tab)
	form := t.Form(j.d.Writing(ctx))
	key := tab.ByID(j.sync.Key)
	columns := make([]*sheet.Column, len(j.sync.Fields))
	for i, f := range j.sync.Fields {
		columns[i] = tab.ByID(f.Column)
		if columns[i] == nil {
			return fmt.Errorf("the column %s of sync %s is not there any more", f.Column, j.part.Name)
		}
	}
	if key == nil {
		return fmt.Errorf("the key column of sync %s is not there any more", j.part.Name)
	}
	j.into.Marks = nil
	for _, m := range j.sync.Marks {
		c := tab.ByID(m.Column)
		v, _, err := form.Read(m.Value, c.Type)
		if err != nil {
			return fmt.Errorf("what marks rows in %s: %w", c.Name, err)
		}
		j.into.Marks = append(j.into.Marks, reconcile.Marking{Column: m.Column, Value: v})
	}
	j.shape, j.entries = t.Shape, entries
	j.unread, j.unknown, j.bad = map[string]bool{}, 0, nil
	j.items = make([]reconcile.Item, 0, len(entries))
	fields := make([]value.Value, len(entries)*len(columns))
	for i := range entries {
		e := &entries[i]
		var it reconcile.Item
		var err error
		if it.Key, err = readField(e.Doc, j.sync.From, key, form); err != nil {
			j.unknown++
			j.cannotRead(e, "", err)
			continue
		}
		it.Fields, fields = fields[:len(columns):len(columns)], fields[len(columns):]
		for f, c := range columns {
			if it.Fields[f], err = readField(e.Doc, j.sync.Fields[f].From, c, form); err != nil {
				j.unread[reconcile.Fold(it.Key)] = true
				j.cannotRead(e, it.Key.String(), err)
				break
			}
		}
		it.ID, it.At = e.ID, i
		if it.ID == "" {
			it.ID = it.Key.String()
		}
		it.Version = e.Version
		if !e.Changed.IsZero() {
			it.Changed = e.Changed.Unix()
		}
		j.items = append(j.items, it)
	}
	return nil
}

// mostUnread is how many records that cannot be read are named one by one.
const mostUnread = 100

// cannotRead names a record that cannot be read; the others go on.
func (j *syncJob) cannotRead(e *reconcile.Entry, key string, err error) {
	if len(j.bad) < mostUnread {
		j.bad = append(j.bad, reconcile.Trouble{Where: e.Where, Key: key, Why: "the record cannot be read: " + err.Error()})
	}
}

// readField reads one field of a record. What does not fit becomes odd; text
// that is there but blank is blank.
func readField(doc any, pointer string, c *sheet.Column, form *local.Form) (value.Value, error) {
	raw, err := reconcile.Pointer(doc, pointer)
	if err != nil {
		return value.Value{}, fmt.Errorf("field %s: %w", pointer, err)
	}
	if nested, ok := raw.(map[string]any); ok {
		text, err := json.Marshal(nested)
		if err != nil {
			return value.Value{}, err
		}
		raw = string(text)
	}
	v, _, err := form.Read(raw, c.Type)
	var misfit *value.Misfit
	if errors.As(err, &misfit) {
		return value.OfOdd(misfit.Text), nil
	}
	return v, err
}
