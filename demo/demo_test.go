package demo_test

import (
	"cmp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"example.org/kavlo/demo"
)

// The demo shows every way a rule wakes, every step it may have, and every
// direction of a sync.
func TestTheDemoUsesEveryWakeStepAndDirection(t *testing.T) {
	var file struct {
		Rules []struct {
			Wake  any
			Steps []map[string]any
		}
		Syncs []struct{ Direction string }
	}
	require.NoError(t, yaml.Unmarshal([]byte(demo.Setup("http://127.0.0.1:1")), &file))
	wakes, steps, ways := map[string]bool{}, map[string]bool{}, map[string]bool{}
	for _, r := range file.Rules {
		switch w := r.Wake.(type) {
		case string:
			wakes[w] = true
		case map[string]any:
			for kind := range w {
				wakes[kind] = true
			}
		}
		for _, s := range r.Steps {
			for kind := range s {
				steps[kind] = true
			}
		}
	}
	for _, s := range file.Syncs {
		ways[cmp.Or(s.Direction, "in")] = true
	}
	for _, kind := range []string{"edit", "new row", "clock", "hand", "call", "file"} {
		assert.True(t, wakes[kind], kind)
	}
	for _, kind := range []string{"move", "copy", "set", "put", "take", "write", "tally"} {
		assert.True(t, steps[kind], kind)
	}
	for _, way := range []string{"in", "out", "both"} {
		assert.True(t, ways[way], way)
	}
}
