package notify

import (
	"context"
	"sync"
	"time"

	"example.org/kavlo/internal/sheet"
)

// Overdue counts the rows of each tab of a tracker that its reminders hold now, as far as they
// stand in the tracker that is given. Every console asks for them after every change: for all
// who see the same of a tracker they are worked out once for each state and each minute.
func (post *Post) Overdue(ctx context.Context, t *sheet.Tracker) (map[sheet.TabID]int, error) {
	key := countKey{t.Masking(), t.Shape, post.Seq(), post.Now().Truncate(time.Minute).Unix()}
	for {
		c, mine := post.counts.of(key)
		if !mine {
			select {
			case <-c.done:
			case <-ctx.Done():
				return nil, ctx.Err()
			}
			if c.err == nil {
				return c.tabs, nil
			}
			continue // whoever worked it out was stopped: somebody else does
		}
		c.tabs, c.err = post.countOverdue(ctx, t)
		if c.err != nil {
			post.counts.forget(key)
		}
		close(c.done)
		return c.tabs, c.err
	}
}

func (post *Post) countOverdue(ctx context.Context, t *sheet.Tracker) (map[sheet.TabID]int, error) {
	holdings, err := post.Holdings(ctx, t)
	if err != nil {
		return nil, err
	}
	held, tabs := map[sheet.RowID]bool{}, map[sheet.TabID]int{}
	for _, h := range holdings {
		for _, i := range h.Items {
			if !held[i.Row] {
				held[i.Row] = true
				tabs[i.TabID]++
			}
		}
		for _, i := range h.Nobody {
			if !held[i.Row] {
				held[i.Row] = true
				tabs[i.TabID]++
			}
		}
	}
	return tabs, nil
}

// countKey is the state of a tracker, what of it is seen, the state of all trackers (clauses
// look into others), and the minute.
type countKey struct {
	tracker *sheet.Tracker
	shape   *sheet.Shape
	seq     int64
	minute  int64
}

type counted struct {
	tabs map[sheet.TabID]int // not changed once done is closed
	err  error
	done chan struct{}
}

// mostCounts is how many counts are kept: states pass, and what is kept of them holds their rows.
const mostCounts = 64

type counts struct {
	mu    sync.Mutex
	known map[countKey]*counted
}

// of gives what is known under a key; mine: nothing is, and the asker works it out.
func (c *counts) of(key countKey) (found *counted, mine bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if found = c.known[key]; found != nil {
		return found, false
	}
	for old := range c.known {
		if old.seq < key.seq || len(c.known) >= mostCounts {
			delete(c.known, old)
		}
	}
	if c.known == nil {
		c.known = map[countKey]*counted{}
	}
	found = &counted{done: make(chan struct{})}
	c.known[key] = found
	return found, true
}

func (c *counts) forget(key countKey) {
	c.mu.Lock()
	defer c.mu.Unlock()
	delete(c.known, key)
}
