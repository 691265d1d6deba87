package value

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestOneLine(t *testing.T) {
	for text, want := range map[string]string{
		"Bell":                    "Bell",
		"Bell\n\nDone: http://x":  "Bell Done: http://x",
		"a\r\nb\tc\u2028d\u0085e": "a b c d e",
		"ab\u202egnp.exe":         "abgnp.exe",
		"in\u200bvisible\x00":     "invisible",
		"two  spaces stay":        "two  spaces stay",
		"":                        "",
	} {
		assert.Equal(t, want, OneLine(text), "%q", text)
	}
}
