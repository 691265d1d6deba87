package api

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"time"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/form"
	"example.org/kavlo/internal/forms"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/wire"
)

// form finds a form for whoever sees its tab, and for those whom it names.
func (s *server) form(ctx context.Context, in InDefinition) (*sheet.Tracker, *form.Compiled, error) {
	t, err := s.find(ctx, in.Tracker)
	if err != nil {
		return nil, nil, err
	}
	c, err := s.workspace.Forms.Find(t, in.Definition)
	if err != nil {
		if whole, named, found := s.workspace.Forms.For(asker(ctx), t.ID, in.Definition); found {
			return whole, named, nil
		}
	}
	return t, c, asked(err)
}

// formView lays a form out: its fields, and nothing else of its tab.
func (s *server) formView(t *sheet.Tracker, c *form.Compiled) wire.EntryForm {
	out := wire.EntryForm{ID: c.ID.String(), Name: c.Name, Says: c.Says, Fields: []wire.FormField{}}
	tab, sight := t.TabByID(c.Tab), &policy.Sight{Role: policy.Keeper}
	for _, f := range c.Fields {
		col := tab.ByID(f.Column)
		out.Fields = append(out.Fields, wire.FormField{Column: s.column(t, tab, col, sight), Help: f.Help, Required: f.Required || col.Required})
	}
	return out
}

func (s *server) fill(ctx context.Context, by policy.Principal, t *sheet.Tracker, c *form.Compiled, cells map[string]any, key engine.Key) (*body[wire.Received], error) {
	req, err := s.workspace.Forms.Fill(by, t.ID, c, cells, key)
	if errors.Is(err, forms.ErrTooMany) {
		return nil, problemOf(http.StatusTooManyRequests, "too-many", "Too many entries", err.Error())
	}
	if err == nil {
		_, err = s.workspace.Commit(ctx, req)
	}
	if err != nil {
		var invalid *form.Invalid
		if !errors.As(err, &invalid) {
			return nil, asked(err)
		}
		p := problemOf(http.StatusUnprocessableEntity, "bad-entry", "The entry does not fit", invalid.Error())
		var refusal *sheet.Refusal
		if errors.As(invalid, &refusal) {
			p.Field, p.Hint = refusal.Column, refusal.Hint
		}
		return nil, p
	}
	says := c.Thanks
	if says == "" {
		says = "Received. Thank you."
	}
	return ok(wire.Received{Says: says}), nil
}

// byLink finds the form of a private link.
func (s *server) byLink(ctx context.Context, secret string) (*sheet.Tracker, *form.Compiled, error) {
	t, c, err := s.workspace.Forms.ByLink(ctx, secret)
	if errors.Is(err, forms.ErrClosed) {
		return nil, nil, problemOf(http.StatusNotFound, "link-closed", "Link closed", err.Error())
	}
	return t, c, err
}

// formRoutes serves entry forms, for people and by private links.
func (s *server) formRoutes() {
	route(s, reader, http.MethodGet, "/trackers/{tracker}/entry-forms", "list-entry-forms", "List the forms that one may fill in",
		func(ctx context.Context, in *InTracker) (*body[[]wire.FormName], error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			out := []wire.FormName{}
			for c := range s.workspace.Forms.All(asker(ctx), t) {
				out = append(out, wire.FormName{ID: c.ID.String(), Name: c.Name, Says: c.Says})
			}
			return ok(out), nil
		})
	const one = "/trackers/{tracker}/forms/{definition}"
	route(s, reader, http.MethodGet, one+"/fields", "show-form", "Show a form as it is filled in",
		func(ctx context.Context, in *InDefinition) (*body[wire.EntryForm], error) {
			t, c, err := s.form(ctx, *in)
			if err != nil {
				return nil, err
			}
			return ok(s.formView(t, c)), nil
		})
	route(s, reader, http.MethodPost, one+"/entries", "fill-form", "Fill a form in: a row is added, whole or not at all",
		func(ctx context.Context, in *struct {
			InDefinition
			Key  string `header:"Idempotency-Key" maxLength:"200" doc:"The same key again changes nothing"`
			Body wire.NewEntry
		}) (*body[wire.Received], error) {
			t, c, err := s.form(ctx, in.InDefinition)
			if err != nil {
				return nil, err
			}
			key := engine.Key{}
			if in.Key != "" {
				key.ID = fmt.Sprintf("form %s person %d %s", c.ID, who(ctx).ID, in.Key)
			}
			return s.fill(ctx, forms.By(asker(ctx).Name, t.ID, c), t, c, in.Body.Cells, key)
		}, answers(http.StatusTooManyRequests))
	route(s, keeper, http.MethodPost, one+"/links", "issue-form-link", "Make a private link by which a form can be filled in without signing in",
		func(ctx context.Context, in *struct {
			InDefinition
			Body wire.NewLink
		}) (*body[wire.Secret], error) {
			t, c, err := s.form(ctx, in.InDefinition)
			if err != nil {
				return nil, err
			}
			secret, err := s.workspace.Forms.IssueLink(ctx, s.workspace.Gate, who(ctx).ID, t, c, time.Duration(in.Body.Days)*24*time.Hour)
			if err != nil {
				return nil, err
			}
			return ok(wire.Secret{Secret: secret, Link: s.workspace.Console + "/form#" + secret}), nil
		})
	route(s, keeper, http.MethodGet, one+"/links", "list-form-links", "List the open private links of a form",
		func(ctx context.Context, in *InDefinition) (*body[[]wire.FormLink], error) {
			t, c, err := s.form(ctx, *in)
			if err != nil {
				return nil, err
			}
			all, err := s.workspace.Forms.Links(ctx, t, c)
			if err != nil {
				return nil, err
			}
			out := []wire.FormLink{}
			for _, l := range all {
				w := wire.FormLink{ID: l.ID, Made: l.Made}
				if !l.Expires.IsZero() {
					w.Expires = &l.Expires
				}
				out = append(out, w)
			}
			return ok(out), nil
		})
	route(s, keeper, http.MethodDelete, one+"/links", "close-form-links", "Close the private links of a form",
		func(ctx context.Context, in *InDefinition) (*body[wire.ClosedLinks], error) {
			t, c, err := s.form(ctx, *in)
			if err != nil {
				return nil, err
			}
			n, err := s.workspace.Forms.CloseLinks(ctx, s.workspace.Gate, t, c)
			return ok(wire.ClosedLinks{Closed: n}), err
		})
	route(s, anybody, http.MethodPost, "/forms/shown", "show-form-by-link", "Show the form of a private link",
		func(ctx context.Context, in *struct{ Body wire.ByLink }) (*body[wire.EntryForm], error) {
			t, c, err := s.byLink(ctx, in.Body.Secret)
			if err != nil {
				return nil, err
			}
			return ok(s.formView(t, c)), nil
		}, answers(http.StatusNotFound))
	route(s, anybody, http.MethodPost, "/forms/entries", "fill-form-by-link", "Fill in the form of a private link",
		func(ctx context.Context, in *struct{ Body wire.ByLink }) (*body[wire.Received], error) {
			t, c, err := s.byLink(ctx, in.Body.Secret)
			if err != nil {
				return nil, err
			}
			key := engine.Key{}
			if in.Body.Key != "" {
				key.ID = fmt.Sprintf("form %s link %s", c.ID, in.Body.Key)
			}
			return s.fill(ctx, forms.By(forms.ByLink, t.ID, c), t, c, in.Body.Cells, key)
		}, answers(http.StatusNotFound), answers(http.StatusTooManyRequests))
}
