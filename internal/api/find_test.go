package api

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/wire"
)

// Rows are found by label wherever they are, those that begin so first, and only where
// whoever asks may see them.
func TestRowsAreFoundByLabelInAllTrackers(t *testing.T) {
	r := pageRig(t)
	r.add("Old pier lamp")
	r.add("PIERced bell")
	labels := func(who, text string) (out []string) {
		var found []wire.FoundRow
		a := r.call(who, "GET", "/find?text="+text, nil)
		require.Equal(t, 200, a.StatusCode, string(a.body))
		a.into(t, &found)
		for _, f := range found {
			out = append(out, f.Label+" in "+f.Tab+" of "+f.Tracker)
		}
		return out
	}
	assert.ElementsMatch(t, []string{"PIERced bell in Requested of Loans", "Pier in Halls of Tour"}, labels("reader", "pier")[:2])
	assert.Equal(t, "Old pier lamp in Requested of Loans", labels("reader", "pier")[2])
	assert.Equal(t, []string{"Vault in Secret of Tour"}, labels("keeper", "vault"))
	assert.Empty(t, labels("reader", "vault"))
	assert.Equal(t, 422, r.call("reader", "GET", "/find?text=", nil).StatusCode)
}
