package presence

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var start = time.Date(2026, 3, 2, 8, 0, 0, 0, time.UTC)

func after(d time.Duration) time.Time { return start.Add(d) }

func names(seats []Seat) (out []string) {
	for _, s := range seats {
		out = append(out, s.Name+" "+s.Page)
	}
	return out
}

func told(changed <-chan struct{}) bool {
	select {
	case <-changed:
		return true
	default:
		return false
	}
}

func TestWhoIsNotHeardOfIsNotThere(t *testing.T) {
	b := New()
	b.Put(start, Seat{Person: 2, Name: "Marta", Page: "a"})
	b.Put(after(30*time.Second), Seat{Person: 1, Name: "Ines", Page: "b"})
	assert.Equal(t, []string{"Ines b", "Marta a"}, names(b.All(after(40*time.Second))))
	assert.Equal(t, []string{"Ines b"}, names(b.All(after(Stay))))
	assert.Empty(t, b.All(after(time.Hour)))
}

func TestWhatIsNewIsTold(t *testing.T) {
	b := New()
	here := Seat{Person: 1, Name: "Ines", Page: "a", Place: Place{Tracker: 1, Tab: 1, Row: 1, Column: 1}}
	step := func(says string, want bool, do func()) {
		t.Helper()
		changed := b.Changed()
		do()
		assert.Equal(t, want, told(changed), says)
	}
	step("comes", true, func() { b.Put(start, here) })
	step("stays", false, func() { b.Put(after(time.Second), here) })
	here.Column = 2
	step("moves", true, func() { b.Put(after(2*time.Second), here) })
	step("another page closes", false, func() { b.Leave(1, "b") })
	step("goes", true, func() { b.Leave(1, "a") })
	assert.Empty(t, b.All(after(3*time.Second)))
	b.Put(after(4*time.Second), here)
	step("comes back after a long silence", true, func() { b.Put(after(4*time.Second+Stay), here) })
}

func TestPagesOfOnePersonAreNotWithoutEnd(t *testing.T) {
	b := New()
	b.Put(start, Seat{Person: 2, Name: "Marta", Page: "a"})
	for i := range MostPages + 5 {
		b.Put(after(time.Duration(i+1)*time.Millisecond), Seat{Person: 1, Name: "Ines", Page: fmt.Sprintf("%03d", i)})
	}
	all := b.All(after(time.Second))
	require.Len(t, all, MostPages+1)
	assert.Equal(t, "005", all[0].Page, "those silent for longest are forgotten")
	assert.Equal(t, "Marta", all[MostPages].Name, "and nobody else's")
}
