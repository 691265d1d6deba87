package xlsx

import (
	"slices"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"

	"example.org/kavlo/internal/formats/outbound"
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
		c.Formula = formulaAt(f, row)
	}
}

func formulaAt(f *outbound.Formula, row int) string {
	n := strconv.Itoa(row)
	var says strings.Builder
	var needs []string
	for i, part := range f.Parts {
		says.WriteString(part)
		if i < len(f.Columns) {
			at, _ := excelize.ColumnNumberToName(f.Columns[i] + 1)
			says.WriteString(at + n)
			if !slices.Contains(needs, at+n) {
				needs = append(needs, at+n)
			}
		}
	}
	text := says.String()
	if f.Divides {
		text = "IFERROR(" + text + `,"")`
	}
	return "IF(COUNT(" + strings.Join(needs, ",") + ")<" + strconv.Itoa(len(needs)) + `,"",` + text + ")"
}
