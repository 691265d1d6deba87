package query_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/testkit"
)

const lent = `
tracker: Lent
zone: UTC
dates: 31/03/2026
numbers: "1.234,5"
tabs:
  Requested: { columns: { Object: { type: text }, Registrar: { type: person, several: yes }, Fee: { type: number, format: EUR }, Due: { type: date }, Image: { type: link }, Packed: { type: checkbox }, Twice: { type: computed, clause: Fee * 2 } } }
`

func TestWordsAreFoundInWhateverCells(t *testing.T) {
	k := testkit.New(t, lent)
	k.Add("Requested", "Object=Brass Sextant", "Registrar=marta@example.org; joren@example.org", "Fee=1234.5", "Due=2026-12-04", "Image=a photo <https://images.example.org/17>", "Packed=yes")
	k.Add("Requested", "Object=Straße in Dämmerung", "Fee=about ten", "Packed=no")
	ready, err := testkit.Program(k.Tracker().Shape)
	require.NoError(t, err)
	names := map[string]string{"marta@example.org": "Marta Quell"}
	for words, want := range map[string][]string{
		"":                     {"Brass Sextant", "Straße in Dämmerung"},
		"brass":                {"Brass Sextant"},
		"SEXT ras":             {"Brass Sextant"},
		"sextant brass":        {"Brass Sextant"},
		`"sextant brass"`:      {},
		`"brass sextant"`:      {"Brass Sextant"},
		`"Brass Sex`:           {"Brass Sextant"}, // the mark that ends it is still to be typed
		"marta quell":          {"Brass Sextant"},
		"joren@example.org":    {"Brass Sextant"},
		"2026-12-04":           {"Brass Sextant"},
		"04/12/2026":           {"Brass Sextant"},
		"1234.5":               {"Brass Sextant"},
		"1.234,5":              {"Brass Sextant"},
		"2469":                 {"Brass Sextant"}, // computed
		"photo":                {"Brass Sextant"},
		"images.example.org":   {"Brass Sextant"},
		"about":                {"Straße in Dämmerung"}, // odd, as written
		"da\u0308mmer":         {"Straße in Dämmerung"}, // decomposed
		"yes":                  {},
		"brass about":          {},
		"  brass \t sextant  ": {"Brass Sextant"},
	} {
		found := selected(t, k, ready, query.Query{Words: words, Names: names})
		assert.Equal(t, want, labels(k, found.Rows), words)
		assert.Equal(t, len(want), found.Total, words)
	}
	found := selected(t, k, ready, query.Query{Words: "brass", Where: "Fee > 2000"})
	assert.Empty(t, found.Rows)
	found = selected(t, k, ready, query.Query{Words: "a", Order: query.Order{{Column: k.Tab("Requested").Columns[0].ID, Down: true}}, Limit: 1})
	assert.Equal(t, []string{"Straße in Dämmerung"}, labels(k, found.Rows))
	assert.Equal(t, 2, found.Total)
}

func TestMonthsAreFoundByNameWhereTheyAreWrittenSo(t *testing.T) {
	for dates, found := range map[string]int{"31 March 2026": 1, "31.03.2026": 0} {
		k := testkit.New(t, strings.ReplaceAll(lent, "31/03/2026", dates))
		k.Add("Requested", "Object=Sextant", "Due=2026-03-31")
		ready, err := testkit.Program(k.Tracker().Shape)
		require.NoError(t, err)
		assert.Equal(t, found, selected(t, k, ready, query.Query{Words: "march"}).Total, dates)
	}
}

func TestConditionsAreJoined(t *testing.T) {
	assert.Empty(t, query.Both("", ""))
	assert.Equal(t, "A > 1", query.Both("A > 1", ""))
	assert.Equal(t, "B > 1", query.Both("", "B > 1"))
	assert.Equal(t, "(A > 1) and (B > 1 or C)", query.Both("A > 1", "B > 1 or C"))
}
