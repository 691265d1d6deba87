package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"example.org/kavlo/internal/wire"
)

func (s *server) backupRoutes() {
	route(s, keeper, http.MethodGet, "/backup", "backup", "Give a consistent copy of the workspace's file, an SQLite database",
		func(context.Context, *struct{}) (*huma.StreamResponse, error) {
			return &huma.StreamResponse{Body: func(ctx huma.Context) {
				ctx.SetHeader("Content-Type", "application/vnd.sqlite3")
				ctx.SetHeader("Content-Disposition", `attachment; filename="kavlo.db"`)
				if err := s.workspace.Backup(ctx.Context(), ctx.BodyWriter()); err != nil {
					s.Log.ErrorContext(ctx.Context(), "a backup was cut short", "err", err)
					panic(http.ErrAbortHandler) // what has gone out must not pass for whole
				}
			}}, nil
		}, sends("The copy", "application/vnd.sqlite3"))
	route(s, keeper, http.MethodGet, "/check", "check", "Tell whether the workspace is sound",
		func(ctx context.Context, in *struct {
			Thorough string `query:"thorough" enum:"yes,no" doc:"yes: play all of the journal and hold the rows against it"`
		}) (*body[wire.Soundness], error) {
			found, rows, err := s.workspace.Check(ctx, in.Thorough == "yes")
			if err != nil {
				return nil, err
			}
			if found == nil {
				found = []string{}
			}
			return ok(wire.Soundness{Sound: len(found) == 0, Found: found, Trackers: len(s.workspace.State().Trackers()), Rows: rows}), nil
		}, heavy)
}
