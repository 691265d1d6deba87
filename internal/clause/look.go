package clause

import "example.org/kavlo/internal/value"

// CheckLook checks a condition on the rows of one of the scope's tables, as it stands
// after "in TAB where": names are the table's columns, and this. is the row at hand.
func CheckLook(text string, s *Scope, table int64) (*Expr, error) {
	e, err := Parse(text)
	if err != nil {
		return nil, s.mend(err)
	}
	c := &checker{scope: s, text: text}
	for i := range s.Tables {
		if s.Tables[i].ID == table {
			c.table = &s.Tables[i]
		}
	}
	if c.table == nil {
		return nil, c.fail(CodeNoName, e.root, "the tab that it looks into is not there any more")
	}
	if err := c.wantLogic(e.root); err != nil {
		return nil, s.mend(err)
	}
	e.typ = Logic
	e.settle()
	return e, nil
}

// Look lays a row of a table before the environment, beside the row at hand, for a
// condition that CheckLook has checked.
func (e *Env) Look(table int64, tab string, cells []value.Value) {
	e.table, e.tableTab, e.tableID, e.OddColumn, e.Fault = cells, tab, table, 0, ""
}

// Measures gives the type of the column whose values the clause adds up, picks or averages
// in a tab; false for any other clause.
func (e *Expr) Measures() (value.Type, bool) {
	n, is := e.root.(*tableNode)
	if !is || n.column == nil || n.op == "count" || n.op == "each" {
		return value.Type{}, false
	}
	return n.column.column.Type, true
}
