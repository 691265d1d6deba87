package syncing

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"

	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// ListWrite is one write to a list, made or to be made.
type ListWrite struct {
	Kind   string       `json:"kind"` // add, change, remove
	Key    string       `json:"key"`
	Fields []FieldWrite `json:"fields,omitempty"`
	State  string       `json:"state,omitempty"` // sent, refused, not sent; "" in a preview
	Why    string       `json:"why,omitempty"`
}

// FieldWrite is one field of such a write.
type FieldWrite struct {
	Column string `json:"column"`
	Before any    `json:"before"`
	After  any    `json:"after"`
}

// describe says what the plan would do, for a preview and for the record.
func (j *syncJob) describe(t *sheet.Tracker) {
	tab := t.TabByID(j.sync.Tab)
	d := j.detail
	d.Counts = j.plan.Counts()
	d.Troubles = j.plan.Troubles
	for i := range j.plan.Outcomes {
		o := &j.plan.Outcomes[i]
		if o.Kind == reconcile.Conflict {
			d.Conflicts = append(d.Conflicts, j.conflict(t, tab, o))
		}
		if o.Kind == reconcile.AddToTab || len(o.ToTab) > 0 {
			for f := range o.List.Fields {
				if o.List.Fields[f].IsOdd() {
					d.Odd++
				}
			}
		}
		if o.Sends() {
			d.add(j.listWrite(tab, o))
		}
	}
}

func (d *Detail) add(w ListWrite) {
	if len(d.Writes) >= mostWrites && w.State != "refused" {
		d.More++
		return
	}
	d.Writes = append(d.Writes, w)
}

func (j *syncJob) listWrite(tab *sheet.TabShape, o *reconcile.Outcome) ListWrite {
	w := ListWrite{Kind: "change", Key: o.Key.String()}
	switch o.Kind {
	case reconcile.AddToList:
		w.Kind = "add"
	case reconcile.GoneTab:
		w.Kind = "remove"
		return w
	}
	if o.Rekey == reconcile.ByTab {
		c := tab.ByID(j.sync.Key)
		w.Key = o.List.Key.String()
		w.Fields = append(w.Fields, FieldWrite{Column: c.Name, Before: o.List.Key.JSON(c.Type), After: o.Tab.Key.JSON(c.Type)})
	}
	for _, f := range o.ToList {
		c := tab.ByID(j.into.Columns[f])
		fw := FieldWrite{Column: c.Name, After: o.Tab.Fields[f].JSON(c.Type)}
		if o.List != nil {
			fw.Before = o.List.Fields[f].JSON(c.Type)
		}
		w.Fields = append(w.Fields, fw)
	}
	return w
}

// noteEvery is how many writes to a list may be forgotten by a sudden stop; the
// next sync then finds both sides alike.
const noteEvery = 20

// send writes to the list what it is to take, one record at a time. What has
// been sent is then part of the list as the job knows it. A list that cannot be
// written any more ends it; what is left waits for the next sync.
func (j *syncJob) send(ctx context.Context) error {
	tab := j.shape.TabByID(j.sync.Tab)
	d := j.detail
	d.Writes, d.More, d.AddList, d.UpdateList, d.GoneTab, d.Troubles = nil, 0, 0, 0, 0, nil
	state := j.d.State().Tracker(j.tracker)
	unnoted := 0
	for i := range j.plan.Outcomes {
		o := &j.plan.Outcomes[i]
		if !o.Sends() {
			continue
		}
		w := j.listWrite(tab, o)
		if d.Stopped != "" {
			d.NotSent++
			w.State = "not sent"
			d.add(w)
			continue
		}
		got, err := j.d.Lists.Send(ctx, j.list, j.write(tab, o, state))
		var declined *reconcile.Declined
		switch {
		case errors.As(err, &declined):
			w.State, w.Why = "refused", declined.Why
			d.Troubles = append(d.Troubles, reconcile.Trouble{Key: w.Key, Why: "the list refused it: " + declined.Why})
		case err != nil:
			d.Stopped = err.Error()
			d.NotSent++
			w.State, w.Why = "not sent", err.Error()
		default:
			w.State = "sent"
			j.sent(o, got)
			unnoted++
		}
		d.add(w)
		if unnoted >= noteEvery {
			unnoted = 0
			if err := j.noteSent(ctx); err != nil {
				return err
			}
		}
	}
	return nil
}

// sent makes a write part of what is known of the list.
func (j *syncJob) sent(o *reconcile.Outcome, got reconcile.Written) {
	b := o.After(true)
	switch o.Kind {
	case reconcile.AddToList:
		j.detail.AddList++
		if got.ID == "" {
			got.ID = o.Key.String()
		}
		b.ID = got.ID
		it := reconcile.Item{Key: o.Key, Fields: make([]value.Value, len(o.Tab.Fields)), ID: got.ID, At: -1}
		for _, f := range o.ToList {
			it.Fields[f] = o.Tab.Fields[f]
		}
		j.added = append(j.added, it)
	case reconcile.GoneTab:
		j.detail.GoneTab++
		j.removed[reconcile.Fold(o.Key)] = true
	default:
		j.detail.UpdateList++
		for _, f := range o.ToList {
			o.List.Fields[f] = o.Tab.Fields[f]
		}
		if o.Rekey == reconcile.ByTab {
			j.items[o.List.At].Key = o.Tab.Key
		}
		// what the tab is still to take is not agreed on yet
		for _, f := range o.ToTab {
			b.Fields[f] = value.Value{}
			if o.Base != nil && f < len(o.Base.Fields) {
				b.Fields[f] = o.Base.Fields[f]
			}
		}
	}
	j.agree(o, b)
}

func (j *syncJob) noteSent(ctx context.Context) error {
	b, err := j.d.store.Begin(ctx)
	if err != nil {
		return err
	}
	defer b.Rollback()
	if err := j.writeBaselines(ctx, b); err != nil {
		return err
	}
	return b.Commit()
}

// write lays out one write for the connector.
func (j *syncJob) write(tab *sheet.TabShape, o *reconcile.Outcome, state *sheet.Tracker) *reconcile.Write {
	w := &reconcile.Write{Kind: o.Kind, Key: o.Key.String(), Fields: map[string]any{}}
	if o.Kind == reconcile.Conflict {
		w.Kind = reconcile.Update
	}
	if o.List != nil {
		w.ID, w.Version, w.Entry = o.List.ID, o.List.Version, j.entries[o.List.At].Doc
	}
	if o.Kind == reconcile.AddToList || o.Rekey == reconcile.ByTab {
		w.Fields[j.sync.From] = o.Tab.Key.JSON(tab.ByID(j.sync.Key).Type)
	}
	for _, f := range o.ToList {
		w.Fields[j.sync.Fields[f].From] = o.Tab.Fields[f].JSON(tab.ByID(j.into.Columns[f]).Type)
	}
	version := int64(0)
	if o.Tab != nil {
		if r := state.Row(o.Tab.Row); r != nil {
			version = r.Version
		}
	}
	text, _ := json.Marshal(w.Fields) // plain values always marshal
	h := sha256.Sum256(fmt.Appendf(nil, "%s %s %s %s %d %s", j.part.ID, w.Kind, w.Key, w.Version, version, text))
	w.Once = "kavlo-" + hex.EncodeToString(h[:12])
	return w
}
