package workspace_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/output"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
)

const dated = `
tracker: Loans
zone: Europe/Lisbon
tabs:
  Requested: { columns: { Object: { type: text }, Registrar: { type: person }, Due: { type: date }, Value: { type: number } } }
reminders:
  - { name: Due, in: Requested, where: Due before today, show: [Object, Due, { Worth: Value }], to: "{Registrar}" }
rules:
  - name: Planner
    wake: { clock: daily at 07:00 }
    steps:
      - write: { tab: Requested, file: "all {today}.csv", keep: 3 days }
      - write: { reminder: Due, file: "late {today}.xlsx" }
rounds:
  - { name: Morning, clock: daily at 08:30, reminders: all, subject: "{count} wait", attach: [Planner] }
`

// Rows are written by day, go with the round, are compared, and are gone when
// their time is up.
func TestDatedFilesAreComparedAttachedAndSwept(t *testing.T) {
	b := newBench(t)
	b.must(b.DropTracker(testkit.By("Ines"), b.tracker().ID))
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(dated)))
	b.add(map[string]any{"Object": "Bell", "Due": "2026-03-01", "Value": "10", "Registrar": "marta@example.org"})
	lamp := b.add(map[string]any{"Object": "Lamp", "Due": "2026-04-01", "Value": "20"})
	write := func(at string) {
		b.clock.set(at)
		r, err := b.FindRule(b.tracker(), "Planner")
		require.NoError(t, err)
		b.must(b.RunRule(testkit.By("Ines"), b.tracker(), r))
	}
	write("2026-03-25 07:00")
	b.must(b.SetRows(testkit.By("Ines"), b.tracker().ID, []edit.RowEdit{{Row: lamp, Cells: map[string]any{"Value": "25"}}}))
	b.add(map[string]any{"Object": "Horn", "Due": "2026-04-01"})
	write("2026-03-26 07:00")
	all, err := b.Snapshots(t.Context(), b.tracker())
	require.NoError(t, err)
	require.Len(t, all, 4)
	c, err := b.Compare(t.Context(), b.tracker(), "all 2026-03-25.csv", "all 2026-03-26.csv", "")
	require.NoError(t, err)
	assert.Equal(t, &output.Comparison{Key: "Object", Added: []string{"Horn"}, Changed: []output.CellChange{{Row: "Lamp", Column: "Value", Before: "20", After: "25"}}, Same: 1}, c)
	c, err = b.Compare(t.Context(), b.tracker(), "all 2026-03-26.csv", "all 2026-03-25.csv", "object")
	require.NoError(t, err)
	assert.Equal(t, []string{"Horn"}, c.Removed)
	c, err = b.Compare(t.Context(), b.tracker(), "late 2026-03-25.xlsx", "late 2026-03-26.xlsx", "")
	require.NoError(t, err)
	assert.Equal(t, 1, c.Same, "what a reminder holds, with what it shows")
	for says, paths := range map[string][2]string{"did you mean all 2026-03": {"all 2026-03-24.csv", "all 2026-03-25.csv"}, "there is no column": {"all 2026-03-25.csv", "all 2026-03-26.csv"}, "there is no file written": {"../kavlo.db", "all 2026-03-26.csv"}} {
		_, err := b.Compare(t.Context(), b.tracker(), paths[0], paths[1], "Nothing")
		require.ErrorContains(t, err, says)
	}

	plan, err := b.PlanRound(t.Context(), b.tracker(), "Morning")
	require.NoError(t, err)
	_, _, err = b.RunRound(t.Context(), testkit.By("Ines"), sheet.ByHand, b.tracker(), plan)
	require.NoError(t, err)
	require.NoError(t, os.Remove(filepath.Join(b.dir, "outbound", "late 2026-03-26.xlsx"))) // between the round and its mails
	_, err = b.SendDue(t.Context())
	require.NoError(t, err)
	sent := b.mail.sent[len(b.mail.sent)-1]
	require.Len(t, sent.Attach, 1, "what is gone is left out")
	assert.Equal(t, "all 2026-03-26.csv", sent.Attach[0].Name)
	assert.Contains(t, string(sent.Attach[0].Data), "Horn")

	for _, at := range []string{"2026-03-28 06:30", "2026-03-28 08:00"} {
		b.clock.set(at)
		_, err = b.Tick(t.Context())
		require.NoError(t, err)
	}
	all, err = b.Snapshots(t.Context(), b.tracker())
	require.NoError(t, err)
	gone := map[string]bool{}
	for _, s := range all {
		gone[s.Path] = s.Gone
	}
	assert.NotContains(t, gone, "all 2026-03-25.csv", "kept for three days")
	assert.NoFileExists(t, filepath.Join(b.dir, "outbound", "all 2026-03-25.csv"))
	assert.Contains(t, gone, "all 2026-03-26.csv")
	assert.False(t, gone["late 2026-03-25.xlsx"], "kept for good")
	assert.True(t, gone["late 2026-03-26.xlsx"])
}

// What is put into the outbound folder stays in it, wherever links there lead,
// and is the owner's alone.
func TestWritingFollowsNoLinkOutOfItsFolder(t *testing.T) {
	for name, setup := range map[string]func(dir, away string) error{
		"a folder that is a link": func(dir, away string) error { return os.Symlink(away, filepath.Join(dir, "sub")) },
		"a file that is a link": func(dir, away string) error {
			if err := os.Mkdir(filepath.Join(dir, "sub"), 0o700); err != nil {
				return err
			}
			return os.Symlink(filepath.Join(away, "x.csv"), filepath.Join(dir, "sub", "x.csv"))
		},
	} {
		b := newBench(t)
		b.must(b.DropTracker(testkit.By("Ines"), b.tracker().ID))
		b.must(b.LoadSetup(testkit.By("Ines"), []byte("tracker: Loans\ntabs: { Requested: { columns: { Object: { type: text } } } }\nrules: [ { name: W, wake: { clock: daily at 7:00 }, steps: [ { write: { tab: Requested, file: sub/x.csv, replace: yes } } ] } ]\n")))
		away, outbound := t.TempDir(), filepath.Join(b.dir, output.OutboundFolder)
		require.NoError(t, os.MkdirAll(outbound, 0o755))
		require.NoError(t, setup(outbound, away))
		require.NoError(t, os.WriteFile(filepath.Join(away, "x.csv"), []byte("theirs"), 0o600))
		r, err := b.FindRule(b.tracker(), "W")
		require.NoError(t, err)
		_, err = b.Commit(t.Context(), b.RunRule(testkit.By("Ines"), b.tracker(), r))
		text, readErr := os.ReadFile(filepath.Join(away, "x.csv"))
		require.NoError(t, readErr)
		assert.Equal(t, "theirs", string(text), name)
		entries, err2 := os.ReadDir(away)
		require.NoError(t, err2)
		assert.Len(t, entries, 1, name)
		if name == "a folder that is a link" {
			require.ErrorContains(t, err, "escapes", name)
			continue
		}
		require.NoError(t, err)
		info, err := os.Lstat(filepath.Join(outbound, "sub", "x.csv"))
		require.NoError(t, err)
		assert.Equal(t, os.FileMode(0o600), info.Mode(), "the link is replaced by a file of one's own")
	}
}
