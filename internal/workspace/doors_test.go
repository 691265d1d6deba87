package workspace_test

import (
	"context"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/formats"
	"example.org/kavlo/internal/intake"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/syncing"
	"example.org/kavlo/internal/testkit"
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
	must := func(r *engine.Result, err error) *engine.Result {
		t.Helper()
		require.NoError(t, err)
		return r
	}
	must(w.Commit(ctx, w.LoadSetup(testkit.By("Ines"), []byte(doors))))
	tr, other, err := w.FindTab("Doors", "Other")
	require.NoError(t, err)
	asked, err := tr.Tab("Asked")
	require.NoError(t, err)
	must(w.Commit(ctx, w.AddRows(testkit.By("Ines"), tr.ID, asked.ID, []map[string]any{{"Object": "typed"}})))
	must(w.Commit(ctx, w.AddRows(testkit.By("Ines"), tr.ID, other.ID, []map[string]any{{"Object": "lamp"}})))
	for _, name := range []string{"Put", "Copy"} {
		r, err := w.FindRule(tr, name)
		require.NoError(t, err)
		must(w.Commit(ctx, w.RunRule(testkit.By("Ines"), tr, r)))
	}
	const csv = "Object,Extra\nimported,x\n"
	file, err := formats.Read("more.csv", strings.NewReader(csv), int64(len(csv)))
	require.NoError(t, err)
	must(w.Commit(ctx, w.Take(testkit.By("Ines"), file, intake.Import{Tracker: tr.ID, Tab: "Asked"})))
	tr, err = w.Find("Doors")
	require.NoError(t, err)
	_, err = w.RunSync(ctx, testkit.By("Ines"), sheet.ByHand, tr, "Sync", syncing.How{})
	require.NoError(t, err)

	tr, asked, err = w.FindTab("Doors", "Asked")
	require.NoError(t, err)
	var got []string
	for r := range tr.Rows(asked.ID) {
		got = append(got, r.At(0).String()+" "+r.At(1).String()+" "+r.At(2).String())
	}
	assert.Equal(t, []string{"typed 1 Requested", "put lamp 2 Requested", "lamp 3 Requested", "imported 4 Requested", "synced 5 Requested"}, got)
}
