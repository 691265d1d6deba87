package history

import (
	"context"
	"fmt"
	"sync"
	"time"

	"example.org/kavlo/internal/sheet"
)

// past keeps states of before that were asked for lately: a look back comes a
// page at a time.
type past struct {
	mu    sync.Mutex
	known []pastState
}

type pastState struct {
	seq   int64 // of the newest change set in it
	state *sheet.Workspace
}

// keepPast is how many are kept.
const keepPast = 2

func (p *past) get(seq int64) *pastState {
	p.mu.Lock()
	defer p.mu.Unlock()
	for i := range p.known {
		if p.known[i].seq == seq {
			found := p.known[i]
			return &found
		}
	}
	return nil
}

func (p *past) put(s pastState) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.known = append([]pastState{s}, p.known[:min(len(p.known), keepPast-1)]...)
}

// TooLongAgo says that too much has changed since a time to be played back.
type TooLongAgo struct{ Sets, Most int }

func (e *TooLongAgo) Error() string {
	return fmt.Sprintf("%d change sets have been made since, and at most %d are played back for one look: choose a later time, or look at the row's own history", e.Sets, e.Most)
}

// AsOf gives the workspace as it stood at a time: the present state with every
// change set made since taken back, the newest first.
func (h *History) AsOf(ctx context.Context, at time.Time) (*sheet.Workspace, error) {
	now, newest := h.Newest()
	numbers, err := h.store.NewerThan(ctx, at, newest)
	if err != nil {
		return nil, err
	}
	if len(numbers) == 0 {
		return now, nil
	}
	seq := numbers[len(numbers)-1] - 1
	if known := h.past.get(seq); known != nil {
		return known.state, nil
	}
	if len(numbers) > h.Budgets.Replayed {
		return nil, &TooLongAgo{len(numbers), h.Budgets.Replayed}
	}
	meter := h.Meter(ctx)
	draft := now.Edit(newest, 1)
	for _, n := range numbers {
		if err := meter.Err(); err != nil {
			return nil, err
		}
		set, err := h.store.ChangeSet(ctx, n)
		if err != nil {
			return nil, err
		}
		for _, c := range set.Invert() {
			if err := draft.Apply(c); err != nil {
				return nil, fmt.Errorf("playing change set %d back: %w", n, err)
			}
		}
	}
	out := draft.Done()
	h.past.put(pastState{seq, out})
	return out, nil
}
