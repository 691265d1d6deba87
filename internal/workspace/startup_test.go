package workspace_test

import (
	"database/sql"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	_ "modernc.org/sqlite"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/trigger"
	"example.org/kavlo/internal/value"
)

// inFile alters the workspace's file as no service would.
func (b *bench) inFile(query string, args ...any) {
	b.t.Helper()
	db, err := sql.Open("sqlite", filepath.Join(b.dir, "kavlo.db"))
	require.NoError(b.t, err)
	_, err = db.Exec(query, args...)
	require.NoError(b.t, err)
	require.NoError(b.t, db.Close())
}

func TestARecordThatCannotBeReadIsSetAsideAndTheRestStarts(t *testing.T) {
	b := newBench(t)
	bell, lamp := b.add(map[string]any{"Object": "Bell"}), b.add(map[string]any{"Object": "Lamp"})
	require.NoError(t, b.Close())
	b.inFile(`UPDATE row SET cells='{"c1":{"date":"10000-01-30"}}' WHERE id=?`, int64(bell))
	b.inFile(`INSERT INTO tracker(id, name, version, shape) VALUES (900, 'Broken', 1, '{"Tabs": 5, "tabs": 5}')`)
	b.open()
	assert.Nil(t, b.tracker().Row(bell))
	assert.NotNil(t, b.tracker().Row(lamp))
	said := ""
	for _, n := range b.Notices() {
		said += n.Says + "\n"
	}
	assert.Contains(t, said, "row "+bell.String()+" of tracker")
	assert.Contains(t, said, "tracker t900 cannot be read and was set aside")
	_, err := b.set(lamp, "Object", "Lantern")
	require.NoError(t, err)
	found, _, err := b.Check(t.Context(), true)
	require.NoError(t, err)
	assert.Contains(t, strings.Join(found, "\n"), "row "+bell.String())

	require.NoError(t, b.Close()) // repaired by hand, it is there again
	b.inFile(`UPDATE row SET cells='{}' WHERE id=?`, int64(bell))
	b.inFile(`DELETE FROM tracker WHERE id=900`)
	b.open()
	assert.NotNil(t, b.tracker().Row(bell))
	assert.Empty(t, b.Notices())
}

func TestADayBeyondTheCalendarIsKeptAsOddAndTheWorkspaceStarts(t *testing.T) {
	b := newBench(t)
	b.must(b.PutDefinition(testkit.By("Ines"), b.tracker().ID, sheet.KindRule, []byte(`{name: Push, wake: {clock: daily at 7:00}, in: Requested, steps: [{set: {Due: "{Due + 30 days}"}}]}`), 0))
	row := b.add(map[string]any{"Object": "Bell", "Due": "9999-12-31"})
	r, err := b.FindRule(b.tracker(), "Push")
	require.NoError(t, err)
	out := b.must(b.RunRule(testkit.By("Ines"), b.tracker(), r))
	require.Len(t, trigger.OutcomeOf(out.Note.Report).Reports, 1)
	require.Len(t, trigger.OutcomeOf(out.Note.Report).Reports[0].PassedOver, 1)
	assert.Equal(t, "9999-12-31 + 30 days is outside the years 0 to 9999", trigger.OutcomeOf(out.Note.Report).Reports[0].PassedOver[0].Why)
	b.reopen()
	assert.Empty(t, b.Notices())
	assert.NotNil(t, b.tracker().Row(row))
	assert.True(t, value.OfDays(2_932_897).IsOdd(), "no date that cannot be read back can be made")
}
