package kinds_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/kinds"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/testkit/notice"
)

const withNotices = `tracker: Loans
zone: UTC
tabs:
  Requested: { columns: { Object: { type: text }, Due: { type: date } } }
notices:
  - { name: Closed week, tab: Requested, says: No loans leave the house, until: 2026-12-24 }
`

// A kind of its own comes with its package and one line: its key in setup files with
// errors that say where, its schema, its sentence, and that what it names stays.
func TestAKindIsOnePackageAndOneLine(t *testing.T) {
	format := setup.With(append(program.Kinds{notice.Kind}, kinds.All...))
	n := int64(0)
	ids := func() int64 { n++; return n }
	shape, err := format.Parse([]byte(withNotices), nil, ids)
	require.NoError(t, err)
	require.NoError(t, format.Check(shape))
	text, err := format.Encode(shape)
	require.NoError(t, err)
	again, err := format.Parse(text, shape, ids)
	require.NoError(t, err)
	assert.Equal(t, shape, again)
	says, err := format.Sentence(&shape.Definitions[0], shape)
	require.NoError(t, err)
	assert.Equal(t, "Above Requested, until 2026-12-24: No loans leave the house.", says)
	schema, err := format.Schema()
	require.NoError(t, err)
	assert.Contains(t, string(schema), `"notices"`)

	ready, err := program.Compile(shape, format.Kinds())
	require.NoError(t, err)
	compiled, err := program.Ready[*notice.Notice](ready, shape.Definitions[0].ID)
	require.NoError(t, err)
	assert.Equal(t, "Closed week", compiled.Name)

	without := shape.Clone()
	without.Tabs = nil
	assert.Equal(t, []string{"notice Closed week"}, format.Needers(shape, without))

	for wrong, says := range map[string]string{
		"- { name: X, tab: Requestd, says: a }":             "line 6: notices / X / tab: there is no tab \"Requestd\" in Loans: did you mean Requested?",
		"- { name: X, tab: Requested }":                     "line 6: notices / X: say what it says: says: TEXT",
		"- { name: X, tab: Requested, says: a, untl: 1 }":   "did you mean until?",
		"- { name: X, tab: Requested, says: a, until: no }": "is not a date",
		"- { tab: Requested, says: a }":                     "a notice needs a name",
	} {
		_, err := format.Parse([]byte("tracker: Loans\nzone: UTC\ntabs:\n  Requested: { columns: { Object: { type: text } } }\nnotices:\n  "+wrong), nil, ids)
		require.ErrorContains(t, err, says)
	}
	_, err = kinds.Setup.Parse([]byte(withNotices), nil, ids)
	require.ErrorContains(t, err, `there is no key "notices" here`, "without its line there is no such kind")
}
