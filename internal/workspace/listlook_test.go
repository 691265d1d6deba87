package workspace_test

import (
	"encoding/json"
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/syncing"
)

// A list that is not saved is looked at: its fields by their paths, some values of each, and
// what tells its records apart.
func TestAListIsLookedAtBeforeItIsSaved(t *testing.T) {
	b := newBench(t)
	b.lists.records = []any{
		map[string]any{"id": json.Number("1"), "name": "Old Mill", "at": map[string]any{"country": "Averin", "a/b": true}, "tags": []any{"x"}, "none": nil},
		map[string]any{"id": json.Number("2"), "name": "Pier", "at": map[string]any{"country": "Averin"}},
	}
	text := []byte(`{"name": "Register", "from": {"http": "http://lists.example.org/lenders"}}`)
	seq := b.Seq()
	found, err := b.LookAtList(t.Context(), b.tracker(), text, 0)
	require.NoError(t, err)
	assert.Equal(t, &syncing.Sample{Total: 2, ID: "id", Fields: []syncing.Field{
		{At: "at/a~1b", Samples: []string{"true"}, Filled: 1}, {At: "at/country", Samples: []string{"Averin"}, Filled: 2},
		{At: "id", Samples: []string{"1", "2"}, Filled: 2}, {At: "name", Samples: []string{"Old Mill", "Pier"}, Filled: 2}}}, found)
	assert.Equal(t, seq, b.Seq())
	b.lists.err = errors.New("it does not answer")
	_, err = b.LookAtList(t.Context(), b.tracker(), text, 0)
	require.ErrorContains(t, err, "looking at the list: it does not answer")
	_, err = b.LookAtList(t.Context(), b.tracker(), []byte(`{"name": "Register", "from": {}}`), 0)
	require.Error(t, err)
}
