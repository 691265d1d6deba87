package desk

import (
	"context"
	"fmt"
	"time"

	"example.org/kavlo/internal/sheet"
)

// AsOf gives the workspace as it stood at a time: the present state with every
// change set made since taken back, the newest first.
func (d *Desk) AsOf(ctx context.Context, at time.Time) (*sheet.Workspace, error) {
	now := d.state.Load()
	numbers, err := d.store.NewerThan(ctx, at, now.seq)
	if err != nil {
		return nil, err
	}
	draft := now.Edit(now.seq, 1)
	for _, seq := range numbers {
		set, err := d.store.ChangeSet(ctx, seq)
		if err != nil {
			return nil, err
		}
		for _, c := range set.Invert() {
			if err := draft.Apply(c); err != nil {
				return nil, fmt.Errorf("playing change set %d back: %w", seq, err)
			}
		}
	}
	return draft.Done(), nil
}
