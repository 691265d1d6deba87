package reconcile_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
)

func tell(r *reconcile.Report) string {
	return fmt.Sprintf("%d added, %d updated, %d unchanged, %d odd, %d kept", r.Added, r.Updated, r.Unchanged, r.Odd, r.Kept)
}

// remembering takes records as a service does that keeps what files said.
type remembering struct {
	*testkit.Kit
	said   map[string][]byte
	prefer reconcile.Prefer
}

func (m *remembering) take(key string, records ...reconcile.Record) *reconcile.Report {
	into := reconcile.Into{Tracker: m.ID, Tab: m.Tab("Lenders").ID, Origin: "import", Spoken: []bool{true, true, true}, Prefer: m.prefer,
		Where: func(line int) string { return fmt.Sprintf("row %d", line) }, Last: func(key string) []byte { return m.said[key] }}
	if key != "" {
		into.Key = m.Column(key).ID
	}
	var rep *reconcile.Report
	m.Must(func(d *sheet.Draft) error {
		var err error
		rep, err = reconcile.Take(d, into, func(yield func(reconcile.Record, error) bool) {
			for _, r := range records {
				r.Cells = slices.Clone(r.Cells)
				if !yield(r, nil) {
					return
				}
			}
		})
		return err
	})
	for key, marks := range rep.Said().New {
		m.said[key] = marks.Bytes()
	}
	return rep
}

func remember(t testing.TB) *remembering {
	return &remembering{Kit: testkit.New(t, lenders), said: map[string][]byte{}}
}

func TestWhatWasEditedHereSinceStays(t *testing.T) {
	k := remember(t)
	first := record(k.Kit, 1, "No=1", "Name=Quill", "Fee=5")
	assert.Equal(t, "1 added, 0 updated, 0 unchanged, 0 odd, 0 kept", tell(k.take("No", first)))
	_, _, err := k.Edit("1", "Fee=7")
	require.NoError(t, err)
	assert.Equal(t, "0 added, 0 updated, 1 unchanged, 0 odd, 1 kept", tell(k.take("No", first)), "the file says what it said")
	assert.Equal(t, "Lenders:\n  No=1, Name=Quill, Fee=7\n", k.Dump())

	other := record(k.Kit, 1, "No=1", "Name=Quillmoor", "Fee=5")
	assert.Equal(t, "0 added, 1 updated, 0 unchanged, 0 odd, 1 kept", tell(k.take("No", other)), "what changed in the file alone is taken")
	assert.Equal(t, "Lenders:\n  No=1, Name=Quillmoor, Fee=7\n", k.Dump())

	both := record(k.Kit, 1, "No=1", "Name=Quillmoor", "Fee=9")
	rep := k.take("No", both)
	require.Len(t, rep.Held, 1)
	assert.Equal(t, reconcile.Held{Row: rep.Held[0].Row, Label: "1", Column: "Fee", Here: "7", File: "9"}, rep.Held[0])
	assert.Len(t, k.take("No", both).Held, 1, "it is held until somebody says which stands")
	k.prefer = reconcile.PreferHere
	assert.Empty(t, k.take("No", both).Held)
	k.prefer = reconcile.Neither
	assert.Empty(t, k.take("No", both).Held, "and then it is settled")
	assert.Equal(t, "Lenders:\n  No=1, Name=Quillmoor, Fee=7\n", k.Dump())
	again := record(k.Kit, 1, "No=1", "Name=Quillmoor", "Fee=11")
	assert.Len(t, k.take("No", again).Held, 1)
	k.prefer = reconcile.PreferFile
	assert.Equal(t, 1, k.take("No", again).Updated)
	assert.Equal(t, "Lenders:\n  No=1, Name=Quillmoor, Fee=11\n", k.Dump())
}

// What was edited here stays when the next file is imported by another column than the
// first.
func TestWhatWasEditedStaysUnderAnotherKey(t *testing.T) {
	for _, keys := range [][2]string{{"No", "Name"}, {"Name", "No"}} {
		k := remember(t)
		first, second := record(k.Kit, 1, "No=1", "Name=Quill", "Fee=5"), record(k.Kit, 2, "No=2", "Name=Hask", "Fee=5")
		k.take(keys[0], first, second)
		_, _, err := k.Edit("1", "Fee=7")
		require.NoError(t, err)
		assert.Equal(t, "0 added, 0 updated, 2 unchanged, 0 odd, 1 kept", tell(k.take(keys[1], first, second)), keys)
		changed := record(k.Kit, 2, "No=2", "Name=Hask", "Fee=6")
		assert.Equal(t, "0 added, 1 updated, 1 unchanged, 0 odd, 1 kept", tell(k.take(keys[1], first, changed)), keys)
		assert.Equal(t, "Lenders:\n  No=1, Name=Quill, Fee=7\n  No=2, Name=Hask, Fee=6\n", k.Dump(), keys)
	}

	k := remember(t)
	k.take("Fee", record(k.Kit, 1, "No=1", "Name=Quill", "Fee=5"))
	k.Add("Lenders", "No=2", "Name=Hask", "Fee=5")
	rep := k.take("No", record(k.Kit, 2, "No=2", "Name=Hasker", "Fee=5"))
	assert.Equal(t, 1, rep.Updated, "what was said of one row is not said of another that has its value")
}

func TestNotesAreComparedThreeWays(t *testing.T) {
	k := remember(t)
	name := k.Column("Name").ID
	noted := func(note string) reconcile.Record {
		r := record(k.Kit, 1, "No=1", "Name=Quill")
		if note != "" {
			r.Notes = map[sheet.ColumnID]string{name: note}
		}
		return r
	}
	k.take("No", noted("by post"))
	k.Must(func(d *sheet.Draft) error {
		return d.Annotate(sheet.Cell{Tracker: k.ID, Row: k.Row("1").ID, Column: name}, sheet.Note, "by hand", 0)
	})
	k.take("No", noted("by post"))
	assert.Contains(t, k.Dump(), "(by hand)")
	assert.Len(t, k.take("No", noted("by air")).Held, 1)
	k.prefer = reconcile.PreferFile
	k.take("No", noted("by air"))
	assert.Contains(t, k.Dump(), "(by air)")
	k.take("No", noted(""))
	assert.NotContains(t, k.Dump(), "(by", "taken away in the file, it goes")
}

// A record that knows its row updates that, without a key, wherever it is now.
func TestARecordThatKnowsItsRowUpdatesIt(t *testing.T) {
	k := remember(t)
	quill, hask := k.Add("Lenders", "No=1", "Name=Quill", "Fee=5"), k.Add("Former", "No=2", "Name=Hask")
	of := func(id sheet.RowID, name, fee string, cells ...string) reconcile.Record {
		r := record(k.Kit, 1, cells...)
		r.Row, r.Marks = id, reconcile.CellMarks{}
		was := record(k.Kit, 1, "No=1", "Name="+name, "Fee="+fee)
		for i, c := range k.Tab("Lenders").Columns {
			r.Marks[c.ID] = reconcile.CellMarkOf(was.Cells[i], "", "")
		}
		return r
	}
	_, _, err := k.Edit("1", "Fee=7")
	require.NoError(t, err)
	rep := k.take("", of(quill, "Quill", "5", "No=1", "Name=Quillmoor", "Fee=5"), of(quill, "Quill", "5", "No=1", "Name=Copied", "Fee=5"), of(hask, "Hask", "", "No=2", "Name=Hask & Daughters"))
	assert.Equal(t, "1 added, 2 updated, 0 unchanged, 0 odd, 1 kept", tell(rep))
	assert.Equal(t, "Lenders:\n  No=1, Name=Quillmoor, Fee=7\n  No=1, Name=Copied, Fee=5\nFormer:\n  No=2, Name=Hask & Daughters\n", k.Dump())
}

// Cell by cell, what stands after a file is imported again follows from what it said
// before, what it says now, and what stood here.
func TestEachCellIsComparedThreeWays(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		k := remember(t)
		fee := func(name string) string {
			return rapid.SampledFrom([]string{"", "1", "2", "3", "TBC"}).Draw(rt, name)
		}
		before, now, here := fee("before"), fee("now"), fee("here")
		k.take("No", record(k.Kit, 1, "No=1", "Name=Quill", "Fee="+before))
		if here != before {
			_, _, err := k.Edit("1", "Fee="+here)
			require.NoError(rt, err)
		}
		rep := k.take("No", record(k.Kit, 1, "No=1", "Name=Quill", "Fee="+now))
		want, held := here, 0
		switch {
		case now == here:
		case now == before: // it has changed here alone
		case here == before:
			want = now
		default:
			held = 1
		}
		assert.Len(rt, rep.Held, held)
		if want == "TBC" {
			want = "TBC?"
		}
		if want != "" {
			want = ", Fee=" + want
		}
		assert.Equal(rt, "Lenders:\n  No=1, Name=Quill"+want+"\n", k.Dump())
	})
}

func TestMarksAreReadAsTheyWereWritten(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		m := reconcile.CellMarks{}
		for range rapid.IntRange(0, 6).Draw(rt, "columns") {
			m[sheet.ColumnID(rapid.Int64Range(1, 1<<40).Draw(rt, "id"))] = reconcile.CellMark{Value: rapid.Uint32().Draw(rt, "value"), Dress: rapid.Uint32().Draw(rt, "dress")}
		}
		got := reconcile.ParseCellMarks(m.Bytes())
		assert.Len(rt, got, len(m))
		for id, mark := range m {
			assert.Equal(rt, mark, got[id])
		}
		cut := m.Bytes()
		reconcile.ParseCellMarks(cut[:rapid.IntRange(0, len(cut)).Draw(rt, "cut")])
	})
}
