package reconcile_test

import (
	"fmt"
	"runtime"
	"testing"

	"github.com/stretchr/testify/assert"

	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Comparing takes less than the records' own bytes, so that both sides, what
// they were and the comparison stay within three times one side and the other.
func TestComparingTakesLittleMemory(t *testing.T) {
	const records, fields = 20_000, 10
	own := uint64(0)
	list, tab, base := make([]reconcile.Item, records), make([]reconcile.Item, records), make([]reconcile.Base, records)
	for i := range records {
		values := make([]value.Value, fields)
		for f := range values {
			values[f] = value.OfText(fmt.Sprintf("field %d of record %d", f, i))
			own += 2 * (32 + uint64(len(values[f].Raw()))) // on both sides
		}
		key := fmt.Sprintf("L-%06d", i)
		list[i] = reconcile.Item{Key: value.OfText(key), Fields: values, ID: key, At: i}
		tab[i] = reconcile.Item{Key: value.OfText(key), Fields: values, Row: sheet.RowID(i + 1)}
		base[i] = reconcile.Base{Key: key, Fields: values, Row: sheet.RowID(i + 1), ID: key}
	}
	var before, after runtime.MemStats
	runtime.GC()
	runtime.ReadMemStats(&before)
	p := reconcile.Compare(list, tab, base, make([]string, fields), reconcile.Policy{Direction: reconcile.Both, Conflict: reconcile.Hold, Gone: reconcile.Keep})
	runtime.ReadMemStats(&after)
	assert.Equal(t, records, p.Unchanged)
	assert.Less(t, after.TotalAlloc-before.TotalAlloc, own, "bytes taken in all, against the records' own")
}
