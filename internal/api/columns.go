package api

import (
	"context"
	"net/http"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/wire"
)

// InColumn is the part of an address that names a column.
type InColumn struct {
	InTab
	Column string `path:"column" doc:"Name or id"`
}

func (s *server) columnRoutes() {
	const all = "/trackers/{tracker}/tabs/{tab}/columns"
	route(s, reader, http.MethodGet, all, "list-columns", "List a tab's columns",
		func(ctx context.Context, in *InTab) (*body[[]wire.Column], error) {
			t, tab, err := s.tab(ctx, *in)
			if err != nil {
				return nil, err
			}
			out, sight := []wire.Column{}, s.workspace.Sight(asker(ctx), t)
			for i := range tab.Columns {
				out = append(out, s.column(t, tab, &tab.Columns[i], sight))
			}
			return ok(out), nil
		})
	route(s, keeper, http.MethodPost, all, "add-column", "Add a column to a tab",
		func(ctx context.Context, in *struct {
			InTab
			Write
			Body wire.NewColumn
		}) (*body[wire.ChangeSet], error) {
			t, tab, err := s.tab(ctx, in.InTab)
			if err != nil {
				return nil, err
			}
			to := edit.NewColumn{Like: in.Body.Like, Values: in.Body.Values, ColumnChange: edit.ColumnChange{After: in.Body.After, Definition: in.Body.Definition, Fill: in.Body.Fill}}
			return s.change(ctx, in.Write, s.workspace.AddColumn(asker(ctx), t.ID, tab.ID, in.Body.Name, to))
		})
	route(s, keeper, http.MethodPatch, all+"/{column}", "change-column", "Change a column, in every tab that shares it; a preview tells which cells would become odd",
		func(ctx context.Context, in *struct {
			InColumn
			Write
			Body wire.ColumnChange
		}) (*body[wire.ChangeSet], error) {
			t, tab, c, err := s.inColumn(ctx, in.InColumn)
			if err != nil {
				return nil, err
			}
			to := edit.ColumnChange{Name: in.Body.Name, After: in.Body.After, Definition: in.Body.Definition, Fill: in.Body.Fill}
			return s.change(ctx, in.Write, s.workspace.ChangeColumn(asker(ctx), t.ID, tab.ID, c.ID, to))
		})
	route(s, keeper, http.MethodDelete, all+"/{column}", "drop-column", "Take a column from a tab; rows keep what they hold for it as carried values",
		func(ctx context.Context, in *struct {
			InColumn
			Write
		}) (*body[wire.ChangeSet], error) {
			t, tab, c, err := s.inColumn(ctx, in.InColumn)
			if err != nil {
				return nil, err
			}
			return s.change(ctx, in.Write, s.workspace.DropColumn(asker(ctx), t.ID, tab.ID, c.ID))
		})
}

func (s *server) inColumn(ctx context.Context, in InColumn) (*sheet.Tracker, *sheet.TabShape, *sheet.Column, error) {
	t, tab, err := s.tab(ctx, in.InTab)
	if err != nil {
		return nil, nil, nil, err
	}
	c, err := tab.Column(in.Column)
	return t, tab, c, err
}
