package cli

import (
	"testing"

	"github.com/spf13/pflag"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/wire"
)

func TestColumnFlagsAreADefinition(t *testing.T) {
	for _, tc := range []struct {
		args []string
		want map[string]any
	}{
		{nil, map[string]any{}},
		{[]string{"--type", "date", "--bad-input", "refuse", "--required"}, map[string]any{"type": "date", "bad input": "refuse", "required": true}},
		{[]string{"--required=false", "--default", ""}, map[string]any{"required": false, "default": ""}},
		{[]string{"--options", "Agreed=blue,Held"}, map[string]any{"options": []any{map[string]any{"Agreed": "blue"}, map[string]any{"Held": ""}}}},
		{[]string{"--longest-text", "20", "--automatic-number"}, map[string]any{"longest text": 20, "automatic number": true}},
		{[]string{"--unset", "default,bad-input"}, map[string]any{"default": nil, "bad input": nil}},
	} {
		fs := pflag.NewFlagSet("column", pflag.ContinueOnError)
		var f columnFlags
		f.add(fs, true)
		require.NoError(t, fs.Parse(tc.args))
		got, err := f.definition(fs)
		require.NoError(t, err)
		assert.Equal(t, tc.want, got, tc.args)
	}
	fs := pflag.NewFlagSet("column", pflag.ContinueOnError)
	var f columnFlags
	f.add(fs, false)
	require.NoError(t, fs.Parse([]string{"--longest-text", "many"}))
	_, err := f.definition(fs)
	require.ErrorContains(t, err, "a number of letters")
	require.Error(t, fs.Parse([]string{"--name", "x"}), "a new column has one name")
}

func TestColumnNotesSayWhatElseThereIs(t *testing.T) {
	assert.Empty(t, columnNotes(&wire.Column{BadInput: "mark"}))
	c := wire.Column{Required: true, Unique: true, BadInput: "refuse", Default: "1", Minimum: "0", Maximum: "9", Longest: 20, AutoNo: true, Several: true}
	assert.Equal(t, []string{"required", "unique", "several", "automatic number", "refuses bad input", "default 1", "at least 0", "at most 9", "up to 20 letters"}, columnNotes(&c))
	assert.Equal(t, []string{"computed: A + 1"}, columnNotes(&wire.Column{Clause: "A + 1"}))
}

func TestPlacesAndCellsAreTakenApart(t *testing.T) {
	tracker, tab, err := place(" Touring loans / In transit ")
	require.NoError(t, err)
	assert.Equal(t, "Touring loans", tracker)
	assert.Equal(t, "In transit", tab)
	_, tab, err = place("T/a/b")
	require.NoError(t, err)
	assert.Equal(t, "a/b", tab, "a tab's name may hold a slash")
	for _, bad := range []string{"", "T", "T/", "/a", " / "} {
		_, _, err := place(bad)
		assert.Error(t, err, bad)
	}
	got, err := cells([]string{"Stage=Agreed", "Remarks=a=b", "Due="})
	require.NoError(t, err)
	assert.Equal(t, map[string]any{"Stage": "Agreed", "Remarks": "a=b", "Due": ""}, got)
	for _, bad := range [][]string{{"Stage"}, {"=x"}, {"A=1", "A=2"}} {
		_, err := cells(bad)
		assert.Error(t, err, bad)
	}
}

func TestValuesAreToldInWords(t *testing.T) {
	for _, tc := range []struct {
		v    any
		want string
	}{{nil, ""}, {"x", "x"}, {true, "yes"}, {false, "no"}, {[]any{"a", "b"}, "a; b"}, {map[string]any{"b": "2", "a": true}, "a: yes, b: 2"}} {
		assert.Equal(t, tc.want, cellText(tc.v))
	}
}
