package reading

import (
	"strings"

	"example.org/kavlo/internal/local"
	"example.org/kavlo/internal/value"
)

// Retype has a column of a table read as a type that is known: that of the tab
// it goes to, or what a person says it is. What does not fit is odd.
func (s *Sheet) Retype(t *Table, i int, typ value.Type, reason string) {
	c := &t.Columns[i]
	e := t.gather(s.grid, i)
	var parse local.Parser
	switch typ.Kind {
	case value.Number:
		mark, _ := local.DecimalMark(e.texts)
		parse = local.ReadAmount(mark)
	case value.Date, value.DateTime:
		doubts := t.Doubts
		if parse, _ = t.dateParser(c.Name, e); parse == nil {
			parse = local.ReadISO
		}
		if c.ordered {
			parse = local.ReadDate(c.DayOrder == DayFirst)
		}
		if typ.Kind == c.Kind.Kind || c.ordered {
			t.Doubts = doubts // they are there already
		}
	case value.Checkbox:
		parse = local.AnyYesNo
	}
	c.Kind, c.Reason, c.parse = typ, reason, nil
	if parse != nil {
		c.parse = func(text string) (value.Value, bool) {
			if v, ok := parse(text); ok {
				return v, true
			}
			v, err := value.Parse(text, typ)
			return v, err == nil
		}
	}
	t.settle(s.grid, i)
}

// DropLast takes a column out of a table, if it is the last.
func (t *Table) DropLast(i int) {
	if i == len(t.Columns)-1 && i > 0 {
		t.Columns, t.Headers = t.Columns[:i], t.Headers[:i]
		t.Range.Right--
	}
}

// Rename gives a column another name.
func (t *Table) Rename(i int, name string) {
	t.Columns[i].Name, t.Headers[i] = name, name
}

// Raw gives what stands in the file for a record's column.
func (s *Sheet) Raw(t *Table, rec *Record, i int) string {
	return strings.TrimSpace(s.grid.At(rec.Row, t.Range.Left+i).Value.String())
}
