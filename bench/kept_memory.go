package bench

import (
	"context"
	"fmt"
	"runtime"
	"runtime/debug"

	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/workspace"
)

// keptMemory holds what figures keep with the rows against the rows: five computed columns
// of every row and two tallies, all asked for.
var keptMemory = Case{
	Name:  "memory that figures keep: five computed columns of 100,000 rows, two of them over another 100,000, and two tallies",
	Floor: "the two tabs' rows in memory", Limit: 0.25,
	Sizes: func(dir string) (kept, own int64, err error) {
		ctx := context.Background()
		d, err := workspace.Open(ctx, workspace.Config{Dir: dir})
		if err != nil {
			return 0, 0, err
		}
		defer func() { err = closed(d, err) }()
		if _, err := d.Commit(ctx, d.LoadSetup(policy.Itself("bench"), fmt.Appendf(nil, figured, "With", fiveColumns))); err != nil {
			return 0, 0, err
		}
		bare := live()
		ids, err := figuredRowsOf(ctx, d, "With")
		if err != nil {
			return 0, 0, err
		}
		own = live() - bare
		look, err := twoTallies(ctx, d, "With", true)
		if err != nil {
			return 0, 0, err
		}
		before := live()
		if err := look(); err != nil {
			return 0, 0, err
		}
		for _, row := range ids["Jobs"] {
			if err := readRow(ctx, d, "With", row); err != nil {
				return 0, 0, err
			}
		}
		kept = live() - before
		runtime.KeepAlive(ids)
		return kept, own, nil
	},
}

// live gives the bytes that are reachable.
func live() int64 {
	debug.FreeOSMemory()
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	return int64(m.HeapAlloc) //nolint:gosec // far below what it holds
}
