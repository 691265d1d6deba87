package reading

import (
	"strings"

	"example.org/kavlo/internal/value"
)

// Retype has a column of a table read as a type that is known: that of the tab
// it goes to, or what a person says it is. What does not fit is odd.
func (s *Sheet) Retype(t *Table, i int, typ value.Type, reason string) {
	c := &t.Columns[i]
	e := t.gather(s.grid, i)
	var local parser
	switch typ.Kind {
	case value.Number:
		mark, _ := decimalMark(e.texts)
		local = amountParser(mark)
	case value.Date, value.DateTime:
		doubts := t.Doubts
		if local, _ = t.dateParser(c.Name, e); local == nil {
			local = isoParser
		}
		if typ.Kind == c.Kind.Kind {
			t.Doubts = doubts // they are there already
		}
	case value.Checkbox:
		local = localYesNo
	}
	c.Kind, c.Reason, c.parse = typ, reason, nil
	if local != nil {
		c.parse = func(text string) (value.Value, bool) {
			if v, ok := local(text); ok {
				return v, true
			}
			v, err := value.Parse(text, typ)
			return v, err == nil
		}
	}
	t.settle(s.grid, i)
}

// Rename gives a column another name.
func (t *Table) Rename(i int, name string) {
	t.Columns[i].Name, t.Headers[i] = name, name
}

// Raw gives what stands in the file for a record's column.
func (s *Sheet) Raw(t *Table, rec *Record, i int) string {
	return strings.TrimSpace(s.grid.At(rec.Row, t.Range.Left+i).Value.String())
}
