package intake

import (
	"fmt"
	"reflect"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/sheet"
)

// Rows get the looks that the file gives them, whatever rows before them looked like.
func TestLooksAreThoseOfTheFile(t *testing.T) {
	columns := []*sheet.Column{{ID: 1}, nil, {ID: 3}, {ID: 4}}
	rapid.Check(t, func(t *rapid.T) {
		var shared looks
		for range rapid.IntRange(1, 30).Draw(t, "rows") {
			r := &reading.Record{Styles: make([]string, len(columns))}
			want := map[sheet.ColumnID]string{}
			for i, c := range columns {
				r.Styles[i] = rapid.SampledFrom([]string{"", "", "bold", "fill #F6E7CC", "struck"}).Draw(t, "look")
				if c != nil && r.Styles[i] != "" {
					want[c.ID] = r.Styles[i]
				}
			}
			got := shared.of(r, columns)
			if len(want) == 0 {
				want = nil
			}
			assert.Equal(t, want, got)
			assert.LessOrEqual(t, len(shared), mostShared)
		}
	})
}

func TestStripesShareTheirLooks(t *testing.T) {
	columns := []*sheet.Column{{ID: 1}, {ID: 2}}
	var shared looks
	seen := map[string]uintptr{}
	for i := range 100 {
		stripe := fmt.Sprintf("fill #%06d", i%3)
		at := reflect.ValueOf(shared.of(&reading.Record{Styles: []string{stripe, stripe}}, columns)).Pointer()
		if was, known := seen[stripe]; known {
			assert.Equal(t, was, at)
		}
		seen[stripe] = at
	}
	assert.Len(t, seen, 3)
}
