package value_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/value"
)

// Whatever a text is made of, the same to a reader is the same everywhere, and the order
// is one.
func TestTextsThatReadAlikeAreAlike(t *testing.T) {
	for _, pair := range [][2]string{{"Émile", "E\u0301MILE"}, {"North\u00a0Pier", "north pier"}, {"ΟΔΟΣ", "οδος"}, {"οδός", "ΟΔΌΣ"}, {" a ", "A"}, {"Ärger", "a\u0308rger"}} {
		assert.True(t, value.EqualText(pair[0], pair[1]), "%q %q", pair[0], pair[1])
		assert.Equal(t, value.Fold(pair[0]), value.Fold(pair[1]))
		assert.Zero(t, value.CompareText(pair[0], pair[1]), "%q %q", pair[0], pair[1])
		assert.True(t, value.Equal(value.OfText(pair[0]), value.OfText(pair[1])))
	}
	text := rapid.StringOfN(rapid.SampledFrom([]rune("aAbBeE zZ\u0301\u0308éÉσςΣ\u00a0ÿ")), 0, 5, -1)
	rapid.Check(t, func(t *rapid.T) {
		a, b, c := text.Draw(t, "a"), text.Draw(t, "b"), text.Draw(t, "c")
		require.Equal(t, value.EqualText(a, b), value.Fold(a) == value.Fold(b))
		require.Equal(t, value.EqualText(a, b), value.CompareText(a, b) == 0)
		require.Equal(t, value.CompareText(a, b), -value.CompareText(b, a))
		if value.CompareText(a, b) <= 0 && value.CompareText(b, c) <= 0 {
			require.LessOrEqual(t, value.CompareText(a, c), 0)
		}
	})
}
