package sheet

import "sync"

// Lazily is a tracker's rows that are not in memory yet: its shape is known, and the
// rows are got when they are first asked for. Until then nothing has changed them, since
// every change of a tracker begins by asking for it.
type Lazily struct {
	load func() (*Tracker, error)
	mu   sync.Mutex
	full *Tracker
}

// NotLoaded says that a tracker's rows could not be got. Readers of rows have no place
// for an error: whoever asks for one is stopped by a panic with it.
type NotLoaded struct {
	Tracker string
	Err     error
}

func (e *NotLoaded) Error() string {
	return "the rows of " + e.Tracker + " cannot be read: " + e.Err.Error()
}

func (e *NotLoaded) Unwrap() error { return e.Err }

// Lazy adds a tracker whose rows load gets.
func (l *Loader) Lazy(id TrackerID, version int64, shape *Shape, load func() (*Tracker, error)) {
	l.w.trackers[id] = &Tracker{ID: id, Version: version, Shape: shape, lazy: &Lazily{load: load}}
}

// loaded gives the tracker with its rows.
func (t *Tracker) loaded() *Tracker {
	x := t.lazy
	x.mu.Lock()
	defer x.mu.Unlock()
	if x.full == nil {
		full, err := x.load()
		if err != nil {
			panic(&NotLoaded{t.Name, err})
		}
		full.Shape = t.Shape // one shape, compiled once
		x.full = full
	}
	return x.full
}

// Load gets the tracker's rows, if they are not in memory yet.
func (t *Tracker) Load() *Tracker {
	if t.lazy != nil {
		return t.loaded()
	}
	return t
}

// InMemory reports whether the tracker's rows are.
func (t *Tracker) InMemory() bool {
	if t.lazy == nil {
		return true
	}
	t.lazy.mu.Lock()
	defer t.lazy.mu.Unlock()
	return t.lazy.full != nil
}
