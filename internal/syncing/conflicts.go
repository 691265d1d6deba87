package syncing

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
)

// PendingConflict is a conflict that waits for a person, field by field.
type PendingConflict struct {
	Key    string          `json:"key"`
	Row    string          `json:"row,omitempty"`
	Label  string          `json:"label,omitempty"`
	Lost   string          `json:"lost,omitempty"` // the side that has lost what the other changed: list, tab
	Seen   string          `json:"seen"`
	Fields []ConflictField `json:"fields"`
	Since  time.Time       `json:"since,omitzero"`
	Sync   string          `json:"sync,omitempty"`
}

// ConflictField is one field that both sides changed.
type ConflictField struct {
	Column string `json:"column"`
	Before any    `json:"before"`
	List   any    `json:"list"`
	Tab    any    `json:"tab"`
}

func (j *syncJob) conflict(t *sheet.Tracker, tab *sheet.TabShape, o *reconcile.Outcome) PendingConflict {
	h := PendingConflict{Key: o.Key.String(), Seen: o.Seen, Lost: string(o.Lost)}
	if o.Tab != nil {
		if r := t.Row(o.Tab.Row); r != nil {
			h.Row, h.Label = r.ID.String(), t.Label(r)
		}
	}
	for _, f := range o.Clash {
		c := tab.ByID(j.into.Columns[f])
		hf := ConflictField{Column: c.Name}
		if o.Base != nil && f < len(o.Base.Fields) {
			hf.Before = o.Base.Fields[f].JSON(c.Type)
		}
		if o.List != nil {
			hf.List = o.List.Fields[f].JSON(c.Type)
		}
		if o.Tab != nil {
			hf.Tab = o.Tab.Fields[f].JSON(c.Type)
		}
		h.Fields = append(h.Fields, hf)
	}
	return h
}

// writeConflicts brings the queue of the sync's conflicts up to date.
func (j *syncJob) writeConflicts(ctx context.Context, b *store.Batch) error {
	now := map[string]bool{}
	for i := range j.detail.Conflicts {
		h := &j.detail.Conflicts[i]
		key := value.Fold(h.Key)
		now[key] = true
		body, err := json.Marshal(h)
		if err != nil {
			return err
		}
		if err := b.PutConflict(ctx, &store.PendingConflict{Tracker: j.tracker, Sync: j.part.ID, Key: key, Since: j.d.Now(), Body: body}); err != nil {
			return err
		}
	}
	had, err := j.d.store.PendingConflicts(ctx, j.tracker)
	if err != nil {
		return err
	}
	for _, h := range had {
		if _, asked := j.how.Decided[h.Key]; h.Sync != j.part.ID || now[h.Key] || j.how.Decided != nil && !asked {
			continue
		}
		if err := b.DropConflict(ctx, j.tracker, j.part.ID, h.Key); err != nil {
			return err
		}
	}
	return nil
}

// Conflicts gives the conflicts of a tracker that wait for a person, oldest
// first; of one sync, unless sync is nil.
func (syncs *Syncs) Conflicts(ctx context.Context, t *sheet.Tracker, sync *sheet.Definition) ([]PendingConflict, error) {
	held, err := syncs.store.PendingConflicts(ctx, t.ID)
	if err != nil {
		return nil, err
	}
	out := []PendingConflict{}
	for _, h := range held {
		p := t.DefinitionByID(h.Sync)
		if p == nil || sync != nil && sync.ID != p.ID { // of a sync that has been dropped
			continue
		}
		var c PendingConflict
		if err := json.Unmarshal(h.Body, &c); err != nil {
			return nil, fmt.Errorf("reading the conflict on %s: %w", h.Key, err)
		}
		c.Since, c.Sync = h.Since, p.Name
		out = append(out, c)
	}
	return out, nil
}

// Decide turns a person's word on held conflicts into decisions: of the keys
// given, or of every one that waits.
func (syncs *Syncs) Decide(ctx context.Context, t *sheet.Tracker, sync *sheet.Definition, keys []string, winner reconcile.Winner) (map[string]reconcile.Decision, error) {
	held, err := syncs.Conflicts(ctx, t, sync)
	if err != nil {
		return nil, err
	}
	out := map[string]reconcile.Decision{}
	names := make([]string, len(held))
	for i, h := range held {
		names[i] = h.Key
		if len(keys) == 0 {
			out[value.Fold(h.Key)] = reconcile.Decision{Winner: winner, Seen: h.Seen}
		}
	}
	for _, key := range keys {
		found := false
		for _, h := range held {
			if value.EqualText(h.Key, key) {
				found = true
				out[value.Fold(h.Key)] = reconcile.Decision{Winner: winner, Seen: h.Seen}
			}
		}
		if !found {
			return nil, &sheet.NotFound{What: "held conflict", Name: key, In: sync.Name, Nearest: value.Nearest(key, names)}
		}
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("no conflict of sync %s waits for anybody", sync.Name)
	}
	return out, nil
}
