package intake

import (
	"context"
	"crypto/sha256"
	"fmt"
	"iter"
	"reflect"
	"strconv"
	"strings"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/local"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
)

// taking is what a table is taken into.
type taking struct {
	turn    *engine.Turn
	draft   *sheet.Draft
	tracker *sheet.Tracker
	key     string // the column's name, or ""
	because int
	prefer  reconcile.Prefer
	gone    *rule.Take // what is done with rows that are gone from the file; nil: nothing
	left    int        // how many those are
	kept    string     // why they stay all the same
}

// mostGone is the share of a tab's rows, one in so many, that may be gone from a file: a
// file that lacks more was cut short rather than meant.
const mostGone = 2

// leave sees to the rows that an earlier file held and this one does not.
func (to *taking) leave(tab *sheet.TabShape, into reconcile.Into, report *reconcile.Report) error {
	if to.gone.Gone == rule.GoneKeep {
		return nil
	}
	said := report.Said()
	var gone []*sheet.Row
	known := 0
	for row := range to.tracker.Rows(tab.ID) {
		key := reconcile.KeyOf(into.Key, row.Get(tab, into.Key))
		if into.Last == nil || into.Last(key) == nil {
			continue
		}
		known++
		if _, met := said.Met[key]; !met {
			gone = append(gone, row)
		}
	}
	if to.left = len(gone); len(gone) > 1 && len(gone)*mostGone > known {
		to.kept = fmt.Sprintf("%d of %d rows are gone from the file, more than half: they stay, as such a file is mostly cut short", len(gone), known)
		return nil
	}
	for _, row := range gone {
		if to.gone.Gone == rule.GoneRemove {
			if err := to.draft.Apply(sheet.Change{Kind: sheet.Remove, Tracker: into.Tracker, Tab: tab.ID, Row: row.ID, Because: to.because}); err != nil {
				return err
			}
			said.New[reconcile.KeyOf(into.Key, row.Get(tab, into.Key))] = nil // forgotten
			continue
		}
		for _, m := range to.gone.Marks {
			if err := to.draft.Set(sheet.Cell{Tracker: into.Tracker, Row: row.ID, Column: m.Column}, m.Value, to.because); err != nil {
				return err
			}
		}
	}
	return nil
}

// origin is where rows come from that an import added.
const origin = "import"

// takeTable takes a table's rows into a tab. Columns of the table that the tab
// lacks, or computes, are left out, and named.
func (box *Intake) takeTable(to *taking, s source) (report *reconcile.Report, lacking []string, err error) {
	tr := to.tracker
	tab, err := tr.Tab(s.tab)
	if err != nil {
		return nil, nil, err
	}
	into := reconcile.Into{Tracker: tr.ID, Tab: tab.ID, Origin: origin, Because: to.because, Where: s.where, Prefer: to.prefer}
	if to.key != "" {
		c, err := tab.Column(to.key)
		if err != nil {
			return nil, nil, err
		}
		into.Key = c.ID
		if err := s.hasKey(c); err != nil {
			return nil, nil, err
		}
	}
	columns := make([]*sheet.Column, len(s.table.Columns))
	for i, c := range s.table.Columns {
		if c.LeaveOut {
			continue
		}
		col, err := tab.Column(c.Name)
		if err != nil {
			lacking = append(lacking, c.Name)
			continue
		}
		columns[i] = col
	}
	again := againKey{tr.ID, tab.ID, into.Key, to.prefer, s.table.Range.String(), s.sheet.Name}
	if len(to.draft.Changes()) == 0 { // not even of this import's own
		if report = box.again.same(again, s.digest, box.State().Tracker(tr.ID)); report != nil {
			to.turn.After(func(r *engine.Result) { box.again.note(again, s.digest, r.After.Tracker(tr.ID), report) })
			return report, lacking, nil
		}
	}
	for i, col := range columns {
		if col != nil && !col.Computed() && !reflect.DeepEqual(col.Type, s.table.Columns[i].Kind) {
			s.sheet.Retype(s.table, i, col.Type, "the column of "+tab.Name)
		}
	}
	into.Spoken = make([]bool, len(tab.Columns))
	for _, c := range columns {
		if c != nil && !c.Computed() {
			into.Spoken[tab.Slot(c.ID)] = true
		}
	}
	if tr.Count(tab.ID) == 0 { // most of them will be added
		to.draft.Expect(s.table.Rows)
	}
	last, err := box.said(to.turn, tr, tab.ID, into.Key)
	if err != nil {
		return nil, nil, err
	}
	if last != nil {
		into.Last = func(key string) []byte { return last.by[key] }
		into.Made = func(row sheet.RowID) []byte { return last.made[row] }
	}
	s.known, err = box.knows(to.turn, s.table, tr.ID)
	if err != nil {
		return nil, nil, err
	}
	report, err = reconcile.Take(to.draft, into, s.records(tab, columns, to.draft.Form(tr), into.Key == 0))
	if err == nil && to.gone != nil {
		err = to.leave(tab, into, report)
	}
	if err == nil {
		box.remember(to.turn, tr.ID, tab.ID, report.Said().New)
		if s.digest != "" {
			to.turn.After(func(r *engine.Result) { box.again.note(again, s.digest, r.After.Tracker(tr.ID), report) })
		}
	}
	return report, lacking, err
}

// workspaceKey is what a workspace calls itself in workbooks.
type workspaceKey struct{}

// knows gives the identity of a table whose rows are of the tracker, or nil.
func (box *Intake) knows(t *engine.Turn, table *reading.Table, tracker sheet.TrackerID) (*reading.Identity, error) {
	if table.Identity == nil || table.Identity.Tracker != int64(tracker) {
		return nil, nil
	}
	own, err := engine.Need(t, workspaceKey{}, func(ctx context.Context) (string, error) { return box.Store().OwnKey(ctx, "workspace") })
	if err != nil || own != table.Identity.Workspace {
		return nil, err
	}
	return table.Identity, nil
}

// isEmpty reports whether a tracker holds no rows, or is not there.
func isEmpty(tr *sheet.Tracker) bool {
	if tr == nil {
		return true
	}
	for i := range tr.Tabs {
		if tr.Count(tr.Tabs[i].ID) > 0 {
			return false
		}
	}
	return true
}

// saidKey is what files said last time of a tab's rows.
type saidKey struct {
	tracker sheet.TrackerID
	tab     sheet.TabID
	key     sheet.ColumnID
}

// lastSaid is what files said last time of a tab's rows.
type lastSaid struct {
	by   map[string][]byte      // by what reconcile.KeyOf gives
	made map[sheet.RowID][]byte // of rows that an import without a key added
}

// said gives what files said last time of a tab's rows, or nil.
func (box *Intake) said(t *engine.Turn, tr *sheet.Tracker, tab sheet.TabID, key sheet.ColumnID) (*lastSaid, error) {
	before := box.State().Tracker(tr.ID)
	if isEmpty(before) {
		return nil, nil // nothing stands here that could have been edited
	}
	return engine.Loaded(t, saidKey{tr.ID, tab, key}, []sheet.TrackerID{tr.ID}, func(ctx context.Context) (*lastSaid, error) {
		return box.lastSaid(ctx, before, tab, key)
	})
}

func (box *Intake) lastSaid(ctx context.Context, tr *sheet.Tracker, tab sheet.TabID, key sheet.ColumnID) (*lastSaid, error) {
	by, err := box.Store().Imported(ctx, tr.ID, tab)
	if err != nil || key == 0 {
		return &lastSaid{by: by}, err
	}
	var unsaid []sheet.RowID
	for i := range tr.Tabs {
		for row := range tr.Rows(tr.Tabs[i].ID) {
			if strings.HasPrefix(row.Origin(), origin+" ") && by[reconcile.KeyOf(key, row.Get(&tr.Tabs[i], key))] == nil {
				unsaid = append(unsaid, row.ID)
			}
		}
	}
	last := &lastSaid{by: by, made: map[sheet.RowID][]byte{}}
	err = box.Store().AsAdded(ctx, unsaid, func(row sheet.RowID, image *sheet.Image) {
		marks := reconcile.CellMarks{}
		for i := range tr.Tabs {
			for j := range tr.Tabs[i].Columns {
				c := tr.Tabs[i].Columns[j].ID
				marks[c] = reconcile.CellMarkOf(image.Get(c), image.Notes()[c], image.Styles()[c])
			}
		}
		last.made[row] = marks.Bytes()
	})
	return last, err
}

// provide gives a request to import a file what files said last time, so that it need not
// be worked out twice.
func (box *Intake) provide(req *engine.Request, file *reading.Reading, in Import) {
	state := box.State()
	tr := state.Tracker(in.Tracker)
	sources, err := sourcesOf(file, in)
	if tr == nil || err != nil {
		return
	}
	for _, s := range sources {
		tab, err := tr.Tab(s.tab)
		if err != nil || box.again.knows(s.digest, tr) {
			continue
		}
		var key sheet.ColumnID
		if c, err := tab.Column(s.keyOr(in.Key)); err == nil {
			key = c.ID
		}
		if last, err := box.lastSaid(context.Background(), tr, tab.ID, key); err == nil {
			engine.Provide(req, state, saidKey{tr.ID, tab.ID, key}, []sheet.TrackerID{tr.ID}, last)
		}
	}
}

// remember keeps what a file said, in the turn's transaction.
func (box *Intake) remember(t *engine.Turn, tracker sheet.TrackerID, tab sheet.TabID, said map[string]reconcile.CellMarks) {
	if len(said) == 0 {
		return
	}
	t.Store(func(ctx context.Context, b *store.Batch, r *engine.Result) error {
		for key, marks := range said {
			if err := b.PutImported(ctx, tracker, tab, key, r.Set.Seq, marks.Bytes()); err != nil {
				return err
			}
		}
		return nil
	})
}

// hasKey says that the table lacks the column by which rows are found, or nil.
func (s *source) hasKey(key *sheet.Column) error {
	var names []string
	for _, c := range s.table.Columns {
		if c.LeaveOut {
			continue
		}
		if value.EqualText(c.Name, key.Name) {
			return nil
		}
		names = append(names, c.Name)
	}
	return fmt.Errorf("the table has no column %s, by which rows are found: it has %s", key.Name, strings.Join(names, ", "))
}

// where names a row of the file in messages.
func (s *source) where(line int) string {
	if s.sheet.Name == "" {
		return fmt.Sprintf("row %d", line+1)
	}
	return fmt.Sprintf("%s, row %d", s.sheet.Name, line+1)
}

// records gives the table's rows as a tab's rows are laid out; columns are the
// tab's for each of the table's, nil for those that are left out.
func (s *source) records(tab *sheet.TabShape, columns []*sheet.Column, form *local.Form, byHash bool) iter.Seq2[reconcile.Record, error] {
	return func(yield func(reconcile.Record, error) bool) {
		var said []byte // what a row says, by which it is known again
		var shared looks
		rows := s.sheet.Records
		if s.spend {
			rows = s.sheet.Spend
		}
		for r := range rows(s.table) {
			rec := reconcile.Record{Line: r.Row, Cells: make([]value.Value, len(tab.Columns))}
			said = strconv.AppendInt(said[:0], int64(tab.ID), 10)
			for i, c := range columns {
				if byHash && (s.table.Identity == nil || i != s.table.Identity.Column) {
					said = append(append(said, 0), s.sheet.Raw(s.table, r, i)...)
				}
				if c == nil || c.Computed() {
					continue
				}
				v, err := c.Accept(r.Cells[i], form)
				if err != nil {
					yield(rec, fmt.Errorf("cell %s: %w", reading.CellName(r.Row, s.table.Range.Left+i), err))
					return
				}
				rec.Cells[tab.Slot(c.ID)] = v
				if note := r.Notes[i]; note != "" {
					if rec.Notes == nil {
						rec.Notes = map[sheet.ColumnID]string{}
					}
					rec.Notes[c.ID] = note
				}
			}
			rec.Styles = shared.of(r, columns)
			if id := s.known; id != nil {
				rec.Row, rec.Marks = reconcile.ParseIdentity(s.sheet.Raw(s.table, r, id.Column), id.Columns)
			}
			if byHash {
				hash := sha256.Sum256(said)
				rec.Fingerprint = reconcile.Fingerprint(hash[:])
			}
			if !yield(rec, nil) {
				return
			}
		}
	}
}
