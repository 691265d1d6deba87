package desk

import (
	"context"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/formats"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
)

const doors = `
tracker: Doors
zone: UTC
tabs:
  Asked: { columns: { Object: { type: text }, No: { type: number, automatic number: yes }, Stage: { type: text, default: Requested } } }
  Other: { columns: { Object: { type: text }, No: { type: number, automatic number: yes } } }
rules:
  - { name: Put, in: Other, steps: [ { put: { tab: Asked, key: Object, values: { Object: "put {Object}" } } } ] }
  - { name: Copy, in: Other, steps: [ { copy: { to: Asked } } ] }
lists:
  - { name: Register, from: { http: "http://lists.example.org", items: /records } }
syncs:
  - { name: Sync, list: Register, tab: Asked, key: { Object: id }, fields: {} }
`

// A new row gets its defaults and its automatic number whichever way it comes.
func TestEveryDoorGivesNewRowsTheirDefaults(t *testing.T) {
	w := newWild(t)
	ctx := t.Context()
	w.list = func(context.Context) ([]reconcile.Entry, error) {
		return []reconcile.Entry{{ID: "synced", Where: "record 1", Doc: map[string]any{"id": "synced"}}}, nil
	}
	must := func(r *Result, err error) *Result {
		t.Helper()
		require.NoError(t, err)
		return r
	}
	must(w.Commit(ctx, w.LoadSetup("Ines", []byte(doors))))
	tr, other, err := w.FindTab("Doors", "Other")
	require.NoError(t, err)
	asked, err := tr.Tab("Asked")
	require.NoError(t, err)
	must(w.Commit(ctx, w.AddRows("Ines", tr.ID, asked.ID, []map[string]any{{"Object": "typed"}})))
	must(w.Commit(ctx, w.AddRows("Ines", tr.ID, other.ID, []map[string]any{{"Object": "lamp"}})))
	for _, name := range []string{"Put", "Copy"} {
		r, err := w.FindRule(tr, name)
		require.NoError(t, err)
		must(w.Commit(ctx, w.RunRule("Ines", tr, r)))
	}
	const csv = "Object,Extra\nimported,x\n"
	file, err := formats.Read("more.csv", strings.NewReader(csv), int64(len(csv)))
	require.NoError(t, err)
	must(w.Commit(ctx, w.Take("Ines", file, Import{Tracker: tr.ID, Tab: "Asked"})))
	tr, err = w.Find("Doors")
	require.NoError(t, err)
	_, err = w.RunSync(ctx, "Ines", sheet.ByHand, tr, "Sync", SyncHow{})
	require.NoError(t, err)

	tr, asked, err = w.FindTab("Doors", "Asked")
	require.NoError(t, err)
	var got []string
	for r := range tr.Rows(asked.ID) {
		got = append(got, r.At(0).String()+" "+r.At(1).String()+" "+r.At(2).String())
	}
	assert.Equal(t, []string{"typed 1 Requested", "put lamp 2 Requested", "lamp 3 Requested", "imported 4 Requested", "synced 5 Requested"}, got)
}
