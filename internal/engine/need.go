package engine

import (
	"context"
	"fmt"
)

// Whatever is slow (lists, files, rendering) is not for the writer, for whom everybody
// waits. Work asks for it by Need, with a key that says what it rests on. In a preview,
// and in a rehearsal outside the writer, it is got there and then. In the writer a need
// that has not been met sends the request out, to be rehearsed on the newest state and
// to come again with what it needs.

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
	type got struct {
		value T
		err   error
	}
	if known, is := t.have[key].(got); is {
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
	t.have[key] = got{v, err}
	return v, err
}
