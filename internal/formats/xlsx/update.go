package xlsx

import (
	"bytes"
	"errors"
	"fmt"
	"html"
	"io"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"

	"example.org/kavlo/internal/formats/outbound"
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
// they were, and lets the defined table and charts of its rows grow with it.
func Update(w io.Writer, workbook []byte, t *outbound.Table, into Into) (u Updated, err error) {
	grids, err := Read(bytes.NewReader(workbook), int64(len(workbook)))
	if err != nil {
		return u, err
	}
	s, there, err := standing(reading.Read("", grids), into)
	if err != nil {
		return u, err
	}
	f, err := excelize.OpenReader(bytes.NewReader(workbook), excelize.Options{UnzipSizeLimit: MaxUnpacked, UnzipXMLSizeLimit: MaxUnpacked})
	if err != nil {
		return u, ErrNotWorkbook
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	up := &updater{f: f, s: s, there: there, t: t, into: into, dates: map[value.Kind]int{}, bottom: there.Range.Bottom}
	if err := up.pair(); err != nil {
		return u, err
	}
	if err := up.rows(&u); err != nil {
		return u, err
	}
	if up.bottom > there.Range.Bottom {
		up.grow()
	}
	if err := f.UpdateLinkedValue(); err != nil {
		return u, fmt.Errorf("letting formulas work anew: %w", err)
	}
	if _, err := f.WriteTo(w); err != nil {
		return u, fmt.Errorf("writing the workbook: %w", err)
	}
	r := there.Range
	r.Bottom = up.bottom
	u.Range = s.Name + "!" + r.String()
	return u, nil
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
	f      *excelize.File
	s      *reading.Sheet
	there  *reading.Table
	t      *outbound.Table
	into   Into
	at     []int // by column of t: the column of the sheet, or -1
	key    int   // column of t; -1: none
	bottom int
	dates  map[value.Kind]int
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
	known := map[string]int{}
	up.was = map[int][]value.Value{}
	if up.key >= 0 {
		n := up.at[up.key] - up.there.Range.Left
		for rec := range up.s.Records(up.there) {
			up.was[rec.Row] = slices.Clone(rec.Cells)
			if k := value.Fold(rec.Cells[n].String()); k != "" {
				if _, twice := known[k]; !twice {
					known[k] = rec.Row
				}
			}
		}
	}
	for r := range up.t.Rows {
		row, found := -1, false
		if up.key >= 0 {
			row, found = known[value.Fold(r.Cells[up.key].String())]
		}
		if !found {
			row = up.bottom + 1
			if err := up.free(row); err != nil {
				return err
			}
			up.bottom = row
			if up.key >= 0 {
				known[value.Fold(r.Cells[up.key].String())] = row
			}
		}
		changed, err := up.row(row, r.Cells, !found)
		if err != nil {
			return err
		}
		switch {
		case !found:
			u.Added++
		case changed:
			u.Changed++
		default:
			u.Unchanged++
		}
	}
	return nil
}

// free says what stands where a row is to be added; hollow rows do not count.
func (up *updater) free(row int) error {
	g := up.s.Grid()
	for col := up.there.Range.Left; col <= up.there.Range.Right; col++ {
		c := g.At(row, col)
		switch {
		case c.Formula || c.Value.IsBlank(), c.Value.Kind() == value.Checkbox && !c.Value.IsTrue(), value.Equal(c.Value, value.OfInt(0)):
		default:
			return fmt.Errorf("there is no room below the table: %s holds %q", reading.CellName(row, col), c.Value.String())
		}
	}
	if slices.ContainsFunc(up.there.LeftOut, func(l reading.LeftOut) bool {
		return strings.HasPrefix(l.Reason, "total row") && l.Range.Top <= row && row <= l.Range.Bottom
	}) {
		return fmt.Errorf("there is no room below the table: row %d holds its total", row+1)
	}
	return nil
}

func (up *updater) row(row int, cells []value.Value, added bool) (changed bool, err error) {
	g := up.s.Grid()
	for i, v := range cells {
		col := up.at[i]
		if col < 0 || i == up.key && !added {
			continue
		}
		cell := reading.CellName(row, col)
		if !added {
			n := col - up.there.Range.Left
			if before := up.was[row]; before == nil {
				continue // added a moment ago, under the same key
			} else if before := before[n]; before == v || before.IsBlank() && v.IsBlank() || g.At(row, col).Formula {
				continue
			}
		} else if row > up.there.Range.Top+up.there.HeaderRows {
			style, err := up.f.GetCellStyle(up.s.Name, reading.CellName(row-1, col))
			if err != nil {
				return changed, err
			}
			if err := up.f.SetCellStyle(up.s.Name, cell, cell, style); err != nil {
				return changed, err
			}
		}
		if err := placeCell(up.f, up.s.Name, cell, v, up.dates); err != nil {
			return changed, fmt.Errorf("writing %s: %w", cell, err)
		}
		changed = true
	}
	return changed, nil
}

var chartRange = regexp.MustCompile(`>([^<>!]+)!\$([A-Z]+)\$(\d+):\$([A-Z]+)\$(\d+)<`)

// grow lets what covered the table's rows cover the new ones too: the defined
// table, its filter, and the charts that draw them.
func (up *updater) grow() {
	before, after := up.there.Range, up.there.Range
	after.Bottom = up.bottom
	first := strconv.Itoa(before.Top + up.there.HeaderRows + 1)
	last, newLast := strconv.Itoa(before.Bottom+1), strconv.Itoa(after.Bottom+1)
	up.f.Pkg.Range(func(k, v any) bool {
		name, _ := k.(string)
		text, ok := v.([]byte)
		switch {
		case !ok:
		case strings.HasPrefix(name, "xl/tables/") && bytes.Contains(text, []byte(`ref="`+before.String()+`"`)):
			up.f.Pkg.Store(k, bytes.ReplaceAll(text, []byte(`ref="`+before.String()+`"`), []byte(`ref="`+after.String()+`"`)))
		case strings.HasPrefix(name, "xl/charts/chart"):
			up.f.Pkg.Store(k, chartRange.ReplaceAllFunc(text, func(m []byte) []byte {
				p := chartRange.FindSubmatch(m)
				sheet := strings.ReplaceAll(strings.Trim(html.UnescapeString(string(p[1])), "'"), "''", "'")
				if sheet != up.s.Name || string(p[3]) != first || string(p[5]) != last {
					return m
				}
				return fmt.Appendf(nil, ">%s!$%s$%s:$%s$%s<", p[1], p[2], p[3], p[4], newLast)
			}))
		}
		return true
	})
}
