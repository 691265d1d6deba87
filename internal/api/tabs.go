package api

import (
	"context"
	"errors"
	"net/http"
	"strings"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/wire"
)

func (s *server) tabRoutes() {
	const all = "/trackers/{tracker}/tabs"
	route(s, keeper, http.MethodPost, all, "add-tab", "Add a tab to a tracker",
		func(ctx context.Context, in *struct {
			InTracker
			Write
			Body wire.NewTab
		}) (*body[wire.ChangeSet], error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			return s.change(ctx, in.Write, s.workspace.AddTab(asker(ctx), t.ID, edit.NewTab{Name: in.Body.Name, Like: in.Body.Like, After: in.Body.After}))
		})
	route(s, keeper, http.MethodPatch, all+"/{tab}", "change-tab", "Give a tab another name, which rules follow, or another place",
		func(ctx context.Context, in *struct {
			InTab
			Write
			Body wire.TabChange
		}) (*body[wire.ChangeSet], error) {
			t, tab, err := s.tab(ctx, in.InTab)
			if err != nil {
				return nil, err
			}
			return s.change(ctx, in.Write, s.workspace.ChangeTab(asker(ctx), t.ID, tab.ID, in.Body.Name, in.Body.After, in.Body.First))
		})
	route(s, keeper, http.MethodDelete, all+"/{tab}", "drop-tab", "Delete a tab with its rows; undo brings both back",
		func(ctx context.Context, in *struct {
			InTab
			Write
		}) (*body[wire.ChangeSet], error) {
			t, tab, err := s.tab(ctx, in.InTab)
			if err != nil {
				return nil, err
			}
			return s.change(ctx, in.Write, s.workspace.DropTab(asker(ctx), t.ID, tab.ID))
		})
	route(s, editor, http.MethodDelete, all+"/{tab}/rows", "remove-rows", "Remove the rows for which a clause holds; undo brings them back",
		func(ctx context.Context, in *struct {
			InTab
			Write
			Where string `query:"where" required:"true" doc:"A clause"`
		}) (*body[wire.ChangeSet], error) {
			t, tab, err := s.tab(ctx, in.InTab)
			if err != nil {
				return nil, err
			}
			if strings.TrimSpace(in.Where) == "" {
				return nil, asked(errors.New("say which rows: where=CLAUSE"))
			}
			return s.change(ctx, in.Write, s.workspace.RemoveWhere(asker(ctx), t.ID, tab.ID, in.Where))
		})
}
