package api

import (
	"context"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/history"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/wire"
)

// setCells gives several rows the same contents, all or none, whatever is there.
func (s *server) setCells(ctx context.Context, in *struct {
	InTracker
	Write
	Body wire.SameCells
}) (*body[wire.ChangeSet], error) {
	t, rows, err := s.rowsOf(ctx, in.Tracker, in.Body.Rows)
	if err != nil {
		return nil, err
	}
	given := map[sheet.TabID]map[string]any{} // ids stand for other names in another tab
	edits := make([]edit.RowEdit, len(rows))
	for i, id := range rows {
		tab := t.TabOf(t.Row(id))
		cells, known := given[tab.ID]
		if !known {
			e, err := editByID(tab, wire.RowEdit{Cells: in.Body.Cells})
			if err != nil {
				return nil, err
			}
			cells, given[tab.ID] = e.Cells, e.Cells
		}
		edits[i] = edit.RowEdit{Row: id, Cells: cells, KeepOdd: in.Body.KeepOdd}
	}
	return s.change(ctx, in.Write, s.workspace.SetRows(asker(ctx), t.ID, edits))
}

// mostSaidOfCells is how many changes of one change set are told of cells.
const mostSaidOfCells = 5

func (s *server) cellsWhy(ctx context.Context, in *struct {
	InTab
	Rows    []string `query:"rows,explode" required:"true" minItems:"1" maxItems:"200" doc:"Ids of rows of the tab"`
	Columns []string `query:"columns,explode" required:"true" minItems:"1" maxItems:"200" doc:"Names or ids of its columns"`
}) (*body[wire.CellsWhy], error) {
	_, tab, err := s.tab(ctx, in.InTab)
	if err != nil {
		return nil, err
	}
	_, rows, err := s.rowsOf(ctx, in.Tracker, in.Rows)
	if err != nil {
		return nil, err
	}
	columns := make([]sheet.ColumnID, len(in.Columns))
	for i, name := range in.Columns {
		c, err := tab.Column(name)
		if err != nil {
			return nil, err
		}
		columns[i] = c.ID
	}
	touched, untouched, err := s.workspace.Cells(ctx, func(set *sheet.ChangeSet) *sheet.ChangeSet { return s.left(ctx, set) }, rows, columns)
	if err != nil {
		return nil, err
	}
	state := s.seen(ctx)
	out := wire.CellsWhy{Cells: len(rows) * len(columns), Untouched: untouched, Sets: []wire.CellsTouched{}}
	for _, t := range touched {
		w := wire.CellsTouched{Seq: t.Set.Seq, At: t.Set.At, Who: t.Set.Who, By: history.Because(t.Set, t.Cause), Run: t.Set.Run, Changed: t.Changed, Stand: t.Stand, Says: []string{}}
		for _, c := range t.Set.Changes[:min(mostSaidOfCells, len(t.Set.Changes))] {
			w.Says = append(w.Says, state.Describe(c))
		}
		out.Sets = append(out.Sets, w)
	}
	return ok(out), nil
}
