package reading

import (
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/value"
)

// Correction is what a person says of a table that was read, or should have been.
type Correction struct {
	Sheet      string             `json:"sheet,omitempty"`
	Table      int                `json:"table,omitempty"` // which of the sheet's tables, from 1; 0: one that was not found
	LeaveOut   bool               `json:"leave_out,omitempty"`
	Range      string             `json:"range,omitempty"`       // A1 form, header and rows
	HeaderRows *int               `json:"header_rows,omitempty"` // 0: there is no header
	Columns    []ColumnCorrection `json:"columns,omitempty"`
	Tab        string             `json:"tab,omitempty"` // to which it goes
	Key        string             `json:"key,omitempty"` // the column by which its rows are found again
}

// ColumnCorrection is what a person says of a column.
type ColumnCorrection struct {
	Column   int    `json:"column"` // from 1
	Name     string `json:"name,omitempty"`
	Type     string `json:"type,omitempty"`
	LeaveOut bool   `json:"leave_out,omitempty"`
	Computed bool   `json:"computed,omitempty"`  // by what its formulas say
	DayOrder string `json:"day_order,omitempty"` // of dates in digits: DayFirst or MonthFirst
}

// mostOptions is how many values may become the choices of a column that a
// person says is a choice.
const mostOptions = 100

// Correct applies what a person says. What makes no sense is an error, and
// nothing else of the reading should then be used.
func (r *Reading) Correct(corrections []Correction) error {
	if len(corrections) > 0 {
		r.Digest = "" // it is not the file's alone any more
	}
	type place struct{ sheet, table int }
	var leave []place
	for i := range corrections {
		c := &corrections[i]
		at := slices.IndexFunc(r.Sheets, func(s Sheet) bool { return value.EqualText(s.Name, c.Sheet) })
		if at < 0 {
			return fmt.Errorf("there is no sheet %q in %s", c.Sheet, r.File)
		}
		s := &r.Sheets[at]
		table := c.Table
		if table < 0 || table > len(s.Tables) {
			return fmt.Errorf("sheet %s has %d tables, and no table %d", s.Name, len(s.Tables), table)
		}
		if table == 0 {
			if c.Range == "" {
				return fmt.Errorf("sheet %s: say where the table is: a range such as B3:F20", s.Name)
			}
			s.Tables = append(s.Tables, Table{})
			table = len(s.Tables)
		}
		if c.LeaveOut {
			leave = append(leave, place{at, table - 1})
			continue
		}
		if err := s.correct(&s.Tables[table-1], c); err != nil {
			return fmt.Errorf("sheet %s, table %d: %w", s.Name, table, err)
		}
	}
	slices.SortFunc(leave, func(a, b place) int { return b.table - a.table }) // from the last, so that places hold
	for _, p := range leave {
		s := &r.Sheets[p.sheet]
		s.LeftOut = append(s.LeftOut, LeftOut{s.Tables[p.table].Range, "left out by hand"})
		s.Tables = slices.Delete(s.Tables, p.table, p.table+1)
	}
	for i := range r.Sheets { // what was left out before may be in a table now, and the other way round
		s := &r.Sheets[i]
		s.LeftOut = slices.DeleteFunc(s.LeftOut, func(l LeftOut) bool {
			return slices.ContainsFunc(s.Tables, func(t Table) bool { return t.Range.holds(l.Range) })
		})
		s.account()
	}
	return nil
}

func (s *Sheet) correct(t *Table, c *Correction) error {
	if c.Range != "" || c.HeaderRows != nil {
		if err := s.reread(t, c); err != nil {
			return err
		}
	}
	t.Tab, t.Key = c.Tab, c.Key
	for _, cc := range c.Columns {
		if cc.Column < 1 || cc.Column > len(t.Columns) {
			return fmt.Errorf("there is no column %d: it has %d", cc.Column, len(t.Columns))
		}
		i := cc.Column - 1
		if name := strings.TrimSpace(cc.Name); name != "" && name != t.Columns[i].Name {
			if slices.ContainsFunc(t.Columns, func(o Column) bool { return value.EqualText(o.Name, name) }) {
				return fmt.Errorf("two columns would be called %s", name)
			}
			t.Rename(i, name)
		}
		if cc.Type != "" && cc.Type != t.Columns[i].Type {
			if err := s.retypeAs(t, i, cc.Type); err != nil {
				return err
			}
		}
		if cc.DayOrder != "" {
			if err := s.reorder(t, i, cc.DayOrder); err != nil {
				return err
			}
		}
		t.Columns[i].LeaveOut = cc.LeaveOut
		t.Columns[i].Computed = cc.Computed
	}
	t.sayAll(s.grid) // columns may go by other names now
	for i := range t.Columns {
		if c := &t.Columns[i]; c.Computed && c.Clause == "" {
			if c.Why == "" {
				c.Why = "it holds no formulas"
			}
			return fmt.Errorf("column %s cannot be computed: %s", c.Name, c.Why)
		}
	}
	return nil
}

// reorder reads the dates of a column with the day or the month first.
func (s *Sheet) reorder(t *Table, i int, order string) error {
	c := &t.Columns[i]
	switch {
	case order != DayFirst && order != MonthFirst:
		return fmt.Errorf("column %s: %q is no order of dates: write %s or %s", c.Name, order, DayFirst, MonthFirst)
	case c.Kind.Kind != value.Date && c.Kind.Kind != value.DateTime:
		return fmt.Errorf("column %s holds no dates", c.Name)
	}
	c.DayOrder, c.ordered = order, true
	t.Doubts = slices.DeleteFunc(t.Doubts, func(d string) bool { return d == orderDoubt(c.Name) })
	s.Retype(t, i, c.Kind, "dates, the "+order+", set by hand")
	return nil
}

// reread reads a table anew within the bounds that a person gives.
func (s *Sheet) reread(t *Table, c *Correction) error {
	r, rows := t.Range, t.HeaderRows
	if c.Range != "" {
		var err error
		if r, err = ParseRange(c.Range); err != nil {
			return err
		}
	}
	if r.Bottom >= s.grid.Height()+1000 || r.width() > 2000 {
		return fmt.Errorf("the range %s goes beyond the sheet", r)
	}
	if !slices.ContainsFunc(rowsOf(r), func(row int) bool { return len(s.grid.filled(r, row)) > 0 }) {
		return fmt.Errorf("the range %s holds nothing", r)
	}
	if len(t.Columns) == 0 && c.HeaderRows == nil {
		rows = 1
	}
	if c.HeaderRows != nil {
		rows = *c.HeaderRows
	}
	if rows < 0 || rows > 3 || rows > r.height() {
		return fmt.Errorf("a table has up to 3 rows of header, not %d", rows)
	}
	f := &frame{block: r, header: r.Top, rows: rows}
	fresh := f.table(s.grid)
	fresh.Name = t.Name
	*t = fresh
	return nil
}

func rowsOf(r Range) []int {
	out := make([]int, 0, r.height())
	for row := r.Top; row <= r.Bottom; row++ {
		out = append(out, row)
	}
	return out
}

func (s *Sheet) retypeAs(t *Table, i int, kind string) error {
	k, ok := value.KindNamed(kind)
	if !ok {
		return fmt.Errorf("column %s: %q is not a column type", t.Columns[i].Name, kind)
	}
	typ := value.Type{Kind: k}
	if k == value.Number && t.Columns[i].Kind.Kind == value.Number {
		typ.Display = t.Columns[i].Kind.Display
	}
	if k == value.Choice {
		seen := map[string]bool{}
		for _, line := range t.lines {
			name := strings.TrimSpace(s.grid.At(line, t.Range.Left+i).Value.String())
			if name == "" || seen[value.Fold(name)] {
				continue
			}
			if len(seen) == mostOptions {
				return fmt.Errorf("column %s has more than %d different values: too many for a choice", t.Columns[i].Name, mostOptions)
			}
			seen[value.Fold(name)] = true
			typ.Options = append(typ.Options, value.Option{Name: name})
		}
	}
	s.Retype(t, i, typ, "set by hand")
	return nil
}
