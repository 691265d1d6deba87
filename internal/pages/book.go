package pages

import (
	"context"
	"fmt"
	"slices"

	"example.org/kavlo/internal/dossier"
	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Book lays some pages of a pattern out as whoever sees t may see them, for a workbook with
// a sheet for each; in full, with every entry of their logs.
func (p *Pages) Book(ctx context.Context, t *sheet.Tracker, c *dossier.Compiled, which []Listed) ([]outbound.Page, error) {
	out := make([]outbound.Page, 0, len(which))
	for i := range which {
		page, err := p.Lay(ctx, t, c, &which[i])
		if err != nil {
			return nil, fmt.Errorf("laying out the page of %s: %w", which[i].Title, err)
		}
		out = append(out, inBook(t, c, page, which[i].Where))
	}
	return out, nil
}

func inBook(t *sheet.Tracker, c *dossier.Compiled, page *dossier.Page, where dossier.Here) outbound.Page {
	out := outbound.Page{Title: page.Title, Where: "archived", About: "Archived: the row was deleted"}
	if where.Now != nil {
		if out.Where = where.Tracker.TabOf(where.Now).Name; where.Tracker.ID != t.ID {
			out.Where += " of " + where.Tracker.Name
		}
		out.About = "Row in " + out.Where
	}
	var row []sheet.ColumnID // the columns that fields show of the row itself; 0: another's
	add := func(name string, cells []dossier.Cell) {
		part := outbound.Part{Name: name}
		for i := range cells {
			cell := &cells[i]
			part.Fields = append(part.Fields, outbound.Field{Name: cell.Column.Name, Type: cell.Column.Type, Value: cell.Value, Note: cell.Note, Style: cell.Style})
			if row = append(row, 0); cell.InStep {
				row[len(row)-1] = cell.Column.ID
			}
		}
		if len(cells) > 0 {
			out.Parts = append(out.Parts, part)
		}
	}
	add("Facts", page.Facts)
	add("", page.Own)
	if len(page.Figures) > 0 {
		part := outbound.Part{Name: "Figures"}
		for i := range page.Figures {
			f := &page.Figures[i]
			field := outbound.Field{Name: f.Name, Type: f.Type, Value: f.Value, Formula: sumOf(f, row)}
			if f.Why != "" {
				field.Type, field.Value = value.Type{}, value.OfText("("+f.Why+")")
			}
			part.Fields = append(part.Fields, field)
		}
		out.Parts = append(out.Parts, part)
	}
	for i := range page.Tables {
		out.Lists = append(out.Lists, tableInBook(&page.Tables[i]))
	}
	if c.Log != nil {
		tab := t.TabByID(c.Log.Tab)
		list := outbound.List{Name: "Log", Says: counted(page.Entries, "entry", "entries")}
		for i := range tab.Columns {
			list.Columns = append(list.Columns, outbound.Column{Name: tab.Columns[i].Name, Type: tab.Columns[i].Type})
		}
		for _, e := range c.Entries(t, page.Row) {
			cells := make([]value.Value, len(tab.Columns))
			for i := range cells {
				cells[i] = e.At(i)
			}
			list.Rows = append(list.Rows, cells)
		}
		out.Lists = append(out.Lists, list)
	}
	return out
}

// sumOf gives what computes a figure from the fields above it, where those are all of the
// row that it takes; else nil.
func sumOf(f *dossier.Worked, row []sheet.ColumnID) *outbound.Formula {
	if f.Sum == nil || f.Type.Kind != value.Number && f.Type.Kind != value.Date {
		return nil
	}
	out := &outbound.Formula{Parts: f.Sum.Parts, Divides: f.Sum.Divides()}
	for _, id := range f.Sum.Columns {
		at := slices.Index(row, sheet.ColumnID(id))
		if at < 0 {
			return nil
		}
		out.Columns = append(out.Columns, at)
	}
	return out
}

func tableInBook(x *dossier.Extract) outbound.List {
	list := outbound.List{Name: x.Name, Says: counted(x.Total, "row", "rows"), Rows: x.Cells}
	if len(x.Rows) < x.Total {
		list.Says += fmt.Sprintf(", the first %d of them", len(x.Rows))
	}
	if x.Odd > 0 {
		list.Says += fmt.Sprintf(", %d skipped because of odd cells", x.Odd)
	}
	if x.Why != "" {
		list.Says = x.Why
	}
	for _, c := range x.Columns {
		list.Columns = append(list.Columns, outbound.Column{Name: c.Name, Type: c.Type})
	}
	return list
}

func counted(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}
