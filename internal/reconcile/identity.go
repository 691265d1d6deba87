package reconcile

import (
	"encoding/base64"
	"encoding/binary"
	"strings"

	"example.org/kavlo/internal/sheet"
)

// A row that goes out in a workbook takes along which row it is, and a mark for each of
// its cells, so that when the workbook comes back what was edited in it is told from what
// was edited here.

// IdentityOf writes which row it is, with the marks of columns in order.
func IdentityOf(row sheet.RowID, marks []CellMark) string {
	out := make([]byte, 0, len(marks)*4+8)
	for _, m := range marks {
		out = binary.BigEndian.AppendUint32(out, m.Value)
	}
	for i, m := range marks {
		if m.Dress != 0 {
			out = binary.BigEndian.AppendUint16(out, uint16(i)) //nolint:gosec // a tab has fewer columns
			out = binary.BigEndian.AppendUint32(out, m.Dress)
		}
	}
	return row.String() + "." + base64.RawStdEncoding.EncodeToString(out)
}

// ParseIdentity reads what IdentityOf wrote; 0 where it is something else.
func ParseIdentity(text string, columns []int64) (sheet.RowID, CellMarks) {
	name, rest, ok := strings.Cut(text, ".")
	id, known := sheet.ParseRowID(name)
	b, err := base64.RawStdEncoding.DecodeString(rest)
	if !ok || !known || err != nil || len(b) < len(columns)*4 {
		return 0, nil
	}
	marks := make(CellMarks, len(columns))
	for i, c := range columns {
		marks[sheet.ColumnID(c)] = CellMark{Value: binary.BigEndian.Uint32(b[i*4:])}
	}
	for b = b[len(columns)*4:]; len(b) >= 6; b = b[6:] {
		if i := int(binary.BigEndian.Uint16(b)); i < len(columns) {
			c := sheet.ColumnID(columns[i])
			marks[c] = CellMark{marks[c].Value, binary.BigEndian.Uint32(b[2:])}
		}
	}
	return id, marks
}
