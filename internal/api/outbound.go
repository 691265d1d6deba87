package api

import (
	"context"
	"io"
	"mime"
	"net/http"
	"path"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/wire"
)

// outboundRoutes serves the files that rules wrote.
func (s *server) outboundRoutes() {
	route(s, reader, http.MethodGet, "/trackers/{tracker}/outbound", "list-written", "List the files that rules wrote, newest first",
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
			Path string `query:"path" required:"true"`
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
		})
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
