package xlsx

import (
	"slices"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"

	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

// A computed column goes out as formulas, with their results beside them, so that it goes
// on in rows that are typed below. As here, it is blank where a figure is missing.

// compute adds the formula to a cell of a computed column; row counts from 1.
func compute(c *excelize.Cell, f *outbound.Formula, v value.Value, row int) {
	switch c.Value.(type) {
	case int64, float64:
	case nil:
		if !v.IsBlank() {
			return
		}
	default: // text: what is odd, or has more digits than a workbook's number
		return
	}
	if f != nil {
		c.Formula = formulaAt(f, func(column int) string { return reading.CellName(row-1, column) })
	}
}

// formulaAt writes a formula over the cells that at names.
func formulaAt(f *outbound.Formula, at func(column int) string) string {
	var says strings.Builder
	var needs []string
	for i, part := range f.Parts {
		says.WriteString(part)
		if i < len(f.Columns) {
			name := at(f.Columns[i])
			says.WriteString(name)
			if !slices.Contains(needs, name) {
				needs = append(needs, name)
			}
		}
	}
	text := says.String()
	if f.Divides {
		text = "IFERROR(" + text + `,"")`
	}
	return "IF(COUNT(" + strings.Join(needs, ",") + ")<" + strconv.Itoa(len(needs)) + `,"",` + text + ")"
}
