package reconcile_test

import (
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/value"
)

const lenders = `
tracker: Loans
zone: UTC
tabs:
  Lenders: { columns: { No: { type: text }, Name: { type: text }, Fee: { type: number } } }
  Former:  { columns: { No: { type: text }, Name: { type: text } } }
`

// record reads "No=1, Name=x" into a record.
func record(k *testkit.Kit, n int, cells ...string) reconcile.Record {
	tab := k.Tab("Lenders")
	laid := make([]value.Value, len(tab.Columns))
	for id, v := range k.Cells(tab, cells...) {
		laid[tab.Slot(id)] = v
	}
	hash := sha256.Sum256([]byte(fmt.Sprint(cells)))
	return reconcile.Record{Line: n, Cells: laid, Fingerprint: reconcile.Fingerprint(hash[:])}
}

func take(k *testkit.Kit, key string, records ...reconcile.Record) *reconcile.Report {
	into := reconcile.Into{Tracker: k.ID, Tab: k.Tab("Lenders").ID, Origin: "list", Spoken: []bool{true, true, true},
		Where: func(line int) string { return fmt.Sprintf("record %d", line) }}
	if key != "" {
		into.Key = k.Column(key).ID
	}
	var rep *reconcile.Report
	k.Must(func(d *sheet.Draft) error {
		var err error
		rep, err = reconcile.Take(d, into, func(yield func(reconcile.Record, error) bool) {
			for _, r := range records {
				r.Cells = slices.Clone(r.Cells) // they are given, and these are taken twice
				if !yield(r, nil) {
					return
				}
			}
		})
		return err
	})
	return rep
}

func TestTakeByKeyAddsUpdatesAndLeavesTheRest(t *testing.T) {
	k := testkit.New(t, lenders)
	k.Add("Lenders", "No=001", "Name=Quillmoor Trust", "Fee=5")
	k.Add("Lenders", "No=002", "Name=Port Averin")
	k.Add("Former", "No=003", "Name=Hask") // a row that moved on is still the one with its key
	records := []reconcile.Record{record(k, 1, "No=001", "Name=Quillmoor", "Fee=5"), record(k, 2, "No=003", "Name=Hask & Daughters"), record(k, 3, "No=004", "Name=Tarn", "Fee=none")}
	rep := take(k, "No", records...)
	assert.Equal(t, "1 added, 2 updated, 0 unchanged, 1 odd, 0 kept", tell(rep))
	want := "Lenders:\n  No=001, Name=Quillmoor, Fee=5\n  No=002, Name=Port Averin\n  No=004, Name=Tarn, Fee=none?\nFormer:\n  No=003, Name=Hask & Daughters\n"
	assert.Equal(t, want, k.Dump())
	rep = take(k, "No", records...)
	assert.Equal(t, 3, rep.Unchanged)
	assert.Zero(t, rep.Added+rep.Updated)
	assert.Equal(t, want, k.Dump())
}

func TestTakeByKeyBringsNotesAndLooks(t *testing.T) {
	k := testkit.New(t, lenders)
	k.Add("Lenders", "No=001", "Name=Quillmoor")
	name := k.Column("Name").ID
	coloured := func() reconcile.Record {
		r := record(k, 1, "No=001", "Name=Quillmoor")
		r.Notes, r.Styles = map[sheet.ColumnID]string{name: "moved"}, map[sheet.ColumnID]string{name: "fill #F6E7CC"}
		return r
	}
	assert.Equal(t, 1, take(k, "No", coloured()).Updated)
	want := "Lenders:\n  No=001, Name=Quillmoor (moved) <fill #F6E7CC>\n"
	assert.Equal(t, want, k.Dump())
	assert.Equal(t, 1, take(k, "No", coloured()).Unchanged)
	plain := take(k, "No", record(k, 1, "No=001", "Name=Quillmoor"))
	assert.Equal(t, 1, plain.Unchanged, "a file that says nothing of looks takes none away")
	assert.Equal(t, want, k.Dump())
}

func TestRecordsThatCannotBeTakenAreNamed(t *testing.T) {
	k := testkit.New(t, lenders)
	k.Add("Lenders", "No=001", "Name=One")
	k.Add("Lenders", "No=001", "Name=Two")
	rep := take(k, "No", record(k, 1, "No=001", "Name=x"), record(k, 2, "Name=nobody"), record(k, 3, "No=9", "Name=a"), record(k, 4, "No=9", "Name=b"))
	require.Len(t, rep.Troubles, 3)
	assert.Contains(t, rep.Troubles[0].Why, "2 rows of the tab have this key")
	assert.Contains(t, rep.Troubles[1].Why, "its key is blank")
	assert.Contains(t, rep.Troubles[2].Why, "record 3 has the same key")
	assert.Equal(t, 1, rep.Added)
}

func TestTakingTwiceChangesNothing(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		k := testkit.New(t, lenders)
		for i := range rapid.IntRange(0, 4).Draw(rt, "rows") {
			k.Add("Lenders", fmt.Sprintf("No=%d", i), "Name=there already")
		}
		var records []reconcile.Record
		for i := range rapid.IntRange(0, 8).Draw(rt, "records") {
			records = append(records, record(k, i, fmt.Sprintf("No=%d", rapid.IntRange(0, 6).Draw(rt, "no")), "Name="+rapid.SampledFrom([]string{"", "a", "b"}).Draw(rt, "name"), "Fee="+rapid.SampledFrom([]string{"", "1", "TBC"}).Draw(rt, "fee")))
		}
		key := rapid.SampledFrom([]string{"", "No"}).Draw(rt, "key")
		take(k, key, records...)
		once := k.Dump()
		rep := take(k, key, records...)
		if got := k.Dump(); got != once || rep.Added+rep.Updated != 0 {
			rt.Fatalf("a second time gave %+v and\n%s\nafter\n%s", rep, got, once)
		}
	})
}

func TestPointer(t *testing.T) {
	var doc any
	require.NoError(t, json.Unmarshal([]byte(`{"records":[{"id":7,"a/b":{"~":"x"}}],"":1}`), &doc))
	for pointer, want := range map[string]any{"/records/0/id": 7.0, "records/0/id": 7.0, "/records/0/a~1b/~0": "x", "/records/9": nil, "/records/x": nil, "/nothing/at/all": nil} {
		got, err := reconcile.Pointer(doc, pointer)
		require.NoError(t, err, pointer)
		assert.Equal(t, want, got, pointer)
	}
	_, err := reconcile.Pointer(doc, "/records/0/id/x")
	require.ErrorContains(t, err, "plain value")
	got, err := reconcile.Pointer(doc, "")
	require.NoError(t, err)
	assert.Equal(t, doc, got)
}
