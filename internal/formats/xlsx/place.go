package xlsx

import (
	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/reading"
)

// RangeOf gives the range that a table takes, beginning at a cell.
func RangeOf(t *outbound.Table, cell string, headers bool) string {
	top, left, err := reading.ParseCell(cell)
	if err != nil || len(t.Columns) == 0 {
		return cell
	}
	rows := t.Count
	if headers {
		rows++
	}
	return reading.Range{Top: top, Left: left, Bottom: top + max(rows, 1) - 1, Right: left + len(t.Columns) - 1}.String()
}
