package api

import (
	"context"
	"fmt"
	"slices"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/history"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/syncing"
	"example.org/kavlo/internal/trigger"
	"example.org/kavlo/internal/value"
	"example.org/kavlo/internal/wire"
	"example.org/kavlo/internal/workspace"
)

// view lays a state of the workspace out in the forms of the wire.
type view struct {
	workspace *workspace.Workspace
	state     *sheet.Workspace
	now       time.Time
	meter     *clause.Meter // of what computed columns and conditions may cost
	envs      map[sheet.TabID]*clause.Env
	writing   sheet.Writing
	admin     bool // whoever asks is told who may come in
	bound     map[sheet.TrackerID]*program.Program
}

// viewFor gives a view of a state, as whoever asks sees it: what it works out ends when
// they leave.
func (s *server) viewFor(ctx context.Context, state *sheet.Workspace) *view {
	return &view{workspace: s.workspace, state: state, writing: s.workspace.Writing(ctx), admin: asker(ctx).Access == policy.Keeper, now: s.workspace.Now(), meter: s.workspace.Meter(ctx), envs: map[sheet.TabID]*clause.Env{}, bound: map[sheet.TrackerID]*program.Program{}}
}

// env gives the tracker's bound shape and the environment of a tab's clauses;
// nil where the shape does not compile.
func (v *view) env(t *sheet.Tracker, tab *sheet.TabShape) (*program.Program, *clause.Env) {
	b, known := v.bound[t.ID]
	if !known {
		if ready, err := v.workspace.Program(t.Shape); err == nil {
			b = ready
		}
		v.bound[t.ID] = b
	}
	if b == nil {
		return nil, nil
	}
	e := v.envs[tab.ID]
	if e == nil {
		e = b.Env(t, tab, v.now, v.meter)
		v.envs[tab.ID] = e
	}
	return b, e
}

func (v *view) row(t *sheet.Tracker, r *sheet.Row) wire.Row {
	tab := t.TabOf(r)
	out := wire.Row{ID: r.ID.String(), Tab: tab.Name, TabID: tab.ID.String(), Version: r.Version, Pos: r.Pos, Label: t.Label(r), Cells: make(map[string]any, len(tab.Columns))}
	bound, env := v.env(t, tab)
	if env != nil {
		program.Look(env, r)
	}
	for i := range tab.Columns {
		c := &tab.Columns[i]
		cell := r.At(i)
		if bound != nil {
			cell = bound.Value(env, r, i)
		}
		out.Cells[c.Name] = cell.JSON(c.Type)
		if cell.IsOdd() {
			out.Odd = append(out.Odd, c.Name)
			if why := v.oddWhy(t, c, cell); why != "" {
				if out.OddWhy == nil {
					out.OddWhy = map[string]string{}
				}
				out.OddWhy[c.Name] = why
			}
			if fit := v.oddFit(t, c, cell); fit != nil {
				if out.OddFit == nil {
					out.OddFit = map[string]any{}
				}
				out.OddFit[c.Name] = fit
			}
		}
	}
	out.Notes, out.Styles = byName(t, tab, r.Notes()), byName(t, tab, r.Styles())
	for id, cell := range r.Carried() {
		if out.Carried == nil {
			out.Carried = map[string]any{}
		}
		out.Carried[columnName(t, tab, id)] = cell.JSON(columnType(t, id))
	}
	return out
}

// byName gives texts by the names of their columns; nil for none.
func byName(t *sheet.Tracker, tab *sheet.TabShape, texts map[sheet.ColumnID]string) map[string]string {
	if len(texts) == 0 {
		return nil
	}
	out := make(map[string]string, len(texts))
	for id, text := range texts {
		out[columnName(t, tab, id)] = text
	}
	return out
}

func columnName(t *sheet.Tracker, tab *sheet.TabShape, id sheet.ColumnID) string {
	if tab != nil {
		if c := tab.ByID(id); c != nil {
			return c.Name
		}
	}
	if c := t.ColumnByID(id); c != nil {
		return c.Name
	}
	return id.String()
}

// listed is how many changes an answer lists; all are counted.
const listed = 2000

func (v *view) changes(set *sheet.ChangeSet) (changes []wire.Change, more int) {
	changes = []wire.Change{}
	for i := range set.Changes {
		if i == listed {
			return changes, len(set.Changes) - listed
		}
		changes = append(changes, v.change(set, &set.Changes[i]))
	}
	return changes, 0
}

func (v *view) change(set *sheet.ChangeSet, c *sheet.Change) wire.Change {
	out := wire.Change{Kind: string(c.Kind), Because: history.Because(set, c.Because)}
	if c.Kind == sheet.Reshape {
		if c.ShapeBefore != nil {
			out.Before = c.ShapeBefore.Name
		}
		if c.ShapeAfter != nil {
			out.After = c.ShapeAfter.Name
		}
		if lines, err := v.workspace.Setup.Differences(c.ShapeBefore, c.ShapeAfter); err == nil { // a shape of old may not compile any more
			out.Differences = lines
		}
		return out
	}
	if c.Kind == sheet.Grant {
		if v.admin {
			out.After = c.After.JSON(value.Type{})
		}
		return out
	}
	out.Row = c.Row.String()
	t := v.state.Tracker(c.Tracker)
	if t == nil {
		out.Tab = c.Tab.String()
		return out
	}
	tab := t.TabByID(c.Tab)
	out.Tab = tabName(t, c.Tab)
	if tab == nil {
		if tab = droppedTab(set, c); tab != nil {
			out.Tab = tab.Name
		}
	}
	for _, id := range []sheet.TrackerID{c.ToTracker, c.Tracker} { // where it came to, and where it was
		holder := v.state.Tracker(id)
		if holder == nil {
			continue
		}
		if r := holder.Row(c.Row); r != nil {
			out.Label = holder.Label(r)
			break
		}
	}
	if out.Label == "" && tab != nil { // it was removed
		out.Label = v.labelOf(t, tab, c.Image)
	}
	switch c.Kind {
	case sheet.Set, sheet.Note, sheet.Style:
		out.Column = columnName(t, tab, c.Column)
		typ := value.Type{}
		if c.Kind == sheet.Set {
			typ = columnType(t, c.Column)
		}
		out.Before, out.After = c.Before.JSON(typ), c.After.JSON(typ)
	case sheet.Move:
		out.Before = tabName(t, c.Tab)
		if to := v.state.Tracker(c.ToTracker); to != nil {
			out.After = tabName(to, c.ToTab)
		}
	case sheet.Add:
		out.After = v.cells(t, tab, c.Image)
	case sheet.Remove:
		out.Before = v.cells(t, tab, c.Image)
	}
	return out
}

// droppedTab gives the tab of a row that a change set drops with the row, or nil.
func droppedTab(set *sheet.ChangeSet, c *sheet.Change) *sheet.TabShape {
	for i := range set.Changes {
		if r := &set.Changes[i]; r.Kind == sheet.Reshape && r.Tracker == c.Tracker && r.ShapeBefore != nil {
			if tab := r.ShapeBefore.TabByID(c.Tab); tab != nil {
				return tab
			}
		}
	}
	return nil
}

// labelOf names a row that was removed; a page goes by the row that it was of.
func (v *view) labelOf(t *sheet.Tracker, tab *sheet.TabShape, image *sheet.Image) string {
	if image != nil {
		if _, of, is := sheet.PageOf(image.Origin()); is {
			if row := t.Row(of); row != nil {
				return t.Label(row)
			}
		}
	}
	return tab.LabelOf(image)
}

func (v *view) cells(t *sheet.Tracker, tab *sheet.TabShape, img *sheet.Image) map[string]any {
	out := map[string]any{}
	if img == nil {
		return out
	}
	for id, cell := range img.Cells() {
		if t.Hides(id) {
			continue
		}
		out[columnName(t, tab, id)] = cell.JSON(columnType(t, id))
	}
	return out
}

func tabName(t *sheet.Tracker, id sheet.TabID) string {
	if tab := t.TabByID(id); tab != nil {
		return tab.Name
	}
	return id.String()
}

// changeSet lays out what a request came to, with the rows that its own
// changes touched and, in words, what followed.
func (s *server) changeSet(ctx context.Context, r *engine.Result, preview bool) (*wire.ChangeSet, error) {
	if r.Again != "" {
		return s.again(ctx, r.Again)
	}
	v := s.viewFor(ctx, s.workspace.SeenIn(asker(ctx), r.After))
	left := s.left(ctx, r.Set)
	out := v.set(left)
	out.Run, out.Preview, out.Detail, out.Outcome = r.Run, preview, r.Note.Detail, r.Outcome()
	if d, is := r.Note.Detail.(*syncing.Detail); is {
		out.Detail, out.Sync = nil, syncView(d)
	}
	if preview {
		out.Seq, out.Run = 0, ""
	}
	if o := trigger.OutcomeOf(r.Note.Report); o != nil && s.wholly(ctx) {
		out.PassedOver = passedOver(o.Reports)
		out.Followed = append(out.Followed, filesOf(o, preview)...)
	}
	out.Rows, out.Warnings = v.touched(left), append(slices.Clone(r.Warnings), append(s.workspace.Offered(ctx, r), s.workspace.Pages.Offered(r)...)...)
	v.readings(&r.Readings, out)
	return out, nil
}

// filesOf says which files rules wrote and took and whom they mailed, or in a preview
// would.
func filesOf(o *rule.Outcome, preview bool) []string {
	var out []string
	if preview {
		for i := range o.Writes {
			out = append(out, o.Writes[i].Would)
		}
		for i := range o.Mails {
			says := fmt.Sprintf("Rule %q: %s", o.Mails[i].Letter.Name, o.Mails[i].Says(o))
			if !slices.Contains(out, says) { // a step that ran twice sends one mail
				out = append(out, says)
			}
		}
		return out
	}
	for i := range o.Reports {
		for _, s := range o.Reports[i].Steps {
			if s.Says != "" {
				out = append(out, fmt.Sprintf("Rule %q: %s", o.Reports[i].Rule, s.Says))
			}
		}
	}
	return out
}

// again gives the answer that an idempotency key was given before.
func (s *server) again(ctx context.Context, answer string) (*wire.ChangeSet, error) {
	if answer == "0" {
		return s.viewFor(ctx, s.seen(ctx)).set(&sheet.ChangeSet{At: s.workspace.Now(), Who: asker(ctx).Name}), nil
	}
	set, err := s.workspace.FindSet(ctx, answer)
	if err != nil {
		return nil, err
	}
	v := s.viewFor(ctx, s.seen(ctx))
	left := s.left(ctx, set)
	out := v.set(left)
	out.Rows = v.touched(left)
	return out, nil
}

func (v *view) set(set *sheet.ChangeSet) *wire.ChangeSet {
	counted := counts(set)
	if told := sheet.Told(set.Changes); len(told) != len(set.Changes) {
		short := *set
		short.Changes = told
		set = &short
	}
	out := &wire.ChangeSet{Seq: set.Seq, Run: set.Run, At: set.At, Who: set.Who, Undoes: set.Undoes, PassedOver: []wire.PassedOver{}, Counts: counted}
	out.Changes, out.More = v.changes(set)
	out.Followed = v.followed(set)
	return out
}

func counts(set *sheet.ChangeSet) map[string]int {
	out := map[string]int{}
	for kind, n := range set.Counts() {
		out[string(kind)] = n
	}
	return out
}

// shownRows is how many touched rows an answer holds.
const shownRows = 200

// touched gives the touched rows as they stand.
func (v *view) touched(set *sheet.ChangeSet) []wire.Row {
	var out []wire.Row
	trackers, seen := v.trackersOf(set), map[sheet.RowID]bool{}
	for i := 0; i < len(set.Changes) && len(out) < shownRows; i++ {
		id := set.Changes[i].Row
		if id == 0 || seen[id] {
			continue
		}
		seen[id] = true
		for _, t := range trackers {
			if r := t.Row(id); r != nil {
				out = append(out, v.row(t, r))
				break
			}
		}
	}
	return out
}

func (v *view) trackersOf(set *sheet.ChangeSet) []*sheet.Tracker {
	var out []*sheet.Tracker
	for _, id := range set.Trackers() {
		if t := v.state.Tracker(id); t != nil {
			out = append(out, t)
		}
	}
	return out
}

func columnType(t *sheet.Tracker, id sheet.ColumnID) value.Type {
	if c := t.ColumnByID(id); c != nil {
		return c.Type
	}
	return value.Type{}
}
