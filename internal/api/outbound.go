package api

import (
	"context"
	"io"
	"mime"
	"net/http"
	"path"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/wire"
)

// outboundRoutes serves the files that rules wrote.
func (s *server) outboundRoutes() {
	route(s, reader, http.MethodGet, "/trackers/{tracker}/outbound", "list-written", "List the files that rules and rounds wrote, newest first",
		func(ctx context.Context, in *InTracker) (*body[[]wire.WrittenFile], error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			out := []wire.WrittenFile{}
			if !s.whole(ctx, t.ID) { // what rules write shows what they see
				return ok(out), nil
			}
			all, err := s.workspace.Snapshots(ctx, t)
			if err != nil {
				return nil, err
			}
			for _, w := range all {
				out = append(out, wire.WrittenFile{Path: w.Path, Rule: w.Name, At: w.At, Rows: w.Rows, Size: w.Size, Keep: w.Keep, Gone: w.Gone})
			}
			return ok(out), nil
		})
	route(s, reader, http.MethodGet, "/trackers/{tracker}/outbound/file", "get-written", "Open a file that a rule wrote",
		func(ctx context.Context, in *struct {
			InTracker
			Path    string `query:"path" required:"true" doc:"Below the outbound folder"`
			Version int    `query:"version" minimum:"1" doc:"What it was before it was written over; unless set, what it is"`
		}) (*exported, error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			if !s.whole(ctx, t.ID) {
				return nil, asked(&sheet.NotFound{What: "file written", Name: in.Path, In: t.Name})
			}
			f, err := s.workspace.Snapshot(ctx, t, in.Path)
			if err != nil {
				return nil, asked(err)
			}
			if in.Version > 0 {
				_ = f.Close()
				text, err := s.workspace.ReadVersion(in.Path, in.Version)
				if err != nil {
					return nil, problemOf(http.StatusNotFound, "no-such-version", "Version not found", err.Error())
				}
				return &exported{Type: "application/octet-stream", Disposition: mime.FormatMediaType("attachment", map[string]string{"filename": path.Base(in.Path)}), Body: func(ctx huma.Context) {
					_, _ = ctx.BodyWriter().Write(text) // whoever asked may have left
				}}, nil
			}
			kind := "application/octet-stream"
			if known := formatTypes[strings.TrimPrefix(path.Ext(in.Path), ".")]; known != "" {
				kind = known
			}
			return &exported{Type: kind, Disposition: mime.FormatMediaType("attachment", map[string]string{"filename": path.Base(in.Path)}), Body: func(ctx huma.Context) {
				defer func() { _ = f.Close() }()
				if _, err := io.Copy(ctx.BodyWriter(), f); err != nil {
					s.Log.DebugContext(ctx.Context(), "a file was not sent whole", "err", err)
				}
			}}, nil
		}, sends("The file", formatTypes["xlsx"], "text/csv"))
	route(s, reader, http.MethodGet, "/trackers/{tracker}/outbound/versions", "list-versions", "List what a file was before it was written over, newest first",
		func(ctx context.Context, in *struct {
			InTracker
			Path string `query:"path" required:"true" doc:"Below the outbound folder"`
		}) (*body[[]wire.FileVersion], error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			out := []wire.FileVersion{}
			if !s.whole(ctx, t.ID) {
				return ok(out), nil
			}
			all, err := s.workspace.FileVersions(ctx, t, in.Path)
			if err != nil {
				return nil, err
			}
			for _, v := range all {
				out = append(out, wire.FileVersion{Version: v.N, At: v.At, Run: v.Run})
			}
			return ok(out), nil
		})
	route(s, keeper, http.MethodPost, "/trackers/{tracker}/outbound/file", "put-file", "Put a workbook there for rules to write into, or to make others of",
		func(ctx context.Context, in *struct {
			InTracker
			Path     string `query:"path" required:"true" maxLength:"400" doc:"Below the outbound folder, or with template below that of templates"`
			Template string `query:"template" enum:"yes,no" doc:"yes: it is a template, of which rules make workbooks"`
			upload
		}) (*body[wire.PutFile], error) {
			defer in.done()
			if in.err != nil {
				return nil, in.err
			}
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			if !s.whole(ctx, t.ID) {
				return nil, engine.ErrForbidden
			}
			where, err := s.workspace.PutFile(ctx, t, in.Path, in.Template == "yes", io.NewSectionReader(in.file, 0, in.size), s.workspace.Now())
			if err != nil {
				return nil, asked(err)
			}
			return ok(wire.PutFile{Path: where}), nil
		}, takesFile, heavy)
	route(s, reader, http.MethodGet, "/trackers/{tracker}/outbound/compare", "compare-written", "Tell what is different between two files that rules wrote",
		func(ctx context.Context, in *struct {
			InTracker
			Before string `query:"before" required:"true" doc:"Path of the earlier file"`
			After  string `query:"after" required:"true" doc:"Path of the later one"`
			Key    string `query:"key" doc:"The column by which rows are found again; the first unless set"`
		}) (*body[wire.Comparison], error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			if !s.whole(ctx, t.ID) {
				return nil, asked(&sheet.NotFound{What: "file written", Name: in.Before, In: t.Name})
			}
			c, err := s.workspace.Compare(ctx, t, in.Before, in.After, in.Key)
			if err != nil {
				return nil, asked(err)
			}
			out := wire.Comparison{Key: c.Key, Added: some(c.Added), Removed: some(c.Removed), Same: c.Same, Changed: []wire.CellChange{}}
			for _, ch := range c.Changed {
				out.Changed = append(out.Changed, wire.CellChange(ch))
			}
			return ok(out), nil
		}, heavy)
}

// some gives an empty list for none.
func some(list []string) []string {
	if list == nil {
		return []string{}
	}
	return list
}
