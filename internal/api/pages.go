package api

import (
	"context"
	"errors"
	"net/http"
	"slices"

	"example.org/kavlo/internal/dossier"
	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/pages"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
	"example.org/kavlo/internal/wire"
)

// InPage is the part of an address that names a page.
type InPage struct {
	InTracker
	Page    string `path:"page" doc:"Its title, or the id of its row"`
	Pattern string `query:"pattern" doc:"Name or id of the dossier, where the row has pages of several"`
}

// patterns gives the patterns of a tracker that pages are looked for in.
func (s *server) patterns(t *sheet.Tracker, name string) ([]*dossier.Compiled, error) {
	if name != "" {
		c, err := s.workspace.Pages.Pattern(t, name)
		return []*dossier.Compiled{c}, err
	}
	ready, err := s.workspace.Program(t.Shape)
	if err != nil {
		return nil, err
	}
	var out []*dossier.Compiled
	for c, err := range program.All[*dossier.Compiled](ready, sheet.KindDossier) {
		if err == nil {
			out = append(out, c)
		}
	}
	return out, nil
}

// page finds the page that an address names.
func (s *server) page(ctx context.Context, in InPage) (*sheet.Tracker, *dossier.Compiled, *pages.Listed, error) {
	t, err := s.find(ctx, in.Tracker)
	if err != nil {
		return nil, nil, nil, err
	}
	all, err := s.patterns(t, in.Pattern)
	if err != nil {
		return nil, nil, nil, err
	}
	var (
		of    *dossier.Compiled
		found *pages.Listed
		miss  error = &sheet.NotFound{What: "page", Name: in.Page, In: t.Name}
	)
	seen := s.seen(ctx)
	for _, c := range all {
		at, err := s.workspace.Pages.Find(ctx, seen, t, c, in.Page)
		var none *sheet.NotFound
		switch {
		case err == nil && found != nil:
			return nil, nil, nil, problemOf(http.StatusConflict, "several-pages", "Several pages", "the row has pages of "+of.Name+" and of "+c.Name+": say which with pattern")
		case err == nil:
			of, found = c, at
		case errors.As(err, &none) && none.Nearest == "":
		case errors.As(err, &none), errors.Is(err, dossier.ErrNoPage):
			miss = err
		default:
			return nil, nil, nil, err
		}
	}
	if found == nil {
		if errors.Is(miss, dossier.ErrNoPage) {
			miss = problemOf(http.StatusNotFound, "no-page", "Page not found", miss.Error())
		}
		return nil, nil, nil, miss
	}
	return t, of, found, nil
}

func (s *server) pageRef(t *sheet.Tracker, c *dossier.Compiled, title string, h dossier.Here) wire.PageRef {
	out := wire.PageRef{Title: title, Row: h.Row.String(), Pattern: c.Name, PatternID: c.ID.String(), Tracker: t.ID.String(), Address: c.Address(t.ID, h.Row), Archived: h.Now == nil}
	if h.Now != nil {
		out.In, out.InTracker = h.Tracker.TabOf(h.Now).Name, h.Tracker.Name
	}
	return out
}

// pageView lays a page out in the forms of the wire.
func (s *server) pageView(ctx context.Context, t *sheet.Tracker, c *dossier.Compiled, at *pages.Listed, fields bool) (*wire.Page, error) {
	p, err := s.workspace.Pages.Lay(ctx, t, c, at)
	if err != nil {
		return nil, err
	}
	out := &wire.Page{PageRef: s.pageRef(t, c, p.Title, at.Where), Facts: map[string]any{}, Own: map[string]any{}, Figures: map[string]any{}, Log: []wire.PageEntry{}, Entries: p.Entries, Tables: []wire.PageTable{}}
	s.pageValues(ctx, out, t, p)
	if c.Log != nil {
		pageLog(out, t, c, p)
	}
	if fields {
		s.pageFields(ctx, out, t, c, p)
	}
	for i := range p.Tables {
		x, sight := &p.Tables[i], s.workspace.Sight(asker(ctx), t)
		w := wire.PageTable{Name: x.Name, Tab: x.Tab.Name, TabID: x.Tab.ID.String(), Columns: []string{}, Shown: []wire.Column{}, Rows: []map[string]any{}, IDs: []string{}, Total: x.Total, Skipped: x.Odd}
		for _, col := range x.Columns {
			w.Columns, w.Shown = append(w.Columns, col.Name), append(w.Shown, s.column(t, x.Tab, col, sight))
		}
		for j, r := range x.Rows {
			cells := map[string]any{}
			for k, col := range x.Columns {
				cells[col.Name] = x.Cells[j][k].JSON(col.Type)
			}
			w.Rows, w.IDs = append(w.Rows, cells), append(w.IDs, r.ID.String())
		}
		out.Tables = append(out.Tables, w)
	}
	return out, nil
}

// pageValues puts on a page what stands in its fields, and what is wrong with it.
func (s *server) pageValues(ctx context.Context, out *wire.Page, t *sheet.Tracker, p *dossier.Page) {
	odd := func(name, why string) {
		if out.Odd == nil {
			out.Odd = map[string]string{}
		}
		out.Odd[name] = why
	}
	put := func(into map[string]any, cells []dossier.Cell) {
		for i := range cells {
			cell := &cells[i]
			into[cell.Column.Name] = cell.Value.JSON(cell.Column.Type)
			if cell.Value.IsOdd() {
				odd(cell.Column.Name, s.viewFor(ctx, s.seen(ctx)).oddWhy(t, cell.Column, cell.Value))
			}
		}
	}
	put(out.Facts, p.Facts)
	put(out.Own, p.Own)
	for i := range p.Figures {
		f := &p.Figures[i]
		out.Figures[f.Name] = f.Value.JSON(f.Type)
		if f.Why != "" {
			out.Figures[f.Name] = nil
			odd(f.Name, f.Why)
		}
	}
}

// pageFields puts on a page what is to be known of its fields.
func (s *server) pageFields(ctx context.Context, out *wire.Page, t *sheet.Tracker, c *dossier.Compiled, p *dossier.Page) {
	sight := s.workspace.Sight(asker(ctx), t)
	home, pagesTab := t.TabByID(c.For[0]), t.TabByID(c.Pages)
	put := func(part string, cells []dossier.Cell) {
		for i := range cells {
			cell := &cells[i]
			tab := pagesTab
			if cell.InStep {
				tab = home
			}
			w := s.column(t, tab, cell.Column, sight)
			readOnly := w.ReadOnly || w.Clause != "" || !sight.ChangesTab(tab.ID) || cell.InStep && (cell.Gone || out.Archived)
			out.Fields = append(out.Fields, wire.PageField{Part: part, Name: cell.Column.Name, Column: &w, Note: cell.Note, Style: cell.Style, InStep: cell.InStep, ReadOnly: readOnly})
		}
	}
	put("fact", p.Facts)
	put("own", p.Own)
	for i := range p.Figures {
		f := &p.Figures[i]
		out.Fields = append(out.Fields, wire.PageField{Part: "figure", Name: f.Name, ReadOnly: true, Type: f.Type.Kind.String(), Format: f.Type.Display})
	}
	if c.Log == nil {
		return
	}
	tab := t.TabByID(c.Log.Tab)
	for i := range tab.Columns {
		w := s.column(t, tab, &tab.Columns[i], sight)
		choices, _ := c.ChoicesOf(t, tab.Columns[i].ID)
		out.LogForm = append(out.LogForm, wire.PageField{Part: "log", Name: w.Name, Column: &w, ReadOnly: w.ReadOnly || !sight.ChangesTab(tab.ID), Choices: choices})
	}
}

func pageLog(out *wire.Page, t *sheet.Tracker, c *dossier.Compiled, p *dossier.Page) {
	tab := t.TabByID(c.Log.Tab)
	for _, r := range p.Log {
		e := wire.PageEntry{ID: r.ID.String(), Version: r.Version, Cells: map[string]any{}}
		for i := range tab.Columns {
			e.Cells[tab.Columns[i].Name] = r.At(i).JSON(tab.Columns[i].Type)
		}
		out.Log = append(out.Log, e)
	}
}

// beside puts the pages before and after on a page, as the list has them.
func (s *server) beside(ctx context.Context, out *wire.Page, t *sheet.Tracker, c *dossier.Compiled, at *pages.Listed) error {
	all, err := s.workspace.Pages.List(ctx, s.seen(ctx), t, c)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(all, func(l pages.Listed) bool { return l.Where.Row == at.Where.Row })
	ref := func(i int) *wire.PageRef {
		if i < 0 || i >= len(all) {
			return nil
		}
		r := s.pageRef(t, c, all[i].Title, all[i].Where)
		return &r
	}
	out.Prev, out.Next = ref(i-1), ref(i+1)
	return nil
}

func (s *server) listPages(ctx context.Context, t *sheet.Tracker, pattern string) ([]wire.PageRef, error) {
	all, err := s.patterns(t, pattern)
	if err != nil {
		return nil, err
	}
	out := []wire.PageRef{}
	for _, c := range all {
		found, err := s.workspace.Pages.List(ctx, s.seen(ctx), t, c)
		if err != nil {
			return nil, err
		}
		for i := range found {
			out = append(out, s.pageRef(t, c, found[i].Title, found[i].Where))
		}
	}
	return out, nil
}

// pagesOfRow gives the pages of one row.
func (s *server) pagesOfRow(ctx context.Context, t *sheet.Tracker, pattern, row string) ([]wire.PageRef, error) {
	all, err := s.patterns(t, pattern)
	if err != nil {
		return nil, err
	}
	out := []wire.PageRef{}
	id, is := sheet.ParseRowID(row)
	for _, c := range all {
		if !is || c.PageOf(t, id) == nil {
			continue
		}
		at, err := s.workspace.Pages.Find(ctx, s.seen(ctx), t, c, row)
		if err != nil {
			return nil, err
		}
		out = append(out, s.pageRef(t, c, s.workspace.Pages.Title(ctx, t, c, at), at.Where))
	}
	return out, nil
}

// pageRoutes serves the pages of rows.
func (s *server) pageRoutes() {
	const one = "/trackers/{tracker}/pages/{page}"
	route(s, reader, http.MethodGet, "/pages", "find-pages", "Find pages by title, in every tracker",
		func(ctx context.Context, in *struct {
			Title string `query:"title" required:"true" doc:"Without letter case"`
		}) (*body[[]wire.PageRef], error) {
			out, titles := []wire.PageRef{}, []string{}
			for _, t := range s.seen(ctx).Trackers() {
				all, err := s.listPages(ctx, t, "")
				if err != nil {
					return nil, err
				}
				for _, p := range all {
					if titles = append(titles, p.Title); value.EqualText(p.Title, in.Title) {
						out = append(out, p)
					}
				}
			}
			if len(out) == 0 {
				return nil, asked(&sheet.NotFound{What: "page", Name: in.Title, Nearest: value.Nearest(in.Title, titles)})
			}
			return ok(out), nil
		}, heavy)
	route(s, reader, http.MethodGet, "/trackers/{tracker}/pages", "list-pages", "List the pages of rows, by title",
		func(ctx context.Context, in *struct {
			InTracker
			Pattern string `query:"pattern" doc:"Name or id of a dossier; all unless set"`
			Row     string `query:"row" doc:"Id of a row: its pages alone"`
		}) (*body[[]wire.PageRef], error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			if in.Row != "" {
				out, err := s.pagesOfRow(ctx, t, in.Pattern, in.Row)
				return ok(out), asked(err)
			}
			out, err := s.listPages(ctx, t, in.Pattern)
			if err != nil {
				return nil, asked(err)
			}
			return ok(out), nil
		}, heavy)
	route(s, reader, http.MethodGet, one, "get-page", "Show the page of a row",
		func(ctx context.Context, in *struct {
			InPage
			Beside string `query:"beside" enum:"yes,no" doc:"yes: also what comes before and after it, by title"`
			Fields string `query:"fields" enum:"yes,no" doc:"yes: also what is to be known of each field, in the page's order, and what an entry of the log holds"`
		}) (*body[wire.Page], error) {
			t, c, at, err := s.page(ctx, in.InPage)
			if err != nil {
				return nil, asked(err)
			}
			out, err := s.pageView(ctx, t, c, at, in.Fields == "yes")
			if err == nil && in.Beside == "yes" {
				err = s.beside(ctx, out, t, c, at)
			}
			if err != nil {
				return nil, asked(err)
			}
			return ok(*out), nil
		}, answers(http.StatusConflict))
	route(s, editor, http.MethodPatch, one, "set-page", "Edit a page's facts, which edits its row, and its own fields", s.setPage, answers(http.StatusConflict))
	route(s, editor, http.MethodPost, one+"/log", "add-entry", "Add an entry to a page's log, all of it or none",
		func(ctx context.Context, in *struct {
			InPage
			Write
			Body wire.NewEntry
		}) (*body[wire.ChangeSet], error) {
			t, c, at, err := s.page(ctx, in.InPage)
			if err != nil {
				return nil, asked(err)
			}
			return s.changeAsked(ctx, in.Write, s.workspace.Pages.AddEntry(asker(ctx), t.ID, c, at.Where.Row, in.Body.Cells))
		}, answers(http.StatusConflict))
	s.pageBookRoute()
	s.openPagesRoute("open", "open-pages", "Open the pages of rows that have none", func(by policy.Principal, t *sheet.Tracker, c *dossier.Compiled, rows []sheet.RowID, limit int) engine.Request {
		return s.workspace.Pages.Open(by, t.ID, c, pages.Opening{Rows: rows, Limit: limit})
	})
	s.openPagesRoute("close", "close-pages", "Close pages, with their logs; undo brings them back", func(by policy.Principal, t *sheet.Tracker, c *dossier.Compiled, rows []sheet.RowID, _ int) engine.Request {
		return s.workspace.Pages.Close(by, t.ID, c, rows)
	})
}

func (s *server) openPagesRoute(what, id, says string, request func(policy.Principal, *sheet.Tracker, *dossier.Compiled, []sheet.RowID, int) engine.Request) {
	route(s, editor, http.MethodPost, "/trackers/{tracker}/dossiers/{definition}/"+what, id, says,
		func(ctx context.Context, in *struct {
			InDefinition
			Write
			Body wire.Pages
		}) (*body[wire.ChangeSet], error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			c, err := s.workspace.Pages.Pattern(t, in.Definition)
			if err != nil {
				return nil, asked(err)
			}
			var rows []sheet.RowID
			for _, name := range in.Body.Rows {
				id, err := s.rowOfPage(ctx, t, c, name)
				if err != nil {
					return nil, asked(err)
				}
				rows = append(rows, id)
			}
			return s.changeAsked(ctx, in.Write, request(asker(ctx), t, c, rows, in.Body.Limit))
		}, answers(http.StatusConflict), heavy)
}

// rowOfPage finds the row that a page is to be of, or is of: by id, by label in one of the
// pattern's tabs, or by the page's title.
func (s *server) rowOfPage(ctx context.Context, t *sheet.Tracker, c *dossier.Compiled, name string) (sheet.RowID, error) {
	if id, is := sheet.ParseRowID(name); is {
		return id, nil
	}
	if at, err := s.workspace.Pages.Find(ctx, s.seen(ctx), t, c, name); err == nil {
		return at.Where.Row, nil
	}
	var miss error
	for _, id := range c.For {
		r, err := t.FindRow(t.TabByID(id), name)
		if err == nil {
			return r.ID, nil
		}
		if miss == nil {
			miss = err
		}
	}
	return 0, miss
}

// changeAsked is change for requests whose errors are of what was asked.
func (s *server) changeAsked(ctx context.Context, w Write, req engine.Request) (*body[wire.ChangeSet], error) {
	out, err := s.change(ctx, w, req)
	return out, asked(err)
}

func (s *server) setPage(ctx context.Context, in *struct {
	InPage
	Write
	Body wire.PageEdit
}) (*body[wire.ChangeSet], error) {
	t, c, at, err := s.page(ctx, in.InPage)
	if err != nil {
		return nil, asked(err)
	}
	p, err := s.workspace.Pages.Lay(ctx, t, c, at)
	if err != nil {
		return nil, asked(err)
	}
	of := map[bool]*edit.RowEdit{} // of the row itself, and of its page
	take := func(name string) (*edit.RowEdit, string, error) {
		names := []string{}
		for _, cell := range append(slices.Clone(p.Facts), p.Own...) {
			names = append(names, cell.Column.Name)
			if !value.EqualText(cell.Column.Name, name) {
				continue
			}
			if cell.InStep && (cell.Gone || at.Where.Now == nil) {
				return nil, "", &sheet.Refusal{Column: cell.Column.Name, Reason: "cannot be edited here: the row is not in a tab that has this column", Hint: "edit the row where it is"}
			}
			if of[cell.InStep] == nil {
				of[cell.InStep] = &edit.RowEdit{Row: at.Page.ID, Cells: map[string]any{}, Notes: map[string]string{}, KeepOdd: in.Body.KeepOdd}
				if cell.InStep {
					of[true].Row = at.Where.Row
				}
			}
			return of[cell.InStep], cell.Column.Name, nil
		}
		return nil, "", &sheet.NotFound{What: "field", Name: name, In: p.Title, Nearest: value.Nearest(name, names)}
	}
	for name, v := range in.Body.Cells {
		e, column, err := take(name)
		if err != nil {
			return nil, asked(err)
		}
		e.Cells[column] = v
	}
	for name, note := range in.Body.Notes {
		e, column, err := take(name)
		if err != nil {
			return nil, asked(err)
		}
		e.Notes[column] = note
	}
	var edits []edit.RowEdit
	for _, inStep := range []bool{true, false} {
		if e := of[inStep]; e != nil {
			edits = append(edits, *e)
		}
	}
	return s.change(ctx, in.Write, s.workspace.SetRows(asker(ctx), t.ID, edits))
}
