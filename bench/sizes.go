package bench

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"sync"
	"sync/atomic"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/workspace"
)

// What a thing costs is to follow from what it touches, not from how much there is
// besides: these hold the same work against itself among more.

const numbered = `
tracker: Loans
zone: UTC
tabs:
  Requested: { columns: { Loan no: { type: text, unique: yes }, No: { type: number, automatic number: yes }, Object: { type: text }, Stage: { type: text } } }
`

// numberedDesk opens a workspace with so many rows that have a unique column and an
// automatic number.
func numberedDesk(dir string, rows int) (*workspace.Workspace, *sheet.Tracker, sheet.TabID, []sheet.RowID, error) {
	ctx := context.Background()
	d, err := workspace.Open(ctx, workspace.Config{Dir: dir, Store: store.Options{Careless: true}})
	if err != nil {
		return nil, nil, 0, nil, err
	}
	if _, err := d.Commit(ctx, d.LoadSetup(policy.Itself("bench"), []byte(numbered))); err != nil {
		return nil, nil, 0, nil, err
	}
	t, tab, err := d.FindTab("Loans", "Requested")
	if err != nil {
		return nil, nil, 0, nil, err
	}
	var ids []sheet.RowID
	for from := 0; from < rows; from += fewRows {
		all := make([]map[string]any, min(fewRows, rows-from))
		for i := range all {
			all[i] = map[string]any{"Loan no": fmt.Sprintf("L-%07d", from+i), "No": from + i + 1, "Object": fmt.Sprintf("Signal lamp %d", from+i), "Stage": "Requested"}
		}
		req := d.AddRows(policy.Itself("bench"), t.ID, tab.ID, all)
		req.Alone = true
		r, err := d.Commit(ctx, req)
		if err != nil {
			return nil, nil, 0, nil, err
		}
		for i := range r.Set.Changes {
			ids = append(ids, r.Set.Changes[i].Row)
		}
	}
	return d, t, tab.ID, ids, nil
}

// among holds an edit of a unique cell and a new row with the next number in a large
// tab against the same in a small one.
var among = Case{
	Name: "a unique cell changed, a numbered row added and removed in a tab of 1,000,000, durability off", Floor: "the same in a tab of 1,000", Limit: 1.5, Turns: 9, Items: editsATurn, Item: "three",
	Setup: func(dir string) (kavlo, floor func() error, done func() error, err error) {
		turns := func(name string, rows int) (func() error, *workspace.Workspace, error) {
			d, t, tab, ids, err := numberedDesk(filepath.Join(dir, name), rows)
			if err != nil {
				return nil, nil, err
			}
			turn := 0
			ctx := context.Background()
			return func() error {
				turn++
				for i := range editsATurn {
					edit := []edit.RowEdit{{Row: ids[i*len(ids)/editsATurn], Cells: map[string]any{"Loan no": fmt.Sprintf("M-%d-%d", turn, i)}}}
					if _, err := d.Commit(ctx, d.SetRows(policy.Itself("bench"), t.ID, edit)); err != nil {
						return err
					}
					added, err := d.Commit(ctx, d.AddRows(policy.Itself("bench"), t.ID, tab, []map[string]any{{"Loan no": fmt.Sprintf("N-%d-%d", turn, i)}}))
					if err != nil {
						return err
					}
					if _, err := d.Commit(ctx, d.RemoveRows(policy.Itself("bench"), t.ID, []sheet.RowID{added.Set.Changes[0].Row})); err != nil {
						return err
					}
				}
				return nil
			}, d, nil
		}
		kavlo, many, err := turns("many", millionRow)
		if err != nil {
			return nil, nil, nil, err
		}
		floor, few, err := turns("few", 1000)
		if err != nil {
			return nil, nil, nil, err
		}
		return kavlo, floor, func() error { return errors.Join(many.Close(), few.Close()) }, nil
	},
}

// startMany opens a workspace of many trackers, and one of a single tracker.
var startMany = Case{
	Name: "a start with 50 trackers of 20,000 rows", Floor: "a start with one of them", Limit: 2, Turns: 5, Items: 1, Item: "start",
	Setup: func(dir string) (kavlo, floor func() error, done func() error, err error) {
		opened := func(name string, trackers int) (func() error, error) {
			at := filepath.Join(dir, name)
			if err := fillTrackers(at, trackers, 20_000); err != nil {
				return nil, err
			}
			return func() error {
				d, err := workspace.Open(context.Background(), workspace.Config{Dir: at})
				if err != nil {
					return err
				}
				return d.Close()
			}, nil
		}
		if kavlo, err = opened("many", 50); err != nil {
			return nil, nil, nil, err
		}
		if floor, err = opened("one", 1); err != nil {
			return nil, nil, nil, err
		}
		return kavlo, floor, func() error { return nil }, nil
	},
}

func fillTrackers(dir string, trackers, rows int) (err error) {
	ctx := context.Background()
	d, err := workspace.Open(ctx, workspace.Config{Dir: dir, Store: store.Options{Careless: true}})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, d.Close()) }()
	all := make([]map[string]any, rows)
	for i := range all {
		all[i] = map[string]any{"Object": fmt.Sprintf("Signal lamp %d", i), "Arrived": "2026-02-01", "Report": "yes"}
	}
	for n := range trackers {
		if _, err := d.Commit(ctx, d.NewTracker(policy.Itself("bench"), fmt.Sprintf("Loans %d", n), "UTC")); err != nil {
			return err
		}
		text := fmt.Sprintf("tracker: Loans %d\nzone: UTC\ntabs:\n  On display: { columns: { Object: { type: text }, Arrived: { type: date }, Report: { type: text }, Flag: { type: text } } }\n", n)
		if _, err := d.Commit(ctx, d.LoadSetup(policy.Itself("bench"), []byte(text))); err != nil {
			return err
		}
		t, tab, err := d.FindTab(fmt.Sprintf("Loans %d", n), "On display")
		if err != nil {
			return err
		}
		if _, err := d.Commit(ctx, d.AddRows(policy.Itself("bench"), t.ID, tab.ID, all)); err != nil {
			return err
		}
	}
	return nil
}

const editsInAll = 2048

// waiting lets so many writers edit at once, each a row of its own, against one who
// makes as many edits alone.
func waiting(writers int) Case {
	return Case{
		Name: fmt.Sprintf("edits of %d waiting writers, durable", writers), Floor: "as many edits of one writer", Limit: 1, Turns: 5, Items: editsInAll, Item: "edit",
		Setup: func(dir string) (kavlo, floor func() error, done func() error, err error) {
			d, ids, err := openWorkspace(dir, editsInAll, store.Options{})
			if err != nil {
				return nil, nil, nil, err
			}
			t, err := d.Find("Loans")
			if err != nil {
				return nil, nil, nil, err
			}
			var turn atomic.Int64
			edits := func(from, n int) error {
				for i := range n {
					edit := []edit.RowEdit{{Row: ids[from+i], Cells: map[string]any{"Lender": fmt.Sprintf("lender %d", turn.Load())}}}
					if _, err := d.Commit(context.Background(), d.SetRows(policy.Itself("bench"), t.ID, edit)); err != nil {
						return err
					}
				}
				return nil
			}
			kavlo = func() error {
				turn.Add(1)
				var wg sync.WaitGroup
				errs := make([]error, writers)
				for w := range writers {
					wg.Go(func() { errs[w] = edits(w*editsInAll/writers, editsInAll/writers) })
				}
				wg.Wait()
				return errors.Join(errs...)
			}
			floor = func() error {
				turn.Add(1)
				return edits(0, editsInAll)
			}
			return kavlo, floor, d.Close, nil
		},
	}
}
