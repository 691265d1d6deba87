package clause

import (
	"fmt"
	"iter"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/value"
)

func anySought(t *rapid.T) value.Value {
	switch rapid.IntRange(0, 9).Draw(t, "kind") {
	case 0:
		return value.Value{}
	case 1:
		return value.OfOdd(rapid.SampledFrom([]string{"a", "TBC"}).Draw(t, "odd"))
	case 2:
		v, _ := value.Div(value.OfInt(rapid.Int64Range(-3, 3).Draw(t, "n")), value.OfInt(2))
		return v
	case 3:
		return value.OfDays(rapid.Int64Range(0, 2).Draw(t, "day"))
	case 4:
		return value.OfSeconds(rapid.SampledFrom([]int64{0, 86400, 86401}).Draw(t, "second"))
	case 5:
		return value.OfBool(rapid.Bool().Draw(t, "tick"))
	case 6:
		return value.OfChoice(rapid.SampledFrom([]string{"a", "B", "İ"}).Draw(t, "choice"))
	case 7:
		return value.OfLink("https://example.org", rapid.SampledFrom([]string{"a", "b"}).Draw(t, "label"))
	}
	return value.OfText(rapid.SampledFrom([]string{"a", " A ", "b", "ß", "SS", "i̇", "İ", "ı", "1", "0.5", " "}).Draw(t, "text"))
}

// Values have a key in common when, and only when, "is" holds between them.
func TestKeysAgreeWithIs(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a, b := anySought(t), anySought(t)
		x, okX := seekKey(a)
		y, okY := seekKey(b)
		if !okX || !okY {
			return
		}
		if (x == y) != value.Equal(a, b) {
			t.Fatalf("%s %q and %s %q have the keys %q and %q", a.Kind(), a, b.Kind(), b, x, y)
		}
	})
}

// A look that seeks its rows by key gives what one gives that goes through all,
// also where the rows change in between.
func TestSeekingGivesWhatGoingThroughAllGives(t *testing.T) {
	columns := []Column{{ID: 1, Name: "Key", Type: value.Type{Kind: value.Text}, Slot: 0}, {ID: 2, Name: "N", Type: value.Type{Kind: value.Number}, Slot: 1}, {ID: 3, Name: "Day", Type: value.Type{Kind: value.Date}, Slot: 2}}
	scope := &Scope{Name: "Here", Columns: columns, Tables: []Table{{ID: 7, Name: "There", Columns: columns}}}
	var exprs []*Expr
	for _, text := range []string{
		"first N in There where Key is this.Key", "last Day in There where this.Key is Key and N > 0", "count in There where Day is this.Day",
		"sum N in There where N is this.N and Key is \"a\"", "count distinct Key in There where N is this.N or Key is this.Key", "largest N in There where Key is this.Key and Day after this.Day - 1 days",
		"count in There where Key is not this.Key", "count in There where Key is upper(this.Key)",
	} {
		e, err := CheckValue(text, scope)
		require.NoError(t, err, text)
		exprs = append(exprs, e)
	}
	rapid.Check(t, func(t *rapid.T) {
		var there [][]value.Value
		add := func() {
			row := []value.Value{anySought(t), anySought(t), anySought(t)}
			for i := range row {
				row[i], _ = value.Fit(row[i], columns[i].Type)
			}
			there = append(there, row)
		}
		for range rapid.IntRange(0, 8).Draw(t, "rows") {
			add()
		}
		rows := func(int64) iter.Seq2[string, []value.Value] {
			return func(yield func(string, []value.Value) bool) {
				for _, r := range there {
					if !yield("There", r) {
						return
					}
				}
			}
		}
		today := value.OfDays(1)
		all := &Env{Rows: rows, Today: today, Now: today}
		seeking := &Env{Rows: rows, Today: today, Now: today, Stamp: func(int64) any { return len(there) }}
		e := exprs[rapid.IntRange(0, len(exprs)-1).Draw(t, "clause")]
		one, two := e.Value(), e.Value()
		for range rapid.IntRange(1, 9).Draw(t, "looks") {
			here := []value.Value{anySought(t), anySought(t), anySought(t)}
			for i := range here {
				here[i], _ = value.Fit(here[i], columns[i].Type)
			}
			say := func(env *Env, f ValueFunc) string {
				env.Cells, env.OddColumn, env.Fault, env.Missed = here, 0, "", ""
				v := f(env)
				return fmt.Sprint(v.Kind(), " ", v, " ", env.Fault, " ", env.Missed)
			}
			if want, got := say(all, one), say(seeking, two); want != got {
				t.Fatalf("%s of %v among %v gives %s, and sought %s", e.text, here, there, want, got)
			}
			if rapid.IntRange(0, 4).Draw(t, "change") == 0 {
				add()
			}
		}
	})
}

func BenchmarkLooks(b *testing.B) {
	columns := []Column{{ID: 1, Name: "Key", Type: value.Type{Kind: value.Text}, Slot: 0}, {ID: 2, Name: "N", Type: value.Type{Kind: value.Number}, Slot: 1}}
	e, err := CheckValue("first N in There where Key is this.Key", &Scope{Name: "Here", Columns: columns, Tables: []Table{{ID: 7, Name: "There", Columns: columns}}})
	require.NoError(b, err)
	const n = 10_000
	there := make([][]value.Value, n)
	for i := range there {
		there[i] = []value.Value{value.OfText(fmt.Sprint("key ", i)), value.OfInt(int64(i))}
	}
	env := &Env{Stamp: func(int64) any { return 0 }, Rows: func(int64) iter.Seq2[string, []value.Value] {
		return func(yield func(string, []value.Value) bool) {
			for _, r := range there {
				if !yield("There", r) {
					return
				}
			}
		}
	}}
	f := e.Value()
	look := func(b *testing.B) {
		for i := 0; b.Loop(); i++ {
			env.Cells = there[i*7919%n]
			f(env)
		}
	}
	b.Run("by key", look)
	env.Stamp = nil
	b.Run("through all", look)
}
