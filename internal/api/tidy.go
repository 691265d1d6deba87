package api

import (
	"context"
	"net/http"
	"slices"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/tidy"
	"example.org/kavlo/internal/wire"
)

// shownCells is how many cells of what is found are listed; all are counted.
const shownCells = 50

func (s *server) untidy(ctx context.Context, tracker string) (*sheet.Tracker, []tidy.Finding, error) {
	t, err := s.find(ctx, tracker)
	if err != nil {
		return nil, nil, err
	}
	found, err := tidy.Look(t, t.Form(s.workspace.Writing(ctx)), s.workspace.Now(), s.workspace.Meter(ctx))
	return t, found, asked(err)
}

func untidyView(f *tidy.Finding) wire.Untidy {
	out := wire.Untidy{ID: f.ID(), Kind: string(f.Kind), Tab: f.Tab.Name, TabID: f.Tab.ID.String(), Column: f.Column.Name, Says: f.Says, Count: f.Count, Mended: f.Mended, Cells: []wire.UntidyCell{}}
	for i := range f.Cells {
		if i == shownCells {
			break
		}
		c := &f.Cells[i]
		out.Cells = append(out.Cells, wire.UntidyCell{Row: c.Row.String(), Label: c.Label, Before: c.Before.JSON(f.Column.Type), After: c.After.JSON(f.Column.Type), Why: c.Why})
	}
	return out
}

// tidyRoutes serves what is not right with the rows of a tracker, and its mends.
func (s *server) tidyRoutes() {
	const all = "/trackers/{tracker}/tidy"
	route(s, reader, http.MethodGet, all, "list-untidy", "List what is not right with the rows of a tracker",
		func(ctx context.Context, in *InTracker) (*body[[]wire.Untidy], error) {
			_, found, err := s.untidy(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			out := []wire.Untidy{}
			for i := range found {
				out = append(out, untidyView(&found[i]))
			}
			return ok(out), nil
		}, heavy)
	route(s, editor, http.MethodPost, all, "mend", "Fix what was found, all of it or none",
		func(ctx context.Context, in *struct {
			InTracker
			Write
			Body wire.Mend
		}) (*body[wire.ChangeSet], error) {
			t, found, err := s.untidy(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			at := slices.IndexFunc(found, func(f tidy.Finding) bool { return f.ID() == in.Body.ID })
			if at < 0 {
				return nil, problemOf(http.StatusNotFound, "not-found-any-more", "Nothing to fix", "what was found is not there any more: look again")
			}
			return s.change(ctx, in.Write, s.workspace.SetRows(asker(ctx), t.ID, mends(&found[at], &in.Body)))
		}, answers(http.StatusConflict), heavy)
}

// mends gives the edits that put right what was found.
func mends(f *tidy.Finding, how *wire.Mend) []edit.RowEdit {
	var out []edit.RowEdit
	for i := range f.Cells {
		c := &f.Cells[i]
		if len(how.Rows) > 0 && !slices.Contains(how.Rows, c.Row.String()) {
			continue
		}
		to := how.To
		if to == nil {
			if c.After.IsBlank() {
				continue
			}
			to = c.After
		}
		out = append(out, edit.RowEdit{Row: c.Row, Cells: map[string]any{f.Column.ID.String(): to}})
	}
	return out
}
