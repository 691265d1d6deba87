package patch

import (
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"example.org/kavlo/internal/formula"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// plan is what is to be written to a sheet: cells by their new rows, and the growth of the
// block that makes room for them.
type plan struct {
	sheet  sheetPart
	grows  formula.Growth
	rows   map[int]map[int]cell // by row and column, zero-based, after the growth
	like   int                  // the row before the growth that new rows look like; -1: none
	across reading.Range        // the block after the growth
	links  map[string]string    // by cell: where it leads
}

// cell is what is written into one cell.
type cell struct {
	value value.Value
	clear bool // nothing stands there any more, and it keeps its look
}

func newPlan(s sheetPart) *plan {
	return &plan{sheet: s, grows: formula.Growth{Sheet: s.name, Bottom: reading.MaxRows, Right: reading.MaxColumns}, rows: map[int]map[int]cell{}, like: -1, links: map[string]string{}}
}

func (p *plan) set(row, col int, c cell) {
	if p.rows[row] == nil {
		p.rows[row] = map[int]cell{}
	}
	p.rows[row][col] = c
	if c.value.Kind() == value.Link || c.value.Kind() == value.File {
		if address, label := c.value.Address(); label != "" && (strings.HasPrefix(address, "#'") || strings.Contains(address, ":") && !strings.Contains(address, "#")) {
			p.links[reading.CellName(row, col)] = address
		}
	}
}

// moves reports whether anything refers elsewhere afterwards.
func (p *plan) moves() bool { return p.grows.Rows > 0 }

func (p *plan) sorted() []int { return slices.Sorted(maps.Keys(p.rows)) }

const (
	exactDigits = 15 // of a number that a workbook holds exactly
	longestCell = 32_767
	firstDay    = 61 // serial of 1900-03-01: before it, programs disagree
	lastDay     = 2_958_465
	epoch1900   = -25569
	epoch1904   = -24107
)

// shownAs gives a cell's type and content as the sheet's XML has them, and whether it is a
// date; kind "" is a number.
func (b *book) shownAs(v value.Value) (kind, content string, date value.Kind, err error) {
	switch v.Kind() {
	case value.Number:
		if v.Digits() <= exactDigits {
			return "", v.String(), 0, nil
		}
	case value.Checkbox:
		if v.IsTrue() {
			return "b", "1", 0, nil
		}
		return "b", "0", 0, nil
	case value.Date, value.DateTime:
		epoch, first := int64(epoch1900), int64(firstDay)
		if b.date04 {
			epoch, first = epoch1904, 0
		}
		days := v.Days() - epoch
		if days < first || days > lastDay {
			break
		}
		if v.Kind() == value.Date {
			return "", fmt.Sprint(days), value.Date, nil
		}
		serial := float64(v.Seconds())/86400 - float64(epoch)
		return "", trimFloat(serial), value.DateTime, nil
	}
	text := v.String()
	if v.Kind() == value.Link || v.Kind() == value.File {
		if _, label := v.Address(); label != "" {
			text = label
		}
	}
	if v.IsOdd() {
		text = v.Raw()
	}
	if utf8.RuneCountInString(text) > longestCell {
		return "", "", 0, fmt.Errorf("a text of %d letters does not fit a cell of a workbook, which holds %d", utf8.RuneCountInString(text), longestCell)
	}
	return "inlineStr", text, 0, nil
}

func trimFloat(f float64) string {
	return strings.TrimRight(strings.TrimRight(fmt.Sprintf("%.10f", f), "0"), ".")
}

var (
	control = regexp.MustCompile(`[\x00-\x08\x0b-\x1f\x{fffe}\x{ffff}]`)
	escaped = regexp.MustCompile(`_x[0-9A-Fa-f]{4}_`)
)

// cellText writes a text as cells have it: what XML cannot hold as _xHHHH_ (ECMA-376,
// 22.9.2.19), and what looks like that as itself.
func cellText(s string) string {
	s = escaped.ReplaceAllStringFunc(s, func(m string) string { return "_x005F" + m })
	s = control.ReplaceAllStringFunc(s, func(m string) string {
		r, _ := utf8.DecodeRuneInString(m)
		return fmt.Sprintf("_x%04X_", r)
	})
	return escapeText(s)
}
