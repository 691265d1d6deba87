package engine

import (
	"slices"
	"strings"
	"sync"
	"time"
)

// Notice is something about the service itself that somebody should know and
// mend: a record set aside, a file put aside, a clock that jumped.
type Notice struct {
	About string // what it concerns; one notice stands about each
	Says  string
	Since time.Time
}

// notices are what stands now. They are found anew at each start.
type notices struct {
	mu  sync.Mutex
	now map[string]Notice
}

// mostNotices is how many notices stand at most; the oldest make room.
const mostNotices = 100

// Notice lets a notice stand, and logs it where it is new.
func (e *Engine) Notice(about, says string) {
	n := &e.noticed
	n.mu.Lock()
	defer n.mu.Unlock()
	was, known := n.now[about]
	if known && was.Says == says {
		return
	}
	if n.now == nil {
		n.now = map[string]Notice{}
	}
	if len(n.now) >= mostNotices && !known {
		oldest := ""
		for about, other := range n.now {
			if oldest == "" || other.Since.Before(n.now[oldest].Since) {
				oldest = about
			}
		}
		delete(n.now, oldest)
	}
	n.now[about] = Notice{About: about, Says: says, Since: e.Now()}
	e.Log.Warn("something wants attention", "about", about, "says", says)
}

// Mended takes a notice away.
func (e *Engine) Mended(about string) {
	e.noticed.mu.Lock()
	defer e.noticed.mu.Unlock()
	delete(e.noticed.now, about)
}

// Notices gives what somebody should know and mend, the oldest first.
func (e *Engine) Notices() []Notice {
	e.noticed.mu.Lock()
	defer e.noticed.mu.Unlock()
	out := make([]Notice, 0, len(e.noticed.now))
	for _, n := range e.noticed.now {
		out = append(out, n)
	}
	slices.SortFunc(out, func(a, b Notice) int {
		if c := a.Since.Compare(b.Since); c != 0 {
			return c
		}
		return strings.Compare(a.About, b.About)
	})
	return out
}
