package value_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/value"
)

func TestLooksComeBackFromTheirText(t *testing.T) {
	colour := rapid.Custom(func(t *rapid.T) string {
		if rapid.Bool().Draw(t, "word") {
			return rapid.SampledFrom([]string{value.Washes["amber"].Paper, value.Washes["amber"].Ink}).Draw(t, "wash")
		}
		if rapid.Bool().Draw(t, "none") {
			return ""
		}
		return fmt.Sprintf("#%06X", rapid.IntRange(0, 0xFFFFFF).Draw(t, "rgb"))
	})
	rapid.Check(t, func(t *rapid.T) {
		l := value.CellStyle{Fill: colour.Draw(t, "fill"), Ink: colour.Draw(t, "ink"), Bold: rapid.Bool().Draw(t, "bold"), Italic: rapid.Bool().Draw(t, "italic"), Struck: rapid.Bool().Draw(t, "struck")}
		l = l.Plainly()
		got, err := value.ParseCellStyle(l.String())
		require.NoError(t, err)
		assert.Equal(t, l, got)
		said, err := value.ParseCellStyle(l.Words())
		require.NoError(t, err)
		assert.Equal(t, l, said)
	})
}

func TestLooksAsPeopleWriteThem(t *testing.T) {
	for text, want := range map[string]string{
		"":                          "",
		"plain":                     "",
		" Bold , FILL  amber":       "fill #F6E7CC, bold",
		"ink brick,struck,italic":   "ink #8F2B21, italic, struck",
		"fill #a0b1c2, ink #000001": "fill #A0B1C2, ink #000001",
		"fill #ffffff, ink #000000": "",
	} {
		l, err := value.ParseCellStyle(text)
		require.NoError(t, err, text)
		assert.Equal(t, want, l.String(), text)
	}
	for text, says := range map[string]string{
		"fill":            `"" is not a colour`,
		"fill mauve":      `"mauve" is not a colour: write it like #F6E7CC`,
		"fill #12345":     "is not a colour",
		"ink #GGGGGG":     "is not a colour",
		"bold, loud":      `"loud" is not a style: write it like`,
		"bold very":       `"bold very" is not a style`,
		"fill amber bold": "is not a colour",
	} {
		_, err := value.ParseCellStyle(text)
		assert.ErrorContains(t, err, says, text)
	}
}
