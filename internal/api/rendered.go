package api

import (
	"context"
	"fmt"
	"strings"
	"sync"

	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/sheet"
)

// keepRendered is how many of the newest events are kept as they were written out.
const keepRendered = 16

// rendered keeps the newest events as they were written out: each is worked out once for
// all listeners who see the same of it, not once for each.
type rendered struct {
	mu    sync.Mutex
	of    map[string]func() []byte
	order []string
}

// get gives the event of a key, by render where nobody has had it yet.
func (r *rendered) get(key string, render func() []byte) []byte {
	r.mu.Lock()
	have, known := r.of[key]
	if !known {
		have = sync.OnceValue(render)
		if r.of == nil {
			r.of = map[string]func() []byte{}
		}
		if len(r.order) == keepRendered {
			delete(r.of, r.order[0])
			r.order = r.order[1:]
		}
		r.of[key], r.order = have, append(r.order, key)
	}
	r.mu.Unlock()
	return have()
}

// eventKey is equal for those to whom an event says the same.
func (s *server) eventKey(ctx context.Context, set *sheet.ChangeSet) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%d", set.Seq)
	if asker(ctx).Access >= policy.Keeper {
		return b.String() + " all"
	}
	for _, id := range set.Trackers() {
		t := s.workspace.Present(id)
		switch {
		case t == nil:
			fmt.Fprintf(&b, " %s gone", id)
		case s.workspace.Sight(asker(ctx), t).Role == policy.Nobody:
			fmt.Fprintf(&b, " %s nothing", id)
		default:
			fmt.Fprintf(&b, " %s but(%s)", id, s.workspace.Sight(asker(ctx), t).Key())
		}
	}
	return b.String()
}
