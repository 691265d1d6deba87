// Package syncing keeps lists and tabs in step, both ways.
package syncing

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"sync"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
)

// Syncs runs the syncs of a workspace.
type Syncs struct {
	*engine.Engine
	Lists Lists // nil: syncs fail
	store *store.Store
	syncs syncing
}

// New gives the syncs of an engine's workspace.
func New(e *engine.Engine, lists Lists) *Syncs {
	return &Syncs{Engine: e, Lists: lists, store: e.Store()}
}

// Lists reaches lists kept elsewhere. Fetch gives every record or none, and Look besides
// how their pages followed each other. An
// error of Send that is a reconcile.Declined concerns that one write; any other
// means that the list cannot be written now.
type Lists interface {
	Fetch(ctx context.Context, list *reconcile.List) ([]reconcile.Entry, error)
	Look(ctx context.Context, list *reconcile.List) ([]reconcile.Entry, reconcile.Pages, error)
	Send(ctx context.Context, list *reconcile.List, w *reconcile.Write) (reconcile.Written, error)
}

// How says how a sync is run.
type How struct {
	Preview bool
	Beyond  bool // a person's word that more than the guard's share may change or go
	Key     engine.Key
	// Decided holds a person's word on held conflicts, by folded key; with any,
	// the sync is about these alone.
	Decided map[string]reconcile.Decision

	Also func(context.Context, *store.Batch, *engine.Result) error
}

// Detail is what a sync's run records.
type Detail struct {
	reconcile.Counts
	Writes    []ListWrite         `json:"writes,omitempty"`    // to the list
	Conflicts []PendingConflict   `json:"held,omitempty"`      // that wait for a person
	Troubles  []reconcile.Trouble `json:"troubles,omitempty"`  // records and rows about which nothing is done
	Stopped   string              `json:"stopped,omitempty"`   // why the list could not be written to the end
	NotSent   int                 `json:"not_sent,omitempty"`  // writes that wait for the next sync
	More      int                 `json:"more,omitempty"`      // writes left out of the record
	Odd       int                 `json:"odd_cells,omitempty"` // cells taken in as odd
}

// mostWrites is how many writes a run's record names.
const mostWrites = 1000

// syncJob is one sync under way.
type syncJob struct {
	d       *Syncs
	how     How
	tracker sheet.TrackerID
	part    sheet.Definition
	sync    *reconcile.Sync
	list    *reconcile.List
	policy  reconcile.Policy
	shape   *sheet.Shape
	into    *reconcile.Target

	entries []reconcile.Entry
	items   []reconcile.Item // of the list; what has been sent is in them
	// records of the list that cannot be read: by folded key, and those of which
	// not even the key can
	unread  map[string]bool
	unknown int
	bad     []reconcile.Trouble
	added   []reconcile.Item // to the list, by this job
	removed map[string]bool  // keys removed from the list by this job
	base    map[string]*reconcile.Base
	dirty   map[string]bool // keys whose base is not written yet
	detail  *Detail
	plan    *reconcile.Plan
}

// syncing holds that no sync runs twice at once.
type syncing struct {
	mu  sync.Mutex
	now map[sheet.DefinitionID]*sync.Mutex
}

func (s *syncing) lock(id sheet.DefinitionID) func() {
	s.mu.Lock()
	if s.now == nil {
		s.now = map[sheet.DefinitionID]*sync.Mutex{}
	}
	m := s.now[id]
	if m == nil {
		m = &sync.Mutex{}
		s.now[id] = m
	}
	s.mu.Unlock()
	m.Lock()
	return m.Unlock
}

// RunSync brings a list and a tab into step. What the list is to take is sent
// first, each write once; then the tab takes its part and what both agree on is
// kept, in one transaction. A stop in between costs nothing: the next sync finds
// both sides alike.
func (syncs *Syncs) RunSync(ctx context.Context, by policy.Principal, cause sheet.CauseKind, t *sheet.Tracker, name string, how How) (*engine.Result, error) {
	if r, err := syncs.AnsweredBefore(ctx, how.Key); r != nil || err != nil {
		return r, err
	}
	j, err := syncs.syncJob(t, name, how)
	if err != nil {
		return nil, err
	}
	defer syncs.syncs.lock(j.part.ID)()
	req := engine.Request{By: by, Tracker: t.ID, Kind: "sync", Name: j.part.Name, Key: how.Key, Cause: sheet.Cause{Kind: sheet.BySync, Name: j.part.Name, Definition: j.part.ID, Says: string(cause)}}
	err = j.prepare(ctx)
	if err == nil && !how.Preview {
		err = j.send(ctx)
	}
	if err != nil {
		if how.Preview {
			return nil, err
		}
		failed := err
		req.Work = func(*engine.Turn) error { return failed }
	} else {
		req.Work = j.turn
	}
	if how.Preview {
		return syncs.Preview(ctx, req)
	}
	return syncs.Commit(ctx, req)
}

func (syncs *Syncs) syncJob(t *sheet.Tracker, name string, how How) (*syncJob, error) {
	if syncs.Lists == nil {
		return nil, errNoLists
	}
	p, err := t.Definition(sheet.KindSync, name)
	if err != nil {
		return nil, err
	}
	s, err := decoded[*reconcile.Sync](syncs, t, p.ID)
	if err != nil {
		return nil, err
	}
	return syncs.jobOf(t, p, s, how)
}

// PreviewUnsaved works out what a sync that is not saved would do to both sides now.
func (syncs *Syncs) PreviewUnsaved(ctx context.Context, by policy.Principal, t *sheet.Tracker, p *sheet.Definition, s *reconcile.Sync) (*engine.Result, error) {
	if syncs.Lists == nil {
		return nil, errNoLists
	}
	j, err := syncs.jobOf(t, p, s, How{Preview: true, Beyond: true})
	if err != nil {
		return nil, err
	}
	if err := j.prepare(ctx); err != nil {
		return nil, err
	}
	return syncs.Preview(ctx, engine.Request{By: by, Tracker: t.ID, Kind: "sync", Name: p.Name, Cause: sheet.Cause{Kind: sheet.BySync, Name: p.Name, Definition: p.ID, Says: string(sheet.ByHand)}, Work: j.turn})
}

var errNoLists = errors.New("this service has no access to lists")

// jobOf makes the job of a sync.
func (syncs *Syncs) jobOf(t *sheet.Tracker, p *sheet.Definition, s *reconcile.Sync, how How) (*syncJob, error) {
	list, listName, err := syncs.listOf(t, s)
	if err != nil {
		return nil, err
	}
	j := &syncJob{d: syncs, how: how, tracker: t.ID, part: *p, sync: s, list: list, policy: s.Policy(), removed: map[string]bool{}, dirty: map[string]bool{}, base: map[string]*reconcile.Base{}}
	j.policy.Decided = how.Decided
	j.into = &reconcile.Target{Tracker: t.ID, Tab: s.Tab, Key: s.Key, MoveTo: s.MoveTo, Note: "Gone from the list " + listName + ".", Origin: "sync " + p.ID.String(), OnlyTab: j.policy.Direction == reconcile.Out}
	for _, f := range s.Fields {
		j.into.Columns = append(j.into.Columns, f.Column)
	}
	return j, nil
}

// decoded gives a definition of a tracker, ready.
func decoded[T any](syncs *Syncs, t *sheet.Tracker, id sheet.DefinitionID) (T, error) {
	p, err := syncs.Program(t.Shape)
	if err != nil {
		var none T
		return none, err
	}
	return program.Ready[T](p, id)
}

func (syncs *Syncs) listOf(t *sheet.Tracker, s *reconcile.Sync) (*reconcile.List, string, error) {
	for i := range t.Definitions {
		if t.Definitions[i].ID == s.List {
			l, err := decoded[*reconcile.List](syncs, t, t.Definitions[i].ID)
			return l, t.Definitions[i].Name, err
		}
	}
	return nil, "", errors.New("the list of the sync is not there any more")
}

// prepare fetches the list and works out what is to be done, held against the
// guard.
func (j *syncJob) prepare(ctx context.Context) error {
	entries, err := j.d.Lists.Fetch(ctx, j.list)
	if err != nil {
		return fmt.Errorf("fetching the list of sync %s: %w", j.part.Name, err)
	}
	t := j.d.State().Tracker(j.tracker)
	if t == nil || t.TabByID(j.sync.Tab) == nil {
		return fmt.Errorf("the tab of sync %s is not there any more", j.part.Name)
	}
	if err := j.readEntries(ctx, t, entries); err != nil {
		return err
	}
	agreed, err := j.d.store.Baselines(ctx, j.tracker, j.part.ID)
	if err != nil {
		return err
	}
	for i := range agreed {
		b := baseOf(&agreed[i], j.into.Columns)
		j.base[agreed[i].Key] = b
	}
	j.detail = &Detail{}
	j.plan, err = j.compare(ctx, t)
	if err != nil {
		return err
	}
	if j.list.Paged() && slices.ContainsFunc(j.plan.Outcomes, goneFromList) {
		if err := j.lookAgain(ctx, t); err != nil {
			return err
		}
	}
	if err := j.plan.Guard(j.sync.Share(), j.how.Beyond || j.how.Decided != nil); err != nil {
		return err
	}
	j.describe(t)
	return nil
}

// compare works out what is to be done between the list as it is known to be
// and the tab as it is in t.
func (j *syncJob) compare(ctx context.Context, t *sheet.Tracker) (*reconcile.Plan, error) {
	items := j.items
	if len(j.removed)+len(j.added) > 0 {
		items = slices.DeleteFunc(slices.Concat(j.items, j.added), func(it reconcile.Item) bool { return j.removed[reconcile.Fold(it.Key)] })
	}
	base := make([]reconcile.Base, 0, len(j.base))
	for _, b := range j.base {
		base = append(base, *b)
	}
	rows := j.into.Rows(t)
	policy := j.policy
	if policy.Conflict == reconcile.Newest { // who is newer is asked only of what clashes
		policy.Conflict = reconcile.Hold
		if err := j.dateClashes(ctx, t, reconcile.Compare(items, rows, base, j.names(t), policy)); err != nil {
			return nil, err
		}
		policy.Conflict = reconcile.Newest
	}
	p := reconcile.Compare(items, rows, base, j.names(t), policy)
	j.leaveUnread(p)
	if j.how.Decided != nil {
		p.Only(j.how.Decided)
	}
	return p, nil
}

func goneFromList(o reconcile.Outcome) bool {
	return o.List == nil && o.Base != nil && (o.Kind == reconcile.GoneList || o.Kind == reconcile.Conflict)
}

// lookAgain fetches a list that comes in pages once more where records seem to be
// gone: one that others push from page to page meanwhile is on neither. Gone is
// what is missing both times.
func (j *syncJob) lookAgain(ctx context.Context, t *sheet.Tracker) error {
	entries, err := j.d.Lists.Fetch(ctx, j.list)
	if err != nil {
		return fmt.Errorf("fetching the list of sync %s once more: %w", j.part.Name, err)
	}
	first, firstItems := j.entries, j.items
	if err := j.readEntries(ctx, t, entries); err != nil {
		return err
	}
	there := map[string]bool{}
	for i := range j.items {
		there[reconcile.Fold(j.items[i].Key)] = true
	}
	for i := range firstItems { // it was there a moment ago
		if it := firstItems[i]; !there[reconcile.Fold(it.Key)] {
			j.entries = append(j.entries, first[it.At])
			it.At = len(j.entries) - 1
			j.items = append(j.items, it)
		}
	}
	j.plan, err = j.compare(ctx, t)
	return err
}

// leaveUnread leaves alone what concerns records that could not be read. Where not
// even a key could, any record that seems to be gone may be that one.
func (j *syncJob) leaveUnread(p *reconcile.Plan) {
	gone := 0
	p.Outcomes = slices.DeleteFunc(p.Outcomes, func(o reconcile.Outcome) bool {
		if j.unknown > 0 && goneFromList(o) {
			gone++
			return true
		}
		return j.unread[reconcile.Fold(o.Key)]
	})
	p.Troubles = append(p.Troubles, j.bad...)
	if gone > 0 {
		p.Troubles = append(p.Troubles, reconcile.Trouble{Where: "the list", Why: fmt.Sprintf("%d records seem to be gone, and are left as they are: some of the list could not be read, and may be they", gone)})
	}
}

// dateClashes notes when the rows that clash were last changed.
func (j *syncJob) dateClashes(ctx context.Context, t *sheet.Tracker, p *reconcile.Plan) error {
	for i := range p.Outcomes {
		o := &p.Outcomes[i]
		if o.Kind != reconcile.Conflict || o.Tab == nil {
			continue
		}
		at, err := j.d.store.TimeOf(ctx, t.Row(o.Tab.Row).Version)
		if err != nil {
			return err
		}
		o.Tab.Changed = at.Unix()
	}
	return nil
}

func (j *syncJob) names(t *sheet.Tracker) []string {
	names := make([]string, len(j.into.Columns))
	for i, c := range j.into.Columns {
		if col := t.ColumnByID(c); col != nil {
			names[i] = col.Name
		}
	}
	return names
}

// turn makes the tab's part of the sync, against its newest state.
func (j *syncJob) turn(turn *engine.Turn) error {
	turn.Store(j.also)
	tr := turn.Draft.Own(j.tracker)
	if tr == nil || tr.Shape != j.shape {
		return fmt.Errorf("the tracker's setup was changed while sync %s ran: run it again", j.part.Name)
	}
	if j.how.Preview {
		turn.Run.Detail = j.detail
		return j.plan.Apply(turn.Draft, j.into)
	}
	sent := j.detail
	plan, err := j.compare(context.Background(), tr)
	if err != nil {
		return err
	}
	j.plan = plan
	j.detail = &Detail{}
	j.describe(tr)
	j.detail.Writes, j.detail.Stopped, j.detail.NotSent, j.detail.More = sent.Writes, sent.Stopped, sent.NotSent, sent.More
	j.detail.AddList, j.detail.UpdateList, j.detail.GoneTab, j.detail.Unchanged = sent.AddList, sent.UpdateList, sent.GoneTab, sent.Unchanged
	if sent.Stopped == "" {
		j.detail.Troubles = append(j.detail.Troubles, sent.Troubles...)
	}
	j.detail.Troubles = dedupe(j.detail.Troubles)
	turn.Run.Detail = j.detail
	return plan.Apply(turn.Draft, j.into)
}
