package api

import (
	"bytes"
	"context"
	"errors"
	"net/http"

	"example.org/kavlo/internal/dossier"
	"example.org/kavlo/internal/output"
	"example.org/kavlo/internal/pages"
)

// pageBookRoute serves pages as a workbook.
func (s *server) pageBookRoute() {
	route(s, reader, http.MethodGet, "/trackers/{tracker}/dossiers/{definition}/workbook", "save-pages", "Write pages as a workbook, a sheet for each behind an index",
		func(ctx context.Context, in *struct {
			InDefinition
			Pages []string `query:"page,explode" doc:"Titles, or ids of rows; all pages unless set"`
		}) (*exported, error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			c, err := s.workspace.Pages.Pattern(t, in.Definition)
			if err != nil {
				return nil, asked(err)
			}
			var which []pages.Listed
			if in.Pages == nil {
				if which, err = s.workspace.Pages.List(ctx, s.seen(ctx), t, c); err != nil {
					return nil, err
				}
			}
			for _, name := range in.Pages {
				at, err := s.workspace.Pages.Find(ctx, s.seen(ctx), t, c, name)
				if errors.Is(err, dossier.ErrNoPage) {
					return nil, problemOf(http.StatusNotFound, "no-page", "Page not found", err.Error())
				}
				if err != nil {
					return nil, asked(err)
				}
				which = append(which, *at)
			}
			if len(which) == 0 {
				return nil, problemOf(http.StatusNotFound, "no-page", "No pages", c.Name+" has no pages yet: open them first")
			}
			book, err := s.workspace.Pages.Book(ctx, t, c, which)
			if err != nil {
				return nil, asked(err)
			}
			var out bytes.Buffer
			if err := s.workspace.WritePages(&out, t, c, book); err != nil {
				return nil, asked(err)
			}
			return sent(formatTypes["xlsx"], output.FileName(c.Name)+".xlsx", out.Bytes()), nil
		}, sends("The workbook", formatTypes["xlsx"]), heavy)
}
