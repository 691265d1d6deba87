package thrift

import (
	"runtime/debug"
	"testing"

	"github.com/stretchr/testify/assert"
)

func headroom() int {
	now := debug.SetGCPercent(100)
	debug.SetGCPercent(now)
	return now
}

func TestOverlappingStretchesEndAsTheyBegan(t *testing.T) {
	was := debug.SetGCPercent(80)
	defer debug.SetGCPercent(was)
	first, second := Begin(), Begin()
	assert.Equal(t, percent, headroom())
	first()
	assert.Equal(t, percent, headroom(), "the second goes on")
	second()
	assert.Equal(t, 80, headroom())
}

func TestLessThanThriftyIsLeftAlone(t *testing.T) {
	was := debug.SetGCPercent(5)
	defer debug.SetGCPercent(was)
	end := Begin()
	assert.Equal(t, 5, headroom())
	end()
	assert.Equal(t, 5, headroom())
}
