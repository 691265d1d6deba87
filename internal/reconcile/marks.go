package reconcile

import (
	"encoding/binary"
	"slices"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// CellMark tells what a file had in a cell from anything else it could have had: a hash of the
// value, and one of the note and style. Kept from one time to the next, it tells what has
// changed in the file and what has changed here.
type CellMark struct{ Value, Dress uint32 }

// CellMarkOf gives the mark of a cell.
func CellMarkOf(v value.Value, note, style string) CellMark {
	var m CellMark
	if !v.IsBlank() {
		h := mixed(offset, uint64(v.Kind()))
		if parts, plain := v.Parts(); plain && v.Kind() != value.Text {
			h = mixed(mixed(h, uint64(parts.N)), uint64(parts.Scale)) //nolint:gosec // any bits will do
		} else {
			h = mixedText(h, v.Raw())
		}
		m.Value = folded(h)
	}
	if note != "" || style != "" {
		m.Dress = folded(mixedText(mixed(mixedText(offset, note), 0), style))
	}
	return m
}

// The hash is FNV-1a of 64 bits, folded to 32 (RFC 9923).
const (
	offset = 14695981039346656037
	prime  = 1099511628211
)

func mixed(h, n uint64) uint64 {
	for range 8 {
		h = (h ^ n&255) * prime
		n >>= 8
	}
	return h
}

func mixedText(h uint64, s string) uint64 {
	for i := range len(s) {
		h = (h ^ uint64(s[i])) * prime
	}
	return h
}

// folded is never 0, which is the mark of a blank cell.
func folded(h uint64) uint32 { return uint32(h>>32) ^ uint32(h) | 1 } //nolint:gosec // of both halves

// CellMarks are those of a row's cells that a file spoke of, by column.
type CellMarks map[sheet.ColumnID]CellMark

// Bytes writes marks as they are stored.
func (m CellMarks) Bytes() []byte {
	ids := make([]sheet.ColumnID, 0, len(m))
	for id := range m {
		ids = append(ids, id)
	}
	slices.Sort(ids)
	out := make([]byte, 0, len(ids)*12)
	for _, id := range ids {
		out = binary.AppendUvarint(out, uint64(id)) //nolint:gosec // ids count from 1
		out = binary.BigEndian.AppendUint32(out, m[id].Value)
		out = binary.BigEndian.AppendUint32(out, m[id].Dress)
	}
	return out
}

// ParseCellMarks reads what Bytes wrote; what is cut short ends there.
func ParseCellMarks(b []byte) CellMarks {
	if len(b) == 0 {
		return nil
	}
	m := CellMarks{}
	for len(b) > 0 {
		id, n := binary.Uvarint(b)
		if n <= 0 || len(b) < n+8 {
			return m
		}
		m[sheet.ColumnID(id)] = CellMark{binary.BigEndian.Uint32(b[n:]), binary.BigEndian.Uint32(b[n+4:])} //nolint:gosec // ids count from 1
		b = b[n+8:]
	}
	return m
}

func (m CellMarks) same(o CellMarks) bool {
	if len(m) != len(o) {
		return false
	}
	for id, x := range m {
		if y, known := o[id]; !known || x != y {
			return false
		}
	}
	return true
}
