package value_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/value"
)

func TestATextHoldsWhatItsFoldedFormHolds(t *testing.T) {
	letters := rapid.StringOfN(rapid.SampledFrom([]rune("aAbBzZ1 -éÉß\u0301\u00a0")), 0, 12, -1)
	rapid.Check(t, func(t *rapid.T) {
		text, word := letters.Draw(t, "text"), value.Fold(letters.Draw(t, "word"))
		if strings.HasPrefix(word, " ") || strings.HasSuffix(word, " ") {
			return
		}
		assert.Equal(t, strings.Contains(value.Fold(text), word), value.HoldsFolded(text, word), "%q %q", text, word)
	})
	assert.True(t, value.HoldsFolded("Brass SEXTANT", "sext"))
	assert.False(t, value.HoldsFolded("Brass", "brasses"))
	assert.True(t, value.HoldsFolded("DÄMMERUNG", value.Fold("da\u0308m")))
}
