// Package history looks back: what put things where they are, what was there before, and
// how to take it back.
package history

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
)

// History looks back into a workspace.
type History struct {
	*engine.Engine
	store *store.Store
	// Files puts the files back that a run wrote over, in the turn that undoes it, and gives
	// how many those are; nil: there are none.
	Files func(t *engine.Turn, run string, force bool) (int, error)
	past  past // states of before that were asked for lately
}

// New gives the history of an engine's workspace.
func New(e *engine.Engine) *History { return &History{Engine: e, store: e.Store()} }

// UndoRefused says which later changes stand in the way of taking a run back.
type UndoRefused struct {
	Seq       int64
	Conflicts []string
}

func (e *UndoRefused) Error() string {
	return fmt.Sprintf("later changes block undoing change set %d: %s (--force keeps these and undoes the rest)", e.Seq, strings.Join(e.Conflicts, "; "))
}

// FindSet gives the change set that a run, or a journal number, names.
func (h *History) FindSet(ctx context.Context, name string) (*sheet.ChangeSet, error) {
	var seq int64
	if _, err := fmt.Sscanf(name, "%d", &seq); err == nil && fmt.Sprint(seq) == name {
		return h.store.ChangeSet(ctx, seq)
	}
	run, err := h.store.Run(ctx, strings.ToUpper(strings.TrimSpace(name)))
	if err != nil {
		return nil, err
	}
	if run.Seq == 0 {
		over, err := h.store.VersionsOf(ctx, run.ID)
		if err != nil {
			return nil, err
		}
		if len(over) == 0 {
			return nil, fmt.Errorf("run %s made no changes; nothing to undo", run.ID)
		}
		return &sheet.ChangeSet{Run: run.ID, At: run.At, Who: run.Who}, nil // it only wrote over files
	}
	return h.store.ChangeSet(ctx, run.Seq)
}

// ErrUndone says that a change set has been taken back already.
var ErrUndone = errors.New("is already undone")

// Undo takes a change set back. Changes that later ones overlaid are refused;
// with force they are left and the rest is taken back.
func (h *History) Undo(ctx context.Context, by policy.Principal, set *sheet.ChangeSet, force bool) (engine.Request, error) {
	if slices.ContainsFunc(set.Changes, func(c sheet.Change) bool { return c.Kind == sheet.Grant }) {
		return engine.Request{}, fmt.Errorf("change set %d is about access, which is not undone: change it anew", set.Seq)
	}
	if set.Seq == 0 {
		return h.undoFiles(ctx, by, set, force)
	}
	undone, err := h.Undone(ctx, set.Seq)
	if err != nil {
		return engine.Request{}, err
	}
	if undone != 0 {
		return engine.Request{}, fmt.Errorf("change set %d %w, by change set %d", set.Seq, ErrUndone, undone)
	}
	var tracker sheet.TrackerID
	if len(set.Changes) > 0 {
		tracker = set.Changes[0].Tracker
	}
	needs, err := h.neededToUndo(ctx, set)
	if err != nil {
		return engine.Request{}, err
	}
	name := fmt.Sprintf("change set %d", set.Seq)
	return engine.Request{By: by, Needs: needs, Tracker: tracker, Alone: true, Kind: "undo", Name: name, Undoes: set.Seq,
		Cause: sheet.Cause{Kind: sheet.ByUndo, Name: name}, Work: func(t *engine.Turn) error {
			if err := undo(t, set, force); err != nil || h.Files == nil {
				return err
			}
			_, err := h.Files(t, set.Run, force)
			return err
		}}, nil
}

// Undone gives the change set that has taken another one back, and was not taken back itself;
// 0: the other one stands.
func (h *History) Undone(ctx context.Context, seq int64) (int64, error) {
	by, err := h.store.UndoneBy(ctx, seq)
	if err != nil || by == 0 {
		return 0, err
	}
	again, err := h.Undone(ctx, by)
	if err != nil || again != 0 {
		return 0, err
	}
	return by, nil
}

// undoFiles puts the files back that a run wrote over which changed nothing else.
func (h *History) undoFiles(ctx context.Context, by policy.Principal, set *sheet.ChangeSet, force bool) (engine.Request, error) {
	run, err := h.store.Run(ctx, set.Run)
	if err != nil {
		return engine.Request{}, err
	}
	return engine.Request{By: by, Needs: policy.Editor, Tracker: run.Tracker, Alone: true, Kind: "undo", Name: "run " + run.ID,
		Cause: sheet.Cause{Kind: sheet.ByUndo, Name: "run " + run.ID}, Work: func(t *engine.Turn) error {
			n, err := h.Files(t, set.Run, force)
			t.Run.Detail = map[string]any{"files": n}
			t.Run.Outcome = engine.Done
			return err
		}}, nil
}

func undo(t *engine.Turn, set *sheet.ChangeSet, force bool) error {
	var conflicts []string
	for _, c := range set.Invert() {
		err := takeBack(t.Draft, c)
		var conflict *sheet.Conflict
		if errors.As(err, &conflict) {
			conflicts = append(conflicts, describeConflict(t.Draft, conflict))
			continue
		}
		if err != nil {
			return fmt.Errorf("undoing change set %d: %w", set.Seq, err)
		}
	}
	if len(conflicts) > 0 && !force {
		return &UndoRefused{Seq: set.Seq, Conflicts: conflicts}
	}
	t.Run.Detail = map[string]any{"kept": conflicts}
	if err := sheet.CheckRows(t.Draft); err != nil {
		return fmt.Errorf("undoing change set %d: %w", set.Seq, err)
	}
	return nil
}

func describeConflict(d *sheet.Draft, c *sheet.Conflict) string {
	if t := d.Tracker(c.Change.Tracker); t != nil {
		if r := t.Row(c.Change.Row); r != nil {
			return fmt.Sprintf("%s in %s: %s", t.Label(r), t.TabOf(r).Name, c.Reason)
		}
		if c.Change.Kind == sheet.Reshape {
			return "the setup of " + t.Name + ": " + c.Reason
		}
	}
	for _, t := range d.Now().Trackers() {
		if r := t.Row(c.Change.Row); r != nil {
			return fmt.Sprintf("%s: it is in %s of tracker %s now", t.Label(r), t.TabOf(r).Name, t.Name)
		}
	}
	return c.Error()
}

// takeBack applies an inverted change to what is there now. A cell is taken back wherever
// the row stands, in another tracker too, and a change of setup whatever has been set up since, as
// long as nothing has been changed once more.
func takeBack(d *sheet.Draft, c sheet.Change) error {
	t := d.Tracker(c.Tracker)
	if t == nil {
		return d.Apply(c)
	}
	switch c.Kind {
	case sheet.Set, sheet.Note, sheet.Style:
		if r := t.Row(c.Row); r != nil {
			c.Tab = r.Tab
		} else {
			c = elsewhere(d, t, c)
		}
	case sheet.Reshape:
		if c.ShapeBefore == nil || c.ShapeAfter == nil {
			break
		}
		merged, err := t.TakenBack(c.ShapeAfter, c.ShapeBefore)
		if err != nil {
			return &sheet.Conflict{Change: c, Reason: err.Error()}
		}
		return program.Reshape(d, t, merged)
	}
	return d.Apply(c)
}

// elsewhere gives the change of a cell as one of the tracker that its row has gone to
// since, in the column of the same name and type; where there is none, it is as it was.
func elsewhere(d *sheet.Draft, from *sheet.Tracker, c sheet.Change) sheet.Change {
	column := from.ColumnByID(c.Column)
	if column == nil {
		return c
	}
	for _, t := range d.Now().Trackers() {
		r := t.Row(c.Row)
		if r == nil {
			continue
		}
		there, err := t.TabOf(r).Column(column.Name)
		if err != nil || there.Type.Kind != column.Type.Kind {
			return c
		}
		c.Tracker, c.Tab, c.Column = t.ID, r.Tab, there.ID
		if c.Kind == sheet.Set { // a choice, say, that the column there lacks
			c.Before, _ = value.Fit(c.Before, there.Type)
			c.After, _ = value.Fit(c.After, there.Type)
		}
		return c
	}
	return c
}

// neededToUndo gives the access that undoing a change set needs: what making it
// needed, through however many undos.
func (h *History) neededToUndo(ctx context.Context, set *sheet.ChangeSet) (policy.Access, error) {
	needs := policy.Editor
	for i := range set.Changes {
		needs = max(needs, policy.NeededFor(set, &set.Changes[i]))
	}
	if set.Undoes == 0 || needs == policy.Keeper {
		return needs, nil
	}
	before, err := h.store.ChangeSet(ctx, set.Undoes)
	if err != nil {
		return 0, err
	}
	return h.neededToUndo(ctx, before)
}
