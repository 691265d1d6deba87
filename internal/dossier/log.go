package dossier

import (
	"cmp"
	"errors"
	"fmt"
	"slices"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

const entry = "/log" // of a page's origin: what belongs to its log

// ErrNoLog says that a pattern's pages have no log.
var ErrNoLog = errors.New("these pages have no log: give their pattern one with log: { columns: … }")

// ErrNoPage says that a row has no page.
var ErrNoPage = errors.New("the row has no page yet: open it first")

// AddEntry adds an entry to the log of a row's page, by column; all of it, or none.
func (c *Compiled) AddEntry(d *sheet.Draft, tracker sheet.TrackerID, row sheet.RowID, cells map[string]any) error {
	if c.Log == nil {
		return ErrNoLog
	}
	t := d.Own(tracker)
	if c.PageOf(t, row) == nil {
		return ErrNoPage
	}
	tab := t.TabByID(c.Log.Tab)
	laid, spoken := make([]value.Value, len(tab.Columns)), make([]bool, len(tab.Columns))
	filled := false
	for name, raw := range cells {
		col, err := tab.Column(name)
		if err != nil {
			return err
		}
		strict := *col // what does not fit is no entry
		strict.BadInput = sheet.Refuse
		v, err := d.Read(t, &strict, raw)
		if err != nil {
			return err
		}
		if err := c.allowed(t, col, v); err != nil {
			return err
		}
		slot := tab.Slot(col.ID)
		laid[slot], spoken[slot] = v, !v.IsBlank()
		filled = filled || !v.IsBlank()
	}
	if !filled {
		return errors.New("an entry needs something in it")
	}
	_, err := d.AddLaid(sheet.Place{Tracker: tracker, Tab: c.Log.Tab}, laid, spoken, sheet.Besides{Origin: sheet.PageOrigin(c.ID, row, entry)}, 0)
	return err
}

// allowed refuses what is not among the choices of a log's column.
func (c *Compiled) allowed(t *sheet.Tracker, col *sheet.Column, v value.Value) error {
	choices, has := c.ChoicesOf(t, col.ID)
	if !has || v.IsBlank() || slices.ContainsFunc(choices, func(x string) bool { return value.EqualText(x, v.String()) }) {
		return nil
	}
	hint := "choose one of the values there are"
	if near := value.Nearest(v.String(), choices); near != "" {
		hint = "did you mean " + near + "?"
	}
	return &sheet.Refusal{Column: col.Name, Reason: fmt.Sprintf("%q is not among the choices", v.String()), Hint: hint}
}

// ChoicesOf gives the values that a column of the log takes from another tab; false where
// it takes none from there.
func (c *Compiled) ChoicesOf(t *sheet.Tracker, column sheet.ColumnID) ([]string, bool) {
	if c.Log == nil {
		return nil, false
	}
	at := slices.IndexFunc(c.Log.Choices, func(ch Choices) bool { return ch.Column == column })
	if at < 0 {
		return nil, false
	}
	ch := c.Log.Choices[at]
	tab := t.TabByID(ch.Tab)
	seen := map[string]bool{}
	out := []string{}
	for r := range t.Rows(ch.Tab) {
		v := r.Get(tab, ch.From)
		key := value.Fold(v.String())
		if v.IsBlank() || v.IsOdd() || seen[key] {
			continue
		}
		seen[key] = true
		out = append(out, v.String())
	}
	slices.SortFunc(out, value.CompareText)
	return out, true
}

// Entries gives the rows of the log of a row's page, in the log's order.
func (c *Compiled) Entries(t *sheet.Tracker, row sheet.RowID) []*sheet.Row {
	if c.Log == nil {
		return nil
	}
	all := slices.Collect(t.From(sheet.PageOrigin(c.ID, row, entry)))
	tab := t.TabByID(c.Log.Tab)
	when := -1 // the first date, by which entries are sorted
	for i := range tab.Columns {
		if k := tab.Columns[i].Type.Kind; k == value.Date || k == value.DateTime {
			when = i
			break
		}
	}
	slices.SortStableFunc(all, func(a, b *sheet.Row) int {
		n := 0
		if when >= 0 {
			x, y := a.At(when), b.At(when)
			if x.IsBlank() != y.IsBlank() { // what has no date stands last
				if x.IsBlank() {
					return 1
				}
				return -1
			}
			n = value.Compare(x, y)
		}
		if n = cmp.Or(n, cmp.Compare(a.Pos, b.Pos)); c.Log.Oldest {
			return n
		}
		return -n
	})
	return all
}
