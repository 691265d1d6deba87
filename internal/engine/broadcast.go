package engine

import (
	"sync"

	"example.org/kavlo/internal/sheet"
)

// Event tells that a change set was committed.
type Event struct {
	Seq   int64
	Set   *sheet.ChangeSet
	State *sheet.Workspace
}

// broadcast tells every listener of every event. A listener that does not keep
// up is let go; it comes back with the number of the last event it saw.
type broadcast struct {
	mu        sync.Mutex
	listeners map[chan Event]bool
	closed    bool
}

// eventBuffer is how far a listener may fall behind.
const eventBuffer = 128

// Listen gives a channel of events and a function that ends listening. The
// channel is closed when the listener falls behind or the engine closes.
func (e *Engine) Listen() (<-chan Event, func()) {
	b := &e.events
	b.mu.Lock()
	defer b.mu.Unlock()
	c := make(chan Event, eventBuffer)
	if b.closed {
		close(c)
		return c, func() {}
	}
	if b.listeners == nil {
		b.listeners = map[chan Event]bool{}
	}
	b.listeners[c] = true
	return c, func() {
		b.mu.Lock()
		defer b.mu.Unlock()
		b.dropLocked(c)
	}
}

func (b *broadcast) dropLocked(c chan Event) {
	if b.listeners[c] {
		delete(b.listeners, c)
		close(c)
	}
}

func (b *broadcast) publish(e Event) {
	b.mu.Lock()
	defer b.mu.Unlock()
	for c := range b.listeners {
		select {
		case c <- e:
		default:
			b.dropLocked(c)
		}
	}
}

func (b *broadcast) close() {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.closed = true
	for c := range b.listeners {
		b.dropLocked(c)
	}
}
