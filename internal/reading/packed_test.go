package reading_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// anyCell draws a cell of any kind, of sizes about what fits eight bytes and beyond.
func anyCell(t *rapid.T) reading.Cell {
	c := reading.Cell{Formula: rapid.Bool().Draw(t, "formula"), Bold: rapid.Bool().Draw(t, "bold")}
	n := rapid.OneOf(rapid.Int64Range(-5, 5), rapid.Int64Range(-1<<39-2, -1<<39+2), rapid.Int64Range(1<<39-2, 1<<39+2), rapid.Int64()).Draw(t, "n")
	switch rapid.IntRange(0, 7).Draw(t, "kind") {
	case 0:
		c.Value = value.OfText(rapid.SampledFrom([]string{"", " ", "Bell", "Glas & Söhne", "K-1"}).Draw(t, "text"))
	case 1:
		c.Value, _ = value.Parse(fmt.Sprintf("%d.%0*d", n%1_000_000, rapid.IntRange(1, 8).Draw(t, "digits"), 7), value.Type{Kind: value.Number})
	case 2:
		c.Value = value.OfInt(n)
	case 3:
		c.Value = value.OfDays(n % 100_000)
	case 4:
		c.Value = value.OfSeconds(n)
	case 5:
		c.Value = value.OfBool(n > 0)
	case 6:
		c.Value = value.OfLink("https://example.org", "here")
	}
	if rapid.Bool().Draw(t, "more") {
		c.More = &reading.More{Note: fmt.Sprint(n)}
	}
	return c
}

func TestAGridGivesBackWhatWasPutIntoIt(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		g, held := &reading.Grid{Texts: rapid.Bool().Draw(t, "texts")}, map[[2]int]reading.Cell{}
		for range rapid.IntRange(0, 40).Draw(t, "puts") {
			at := [2]int{rapid.IntRange(0, 6).Draw(t, "row"), rapid.IntRange(0, 9).Draw(t, "col")}
			held[at] = anyCell(t)
			g.Put(at[0], at[1], held[at])
		}
		for row := -1; row <= g.Height(); row++ {
			for col := -1; col <= 10; col++ {
				if got := g.At(row, col); got != held[[2]int{row, col}] {
					t.Fatalf("%d, %d holds %+v and not %+v", row, col, got, held[[2]int{row, col}])
				}
			}
		}
	})
}

// More notes than a packed cell can number are kept all the same.
func TestMoreNotesThanFitAreKept(t *testing.T) {
	g := &reading.Grid{}
	const notes = 1<<14 + 10
	for row := range notes {
		g.Put(row, 0, reading.Cell{Value: value.OfInt(int64(row)), More: &reading.More{Note: fmt.Sprint(row)}})
	}
	for row := range notes {
		c := g.At(row, 0)
		if assert.NotNil(t, c.More) {
			assert.Equal(t, fmt.Sprint(row), c.More.Note)
		}
		assert.Equal(t, value.OfInt(int64(row)), c.Value)
	}
}
