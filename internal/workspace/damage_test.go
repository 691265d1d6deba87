package workspace_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/workspace"
)

// used makes a workspace with some history and leaves it closed.
func used(t *testing.T) *bench {
	b := newBench(t)
	rows := []map[string]any{}
	for i := range 900 { // a change set of more than one part
		rows = append(rows, map[string]any{"Object": fmt.Sprintf("Object %d", i)})
	}
	tr, tab, err := b.FindTab("Loans", "Requested")
	require.NoError(t, err)
	b.must(b.AddRows(testkit.By("Ines"), tr.ID, tab.ID, rows))
	row := b.add(map[string]any{"Object": "Bell", "Stage": "Requested"})
	_, err = b.set(row, "Stage", "Agreed")
	require.NoError(t, err)
	require.NoError(t, b.Close())
	return b
}

// Whatever is done to the file behind the service's back is found, and the rows
// are made anew from the journal.
func TestWhatIsDoneToTheFileIsFoundAndMended(t *testing.T) {
	for says, query := range map[string]string{
		"row r3 is not as it was written":              `UPDATE row SET cells='{"c1":"Forged"}' WHERE id=3`,
		"row r5 of Loans / Requested is not there":     `DELETE FROM row WHERE id=5`,
		"row r7 of Loans / Requested is not as":        `UPDATE row SET pos=pos+1 WHERE id=7`,
		"row r1 of Loans / Requested is not there":     `DELETE FROM row`,
		"tracker Loans is not there":                   `DELETE FROM row; DELETE FROM tracker`,
		"row r9001 of Loans / Requested should not be": `INSERT INTO row(id, tracker, tab, pos, version, cells) SELECT 9001, tracker, tab, 99999999999, 1, '{}' FROM row WHERE id=1`,
		"row r2 of tracker":                            `UPDATE row SET cells='nonsense', sum=0 WHERE id=2`,
	} {
		b := used(t)
		before := b.dump()
		b.inFile(query)
		i, err := store.Inspect(t.Context(), b.dir)
		require.NoError(t, err)
		assert.Contains(t, strings.Join(i.Found, "\n"), says, query)
		r, err := store.Rebuild(t.Context(), b.dir, time.Now())
		require.NoError(t, err, query)
		assert.NotEmpty(t, r.Mended)
		assert.FileExists(t, r.Aside)
		i, err = store.Inspect(t.Context(), b.dir)
		require.NoError(t, err)
		assert.Empty(t, i.Found, query)
		assert.Equal(t, before, b.dump(), query)
		b.open()
	}
	for says, query := range map[string]string{
		"change set 2 is not as it was written": `UPDATE journal SET who='Somebody' WHERE seq=2`,
		"change set 3 is not as it was written": `UPDATE journal SET body=replace(body, 'Bell', 'Bill') WHERE seq=3`,
		"change set 2 is not":                   `UPDATE change SET body=replace(body, 'Object 5', 'Object 6') WHERE seq=2`,
		"goes from change set 1 to 3":           `DELETE FROM journal WHERE seq=2`,
	} {
		b := used(t)
		b.inFile(query)
		i, err := store.Inspect(t.Context(), b.dir)
		require.NoError(t, err)
		assert.Contains(t, strings.Join(i.Found, "\n"), says, query)
		_, err = store.Rebuild(t.Context(), b.dir, time.Now())
		require.ErrorContains(t, err, "restore a backup instead", query)
		b.open()
	}
	b := used(t)
	i, err := store.Inspect(t.Context(), b.dir)
	require.NoError(t, err)
	assert.Empty(t, i.Found)
	assert.Equal(t, 901, i.Rows)
	b.open()
	found, rows, err := b.Check(t.Context(), true)
	require.NoError(t, err)
	assert.Empty(t, found)
	assert.Equal(t, 901, rows)
}

// dump writes out all rows of the file as it lies there.
func (b *bench) dump() string {
	b.t.Helper()
	s, err := store.Open(b.t.Context(), b.dir, store.Options{})
	require.NoError(b.t, err)
	w, _, err := s.Load(b.t.Context())
	require.NoError(b.t, err)
	var out strings.Builder
	for _, t := range w.Trackers() {
		for i := range t.Tabs {
			for r := range t.Rows(t.Tabs[i].ID) {
				fmt.Fprintln(&out, t.Name, t.Tabs[i].Name, r.ID, r.Pos, r.Version, r.Cells())
			}
		}
	}
	require.NoError(b.t, s.Close())
	return out.String()
}

// A database or log that was cut, emptied, taken away or replaced is told of at
// the next start, which once began empty and said nothing.
func TestAWorkspaceThatLostSomethingDoesNotStartAsIfNothingWere(t *testing.T) {
	for what, damage := range map[string]func(b *bench) error{
		"taken away": func(b *bench) error { return os.Remove(filepath.Join(b.dir, "kavlo.db")) },
		"emptied":    func(b *bench) error { return os.Truncate(filepath.Join(b.dir, "kavlo.db"), 0) },
		"an earlier state": func(b *bench) error {
			b.inFile("DELETE FROM journal WHERE seq>=3")
			return nil
		},
		"another workspace": func(b *bench) error {
			other := used(b.t)
			defer other.open()
			text, err := os.ReadFile(filepath.Join(other.dir, "kavlo.db"))
			if err != nil {
				return err
			}
			return os.WriteFile(filepath.Join(b.dir, "kavlo.db"), text, 0o600)
		},
	} {
		b := used(t)
		b.clock.set("2026-03-25 09:00")
		require.NoError(t, damage(b))
		_, err := workspace.Open(t.Context(), workspace.Config{Dir: b.dir, Now: b.clock.Now})
		var cut *store.Cut
		require.ErrorAs(t, err, &cut, what)
		assert.Contains(t, err.Error(), "restore a backup", what)
		i, err := store.Inspect(t.Context(), b.dir)
		require.NoError(t, err)
		assert.NotEmpty(t, i.Found, what)
		require.NoError(t, os.Remove(filepath.Join(b.dir, store.HeadFile))) // the operator's word
		b.open()
	}
	b := used(t)
	require.NoError(t, os.Truncate(filepath.Join(b.dir, "kavlo.db"), 20_000))
	_, err := workspace.Open(t.Context(), workspace.Config{Dir: b.dir})
	require.Error(t, err, "cut in the midst")
	for _, name := range []string{"kavlo.db", "kavlo.db-wal", "kavlo.db-shm", store.HeadFile} {
		if err := os.Remove(filepath.Join(b.dir, name)); err != nil {
			require.ErrorIs(t, err, os.ErrNotExist)
		}
	}
	b.open()
}

// The log of a workspace that was killed holds what was answered last: without it
// the start says so.
func TestALogThatIsTakenAwayIsMissed(t *testing.T) {
	b := newBench(t)
	b.add(map[string]any{"Object": "Bell"})
	require.Eventually(t, func() bool { // noted soon after the commit, while the service runs
		text, err := os.ReadFile(filepath.Join(b.dir, store.HeadFile))
		return err == nil && strings.HasPrefix(string(text), fmt.Sprintf("%020d ", b.Seq()))
	}, 10*time.Second, 10*time.Millisecond)
	dir := t.TempDir()
	for _, name := range []string{"kavlo.db", "kavlo.db-wal", "journal-head", "secret-key"} { // as a kill leaves them
		text, err := os.ReadFile(filepath.Join(b.dir, name))
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), text, 0o600))
	}
	d, err := workspace.Open(t.Context(), workspace.Config{Dir: dir})
	require.NoError(t, err, "with it nothing is lost")
	require.NoError(t, d.Close())
	cut := t.TempDir()
	for _, name := range []string{"kavlo.db", "journal-head", "secret-key"} {
		text, err := os.ReadFile(filepath.Join(b.dir, name))
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(filepath.Join(cut, name), text, 0o600))
	}
	_, err = workspace.Open(t.Context(), workspace.Config{Dir: cut})
	var lost *store.Cut
	require.ErrorAs(t, err, &lost)
}
