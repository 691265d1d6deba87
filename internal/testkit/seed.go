package testkit

import (
	"math/rand/v2"
	"os"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// SeedVariable is the environment variable that gives random tests their seed, to
// replay a failure. Rapid's own tests print a file to replay instead.
const SeedVariable = "KAVLO_SEED"

// Seed gives the seed of a random test: of the moment, or the one asked for. A test
// that fails prints it.
func Seed(t testing.TB) uint64 {
	t.Helper()
	seed := uint64(time.Now().UnixNano())
	if text := os.Getenv(SeedVariable); text != "" {
		var err error
		seed, err = strconv.ParseUint(text, 10, 64)
		require.NoError(t, err, "%s is a whole number", SeedVariable)
	}
	t.Cleanup(func() {
		if t.Failed() {
			t.Logf("replay with %s=%d", SeedVariable, seed)
		}
	})
	return seed
}

// Rand gives random numbers from a seed; of several streams, each goroutine of a test
// takes its own.
func Rand(seed uint64, stream int) *rand.Rand {
	return rand.New(rand.NewPCG(seed, uint64(stream))) //nolint:gosec // nothing secret
}
