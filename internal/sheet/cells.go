package sheet

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"time"
	"unicode/utf8"

	"example.org/kavlo/internal/value"
)

// One Set and one AddRow serve every feature: whoever puts something into a cell or
// adds a row, by hand, by a rule, from a file or a list, comes through here.

// Cell names a cell.
type Cell struct {
	Tracker TrackerID
	Row     RowID
	Column  ColumnID
}

// Place names a tab.
type Place struct {
	Tracker TrackerID
	Tab     TabID
	Pos     int64 // 0: at the end
}

// within says how a value breaks the column's bounds, or nil.
func (c *Column) within(v value.Value) error {
	if hint := c.outside(v); hint != "" {
		return &Refusal{Column: c.Name, Reason: fmt.Sprintf("%q is out of bounds", v.String()), Hint: hint}
	}
	return nil
}

func (c *Column) outside(v value.Value) string {
	if v.IsBlank() || v.IsOdd() {
		return ""
	}
	if c.Longest > 0 && utf8.RuneCountInString(v.Raw()) > c.Longest {
		return fmt.Sprintf("at most %d characters", c.Longest)
	}
	if c.Min != "" {
		if low, err := value.Parse(c.Min, c.Type); err == nil && value.Compare(v, low) < 0 {
			return "at least " + c.Min
		}
	}
	if c.Max != "" {
		if high, err := value.Parse(c.Max, c.Type); err == nil && value.Compare(v, high) > 0 {
			return "at most " + c.Max
		}
	}
	return ""
}

// Set puts something into a cell; see Draft.Read. A cell that holds it already is not
// changed. A row may be given a value of a column that its tab lacks, to carry.
func (d *Draft) Set(at Cell, raw any, because int) error {
	t, row, col, err := d.cell(at)
	if err != nil {
		return err
	}
	n := len(d.readings.Said)
	v, err := d.Read(t, col, raw)
	if err != nil {
		return t.refusal(err, row)
	}
	d.readings.of(n, row.Tab, row.ID)
	return d.Put(at, v, because)
}

// Put puts a value into a cell as it is: one that fits, or is to be kept as odd.
func (d *Draft) Put(at Cell, v value.Value, because int) error {
	t := d.Tracker(at.Tracker)
	if t == nil || t.Row(at.Row) == nil {
		return d.missing(at)
	}
	row := t.Row(at.Row)
	before := row.Get(t.TabOf(row), at.Column)
	if before == v {
		return nil
	}
	return d.Apply(Change{Kind: Set, Tracker: at.Tracker, Tab: row.Tab, Row: at.Row, Column: at.Column, Before: before, After: v, Because: because})
}

// Annotate gives a cell another note or style, as text; kind says which.
func (d *Draft) Annotate(at Cell, kind Kind, text string, because int) error {
	t := d.Tracker(at.Tracker)
	if t == nil || t.Row(at.Row) == nil {
		return d.missing(at)
	}
	row := t.Row(at.Row)
	before := row.Texts(kind)[at.Column]
	if before == text {
		return nil
	}
	return d.Apply(Change{Kind: kind, Tracker: at.Tracker, Tab: row.Tab, Row: at.Row, Column: at.Column, Before: value.OfText(before), After: value.OfText(text), Because: because})
}

func (d *Draft) cell(at Cell) (*Tracker, *Row, *Column, error) {
	t := d.Tracker(at.Tracker)
	if t == nil || t.Row(at.Row) == nil {
		return nil, nil, nil, d.missing(at)
	}
	row := t.Row(at.Row)
	col := t.TabOf(row).ByID(at.Column)
	if col == nil {
		col = t.ColumnByID(at.Column)
	}
	if col == nil {
		return nil, nil, nil, &NotFound{What: "column", Name: at.Column.String(), In: t.Name}
	}
	return t, row, col, nil
}

func (d *Draft) missing(at Cell) error {
	t := d.Tracker(at.Tracker)
	if t == nil {
		return &NotFound{What: "tracker", Name: at.Tracker.String()}
	}
	return &NotFound{What: "row", Name: at.Row.String(), In: t.Name}
}

// refusal tells a *Refusal which row it is about.
func (t *Tracker) refusal(err error, row *Row) error {
	var r *Refusal
	if errors.As(err, &r) && row != nil {
		r.Row, r.Label, r.Tab = row.ID, t.Label(row), t.TabOf(row).Name
	}
	return err
}

// AddRow adds a row to a tab with what is given by column; see Draft.Read.
// Columns that are not given get their default or their next automatic number.
func (d *Draft) AddRow(to Place, given map[ColumnID]any, because int) (RowID, error) {
	tab, err := d.place(to)
	if err != nil {
		return 0, err
	}
	t, n := d.Tracker(to.Tracker), len(d.readings.Said)
	cells := make([]value.Value, len(tab.Columns))
	spoken := make([]bool, len(tab.Columns))
	for _, id := range slices.Sorted(maps.Keys(given)) {
		slot := tab.Slot(id)
		if slot < 0 {
			return 0, &NotFound{What: "column", Name: id.String(), In: tab.Name}
		}
		if cells[slot], err = d.Read(t, &tab.Columns[slot], given[id]); err != nil {
			return 0, err
		}
		spoken[slot] = true
	}
	row, err := d.AddLaid(to, cells, spoken, Besides{}, because)
	d.readings.of(n, to.Tab, row)
	return row, err
}

// AddLaid adds a row with cells that have been read already, in the order of the tab's
// columns, which it takes over. Of columns that are not spoken of it sees to defaults
// and automatic numbers; spoken nil: all are.
func (d *Draft) AddLaid(to Place, cells []value.Value, spoken []bool, besides Besides, because int) (RowID, error) {
	tab, err := d.place(to)
	if err != nil {
		return 0, err
	}
	for i := range tab.Columns {
		if cells[i].IsBlank() { // white space too
			cells[i] = value.Value{}
		}
		if spoken == nil || spoken[i] {
			continue
		}
		switch c := &tab.Columns[i]; {
		case c.Computed():
		case c.AutoNo:
			cells[i] = value.OfInt(d.Own(to.Tracker).NextNumber(to.Tab, i))
		case c.Default != "":
			cells[i] = c.given(d.writing.Now.In(d.Tracker(to.Tracker).Location()))
		}
	}
	id := d.NewRow()
	return id, d.Apply(Change{Kind: Add, Tracker: to.Tracker, Tab: to.Tab, Row: id, Image: LaidOut(tab, cells, besides).At(to.Pos), Because: because})
}

// The defaults that are the moment at which a row is added.
const (
	DefaultNow   = "now"
	DefaultToday = "today"
)

// Moment reports whether the column's default is the moment at which a row is added.
func (c *Column) Moment() bool {
	return (c.Default == DefaultNow || c.Default == DefaultToday) && (c.Type.Kind == value.Date || c.Type.Kind == value.DateTime)
}

// given gives the default of a column for a row that is added now; blank if it has none.
func (c *Column) given(now time.Time) value.Value {
	if c.Moment() {
		if c.Type.Kind == value.DateTime && c.Default == DefaultNow {
			return value.DateTimeOf(now.Truncate(time.Minute))
		}
		return value.DateOf(now)
	}
	v, err := value.Parse(c.Default, c.Type)
	if err != nil {
		return value.Value{}
	}
	return v
}

func (d *Draft) place(to Place) (*TabShape, error) {
	t := d.Tracker(to.Tracker)
	if t == nil {
		return nil, &NotFound{What: "tracker", Name: to.Tracker.String()}
	}
	tab := t.TabByID(to.Tab)
	if tab == nil {
		return nil, &NotFound{What: "tab", Name: to.Tab.String(), In: t.Name}
	}
	return tab, nil
}
