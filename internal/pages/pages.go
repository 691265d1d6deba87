// Package pages opens, closes and shows the pages of rows, as dossiers describe them.
package pages

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/dossier"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
)

// Pages are the pages of a workspace's rows.
type Pages struct {
	*engine.Engine
	store *store.Store
}

// New gives the pages of an engine's workspace.
func New(e *engine.Engine) *Pages { return &Pages{e, e.Store()} }

// runKind is the kind of runs that open or close pages.
const runKind = "pages"

// Outcome is what opening or closing pages came to, for its run.
type Outcome struct {
	Pattern string         `json:"pattern"`
	Opened  int            `json:"opened"`
	Closed  int            `json:"closed"`
	There   int            `json:"there"` // that had a page already
	Left    int            `json:"left"`  // that would have one but for the limit
	Passed  []query.Passed `json:"passed,omitempty"`
	Odd     int            `json:"skipped"` // rows that could not be judged
}

// Pattern gives a pattern of a tracker, as it is seen, by name or id; with a blank name
// the only one there is.
func (p *Pages) Pattern(t *sheet.Tracker, name string) (*dossier.Compiled, error) {
	ready, err := p.Program(t.Shape)
	if err != nil {
		return nil, err
	}
	if name == "" {
		var all []*dossier.Compiled
		for c, err := range program.All[*dossier.Compiled](ready, sheet.KindDossier) {
			if err == nil {
				all = append(all, c)
			}
		}
		if len(all) == 1 {
			return all[0], nil
		}
		return nil, fmt.Errorf("%s has %d kinds of page: say which", t.Name, len(all))
	}
	def, err := t.Definition(sheet.KindDossier, name)
	if err != nil {
		return nil, err
	}
	return program.Ready[*dossier.Compiled](ready, def.ID)
}

// inTurn gives a pattern as it is in a turn.
func inTurn(t *engine.Turn, tracker sheet.TrackerID, id sheet.DefinitionID) (*dossier.Compiled, error) {
	tr := t.Draft.Tracker(tracker)
	if tr == nil {
		return nil, &sheet.NotFound{What: "tracker", Name: tracker.String()}
	}
	ready, err := t.Program(tr.Shape)
	if err != nil {
		return nil, err
	}
	return program.Ready[*dossier.Compiled](ready, id)
}

// Opening says which pages are to be opened.
type Opening struct {
	Rows  []sheet.RowID // these; nil: of all rows that the pattern is for
	Limit int           // new ones at most; 0: all
}

// Open opens the pages of rows that have none.
func (p *Pages) Open(by policy.Principal, tracker sheet.TrackerID, pattern *dossier.Compiled, how Opening) engine.Request {
	cause := sheet.Cause{Kind: sheet.ByPages, Name: pattern.Name, Definition: pattern.ID}
	return engine.Request{By: by, Tracker: tracker, Kind: runKind, Name: pattern.Name, Cause: cause, Work: func(t *engine.Turn) error {
		c, err := inTurn(t, tracker, pattern.ID)
		if err != nil {
			return err
		}
		tr := t.Draft.Own(tracker)
		out := Outcome{Pattern: c.Name}
		if how.Rows != nil {
			err = openThese(t, c, tr, how.Rows, &out)
		} else {
			err = openAll(t, c, tr, how.Limit, &out)
		}
		t.Run.Detail = out
		return err
	}}
}

func openThese(t *engine.Turn, c *dossier.Compiled, tr *sheet.Tracker, rows []sheet.RowID, out *Outcome) error {
	for _, id := range rows {
		row := tr.Row(id)
		if row == nil {
			return &sheet.NotFound{What: "row", Name: id.String(), In: tr.Name}
		}
		if !slices.Contains(c.For, row.Tab) {
			return fmt.Errorf("%s has no page of %s: that is for rows of other tabs", tr.Label(row), c.Name)
		}
		if c.PageOf(tr, id) != nil {
			out.There++
			continue
		}
		if err := c.Open(t.Draft, tr.ID, row, 0); err != nil {
			return err
		}
		out.Opened++
	}
	return nil
}

func openAll(t *engine.Turn, c *dossier.Compiled, tr *sheet.Tracker, limit int, out *Outcome) error {
	found, err := c.Wanting(tr, t.Now, t.Meter())
	if err != nil {
		return err
	}
	out.There, out.Odd, out.Passed = found.There, found.Odd, found.Passed
	for i, row := range found.Rows {
		if limit > 0 && i == limit {
			out.Left = len(found.Rows) - limit
			break
		}
		if err := c.Open(t.Draft, tr.ID, row, 0); err != nil {
			return err
		}
		out.Opened++
	}
	return nil
}

// Close closes the pages of rows, or all of a pattern, with their logs. Undo brings them
// back.
func (p *Pages) Close(by policy.Principal, tracker sheet.TrackerID, pattern *dossier.Compiled, rows []sheet.RowID) engine.Request {
	cause := sheet.Cause{Kind: sheet.ByPages, Name: pattern.Name, Definition: pattern.ID}
	return engine.Request{By: by, Tracker: tracker, Kind: runKind, Name: pattern.Name, Cause: cause, Work: func(t *engine.Turn) error {
		c, err := inTurn(t, tracker, pattern.ID)
		if err != nil {
			return err
		}
		tr := t.Draft.Own(tracker)
		which := rows
		if rows == nil {
			for page := range tr.Rows(c.Pages) {
				if _, id, is := sheet.PageOf(page.Origin()); is {
					which = append(which, id)
				}
			}
		}
		for _, id := range which {
			if c.PageOf(tr, id) == nil {
				return fmt.Errorf("closing %s: %w", id, dossier.ErrNoPage)
			}
			if err := c.Close(t.Draft, tracker, id, 0); err != nil {
				return err
			}
		}
		t.Run.Detail = Outcome{Pattern: c.Name, Closed: len(which)}
		return nil
	}}
}

// AddEntry adds an entry to the log of a row's page; all of it, or none.
func (p *Pages) AddEntry(by policy.Principal, tracker sheet.TrackerID, pattern *dossier.Compiled, row sheet.RowID, cells map[string]any) engine.Request {
	return engine.Request{By: by, Tracker: tracker, Cause: sheet.Cause{Kind: sheet.ByEdit}, Work: func(t *engine.Turn) error {
		c, err := inTurn(t, tracker, pattern.ID)
		if err != nil {
			return err
		}
		return c.AddEntry(t.Draft, tracker, row, cells)
	}}
}

// Follow opens the pages that open by themselves, for what a turn has changed.
func (p *Pages) Follow(t *engine.Turn) error {
	known := map[sheet.TrackerID][]*dossier.Compiled{}
	patterns := func(id sheet.TrackerID) ([]*dossier.Compiled, error) {
		if all, is := known[id]; is {
			return all, nil
		}
		var out []*dossier.Compiled
		if tr := t.Draft.Tracker(id); tr != nil && slices.ContainsFunc(tr.Definitions, func(d sheet.Definition) bool { return d.Kind == sheet.KindDossier }) {
			ready, err := t.Program(tr.Shape)
			if err != nil {
				return nil, err
			}
			for c, err := range program.All[*dossier.Compiled](ready, sheet.KindDossier) {
				if err == nil && c.Auto {
					out = append(out, c)
				}
			}
		}
		known[id] = out
		return out, nil
	}
	causes := map[sheet.DefinitionID]int{}
	because := func(c *dossier.Compiled) int {
		at, is := causes[c.ID]
		if !is {
			at = len(t.Causes)
			t.Causes = append(t.Causes, sheet.Cause{Kind: sheet.ByPages, Name: c.Name, Definition: c.ID, Woke: 0})
			causes[c.ID] = at
		}
		return at
	}
	return dossier.Follow(t.Draft, patterns, because, t.Now, t.Meter())
}

// ErrNoPage says that a name stands for no page.
var ErrNoPage = errors.New("there is no such page")

// Listed is a page in a list.
type Listed struct {
	Title string
	Where dossier.Here
	Page  *sheet.Row
}

// List gives the pages of a pattern by title; seen is the workspace as whoever asks sees it.
func (p *Pages) List(ctx context.Context, seen *sheet.Workspace, t *sheet.Tracker, c *dossier.Compiled) ([]Listed, error) {
	m, now := p.Meter(ctx), p.Now()
	var out []Listed
	for page := range t.Rows(c.Pages) {
		_, id, is := sheet.PageOf(page.Origin())
		if !is {
			continue
		}
		here, err := p.here(ctx, seen, t, id)
		if err != nil {
			return nil, err
		}
		out = append(out, Listed{c.Titled(t, here, now, m), here, page})
	}
	slices.SortStableFunc(out, func(a, b Listed) int { return value.CompareText(a.Title, b.Title) })
	return out, m.Err()
}

// Find finds a page of a pattern by its row's id or by its title.
func (p *Pages) Find(ctx context.Context, seen *sheet.Workspace, t *sheet.Tracker, c *dossier.Compiled, name string) (*Listed, error) {
	if id, is := sheet.ParseRowID(strings.TrimSpace(name)); is {
		if page := c.PageOf(t, id); page != nil {
			here, err := p.here(ctx, seen, t, id)
			return &Listed{Where: here, Page: page}, err
		}
		if t.Row(id) != nil {
			return nil, dossier.ErrNoPage
		}
	}
	all, err := p.List(ctx, seen, t, c)
	if err != nil {
		return nil, err
	}
	var found []Listed
	titles := make([]string, len(all))
	for i := range all {
		if titles[i] = all[i].Title; value.EqualText(all[i].Title, name) {
			found = append(found, all[i])
		}
	}
	switch len(found) {
	case 1:
		return &found[0], nil
	case 0:
		return nil, &sheet.NotFound{What: "page", Name: name, In: c.Name, Nearest: value.Nearest(name, titles)}
	}
	twice := &sheet.Ambiguous{Label: name, Tab: c.Name}
	for i := range found {
		twice.Rows = append(twice.Rows, found[i].Where.Row)
	}
	return nil, twice
}

// here finds a row wherever it is now or, where it was removed, as it was.
func (p *Pages) here(ctx context.Context, seen *sheet.Workspace, t *sheet.Tracker, id sheet.RowID) (dossier.Here, error) {
	h := dossier.Here{Row: id}
	if row := t.Row(id); row != nil {
		h.Tracker, h.Now = t, row
		return h, nil
	}
	for _, other := range seen.Trackers() {
		if row := other.Row(id); other.ID != t.ID && row != nil {
			h.Tracker, h.Now = other, row
			return h, nil
		}
	}
	sets, err := p.store.RowHistory(ctx, id, lastSets)
	if err != nil {
		return h, err
	}
	for _, set := range sets {
		for i := range slices.Backward(set.Changes) {
			ch := &set.Changes[i]
			if of := seen.Tracker(ch.Tracker); ch.Row == id && ch.Kind == sheet.Remove && ch.Image != nil && of != nil {
				h.Last, h.LastOf, h.LastIn = ch.Image, of, of.TabByID(ch.Tab)
				return h, nil
			}
		}
	}
	return h, nil
}

// lastSets is how many of the newest change sets of a row are looked through for how it
// was when it was removed.
const lastSets = 5

// Title gives what a page is called.
func (p *Pages) Title(ctx context.Context, t *sheet.Tracker, c *dossier.Compiled, at *Listed) string {
	return c.Titled(t, at.Where, p.Now(), p.Meter(ctx))
}

// Lay lays a page out as whoever sees t may see it.
func (p *Pages) Lay(ctx context.Context, t *sheet.Tracker, c *dossier.Compiled, at *Listed) (*dossier.Page, error) {
	return c.Lay(t, at.Page, at.Where, p.Now(), p.Meter(ctx))
}

// Offered says, of dossiers that a change of setup has brought, how many rows have no page
// of them yet: what is set up opens none of those that are there.
func (p *Pages) Offered(r *engine.Result) []string {
	var out []string
	for i := range r.Set.Changes {
		ch := &r.Set.Changes[i]
		if ch.Kind != sheet.Reshape || ch.ShapeAfter == nil {
			continue
		}
		ready, err := r.Program(ch.ShapeAfter)
		tr := r.After.Tracker(ch.Tracker)
		if err != nil || tr == nil {
			continue
		}
		for c, err := range program.All[*dossier.Compiled](ready, sheet.KindDossier) {
			if err != nil {
				continue
			}
			if was := ch.ShapeBefore; was != nil && was.DefinitionByID(c.ID) != nil {
				continue
			}
			if found, err := c.Wanting(tr, p.Now(), nil); err == nil && len(found.Rows) > 0 {
				out = append(out, fmt.Sprintf("%d rows have no such page yet; to open them: Open missing pages in the console, or kavlo dossier open %q %q", len(found.Rows), tr.Name, c.Name))
			}
		}
	}
	return out
}
