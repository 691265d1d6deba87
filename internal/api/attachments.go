package api

import (
	"context"
	"errors"
	"io"
	"net/http"
	"strconv"

	"github.com/danielgtaylor/huma/v2"

	"example.org/kavlo/internal/attach"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/form"
	"example.org/kavlo/internal/forms"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/wire"
)

// linkHeader carries the secret of a form's private link beside a file.
const linkHeader = "Kavlo-Link"

// NamedFile is a file that is to be kept for a cell, with the name that it has.
type NamedFile struct {
	Name string `query:"name" required:"true" maxLength:"400" doc:"What the file is called"`
	upload
}

// attachmentRoutes takes files for cells in, from editors and by forms, and gives them out.
func (s *server) attachmentRoutes() {
	route(s, editor, http.MethodPost, "/trackers/{tracker}/tabs/{tab}/columns/{column}/attachments", "attach-file", "Keep a file for a cell of a column; its answer is the value to set",
		func(ctx context.Context, in *struct {
			InTab
			Column string `path:"column" doc:"Name or id"`
			NamedFile
		}) (*body[wire.Attached], error) {
			t, tab, err := s.tab(ctx, in.InTab)
			if err != nil {
				return nil, in.refused(err)
			}
			col, err := tab.Column(in.Column)
			if err != nil {
				return nil, in.refused(asked(err))
			}
			if sight := s.workspace.Sight(asker(ctx), t); !sight.ChangesTab(tab.ID) || !sight.ChangesColumn(col.ID) {
				return nil, in.refused(engine.ErrForbidden)
			}
			return s.attached(ctx, attach.Of{Tracker: t.ID, Column: col, By: asker(ctx).Name}, in.NamedFile)
		}, takesFile, s.upTo, heavy)
	route(s, reader, http.MethodGet, "/attachments/{attachment}", "get-attachment", "Give a file that a cell holds",
		func(ctx context.Context, in *struct {
			Attachment string `path:"attachment" maxLength:"100" doc:"Its id"`
		}) (*exported, error) {
			a, text, err := s.workspace.Attachments.Open(ctx, s.seen(ctx), in.Attachment)
			if errors.Is(err, attach.ErrGone) {
				return nil, problemOf(http.StatusNotFound, "no-file", "File not found", err.Error())
			}
			if err != nil {
				return nil, err
			}
			return sent(a.Type, a.Name, text), nil
		}, sends("The file", "application/octet-stream", "image/png", "image/jpeg", "image/gif", "image/webp", "application/pdf"), heavy)
	const one = "/trackers/{tracker}/forms/{definition}"
	route(s, reader, http.MethodPost, one+"/attachments", "attach-to-form", "Keep a file for a field of a form, until its entry comes",
		func(ctx context.Context, in *struct {
			InDefinition
			Field string `query:"field" required:"true" maxLength:"400" doc:"Name or id of the column"`
			NamedFile
		}) (*body[wire.Attached], error) {
			t, c, err := s.form(ctx, in.InDefinition)
			if err != nil {
				return nil, in.refused(err)
			}
			return s.attachedToForm(ctx, t, c, in.Field, asker(ctx).Name, in.NamedFile)
		}, takesFile, s.upTo, heavy, answers(http.StatusTooManyRequests))
	route(s, anybody, http.MethodPost, "/forms/attachments", "attach-to-form-by-link", "Keep a file for a field of a private link's form, until its entry comes",
		func(ctx context.Context, in *struct {
			Secret string `header:"Kavlo-Link" required:"true" maxLength:"200" doc:"The link's secret"`
			Field  string `query:"field" required:"true" maxLength:"400" doc:"Name or id of the column"`
			NamedFile
		}) (*body[wire.Attached], error) {
			t, c, err := s.byLink(ctx, in.Secret)
			if err != nil {
				return nil, in.refused(err)
			}
			return s.attachedToForm(ctx, t, c, in.Field, forms.ByLink, in.NamedFile)
		}, takesFile, s.upTo, s.hasLink, heavy, answers(http.StatusNotFound), answers(http.StatusTooManyRequests))
}

// upTo refuses files that are too large before they are taken in.
func (s *server) upTo(op *huma.Operation) {
	op.Middlewares = append(op.Middlewares, func(ctx huma.Context, next func(huma.Context)) {
		if n, err := strconv.ParseInt(ctx.Header("Content-Length"), 10, 64); err != nil || n > attach.MaxSize {
			p := problemOf(http.StatusRequestEntityTooLarge, "body", "The file is too large", attach.ErrTooLarge.Error())
			if err != nil {
				p = problemOf(http.StatusLengthRequired, "body", "How large is the file?", "say so with Content-Length")
			}
			s.refuse(ctx, p)
			return
		}
		next(ctx)
	})
	op.Errors = append(op.Errors, http.StatusLengthRequired)
}

// hasLink takes in a file by a private link only where that is open.
func (s *server) hasLink(op *huma.Operation) {
	op.Middlewares = append(op.Middlewares, func(ctx huma.Context, next func(huma.Context)) {
		if _, _, err := s.byLink(ctx.Context(), ctx.Header(linkHeader)); err != nil {
			s.refuse(ctx, err)
			return
		}
		next(ctx)
	})
}

// refused takes a file away that is not kept.
func (g NamedFile) refused(err error) error {
	g.done()
	return err
}

func (s *server) attachedToForm(ctx context.Context, t *sheet.Tracker, c *form.Compiled, field, by string, file NamedFile) (*body[wire.Attached], error) {
	col, err := c.Field(t, field)
	if err != nil {
		return nil, file.refused(asked(err))
	}
	if err := s.workspace.Forms.MayAttach(t.ID, c); err != nil {
		return nil, file.refused(problemOf(http.StatusTooManyRequests, "too-many", "Too many files", err.Error()))
	}
	return s.attached(ctx, attach.Of{Tracker: t.ID, Column: col, By: by}, file)
}

func (s *server) attached(ctx context.Context, of attach.Of, file NamedFile) (*body[wire.Attached], error) {
	defer file.done()
	if file.err != nil {
		return nil, file.err
	}
	v, err := s.workspace.Attachments.Add(ctx, of, file.Name, io.NewSectionReader(file.file, 0, file.size), file.size)
	switch {
	case errors.Is(err, attach.ErrTooLarge):
		return nil, problemOf(http.StatusRequestEntityTooLarge, "body", "The file is too large", err.Error())
	case errors.Is(err, attach.ErrTooMany):
		return nil, problemOf(http.StatusTooManyRequests, "too-many", "Too many files", err.Error())
	case errors.Is(err, attach.ErrEmpty), errors.Is(err, attach.ErrNoFiles):
		p := problemOf(http.StatusUnprocessableEntity, "bad-file", "The file was not kept", err.Error())
		p.Field = of.Column.Name
		return nil, p
	case err != nil:
		return nil, err
	}
	_, name := v.Address()
	return ok(wire.Attached{Value: v.String(), Name: name, Size: file.size}), nil
}
