package csv

import (
	"errors"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/value"
)

func table(cells ...value.Value) *outbound.Table {
	return &outbound.Table{Columns: []outbound.Column{{Name: "=A"}, {Name: "B"}}, Rows: func(yield func(outbound.Row) bool) { yield(outbound.Row{Cells: cells}) }}
}

func TestTextThatBeginsAsAFormulaIsGuarded(t *testing.T) {
	for text, want := range map[string]string{"=1+1": "'=1+1", "+351 21": "'+351 21", "-": "'-", "@x": "'@x", "'=x": "''=x", "'plain": "'plain", "plain": "plain", "": "", "'": "'", "\ttab": "'\ttab"} {
		assert.Equal(t, want, guard(text))
		assert.Equal(t, text, unguard(want))
	}
	var out strings.Builder
	require.NoError(t, Write(&out, table(value.OfText("=SUM(A1)"), value.MustNumber("-5"))))
	assert.Equal(t, "'=A,B\r\n'=SUM(A1),-5\r\n", out.String(), "a number may be negative")
	out.Reset()
	require.NoError(t, Write(&out, table(value.OfOdd("=TBC"), value.OfDate(2026, 3, 31))))
	assert.Contains(t, out.String(), "'=TBC,2026-03-31")
}

func TestWhatIsGuardedComesBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := rapid.StringOfN(rapid.SampledFrom([]rune("'=+-@\ta")), 0, 6, -1).Draw(t, "text")
		assert.Equal(t, s, unguard(guard(s)))
	})
}

type broken struct{}

func (broken) Write([]byte) (int, error) { return 0, errors.New("the disk is full") }

func TestAFailureToWriteIsTold(t *testing.T) {
	require.ErrorContains(t, Write(broken{}, table(value.OfText("a"), value.OfText("b"))), "the disk is full")
}
