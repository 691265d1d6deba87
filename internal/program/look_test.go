package program_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"example.org/kavlo/internal/testkit"
)

const ledger = `
tracker: T
zone: UTC
tabs:
  Ledger:
    columns:
      Name:   { type: text }
      Kind:   { type: text }
      Amount: { type: number }
      Paid:   { type: date }
      Total:  { type: computed, clause: running sum Amount }
  Kinds:
    columns:
      Kind:    { type: text }
      Sum:     { type: computed, clause: sum Amount in Ledger where Kind is this.Kind }
      Count:   { type: computed, clause: count in Ledger where Kind is this.Kind and Paid before 2026-06-01 }
      First:   { type: computed, clause: first Amount in Ledger where Kind is this.Kind }
      Last:    { type: computed, clause: last Amount in Ledger where Kind is this.Kind }
      Up to:   { type: computed, clause: last Total in Ledger where Kind is this.Kind }
      Who:     { type: computed, clause: each Name in Ledger where Kind is this.Kind }
      Mean:    { type: computed, clause: average Amount in Ledger where Kind is this.Kind }
`

// What hangs on an odd cell of another tab is odd and says on which; first and last go
// past blank and odd cells; what does not hang on one is not touched.
func TestLooksSayOnWhichOddCellTheyHang(t *testing.T) {
	k := testkit.New(t, ledger)
	k.Add("Ledger", "Name=Ada", "Kind=food", "Amount=0.05", "Paid=2026-03-01")
	k.Add("Ledger", "Name=Bo", "Kind=Food", "Amount=0.1", "Paid=2026-09-01")
	k.Add("Ledger", "Name=Cy", "Kind=rent", "Amount=", "Paid=2026-03-01")
	k.Add("Ledger", "Name=Di", "Kind=rent", "Amount=some", "Paid=2026-03-01")
	k.Add("Ledger", "Name=Ed", "Kind=rent", "Amount=700", "Paid=soon")
	k.Add("Ledger", "Name=Ada", "Kind=rent", "Amount=2000", "Paid=2026-03-01")
	k.Add("Kinds", "Kind=food")
	k.Add("Kinds", "Kind=rent")
	for _, label := range []string{"food", "rent"} {
		for range 4 { // the rows are sorted by key once they are looked into often
			shown(t, k, label, "Sum")
		}
	}
	for what, want := range map[[2]string]string{
		{"food", "Sum"}:   "0.15",
		{"food", "Mean"}:  "0.075",
		{"food", "Count"}: "1",
		{"food", "Up to"}: "0.15",
		{"food", "Who"}:   "Ada; Bo",
		{"rent", "Sum"}:   "Amount of Di in Ledger is not a number",
		{"rent", "Mean"}:  "Amount of Di in Ledger is not a number",
		{"rent", "Count"}: "Paid of Ed in Ledger is not a date",
		{"rent", "First"}: "700",
		{"rent", "Last"}:  "2000",
		{"rent", "Who"}:   "Cy; Di; Ed; Ada",
	} {
		v := shown(t, k, what[0], what[1])
		assert.Equal(t, want, v.String(), "%s of %s", what[1], what[0])
	}
	assert.Equal(t, "0.15", shown(t, k, "Bo", "Total").String())
	assert.True(t, shown(t, k, "Di", "Total").IsOdd(), "where the cell is odd")
	assert.Equal(t, "700.15", shown(t, k, "Ed", "Total").String(), "and not below")
}
