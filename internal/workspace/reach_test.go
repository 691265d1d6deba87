package workspace_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
)

// A rule that brings rows into another tracker acts there on behalf of whoever saves it:
// that tracker's people are asked when it is saved, not when somebody sets it off.
func TestARuleReachesIntoTrackersOfItsAuthorAlone(t *testing.T) {
	b := newBench(t)
	b.must(b.LoadSetup(testkit.By("Ines"), []byte("tracker: Archive\nzone: UTC\ntabs: { Past: { columns: { Object: { type: text } } } }\naccess: { read: [rosa@example.org], edit: [rosa@example.org] }\n")))
	const lending = "tracker: Lending\nzone: UTC\ntabs: { Now: { columns: { Object: { type: text }, Done: { type: checkbox } } } }\naccess: { keep: [marta@example.org, rosa@example.org] }\n"
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(lending)))
	const (
		move = "name: Put away\nwake: { edit: [Done] }\nwhere: Done\nsteps: [ { move: { to: Past, tracker: Archive } } ]\n"
		copy = "name: Keep a copy\nin: Now\nsteps: [ { copy: { to: Past, tracker: Archive } } ]\n"
		lost = "name: Send off\nin: Now\nsteps: [ { copy: { to: Past, tracker: Nowhere } } ]\n"
	)
	person := func(id int64, name, address string) policy.Principal {
		return policy.OfPerson(id, name, address, "editor")
	}
	marta, rosa, joren := person(11, "Marta", "marta@example.org"), person(12, "Rosa", "rosa@example.org"), person(13, "Joren", "joren@example.org")
	lendings := func() *sheet.Tracker {
		tr, err := b.Find("Lending")
		require.NoError(t, err)
		return tr
	}
	for _, text := range []string{move, copy, lost} {
		_, err := b.Commit(t.Context(), b.PutDefinition(marta, lendings().ID, sheet.KindRule, []byte(text), 0))
		var missing *sheet.NotFound
		assert.ErrorAs(t, err, &missing, "Marta does not see it: %s", text)
	}
	b.must(b.PutDefinition(rosa, lendings().ID, sheet.KindRule, []byte(move), 0))
	const another = "name: Put away\nwake: { edit: [Done] }\nwhere: not Done\nsteps: [ { move: { to: Past, tracker: Archive } } ]\n"
	rule := lendings().Definitions[0].ID
	_, err := b.Commit(t.Context(), b.PutDefinition(marta, lendings().ID, sheet.KindRule, []byte(another), rule))
	require.Error(t, err, "another's rule is not made to do something else")
	b.must(b.Pause(marta, lendings().ID, rule, true))
	b.must(b.Pause(marta, lendings().ID, rule, false))

	tab, err := lendings().Tab("Now")
	require.NoError(t, err)
	r := b.must(b.AddRows(joren, lendings().ID, tab.ID, []map[string]any{{"Object": "Bell"}}))
	b.must(b.SetRows(joren, lendings().ID, []edit.RowEdit{{Row: r.Set.Changes[0].Row, Cells: map[string]any{"Done": true}}}))
	assert.Equal(t, []string{"Bell"}, b.cellsOf("Archive", "Past"), "set off by one who does not see the archive")
}
