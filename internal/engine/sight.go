package engine

import (
	"sync"

	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
)

// Everybody reads a state as they may see it: hidden tabs and columns are not there, in
// names, values, labels, clauses or messages. A state that is seen so is read like any
// other.

// reduced are shapes as those see them for whom some of it is hidden.
type reduced struct {
	mu    sync.Mutex
	known map[reducedKey]*sheet.Shape
}

type reducedKey struct {
	shape *sheet.Shape
	key   string
}

// keepReduced is how many of them are kept.
const keepReduced = 256

// Seen gives the present state as a principal may see it.
func (e *Engine) Seen(by policy.Principal) *sheet.Workspace { return e.SeenIn(by, e.State()) }

// SeenIn gives a state as a principal may see it. What is hidden in it goes by the
// access of today, also where the state is of long ago.
func (e *Engine) SeenIn(by policy.Principal, state *sheet.Workspace) *sheet.Workspace {
	if by.Access >= policy.Keeper {
		return state
	}
	return state.Seen(func(t *sheet.Tracker) *sheet.Tracker { return e.SeenBy(by, t) })
}

// SeenBy gives a tracker as a principal may see it, or nil.
func (e *Engine) SeenBy(by policy.Principal, t *sheet.Tracker) *sheet.Tracker {
	sight := e.Sight(by, t)
	switch {
	case sight.Role == policy.Nobody:
		return nil
	case sight.Whole():
		return t
	}
	key := reducedKey{t.Shape, sight.Key()}
	r := &e.reduced
	r.mu.Lock()
	shape := r.known[key]
	r.mu.Unlock()
	if shape == nil {
		var err error
		if shape, err = program.Reduce(t.Shape, sight, e.Kinds); err != nil {
			e.Log.Error("a tracker cannot be shown in part", "tracker", t.Name, "err", err)
			return nil
		}
		r.mu.Lock()
		if len(r.known) >= keepReduced || r.known == nil {
			r.known = map[reducedKey]*sheet.Shape{}
		}
		r.known[key] = shape
		r.mu.Unlock()
	}
	return t.Masked(shape, func(c sheet.ColumnID) bool { return !sight.SeesColumn(c) })
}

// Sight gives what a principal may see and change of a tracker by its access of today.
func (e *Engine) Sight(by policy.Principal, t *sheet.Tracker) *policy.Sight {
	shape := t.Masking().Shape
	if now := e.State().Tracker(t.ID); now != nil {
		shape = now.Shape
	}
	return policy.SightOf(by, shape)
}
