package setup_test

import (
	"encoding/json"
	"testing"

	"github.com/google/jsonschema-go/jsonschema"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"example.org/kavlo/demo"
	"example.org/kavlo/internal/kinds"
)

// valid reports whether the published schema takes a setup file.
func valid(t *testing.T, text string) error {
	t.Helper()
	raw, err := kinds.Setup.Schema()
	require.NoError(t, err)
	var s jsonschema.Schema
	require.NoError(t, json.Unmarshal(raw, &s))
	r, err := s.Resolve(nil)
	require.NoError(t, err)
	var doc any
	require.NoError(t, yaml.Unmarshal([]byte(text), &doc))
	asJSON, err := json.Marshal(doc)
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(asJSON, &doc))
	return r.Validate(doc)
}

func TestTheSchemaTakesWhatLoads(t *testing.T) {
	require.NoError(t, valid(t, demo.Setup("http://lists.example.org")))
	s, err := kinds.Setup.Parse([]byte(demo.Setup("http://lists.example.org")), nil, ids())
	require.NoError(t, err)
	saved, err := kinds.Setup.Encode(s)
	require.NoError(t, err)
	require.NoError(t, valid(t, string(saved)))
}

func TestTheSchemaRefusesWhatIsMisspelt(t *testing.T) {
	for _, text := range []string{
		"zone: UTC", // no tracker
		"tracker: T\ntabz: {}",
		"tracker: T\ntabs: { A: { columns: { X: { type: txt } } } }",
		"tracker: T\nrules: [ { name: R, stepps: [] } ]",
		"tracker: T\nrules: [ { name: R, steps: [ { move: { create: Like } } ] } ]",
		"tracker: T\nrules: [ { name: R, steps: [ {} ] } ]",
		"tracker: T\nrounds: [ { name: R, clock: daily at 7:00, reminders: all, subject: x, missed: perhaps } ]",
	} {
		assert.Error(t, valid(t, text), text)
	}
}

func TestDifferencesAreSaidALineEach(t *testing.T) {
	next := ids()
	before, err := kinds.Setup.Parse([]byte(base+"rules:\n  - { name: R, where: Stage is blank, steps: [ { set: { Object: x } } ] }\n"), nil, next)
	require.NoError(t, err)
	after, err := kinds.Setup.Parse([]byte("tracker: Loans\nzone: UTC\ntabs:\n  Crating: { columns: { Object: { type: text, required: yes }, Stage: { type: choice, options: { Agreed: blue } }, Crate: { type: text } } }\n"+
		"rules:\n  - { name: R, where: Stage is not blank, steps: [ { set: { Object: x } } ] }\n  - { name: S, steps: [ { copy: { to: Crating } } ] }\n"), before, next)
	require.NoError(t, err)
	got, err := kinds.Setup.Differences(before, after)
	require.NoError(t, err)
	assert.Equal(t, []string{
		"rules / R / where: Stage is blank → Stage is not blank",
		"added rules / S: { steps: [{ copy: { to: Crating } }], wake: hand }",
		"removed tabs / Crating / columns / Arrived: { type: date }",
		"added tabs / Crating / columns / Crate: { type: text }",
		"added tabs / Crating / columns / Object / required: yes",
		"zone: Europe/Lisbon → UTC",
	}, got)
	none, err := kinds.Setup.Differences(after, after)
	require.NoError(t, err)
	assert.Empty(t, none)
	all, err := kinds.Setup.Differences(nil, after)
	require.NoError(t, err)
	assert.Len(t, all, 5, "each rule by itself")
}
