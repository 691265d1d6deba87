package workspace_test

import (
	"context"
	"encoding/csv"
	"fmt"
	"os"
	"path/filepath"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
)

// What a turn needs prepared is worked out outside the writer, once, and again in the
// turn only where something that it rests on has changed meanwhile.
func TestWhatIsPreparedIsWorkedOutOutsideTheWriter(t *testing.T) {
	for name, c := range map[string]struct {
		meanwhile func(*bench, sheet.TrackerID)
		want      []bool // of each time that it was worked out: in the writer
	}{
		"nothing happens": {func(*bench, sheet.TrackerID) {}, []bool{false}},
		"another tracker changes": {func(b *bench, _ sheet.TrackerID) {
			b.must(b.LoadSetup(testkit.By("Ines"), []byte("tracker: Other\nzone: UTC\ntabs:\n  One: { columns: { A: { type: text } } }\n")))
		}, []bool{false}},
		"the tracker changes": {func(b *bench, _ sheet.TrackerID) { b.add(map[string]any{"Object": "Meanwhile"}) }, []bool{false, true}},
	} {
		t.Run(name, func(t *testing.T) {
			b := newBench(t)
			id := b.tracker().ID
			var inWriter []bool
			var got, rows int
			b.must(engine.Request{By: testkit.By("Ines"), Tracker: id, Cause: sheet.Cause{Kind: sheet.ByEdit}, Alone: true, Work: func(turn *engine.Turn) error {
				tab := b.tracker().Tabs[0].ID
				if _, err := turn.Draft.AddRow(sheet.Place{Tracker: id, Tab: tab}, nil, 0); err != nil {
					return err
				}
				count, err := engine.Prepared(turn, "count", []sheet.TrackerID{id}, func(context.Context) (int, error) {
					inWriter = append(inWriter, turn.Final)
					n := turn.Draft.Tracker(id).Count(tab)
					if !turn.Final {
						c.meanwhile(b, id)
					}
					return n, nil
				})
				got, rows = count, turn.Draft.Tracker(id).Count(tab)
				return err
			}})
			assert.Equal(t, c.want, inWriter)
			assert.Equal(t, rows, got, "it is what the turn came to")
		})
	}
}

// Whatever others do at the same time, a file holds the state that its change came to.
func TestFilesHoldWhatTheirChangeCameToWhileOthersEdit(t *testing.T) {
	b := newBench(t)
	b.must(b.PutDefinition(testkit.By("Ines"), b.tracker().ID, sheet.KindRule, []byte("{ name: Copy, wake: { new row: yes }, in: Requested, steps: [ { write: { tab: Requested, file: outbound/all.csv } } ] }"), 0))
	const writers, each = 4, 6
	var all sync.WaitGroup
	for w := range writers {
		all.Go(func() {
			for i := range each {
				b.add(map[string]any{"Object": fmt.Sprintf("Object %d of %d", i, w)})
			}
		})
	}
	all.Wait()
	names, err := filepath.Glob(filepath.Join(b.dir, "outbound", "all*.csv"))
	require.NoError(t, err)
	require.Len(t, names, writers*each)
	seen := map[int]bool{}
	for _, name := range names {
		f, err := os.Open(name)
		require.NoError(t, err)
		lines, err := csv.NewReader(f).ReadAll()
		require.NoError(t, err)
		require.NoError(t, f.Close())
		seen[len(lines)-1] = true
	}
	for n := 1; n <= writers*each; n++ {
		assert.True(t, seen[n], "a file of %d rows", n)
	}
}
