package engine

import (
	"context"
	"fmt"

	"example.org/kavlo/internal/sheet"
)

// Whatever is slow (lists, files, rendering) is not for the writer, for whom everybody
// waits. Work asks for it by Need, with a key that says what it rests on. In a preview,
// and in a rehearsal outside the writer, it is got there and then. In the writer a need
// that has not been met sends the request out, to be rehearsed on the newest state and
// to come again with what it needs.

// Prepared gives what load works out of the state that a turn has come to, such as a file
// to be written. It is worked out in a rehearsal, outside the writer, and used if nothing
// that the turn touches has changed since; else load does it in the turn, once.
// touched are the trackers that it rests on. In a preview there is nothing.
func Prepared[T any](t *Turn, what any, touched []sheet.TrackerID, load func(context.Context) (T, error)) (T, error) {
	return prepared(t, what, touched, load, false)
}

// Loaded is Prepared of what a preview needs too, such as what is stored beside a tracker.
func Loaded[T any](t *Turn, what any, touched []sheet.TrackerID, load func(context.Context) (T, error)) (T, error) {
	return prepared(t, what, touched, load, true)
}

func prepared[T any](t *Turn, what any, touched []sheet.TrackerID, load func(context.Context) (T, error), inPreview bool) (T, error) {
	key := keyOn(t.before, what, touched)
	var none T
	switch _, known := t.have[key]; {
	case known, t.rehearsing, t.loading && inPreview:
		return Need(t, key, load)
	case t.loading: // a preview
		return none, nil
	case t.have[rehearsed{}] == nil && !t.provided:
		return none, &unmet{key}
	}
	return load(t.ctx)
}

func keyOn(state *sheet.Workspace, what any, touched []sheet.TrackerID) preparedKey {
	key := preparedKey{what: what}
	for i, id := range touched {
		if i == len(key.of) {
			key.rest = state
			break
		}
		key.of[i] = state.Tracker(id)
	}
	return key
}

// Provide gives a request what Loaded would get for it, worked out of a state before the
// request is made; if what it rests on has changed by its turn, it is loaded in that.
func Provide[T any](r *Request, state *sheet.Workspace, what any, touched []sheet.TrackerID, value T) {
	key := keyOn(state, what, touched)
	r.provided = append(r.provided, func(have map[any]any) { have[key] = got[T]{value, nil} })
}

// preparedKey tells what was prepared from what: states are never altered, so the same
// tracker is the same all through.
type preparedKey struct {
	what any
	of   [4]*sheet.Tracker
	rest *sheet.Workspace
}

// rehearsed is the key under which a rehearsal keeps its moment: the turn works with the
// same, so that what was prepared is what the turn comes to.
type rehearsed struct{}

// unmet says that a turn needs something that has not been got yet.
type unmet struct{ key any }

func (e *unmet) Error() string { return fmt.Sprintf("what a turn needs is not there: %v", e.key) }

// rehearsals is how often a request is sent out to get what it needs: what that is can
// change with the state.
const rehearsals = 3

// Need gives what load gives, got outside the writer. The key, which must be comparable,
// tells it from everything else that the turn may need, and says what it rests on: where
// that has changed, it is another key.
func Need[T any](t *Turn, key any, load func(context.Context) (T, error)) (T, error) {
	if known, is := t.have[key].(got[T]); is {
		return known.value, known.err
	}
	if !t.loading {
		var none T
		return none, &unmet{key}
	}
	v, err := load(t.ctx)
	if t.ctx.Err() != nil {
		var none T
		return none, t.ctx.Err()
	}
	t.have[key] = got[T]{v, err}
	return v, err
}

// got is what a turn needed and has got.
type got[T any] struct {
	value T
	err   error
}
