package desk

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

// notice lets a notice stand, and logs it where it is new.
func (d *Desk) notice(about, says string) {
	n := &d.noticed
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
	n.now[about] = Notice{About: about, Says: says, Since: d.Now()}
	d.Log.Warn("something wants attention", "about", about, "says", says)
}

// mended takes a notice away.
func (d *Desk) mended(about string) {
	d.noticed.mu.Lock()
	defer d.noticed.mu.Unlock()
	delete(d.noticed.now, about)
}

// Notices gives what somebody should know and mend, the oldest first.
func (d *Desk) Notices() []Notice {
	d.noticed.mu.Lock()
	defer d.noticed.mu.Unlock()
	out := make([]Notice, 0, len(d.noticed.now))
	for _, n := range d.noticed.now {
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
