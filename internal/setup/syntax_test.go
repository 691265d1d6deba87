package setup_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/kinds"
	"example.org/kavlo/internal/setup"
)

func TestWhatIsNotYAMLIsShownWithItsMend(t *testing.T) {
	for text, want := range map[string]setup.SyntaxError{
		"tracker: T\nrules:\n  - name: X\n    where: [Due on] before today\n    steps: []\n": {
			Line: 4, Caret: "    where: [Due on] before today\n           ^", Hint: "put it in quotes: where: '[Due on] before today'"},
		"tracker: T\nrules:\n  - name: X\n    where: \"Agreed\" is Stage\n": {
			Line: 4, Caret: "    where: \"Agreed\" is Stage\n           ^", Hint: "put it in quotes: where: '\"Agreed\" is Stage'"},
		"tracker: T\nrules:\n  - { name: X, where: [Due on] before today, in: A }\n": {
			Line: 3, Caret: "  - { name: X, where: [Due on] before today, in: A }\n                      ^", Hint: "put it in quotes: where: '[Due on] before today'"},
		"tracker: T\nrules:\n  - name: X\n    where: Note is \"a: b\"\n": {
			Line: 4, Caret: "    where: Note is \"a: b\"\n           ^", Hint: "put it in quotes: where: 'Note is \"a: b\"'"},
		"tracker: T\nrules:\n  - name: X\n    steps: [ { move: { to: {Stage} x } } ]\n": {
			Line: 4, Caret: "    steps: [ { move: { to: {Stage} x } } ]\n                           ^", Hint: "put it in quotes: to: '{Stage} x'"},
		"tracker: T\ntabs:\n\tA: {}\n": {Line: 3, Caret: "\tA: {}\n^", Hint: "indent with spaces, not with tabs"},
	} {
		_, err := kinds.Setup.Parse([]byte(text), nil, ids())
		var got *setup.SyntaxError
		require.ErrorAs(t, err, &got, text)
		got.Says = ""
		assert.Equal(t, want, *got, text)
	}
}

func TestNamesOfSeveralWordsStandAloneInClauses(t *testing.T) {
	shape, err := kinds.Setup.Parse([]byte(`tracker: T
zone: UTC
tabs: { A: { columns: { Due on: { type: date }, Owner: { type: person }, Part of town: { type: text } } } }
reminders:
  - { name: R, in: A, where: "[Due on] before today", show: [Due on], order: Due on, due: due on, group: Part of town, to: "{Owner}" }
`), nil, ids())
	require.NoError(t, err)
	saved, err := kinds.Setup.Encode(shape)
	require.NoError(t, err)
	for _, says := range []string{"order: '[Due on]'", "due: '[Due on]'", "group: '[Part of town]'"} {
		assert.Contains(t, string(saved), says)
	}
}
