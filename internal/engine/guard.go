package engine

import (
	"fmt"
	"runtime/debug"
)

// Panicked says that a piece of work went wrong in a way nobody had thought of.
// It failed alone; the log has the stack.
type Panicked struct{ Doing string }

func (e *Panicked) Error() string {
	return fmt.Sprintf("something went wrong in the service while %s; its log tells more", e.Doing)
}

// guarded does a piece of work and turns a panic in it into an error, so that it
// fails alone.
func (e *Engine) guarded(doing string, work func() error) (err error) {
	defer func() {
		if p := recover(); p != nil {
			e.Log.Error("a piece of work panicked", "doing", doing, "panic", fmt.Sprint(p), "stack", string(debug.Stack()))
			err = &Panicked{doing}
		}
	}()
	return work()
}

// Guarded does a piece of work and turns a panic in it into an error.
func (e *Engine) Guarded(doing string, work func() error) error { return e.guarded(doing, work) }
