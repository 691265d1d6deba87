// Package thrift minds the process's memory while something large is worked
// out. What a large file becomes stays, so the headroom that the garbage
// collector usually allows itself, as much again as is in use, would only be
// waste at the peak; for a while it is held to little.
package thrift

import (
	"runtime/debug"
	"sync"
)

// percent is how much the heap may grow between collections meanwhile, in
// percent of what is in use: 15 costs a tenth of the time of an import.
const percent = 15

// collector is the process's one garbage collector.
var collector struct {
	mu    sync.Mutex
	users int
	usual int // percent, to go back to
}

// Begin begins a thrifty stretch and gives what ends it. Stretches may overlap.
func Begin() (end func()) {
	c := &collector
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.users++; c.users == 1 {
		c.usual = debug.SetGCPercent(percent)
		if 0 <= c.usual && c.usual < percent { // somebody has set less
			debug.SetGCPercent(c.usual)
		}
	}
	return func() {
		c.mu.Lock()
		defer c.mu.Unlock()
		if c.users--; c.users == 0 {
			debug.SetGCPercent(c.usual)
		}
	}
}
