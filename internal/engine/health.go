package engine

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
func (e *Engine) failed(err error) {
	if why := store.Unwritable(err); why != "" {
		e.unwritable.Store(true)
		e.Notice(aboutWriting, "Nothing can be written: "+why)
	}
}

// wrote notes that writing works.
func (e *Engine) wrote() {
	if e.unwritable.CompareAndSwap(true, false) {
		e.Mended(aboutWriting)
	}
}

// readyFor is how long one try to write counts.
const readyFor = 2 * time.Second

// Ready says why the engine cannot serve, or nil. It tries to write.
func (e *Engine) Ready(ctx context.Context) error {
	if _, err := e.store.LastSeq(ctx); err != nil {
		return fmt.Errorf("the store does not answer: %w", err)
	}
	e.readyMu.Lock()
	defer e.readyMu.Unlock()
	if time.Since(e.readyAt) < readyFor && !e.unwritable.Load() {
		return nil
	}
	if err := e.store.TryWrite(ctx, e.Now()); err != nil {
		e.failed(err)
		if why := store.Unwritable(err); why != "" {
			return errors.New(why)
		}
		return err
	}
	e.wrote()
	e.readyAt = time.Now()
	return nil
}

// Unwritable reports whether the last thing to be written found no room.
func (e *Engine) Unwritable() bool { return e.unwritable.Load() }
