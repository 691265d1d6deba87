package csv

import (
	"encoding/csv"
	"fmt"
	"io"
	"strings"

	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/value"
)

// Write writes a table with a header line (RFC 4180, UTF-8). Text that begins
// as a formula would is guarded by an apostrophe, which Read takes off again.
func Write(w io.Writer, t *outbound.Table) error {
	c := csv.NewWriter(w)
	c.UseCRLF = true
	rec := make([]string, len(t.Columns))
	for i, col := range t.Columns {
		rec[i] = guard(col.Name)
	}
	if err := c.Write(rec); err != nil {
		return fmt.Errorf("writing the header: %w", err)
	}
	for r := range t.Rows {
		for i, v := range r.Cells {
			switch v.Kind() {
			case value.Number, value.Date, value.DateTime, value.Checkbox:
				rec[i] = v.String()
			case value.Odd:
				rec[i] = guard(v.Raw())
			default:
				rec[i] = guard(v.String())
			}
		}
		if err := c.Write(rec); err != nil {
			return fmt.Errorf("writing a row: %w", err)
		}
	}
	c.Flush()
	if err := c.Error(); err != nil {
		return fmt.Errorf("writing the file: %w", err)
	}
	return nil
}

// formulaMarks begin what other programs take for a formula.
const formulaMarks = "=+-@\t\r"

// guard puts an apostrophe before a text that begins, after any apostrophes,
// as a formula would.
func guard(s string) string {
	if isGuardable(s) {
		return "'" + s
	}
	return s
}

// unguard takes the apostrophe off again.
func unguard(s string) string {
	if strings.HasPrefix(s, "'") && isGuardable(s) {
		return s[1:]
	}
	return s
}

func isGuardable(s string) bool {
	rest := strings.TrimLeft(s, "'")
	return rest != "" && strings.IndexByte(formulaMarks, rest[0]) >= 0
}
