package reading_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/testkit"
)

func TestWhatNoTableHoldsIsNamed(t *testing.T) {
	for name, tc := range map[string]struct{ picture, named string }{
		"a formula alone":       {"Object|Fee\nBell|5\nHorn|7\n\n\n||||=99", "E6 formula results outside the tables"},
		"boxes alone":           {"Object|Fee\nBell|5\n\n\n\n|||☐|☐\n|||☐|☐", "D6:E7 unticked boxes outside the tables"},
		"a zero alone":          {"Object|Fee\nBell|5\n\n\n|||0", "D5 outside the tables"},
		"formulas below a list": {"Object|Fee\nBell|5\nHorn|7\n\n\n|=12", "B6 formula results outside the tables"},
	} {
		t.Run(name, func(t *testing.T) {
			r := reading.Read("f", []*reading.Grid{grid(tc.picture)})
			var out []string
			for _, l := range r.Sheets[0].LeftOut {
				out = append(out, l.Range.String()+" "+l.Reason)
			}
			assert.Contains(t, out, tc.named)
			assert.Empty(t, testkit.Unaccounted(&r.Sheets[0]))
		})
	}
}

// Whatever stands on a sheet, each cell that holds something is in a table or named.
func TestEveryCellIsAccountedFor(t *testing.T) {
	words := []string{"", "", "", "Object", "Fee", "Total", "5", "0", "7.5", "2026-01-02", "=5", "=Bell", "=", "☐", "☑", "x@example.org", "Subtotal", "1,5", "note:", "* remark", "a long line of words that explains what stands above it."}
	rapid.Check(t, func(t *rapid.T) {
		assert.Empty(t, testkit.Unaccounted(&reading.Read("f", []*reading.Grid{randomGrid(t, words)}).Sheets[0]), "cells")
	})
}
