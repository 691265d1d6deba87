package syncing

import (
	"context"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
)

func dedupe(list []reconcile.Trouble) []reconcile.Trouble {
	seen := map[reconcile.Trouble]bool{}
	out := list[:0]
	for _, t := range list {
		if !seen[t] {
			seen[t] = true
			out = append(out, t)
		}
	}
	return out
}

// also keeps, in the transaction of the turn, what both sides agree on now and
// which conflicts wait.
func (j *syncJob) also(ctx context.Context, b *store.Batch, r *engine.Result) error {
	for i := range j.plan.Outcomes {
		o := &j.plan.Outcomes[i]
		if o.Sends() && o.Kind != reconcile.Update && o.Kind != reconcile.Conflict {
			continue // not sent: it stays as it was
		}
		j.agree(o, o.After(false))
	}
	if err := j.writeBaselines(ctx, b); err != nil {
		return err
	}
	if err := j.writeConflicts(ctx, b); err != nil {
		return err
	}
	switch {
	case j.detail.Stopped != "":
		r.Note.Outcome = engine.PartlyDone
	case j.detail.AddList+j.detail.UpdateList+j.detail.GoneTab > 0:
		r.Note.Outcome = engine.Done
	}
	if j.how.Also != nil {
		return j.how.Also(ctx, b, r)
	}
	return nil
}

// agree notes what both sides agree on after an outcome, or nil.
func (j *syncJob) agree(o *reconcile.Outcome, b *reconcile.Base) {
	if o.Base != nil {
		key := value.Fold(o.Base.Key)
		if b != nil && value.Fold(b.Key) == key && sameBase(j.base[key], b) {
			return
		}
		delete(j.base, key)
		j.dirty[key] = true
	}
	if b != nil {
		key := value.Fold(b.Key)
		j.base[key], j.dirty[key] = b, true
	}
}

func sameBase(a, b *reconcile.Base) bool {
	if a == nil || a.Key != b.Key || a.Row != b.Row || a.ID != b.ID || a.Left != b.Left || len(a.Fields) != len(b.Fields) {
		return false
	}
	for i := range a.Fields {
		if a.Fields[i] != b.Fields[i] {
			return false
		}
	}
	return true
}

func (j *syncJob) writeBaselines(ctx context.Context, b *store.Batch) error {
	for key := range j.dirty {
		base := j.base[key]
		if base == nil {
			if err := b.DropBaseline(ctx, j.tracker, j.part.ID, key); err != nil {
				return err
			}
			continue
		}
		a := &store.Baseline{Key: key, Name: base.Key, Row: base.Row, ID: base.ID, Gone: string(base.Left), Cells: map[sheet.ColumnID]value.Value{}}
		for i, c := range j.into.Columns {
			if i < len(base.Fields) && base.Fields[i].Kind() != value.Blank {
				a.Cells[c] = base.Fields[i]
			}
		}
		if err := b.PutBaseline(ctx, j.tracker, j.part.ID, a); err != nil {
			return err
		}
	}
	clear(j.dirty)
	return nil
}

func baseOf(a *store.Baseline, columns []sheet.ColumnID) *reconcile.Base {
	b := &reconcile.Base{Key: a.Name, Row: a.Row, ID: a.ID, Left: reconcile.Winner(a.Gone), Fields: make([]value.Value, len(columns))}
	for i, c := range columns {
		b.Fields[i] = a.Cells[c]
	}
	return b
}
