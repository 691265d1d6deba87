package bench

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"time"

	"example.org/kavlo/internal/kinds"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

const sortedRows = 100_000

// sortRows sorts a tab by two columns.
var sortRows = Case{
	Name: "100,000 rows sorted by a name and an amount", Floor: "the same texts and numbers sorted bare", Limit: 3, Turns: 15, Items: sortedRows, Item: "row",
	Setup: func(string) (kavlo, floor func() error, done func() error, err error) {
		id := int64(0)
		shape, err := kinds.Setup.Parse([]byte("tracker: Loans\nzone: UTC\ntabs: { Requested: { columns: { Object: { type: text }, Lender: { type: text }, Value: { type: number } } } }\n"), nil, func() int64 { id++; return id })
		if err != nil {
			return nil, nil, nil, err
		}
		ready, err := program.Compile(shape, kinds.All)
		if err != nil {
			return nil, nil, nil, err
		}
		type bare struct {
			lender string
			amount int64
		}
		l, tab := sheet.NewLoader(), &shape.Tabs[0]
		l.Tracker(1, 1, shape)
		values := make([]bare, sortedRows)
		for i := range values {
			values[i] = bare{fmt.Sprintf("Lender %d of the county", i*7919%5000), int64(i) * 104_729 % 1_000_003}
			cells := []value.Value{value.OfText("Signal lamp"), value.OfText(values[i].lender), value.OfInt(values[i].amount)}
			if err := l.Row(1, tab.ID, sheet.RowID(i+1), 1, sheet.LaidOut(tab, cells, sheet.Besides{}).At(int64(i+1)<<16)); err != nil {
				return nil, nil, nil, err
			}
		}
		t := l.Done().Tracker(1)
		order, err := query.ParseOrder("Lender, Value descending", tab)
		if err != nil {
			return nil, nil, nil, err
		}
		kavlo = func() error {
			found, err := query.Select(ready, t, query.Query{Tab: tab, Order: order}, time.Time{}, nil)
			if err == nil && len(found.Rows) != sortedRows {
				err = errors.New("rows are missing")
			}
			return err
		}
		floor = func() error {
			slices.SortStableFunc(slices.Clone(values), func(a, b bare) int {
				if c := cmp.Compare(a.lender, b.lender); c != 0 {
					return c
				}
				return cmp.Compare(b.amount, a.amount)
			})
			return nil
		}
		return kavlo, floor, func() error { return nil }, nil
	},
}
