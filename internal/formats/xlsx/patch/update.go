package patch

import (
	"fmt"
	"io"
	"slices"

	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formula"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// Into names a table that stands in a workbook.
type Into struct {
	Sheet string
	Table string // of a defined table; "": the longest of the sheet
	Key   string // the column by which rows are found; "": every row is added
}

// Updated tells what became of a table.
type Updated struct {
	Range                     string // of the table now, with its sheet
	Added, Changed, Unchanged int
}

// Update adds a table's rows to one that stands in a workbook and, with a key,
// brings those that are there into step. It finds the table by itself, pairs
// columns by name, leaves columns of its own and all else in the workbook as
// they were. What refers to its rows grows with it, and rows are put in between where
// something stands below it.
func Update(w io.Writer, workbook []byte, t *outbound.Table, into Into) (u Updated, err error) {
	b, err := open(workbook)
	if err != nil {
		return u, err
	}
	sheet, err := b.findSheet(into.Sheet)
	if err != nil {
		return u, err
	}
	grids, err := b.grids(func(name string) bool { return name == sheet.name })
	if err != nil {
		return u, err
	}
	s, there, err := standing(reading.Read("", grids), into)
	if err != nil {
		return u, err
	}
	part, err := b.findSheet(s.Name)
	if err != nil {
		return u, err
	}
	up := &updater{book: b, plan: newPlan(part), s: s, there: there, t: t, into: into, bottom: there.Range.Bottom}
	if err := up.pair(); err != nil {
		return u, err
	}
	if err := up.rows(&u); err != nil {
		return u, err
	}
	r := there.Range
	r.Bottom = up.bottom
	up.plan.across = r
	if err := b.carryOut(up.plan); err != nil {
		return u, err
	}
	u.Range = s.Name + "!" + r.String()
	return u, b.write(w)
}

// standing finds the table in the workbook.
func standing(r *reading.Reading, into Into) (*reading.Sheet, *reading.Table, error) {
	var names []string
	for i := range r.Sheets {
		s := &r.Sheets[i]
		names = append(names, s.Name)
		if !value.EqualText(s.Name, into.Sheet) {
			continue
		}
		var best *reading.Table
		var tables []string
		for j := range s.Tables {
			t := &s.Tables[j]
			if t.Name != "" {
				tables = append(tables, t.Name)
			}
			if into.Table != "" && !value.EqualText(t.Name, into.Table) {
				continue
			}
			if best == nil || t.Rows > best.Rows {
				best = t
			}
		}
		switch {
		case best != nil:
			return s, best, nil
		case into.Table != "":
			return nil, nil, missing("table", into.Table, "on sheet "+s.Name, tables)
		}
		return nil, nil, fmt.Errorf("sheet %s holds no table", s.Name)
	}
	return nil, nil, missing("sheet", into.Sheet, "in the workbook", names)
}

func missing(what, name, where string, names []string) error {
	if near := value.Nearest(name, names); near != "" {
		return fmt.Errorf("there is no %s %q %s: did you mean %s?", what, name, where, near)
	}
	return fmt.Errorf("there is no %s %q %s", what, name, where)
}

type updater struct {
	book   *book
	plan   *plan
	s      *reading.Sheet
	there  *reading.Table
	t      *outbound.Table
	into   Into
	at     []int // by column of t: the column of the sheet, or -1
	key    int   // column of t; -1: none
	bottom int
	was    map[int][]value.Value // what the table holds, by row of the sheet
}

// pair finds the columns of the table for those to be written.
func (up *updater) pair() error {
	up.key = -1
	paired := 0
	for i, c := range up.t.Columns {
		at := slices.IndexFunc(up.there.Columns, func(h reading.Column) bool { return value.EqualText(h.Name, c.Name) })
		if at >= 0 {
			up.at = append(up.at, up.there.Range.Left+at)
			paired++
		} else {
			up.at = append(up.at, -1)
		}
		if up.into.Key != "" && value.EqualText(c.Name, up.into.Key) && at >= 0 {
			up.key = i
		}
	}
	switch {
	case paired == 0:
		return fmt.Errorf("the table at %s has none of the columns to be written", up.there.Range)
	case up.into.Key != "" && up.key < 0:
		return missing("column", up.into.Key, "in the table at "+up.there.Range.String(), up.there.Headers)
	}
	return nil
}

func (up *updater) rows(u *Updated) error {
	known := up.known()
	first := up.there.Range.Top + up.there.HeaderRows
	for r := range up.t.Rows {
		for i, v := range r.Cells {
			if _, _, _, err := up.book.shownAs(v); err != nil {
				return fmt.Errorf("column %s: %w", up.t.Columns[i].Name, err)
			}
		}
		row, found := -1, false
		if up.key >= 0 {
			row, found = known[value.Fold(r.Cells[up.key].String())]
		}
		if !found {
			up.bottom++
			row = up.bottom
			if up.key >= 0 {
				known[value.Fold(r.Cells[up.key].String())] = row
			}
		}
		changed := up.row(row, r.Cells, !found)
		switch {
		case !found:
			u.Added++
		case changed:
			u.Changed++
		default:
			u.Unchanged++
		}
	}
	old := up.there.Range.Bottom
	grows := formula.Growth{Sheet: up.s.Name, Top: first, Bottom: old, Left: up.there.Range.Left, Right: up.there.Range.Right, Rows: up.bottom - old}
	for grows.Free < grows.Rows && up.free(old+grows.Free+1) {
		grows.Free++
	}
	up.plan.grows = grows
	if old >= first {
		up.plan.like = old
	}
	return nil
}

// known gives the rows of the table by their folded keys, and minds what they hold.
func (up *updater) known() map[string]int {
	known := map[string]int{}
	up.was = map[int][]value.Value{}
	if up.key < 0 {
		return known
	}
	n := up.at[up.key] - up.there.Range.Left
	for rec := range up.s.Records(up.there) {
		up.was[rec.Row] = slices.Clone(rec.Cells)
		if k := value.Fold(rec.Cells[n].String()); k != "" {
			if _, twice := known[k]; !twice {
				known[k] = rec.Row
			}
		}
	}
	return known
}

// free reports whether a row below the table may be taken for it: it is blank or hollow,
// and no total.
func (up *updater) free(row int) bool {
	g := up.s.Grid()
	for col := up.there.Range.Left; col <= up.there.Range.Right; col++ {
		c := g.At(row, col)
		if f := g.FormulaAt(row, col); f != nil && f.AddsUp(row) {
			return false
		}
		switch {
		case c.Formula || c.Value.IsBlank(), c.Value.Kind() == value.Checkbox && !c.Value.IsTrue(), value.Equal(c.Value, value.OfInt(0)):
		default:
			return false
		}
	}
	return row < reading.MaxRows
}

func (up *updater) row(row int, cells []value.Value, added bool) (changed bool) {
	g := up.s.Grid()
	for i, v := range cells {
		col := up.at[i]
		if col < 0 || i == up.key && !added {
			continue
		}
		if !added {
			n := col - up.there.Range.Left
			if before := up.was[row]; before == nil {
				continue // added a moment ago, under the same key
			} else if before := before[n]; before == v || before.IsBlank() && v.IsBlank() || g.At(row, col).Formula {
				continue
			}
		}
		up.plan.set(row, col, cell{value: v})
		changed = true
	}
	return changed
}
