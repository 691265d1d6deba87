package desk

import (
	"context"
	"errors"
	"fmt"
	"time"

	"example.org/kavlo/internal/store"
)

// aboutWriting is what the notice is about that stands while nothing can be written.
const aboutWriting = "writing"

// failed notes that something could not be written, where the disk is why.
func (d *Desk) failed(err error) {
	if why := store.Unwritable(err); why != "" {
		d.unwritable.Store(true)
		d.notice(aboutWriting, "Nothing can be written: "+why)
	}
}

// wrote notes that writing works.
func (d *Desk) wrote() {
	if d.unwritable.CompareAndSwap(true, false) {
		d.mended(aboutWriting)
	}
}

// readyFor is how long one try to write counts.
const readyFor = 2 * time.Second

// Ready says why the desk cannot serve, or nil. It tries to write.
func (d *Desk) Ready(ctx context.Context) error {
	if _, err := d.store.LastSeq(ctx); err != nil {
		return fmt.Errorf("the store does not answer: %w", err)
	}
	d.readyMu.Lock()
	defer d.readyMu.Unlock()
	if time.Since(d.readyAt) < readyFor && !d.unwritable.Load() {
		return nil
	}
	if err := d.store.TryWrite(ctx, d.Now()); err != nil {
		d.failed(err)
		if why := store.Unwritable(err); why != "" {
			return errors.New(why)
		}
		return err
	}
	d.wrote()
	d.readyAt = time.Now()
	return nil
}
