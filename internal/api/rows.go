package api

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/wire"
)

// InTab is the part of an address that names a tab.
type InTab struct {
	InTracker
	Tab string `path:"tab" doc:"Name or id"`
}

// InRow is the part of an address that names a row.
type InRow struct {
	InTab
	Row string `path:"row" doc:"Id, or the value of the tab's label column"`
}

func (s *server) tab(ctx context.Context, in InTab) (*sheet.Tracker, *sheet.TabShape, error) {
	return s.seen(ctx).FindTab(in.Tracker, in.Tab)
}

func (s *server) row(ctx context.Context, in InRow) (*sheet.Tracker, *sheet.Row, error) {
	t, tab, err := s.tab(ctx, in.InTab)
	if err != nil {
		return nil, nil, err
	}
	r, err := t.FindRow(tab, in.Row)
	return t, r, err
}

type rowAnswer struct {
	ETag string `header:"ETag"`
	Body wire.Row
}

func etag(version int64) string { return strconv.Quote(strconv.FormatInt(version, 10)) }

// ifMatch reads the version that a request wants a row to have; 0 for any.
func ifMatch(header string) (int64, error) {
	h := strings.TrimSpace(header)
	if h == "" || h == "*" {
		return 0, nil
	}
	n, err := strconv.ParseInt(strings.Trim(strings.TrimPrefix(h, "W/"), `"`), 10, 64)
	if err != nil || n < 1 {
		return 0, problemOf(http.StatusBadRequest, "request", "Bad If-Match", fmt.Sprintf("If-Match %s is not the ETag of a row", header))
	}
	return n, nil
}

func (s *server) rowRoutes() {
	const tab, row = "/trackers/{tracker}/tabs/{tab}/rows", "/trackers/{tracker}/tabs/{tab}/rows/{row}"
	route(s, reader, http.MethodGet, tab, "list-rows", "List a tab's rows", s.listRows)
	s.orderRoute()
	route(s, reader, http.MethodGet, row, "get-row", "Show a row",
		func(ctx context.Context, in *InRow) (*rowAnswer, error) {
			t, r, err := s.row(ctx, *in)
			if err != nil {
				return nil, err
			}
			return &rowAnswer{etag(r.Version), s.viewFor(ctx, s.seen(ctx)).row(t, r)}, nil
		})
	route(s, editor, http.MethodPost, tab, "add-rows", "Add rows to a tab, at its end unless a place is named, all or none",
		func(ctx context.Context, in *struct {
			InTab
			Write
			Body wire.NewRows
		}) (*body[wire.ChangeSet], error) {
			t, tab, err := s.tab(ctx, in.InTab)
			if err != nil {
				return nil, err
			}
			rows := make([]map[string]any, len(in.Body.Rows))
			for i, cells := range in.Body.Rows {
				if rows[i], err = cellsByID(tab, cells); err != nil {
					return nil, err
				}
			}
			at, err := spot(t, tab, in.Body.RowSpot)
			if err != nil {
				return nil, err
			}
			return s.change(ctx, in.Write, s.workspace.AddRowsAt(asker(ctx), t.ID, tab.ID, rows, at))
		}, large(16<<20))
	route(s, editor, http.MethodPost, tab+"/place", "place-rows", "Put rows in another place in their tab; no rule is started by it",
		func(ctx context.Context, in *struct {
			InTab
			Write
			Body wire.PlaceRows
		}) (*body[wire.ChangeSet], error) {
			t, tab, err := s.tab(ctx, in.InTab)
			if err != nil {
				return nil, err
			}
			at, err := spot(t, tab, in.Body.RowSpot)
			if err != nil {
				return nil, err
			}
			if at == nil {
				return nil, asked(errors.New("say where the rows go: before or after which row"))
			}
			_, rows, err := s.rowsOf(ctx, in.Tracker, in.Body.Rows)
			if err != nil {
				return nil, err
			}
			return s.change(ctx, in.Write, s.workspace.PlaceRows(asker(ctx), t.ID, tab.ID, rows, *at))
		}, answers(http.StatusConflict))
	route(s, editor, http.MethodPatch, row, "set-row", "Edit a row's cells, notes and looks", s.setRow, answers(http.StatusPreconditionFailed), answers(http.StatusConflict))
	route(s, editor, http.MethodPatch, "/trackers/{tracker}/rows", "set-rows", "Edit several rows, all or none", s.setRows,
		answers(http.StatusPreconditionFailed), answers(http.StatusConflict), large(16<<20))
	route(s, editor, http.MethodPost, row+"/move", "move-row", "Move a row to another tab",
		func(ctx context.Context, in *struct {
			InRow
			Write
			Body wire.MoveRow
		}) (*body[wire.ChangeSet], error) {
			t, r, err := s.row(ctx, in.InRow)
			if err != nil {
				return nil, err
			}
			to, err := t.Tab(in.Body.To)
			if err != nil {
				return nil, err
			}
			return s.change(ctx, in.Write, s.workspace.MoveRows(asker(ctx), t.ID, to.ID, []sheet.RowID{r.ID}))
		})
	route(s, editor, http.MethodDelete, row, "remove-row", "Remove a row; undo brings it back",
		func(ctx context.Context, in *struct {
			InRow
			Write
		}) (*body[wire.ChangeSet], error) {
			t, r, err := s.row(ctx, in.InRow)
			if err != nil {
				return nil, err
			}
			return s.change(ctx, in.Write, s.workspace.RemoveRows(asker(ctx), t.ID, []sheet.RowID{r.ID}))
		})
	route(s, editor, http.MethodPost, "/trackers/{tracker}/rows/move", "move-rows", "Move several rows to a tab, all or none",
		func(ctx context.Context, in *struct {
			InTracker
			Write
			Body wire.MoveRows
		}) (*body[wire.ChangeSet], error) {
			t, rows, err := s.rowsOf(ctx, in.Tracker, in.Body.Rows)
			if err != nil {
				return nil, err
			}
			to, err := t.Tab(in.Body.To)
			if err != nil {
				return nil, err
			}
			return s.change(ctx, in.Write, s.workspace.MoveRows(asker(ctx), t.ID, to.ID, rows))
		}, answers(http.StatusConflict))
	route(s, editor, http.MethodPost, "/trackers/{tracker}/rows/cells", "set-cells", "Give several rows the same cells, all or none", s.setCells, answers(http.StatusConflict), large(16<<20))
	route(s, editor, http.MethodPost, "/trackers/{tracker}/rows/remove", "remove-rows-named", "Remove several rows, all or none; undo brings them back",
		func(ctx context.Context, in *struct {
			InTracker
			Write
			Body wire.RemoveRows
		}) (*body[wire.ChangeSet], error) {
			t, rows, err := s.rowsOf(ctx, in.Tracker, in.Body.Rows)
			if err != nil {
				return nil, err
			}
			return s.change(ctx, in.Write, s.workspace.RemoveRows(asker(ctx), t.ID, rows))
		}, answers(http.StatusConflict))
	route(s, reader, http.MethodGet, row+"/why", "why", "Tell what put a row, or a cell, where and how it is", s.why)
	route(s, reader, http.MethodGet, "/trackers/{tracker}/tabs/{tab}/cells/why", "cells-why", "Tell what changed several cells, and what put into them what they hold", s.cellsWhy)
	route(s, reader, http.MethodGet, row+"/history", "row-history", "List the change sets that touched a row, newest first", s.history)
}

// spot reads where in a tab rows go; nil: at its end.
func spot(t *sheet.Tracker, tab *sheet.TabShape, at wire.RowSpot) (*sheet.Spot, error) {
	if at.Before != "" && at.After != "" {
		return nil, asked(errors.New("name either before or after, not both"))
	}
	if at.Before+at.After == "" {
		return nil, nil //nolint:nilnil // at the end
	}
	row, err := t.FindRow(tab, at.Before+at.After)
	if err != nil {
		return nil, err
	}
	return &sheet.Spot{Row: row.ID, After: at.After != ""}, nil
}

func (s *server) setRow(ctx context.Context, in *struct {
	InRow
	Write
	Match string `header:"If-Match" doc:"The ETag of the row as it was seen; without it the edit overwrites"`
	Body  wire.RowEdit
}) (*body[wire.ChangeSet], error) {
	version, err := ifMatch(in.Match)
	if err != nil {
		return nil, err
	}
	if version == 0 {
		version = in.Body.Version
	}
	t, r, err := s.row(ctx, in.InRow)
	if err != nil {
		return nil, err
	}
	given, err := editByID(t.TabOf(r), in.Body)
	if err != nil {
		return nil, err
	}
	change := edit.RowEdit{Row: r.ID, Version: version, Cells: given.Cells, Notes: given.Notes, Styles: given.Styles, KeepOdd: given.KeepOdd}
	return s.change(ctx, in.Write, s.workspace.SetRows(asker(ctx), t.ID, []edit.RowEdit{change}))
}

func (s *server) setRows(ctx context.Context, in *struct {
	InTracker
	Write
	Body wire.RowEdits
}) (*body[wire.ChangeSet], error) {
	t, err := s.find(ctx, in.Tracker)
	if err != nil {
		return nil, err
	}
	edits := make([]edit.RowEdit, len(in.Body.Edits))
	for i, e := range in.Body.Edits {
		id, ok := sheet.ParseRowID(e.Row)
		if !ok {
			return nil, asked(fmt.Errorf("edit %d: %q is not the id of a row", i+1, e.Row))
		}
		row := t.Row(id)
		if row == nil {
			return nil, &sheet.NotFound{What: "row", Name: e.Row, In: t.Name}
		}
		if e, err = editByID(t.TabOf(row), e); err != nil {
			return nil, err
		}
		edits[i] = edit.RowEdit{Row: id, Version: e.Version, Cells: e.Cells, Notes: e.Notes, Styles: e.Styles, KeepOdd: e.KeepOdd}
	}
	return s.change(ctx, in.Write, s.workspace.SetRows(asker(ctx), t.ID, edits))
}

func (s *server) why(ctx context.Context, in *struct {
	InRow
	Column string `query:"column" doc:"Name or id; without it, the row as a whole"`
}) (*body[wire.Why], error) {
	t, r, err := s.row(ctx, in.InRow)
	if err != nil {
		return nil, err
	}
	out := wire.Why{Row: r.ID.String(), Label: t.Label(r), Tab: t.TabOf(r).Name, Chain: []wire.WhyLink{}}
	var column sheet.ColumnID
	if in.Column != "" {
		c, err := t.TabOf(r).Column(in.Column)
		if err != nil {
			return nil, err
		}
		column, out.Column = c.ID, c.Name
	}
	chain, err := s.workspace.Why(ctx, s.seen(ctx), func(set *sheet.ChangeSet) *sheet.ChangeSet { return s.left(ctx, set) }, r.ID, column)
	if err != nil {
		return nil, err
	}
	for _, l := range chain {
		out.Chain = append(out.Chain, wire.WhyLink{Says: l.Says, Who: l.Who, At: l.At, Seq: l.Seq, Run: l.Run, Rule: l.Rule})
	}
	return ok(out), nil
}

func (s *server) history(ctx context.Context, in *InRow) (*body[[]wire.JournalEntry], error) {
	_, r, err := s.row(ctx, *in)
	if err != nil {
		return nil, err
	}
	sets, err := s.workspace.Store().RowHistory(ctx, r.ID, 200)
	if err != nil {
		return nil, err
	}
	out := []wire.JournalEntry{}
	state := s.seen(ctx)
	for _, set := range sets {
		if set = s.left(ctx, set); len(set.Changes) == 0 {
			continue
		}
		says := strings.Join(state.DescribeAll(set.Changes), "; ")
		out = append(out, wire.JournalEntry{Seq: set.Seq, At: set.At, Who: set.Who, Says: says, Run: set.Run, Undoes: set.Undoes, Counts: counts(set)})
	}
	return ok(out), nil
}

// rowsOf finds rows of a tracker by their ids.
func (s *server) rowsOf(ctx context.Context, tracker string, ids []string) (*sheet.Tracker, []sheet.RowID, error) {
	t, err := s.find(ctx, tracker)
	if err != nil {
		return nil, nil, err
	}
	rows, seen := make([]sheet.RowID, 0, len(ids)), map[sheet.RowID]bool{}
	for _, text := range ids {
		id, is := sheet.ParseRowID(text)
		if !is || t.Row(id) == nil {
			return nil, nil, &sheet.NotFound{What: "row", Name: text, In: t.Name}
		}
		if !seen[id] {
			rows, seen[id] = append(rows, id), true
		}
	}
	return t, rows, nil
}
