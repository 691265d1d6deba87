package workspace_test

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
)

const tallied = `
tracker: Loans
zone: Europe/Lisbon
tabs:
  Requested: { columns: { Object: { type: text }, Registrar: { type: person }, Due: { type: date }, Value: { type: number } } }
reminders:
  - { name: Due, in: Requested, where: Due before today, show: [Object], to: "{Registrar}" }
tallies:
  - { name: Objects, of: Requested, by: Object, figures: { Rows: count }, draw: bar }
  - { name: Worth, of: Requested, by: Object, figures: { Sum: sum Value }, draw: bar }
rounds:
  - { name: Morning, clock: daily at 08:30, reminders: all, subject: "{count} wait", attach: [Objects, Worth] }
access:
  columns: { Value: { see: [keepers] } }
`

// Tallies go with a round as each recipient may see them: a figure of a column that somebody
// does not see is not in what they get.
func TestARoundAttachesTalliesAsItsRecipientsSeeThem(t *testing.T) {
	b := newBench(t)
	b.must(b.DropTracker(testkit.By("Ines"), b.tracker().ID))
	b.must(b.LoadSetup(testkit.By("Ines"), []byte(tallied)))
	for address, access := range map[string]string{"ines@example.org": "keeper", "marta@example.org": "reader"} {
		_, err := b.PutPerson(t.Context(), address[:5], address, access)
		require.NoError(t, err)
		b.add(map[string]any{"Object": "Bell of " + address[:5], "Due": "2026-03-01", "Value": "10", "Registrar": address})
	}
	plan, err := b.PlanRound(t.Context(), b.tracker(), "Morning")
	require.NoError(t, err)
	require.Len(t, plan.Letters, 2)
	for _, l := range plan.Letters { // a preview shows them, too
		assert.Contains(t, l.Text, "Objects\n-------\n* Bell of ines@: Rows 1\n* Bell of marta: Rows 1\n")
		assert.Contains(t, l.HTML, ">Rows</th>")
		for _, text := range []string{l.Text, l.HTML} {
			assert.Equal(t, l.To == "ines@example.org", strings.Contains(text, "Worth"), "%s: %s", l.To, text)
		}
	}
	_, detail, err := b.RunRound(t.Context(), testkit.By("Ines"), sheet.ByHand, b.tracker(), plan)
	require.NoError(t, err)
	assert.Empty(t, detail.PassedOver)
	_, err = b.SendDue(t.Context())
	require.NoError(t, err)
	got := map[string][]string{}
	for _, m := range b.mail.sent {
		for _, a := range m.Attach {
			got[m.To] = append(got[m.To], a.Name)
			if a.Name == "Worth.xlsx" {
				f, err := excelize.OpenReader(bytes.NewReader(a.Data))
				require.NoError(t, err)
				rows, err := f.GetRows(f.GetSheetName(0))
				require.NoError(t, err)
				assert.Contains(t, rows, []string{"Bell of ines@", "10"})
			}
		}
	}
	assert.Equal(t, map[string][]string{
		"ines@example.org":  {"Objects.png", "Objects.xlsx", "Worth.png", "Worth.xlsx"},
		"marta@example.org": {"Objects.png", "Objects.xlsx"},
	}, got)
}
