package intake

import (
	"sync"
	"weak"

	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
)

// again remembers what came of the files imported last: the very same file into a tracker
// that has not changed since changes nothing, and need not be compared row by row.
type again struct {
	mu   sync.Mutex
	last map[againKey]outcome
}

// againKey is a table of a file and where it goes.
type againKey struct {
	tracker sheet.TrackerID
	tab     sheet.TabID
	key     sheet.ColumnID
	prefer  reconcile.Prefer
	at      string
	sheet   string
}

type outcome struct {
	digest string
	state  weak.Pointer[sheet.Tracker] // as it was after
	report reconcile.Report
}

// mostAgain is how many tables are remembered.
const mostAgain = 200

// same gives what importing a table comes to that has been imported, or nil.
func (a *again) same(key againKey, digest string, now *sheet.Tracker) *reconcile.Report {
	a.mu.Lock()
	defer a.mu.Unlock()
	o, known := a.last[key]
	if !known || digest == "" || o.digest != digest || now == nil || o.state.Value() != now {
		return nil
	}
	r := o.report
	r.Unchanged, r.Added, r.Updated, r.Odd = r.Unchanged+r.Added+r.Updated, 0, 0, 0
	return &r
}

// knows reports whether a file has been imported into a tracker that has not changed since.
func (a *again) knows(digest string, now *sheet.Tracker) bool {
	a.mu.Lock()
	defer a.mu.Unlock()
	for _, o := range a.last {
		if digest != "" && o.digest == digest && o.state.Value() == now {
			return true
		}
	}
	return false
}

func (a *again) note(key againKey, digest string, after *sheet.Tracker, r *reconcile.Report) {
	a.mu.Lock()
	defer a.mu.Unlock()
	if len(a.last) >= mostAgain || a.last == nil {
		a.last = map[againKey]outcome{}
	}
	a.last[key] = outcome{digest, weak.Make(after), r.Bare()}
}
