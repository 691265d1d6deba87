package bench

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"time"

	"example.org/kavlo/internal/kinds"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
	"example.org/kavlo/internal/workspace"
)

const wide = `
tracker: Loans
zone: UTC
tabs:
  On display: { columns: { Object: { type: text }, Lender: { type: text }, Stage: { type: text }, Venue: { type: text }, Arrived: { type: date }, Report: { type: file }, Value: { type: number }, Crate: { type: text }, Flag: { type: text }, Remarks: { type: text } } }
rules:
  - name: Late
    wake: { clock: daily at 8:00 }
    in: On display
    where: Arrived before today - 15 days and Report is blank
    steps: [ { set: { Flag: Late } } ]
`

const (
	millionRow = 1_000_000
	fewRows    = 10_000
)

var millionRows = Case{
	Name: "a clock rule's condition over 1,000,000 rows", Floor: "a hand-written loop over the same values", Limit: 3, Turns: 7, Items: millionRow, Item: "row",
	Setup: func(string) (kavlo, floor func() error, done func() error, err error) {
		tracker, compiled, err := loansOnDisplay(millionRow)
		if err != nil {
			return nil, nil, nil, err
		}
		now := time.Date(2026, time.March, 25, 9, 0, 0, 0, time.UTC)
		limit := value.DateOf(now).Days() - 15
		tab := tracker.Tabs[0].ID
		rows := make([][]value.Value, 0, millionRow)
		for r := range tracker.Rows(tab) {
			rows = append(rows, r.Cells())
		}
		matched := 0
		kavlo = func() error {
			found, _ := rule.Match(tracker, compiled, now, nil)
			matched = len(found)
			return nil
		}
		floor = func() error {
			var found [][]value.Value
			for _, cells := range rows {
				if a := cells[4]; a.Kind() == value.Date && a.Days() < limit && cells[5].IsBlank() {
					found = append(found, cells)
				}
			}
			if len(found) != matched {
				return fmt.Errorf("the loop found %d rows and the rule %d", len(found), matched)
			}
			return nil
		}
		return kavlo, floor, func() error { return nil }, nil
	},
}

// loansOnDisplay gives a tracker of so many rows and the rule that marks what is late.
func loansOnDisplay(rows int) (*sheet.Tracker, *rule.Compiled, error) {
	n := int64(0)
	shape, err := kinds.Setup.Parse([]byte(wide), nil, func() int64 { n++; return n })
	if err != nil {
		return nil, nil, err
	}
	ready, err := program.Compile(shape, kinds.All)
	if err != nil {
		return nil, nil, err
	}
	compiled, err := program.Ready[*rule.Compiled](ready, shape.Definitions[0].ID)
	if err != nil {
		return nil, nil, err
	}
	l := sheet.NewLoader()
	l.Tracker(1, 1, shape)
	columns := shape.Tabs[0].Columns
	for i := range rows {
		cells := make([]value.Value, len(columns))
		cells[0], cells[4], cells[6], cells[9] = value.OfText("Signal lamp"), value.OfDays(20_500+int64(i%60)), value.OfInt(int64(i)), value.OfText("none")
		if i%3 > 0 {
			cells[5] = value.OfFile("report.pdf", "")
		}
		img := sheet.LaidOut(&shape.Tabs[0], cells, sheet.Besides{}).At(int64(i+1) << 16)
		if err := l.Row(1, shape.Tabs[0].ID, sheet.RowID(i+1), 1, img); err != nil {
			return nil, nil, err
		}
	}
	t := l.Done().Tracker(1)
	if t == nil {
		return nil, nil, errors.New("no tracker")
	}
	return t, compiled, nil
}

// perRowCondition holds the cost of a row in a large tab against that in a small
// one, under a rule's condition alone: what fits no cache shows here.
var perRowCondition = Case{
	Name: "a row of 1,000,000 under a rule's condition alone", Floor: "a row of 10,000 under the same", Limit: 1.3, Turns: 7, Items: millionRow, Item: "row",
	Setup: func(string) (kavlo, floor func() error, done func() error, err error) {
		now := time.Date(2026, time.March, 25, 9, 0, 0, 0, time.UTC)
		many, rule1, err := loansOnDisplay(millionRow)
		if err != nil {
			return nil, nil, nil, err
		}
		few, rule2, err := loansOnDisplay(fewRows)
		if err != nil {
			return nil, nil, nil, err
		}
		kavlo = func() error {
			rule.Match(many, rule1, now, nil)
			return nil
		}
		floor = func() error {
			for range millionRow / fewRows {
				rule.Match(few, rule2, now, nil)
			}
			return nil
		}
		return kavlo, floor, func() error { return nil }, nil
	},
}

// perRow holds the cost of a row in a large tab against that in a smaller one,
// under a whole run: the condition, the changes, the journal, the rows written.
// Against 10,000 rows the small side also bears the fixed cost of a hundred
// runs; against 100,000 that cost is next to nothing.
func perRow(small int) Case {
	return Case{
		Name: "a row of 1,000,000 under a run that marks every ninth", Floor: fmt.Sprintf("a row of %d,000 under the same", small/1000), Limit: 1.3, Turns: 3, Items: millionRow, Item: "row",
		Setup: func(dir string) (kavlo, floor func() error, done func() error, err error) {
			many, closeMany, err := marking(filepath.Join(dir, "many"), millionRow)
			if err != nil {
				return nil, nil, nil, err
			}
			few, closeFew, err := marking(filepath.Join(dir, "few"), small)
			if err != nil {
				return nil, nil, nil, err
			}
			floor = func() error {
				for range millionRow / small {
					if err := few(); err != nil {
						return err
					}
				}
				return nil
			}
			return many, floor, func() error { return errors.Join(closeMany(), closeFew()) }, nil
		},
	}
}

const marked = `
tracker: Loans
zone: UTC
tabs:
  On display: { columns: { Object: { type: text }, Arrived: { type: date }, Report: { type: text }, Flag: { type: text } } }
rules:
  - { name: Mark, in: On display, where: Arrived before 2026-03-01 and Report is blank, steps: [ { set: { Flag: Late } } ] }
  - { name: Unmark, in: On display, where: Arrived before 2026-03-01 and Report is blank, steps: [ { set: { Flag: blank } } ] }
`

// marking gives a workspace's turn at marking and unmarking the ninth part of so many rows.
func marking(dir string, rows int) (turn, done func() error, err error) {
	ctx := context.Background()
	d, err := workspace.Open(ctx, workspace.Config{Dir: dir})
	if err != nil {
		return nil, nil, err
	}
	if _, err := d.Commit(ctx, d.LoadSetup(policy.Itself("bench"), []byte(marked))); err != nil {
		return nil, nil, err
	}
	t, tab, err := d.FindTab("Loans", "On display")
	if err != nil {
		return nil, nil, err
	}
	for from := 0; from < rows; from += fewRows {
		all := make([]map[string]any, fewRows)
		for i := range all {
			all[i] = map[string]any{"Object": fmt.Sprintf("Signal lamp %d", from+i), "Arrived": []string{"2026-02-01", "2026-03-05", "2026-04-01"}[i%3], "Report": []string{"", "yes", "yes"}[i/3%3]}
		}
		req := d.AddRows(policy.Itself("bench"), t.ID, tab.ID, all)
		req.Alone = true
		if _, err := d.Commit(ctx, req); err != nil {
			return nil, nil, err
		}
	}
	n := 0
	turn = func() error {
		n++
		tracker, err := d.Find("Loans")
		if err != nil {
			return err
		}
		r, err := d.FindRule(tracker, []string{"Unmark", "Mark"}[n%2])
		if err != nil {
			return err
		}
		res, err := d.Commit(ctx, d.RunRule(policy.Itself("bench"), tracker, r))
		if err == nil && len(res.Set.Changes) < rows/10 {
			err = fmt.Errorf("%d rows were marked", len(res.Set.Changes))
		}
		return err
	}
	return turn, d.Close, nil
}
