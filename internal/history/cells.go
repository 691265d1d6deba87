package history

import (
	"cmp"
	"context"
	"slices"

	"example.org/kavlo/internal/sheet"
)

// perRow is how many change sets of each row are looked at where several rows are asked for.
const perRow = 200

// Touched is what one change set did, for one cause, to the cells that were asked for.
type Touched struct {
	Set     *sheet.ChangeSet // with these changes alone
	Cause   int
	Changed int // of the cells asked for: how many it changed
	Stand   int // and how many hold what it put into them
}

// Cells tells what changed some cells, newest first, and how many of them nothing did, within
// the last change sets of each row. They are those of the columns in the rows.
func (h *History) Cells(ctx context.Context, left func(*sheet.ChangeSet) *sheet.ChangeSet, rows []sheet.RowID, columns []sheet.ColumnID) ([]Touched, int, error) {
	found := touches{}
	stand := 0
	for _, row := range rows {
		sets, err := h.store.RowHistory(ctx, row, perRow)
		if err != nil {
			return nil, 0, err
		}
		settled := map[sheet.ColumnID]bool{} // the columns of which is known what stands there
		for _, set := range sets {
			stand += found.take(left(set), columns, settled)
		}
	}
	out := make([]Touched, 0, len(found))
	for _, t := range found {
		out = append(out, *t)
	}
	slices.SortFunc(out, func(a, b Touched) int {
		return cmp.Or(cmp.Compare(b.Set.Seq, a.Set.Seq), cmp.Compare(b.Cause, a.Cause))
	})
	return out, len(rows)*len(columns) - stand, nil
}

type deed struct {
	seq   int64
	cause int
}

type touches map[deed]*Touched

// take adds what a change set did to the cells of one row, and gives how many of them hold
// what it put into them: those that no newer one has settled.
func (f touches) take(set *sheet.ChangeSet, columns []sheet.ColumnID, settled map[sheet.ColumnID]bool) (stand int) {
	type counted struct {
		cause  int
		column sheet.ColumnID
	}
	once := map[counted]bool{}
	for i := len(set.Changes) - 1; i >= 0; i-- {
		c := set.Changes[i]
		listed := false
		for _, column := range columns {
			valued := c.Kind == sheet.Set && c.Column == column || c.Kind == sheet.Add && hasCell(c, column)
			beside := (c.Kind == sheet.Note || c.Kind == sheet.Style) && c.Column == column
			if !valued && !beside {
				continue
			}
			t := f.of(set, c.Because)
			if !listed {
				t.Set.Changes, listed = append(t.Set.Changes, c), true
			}
			if !once[counted{c.Because, column}] {
				once[counted{c.Because, column}] = true
				t.Changed++
			}
			if valued && !settled[column] {
				settled[column] = true
				t.Stand++
				stand++
			}
		}
	}
	return stand
}

func (f touches) of(set *sheet.ChangeSet, cause int) *Touched {
	at := deed{set.Seq, cause}
	if f[at] == nil {
		bare := *set
		bare.Changes = nil
		f[at] = &Touched{Set: &bare, Cause: cause}
	}
	return f[at]
}
