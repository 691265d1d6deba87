package notify

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// What is counted once serves all who ask the same, and goes with the state that it is of.
func TestCountsAreKeptForOneState(t *testing.T) {
	var c counts
	first, mine := c.of(countKey{seq: 1})
	assert.True(t, mine)
	again, mine := c.of(countKey{seq: 1})
	assert.False(t, mine)
	assert.Same(t, first, again)
	_, mine = c.of(countKey{seq: 1, minute: 1})
	assert.True(t, mine)
	_, mine = c.of(countKey{seq: 2})
	assert.True(t, mine)
	assert.Len(t, c.known, 1, "what is of an older state is let go")
	c.forget(countKey{seq: 2})
	_, mine = c.of(countKey{seq: 2})
	assert.True(t, mine)
	for n := range int64(3 * mostCounts) {
		c.of(countKey{seq: 3, minute: n})
	}
	assert.LessOrEqual(t, len(c.known), mostCounts)
}
