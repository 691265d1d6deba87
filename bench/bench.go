// Package bench measures Kavlo against floors: the same work done bare, in the
// same run, so that a figure is a ratio and means something on any machine.
// edits.go measures the door, rules.go rules over many rows, files.go workbooks,
// memory.go what taking one in needs of it, kept_memory.go what figures keep, sizes.go the same work among more,
// lists.go lists, rounds.go mail, sorting.go order, pages.go pages and figures; the
// program in table runs them all and writes the README's table.
package bench

import (
	"fmt"
	"runtime/debug"
	"slices"
	"time"
)

// Case is one measurement: Kavlo's work and the floor's, done in turn.
type Case struct {
	Name  string
	Floor string  // what the floor does
	Limit float64 // the promised ratio
	Setup func(dir string) (kavlo, floor func() error, done func() error, err error)
	// Sizes, where bytes are measured and not time, takes the place of Setup.
	Sizes func(dir string) (kavlo, floor int64, err error)
	Turns int
	Items int    // that a turn works on; figures are of one
	Item  string // what one is
	// Ready puts things in order before each turn, untimed; nil: nothing to do.
	// Setup fills it in.
	Ready *func() error
}

// Figure is what a case came to.
type Figure struct {
	Case
	Kavlo, Bare string  // medians of one item, with its unit
	Ratio       float64 // median of the ratios, turn by turn
}

// String gives the figure as a line.
func (f Figure) String() string {
	return fmt.Sprintf("%s: %s against %s, %.2fx (promised %gx)", f.Name, f.Kavlo, f.Bare, f.Ratio, f.Limit)
}

// All gives every case; what measures memory comes before others have stirred it.
func All() []Case {
	return []Case{importMemory, blockMemory, keptMemory, oneEdit, carelessEdit, manyMoves, millionRows, perRowCondition, perRow(fewRows), perRow(10 * fewRows), among, startMany, waiting(64), waiting(512), importFile, againFile, exportFile, blockFile, reconcileLists, buildRound, sendMails, sortRows, figuresKept, openPages, showPage}
}

// Measure runs a case in a folder of its own, after a turn that warms up.
func Measure(c Case, dir string) (Figure, error) {
	debug.FreeOSMemory() // what cases before it left is none of its work
	if c.Sizes != nil {
		ours, bare, err := c.Sizes(dir)
		return Figure{Case: c, Kavlo: megabytes(ours), Bare: megabytes(bare), Ratio: float64(ours) / float64(bare)}, err
	}
	kavlo, floor, done, err := c.Setup(dir)
	if err != nil {
		return Figure{}, fmt.Errorf("%s: %w", c.Name, err)
	}
	var ours, bare []time.Duration
	var ratios []float64
	for turn := range c.Turns + 1 {
		if c.Ready != nil {
			if err := (*c.Ready)(); err != nil {
				return Figure{}, fmt.Errorf("%s: %w", c.Name, err)
			}
		}
		a, err := timed(kavlo)
		if err != nil {
			return Figure{}, fmt.Errorf("%s: %w", c.Name, err)
		}
		b, err := timed(floor)
		if err != nil {
			return Figure{}, fmt.Errorf("%s, floor: %w", c.Name, err)
		}
		if turn > 0 {
			ours, bare, ratios = append(ours, a), append(bare, b), append(ratios, float64(a)/float64(b))
		}
	}
	return Figure{Case: c, Kavlo: c.one(median(ours)), Bare: c.one(median(bare)), Ratio: median(ratios)}, done()
}

// one gives what one item took.
func (c *Case) one(turn time.Duration) string {
	ns := float64(turn) / float64(c.Items)
	for _, unit := range []struct {
		name string
		ns   float64
	}{{"s", 1e9}, {"ms", 1e6}, {"µs", 1e3}} {
		if ns >= unit.ns {
			return fmt.Sprintf("%.3g %s per %s", ns/unit.ns, unit.name, c.Item)
		}
	}
	return fmt.Sprintf("%.3g ns per %s", ns, c.Item)
}

func megabytes(n int64) string { return fmt.Sprintf("%.1f MB", float64(n)/1e6) }

func timed(f func() error) (time.Duration, error) {
	start := time.Now()
	err := f()
	return time.Since(start), err
}

func median[T interface{ ~int64 | ~float64 }](of []T) T {
	sorted := slices.Sorted(slices.Values(of))
	return sorted[len(sorted)/2]
}
