// Package engine holds the present state of every tracker and is the one door through
// which anything alters one: whoever wants a change hands in a Request, whose change set
// is worked out against the newest state, written in one transaction and only then
// published. It names no feature: what follows from a change, what definitions there
// are, and what a run has to tell, it is told.
//
// There is one writer. Requests wait for it in a queue, and as many as wait share a
// transaction; each stands or falls alone. Readers hold a state as long as they like.
package engine

import (
	"context"
	"errors"
	"log/slog"
	"sync"
	"sync/atomic"
	"time"

	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
)

// Config says how an engine is run.
type Config struct {
	Dir     string           // data folder
	Now     func() time.Time // nil: the machine's clock
	Log     *slog.Logger     // nil: none
	Budgets Budgets          // zero: DefaultBudgets
	Kinds   program.Kinds    // of definition, that there are
	Store   store.Options
	Console string // its address as people reach it, for links

	// React works out what follows from the changes of a turn; nil: nothing does.
	React func(*Turn) error
	// Complete adds what belongs to the changes of a turn once all that follows is worked
	// out, whoever worked it out; nil: nothing.
	Complete func(*Turn) error
	// Warn says what a change of setup may bring; nil: nothing.
	Warn func(*Turn, *sheet.Change) ([]string, error)
}

// Engine is a running workspace.
type Engine struct {
	Config
	store          *store.Store
	state          atomic.Pointer[published]
	queue          chan *pending
	stop           context.CancelFunc
	done           sync.WaitGroup
	nextDefinition atomic.Int64
	nextRow        atomic.Int64 // written by the writer alone

	// owned by the writer
	seq       int64
	savedPart int64

	heavy   *gate
	closing context.Context // is done once the engine closes
	stopped chan struct{}   // closed once the writer has gone
	events  broadcast
	noticed notices

	pastPrograms pastPrograms
	reduced      reduced

	unwritable atomic.Bool
	readyMu    sync.Mutex
	readyAt    time.Time // when writing was last tried, and went
}

// published is a state with the number of the last change set in it, and what its
// shapes were compiled to.
type published struct {
	*sheet.Workspace
	seq      int64
	programs programs
}

// Open opens the workspace in cfg.Dir and starts the writer.
func Open(ctx context.Context, cfg Config) (*Engine, error) {
	if cfg.Now == nil {
		cfg.Now = time.Now
	}
	if cfg.Log == nil {
		cfg.Log = slog.New(slog.DiscardHandler)
	}
	if cfg.Budgets == (Budgets{}) {
		cfg.Budgets = DefaultBudgets
	}
	s, err := store.Open(ctx, cfg.Dir, cfg.Store)
	if err != nil {
		return nil, err
	}
	run, stop := context.WithCancel(context.WithoutCancel(ctx))
	e := &Engine{Config: cfg, store: s, queue: make(chan *pending, 256), heavy: newGate(cfg.Budgets), closing: run, stop: stop, stopped: make(chan struct{})}
	if err := e.load(ctx); err != nil {
		stop()
		return nil, errors.Join(err, s.Close())
	}
	e.failed(s.NoRoom())
	e.done.Add(1)
	go func() {
		defer e.done.Done()
		defer close(e.stopped)
		e.writer(run)
	}()
	return e, nil
}

func (e *Engine) load(ctx context.Context) error {
	setAside := func(all []store.Unreadable) {
		for _, u := range all {
			e.Notice(u.What+" "+u.ID, u.String())
		}
	}
	w, aside, err := e.store.LoadLazily(ctx, setAside)
	if err != nil {
		return err
	}
	setAside(aside)
	next := map[string]int64{}
	for _, name := range []string{"row", "part"} {
		if next[name], err = e.store.Counter(ctx, name); err != nil {
			return err
		}
	}
	last, err := e.store.LastSeq(ctx)
	if err != nil {
		return err
	}
	e.seq, e.savedPart = last+1, next["part"]
	e.state.Store(&published{w, e.seq - 1, programs{}.following(w, nil)})
	e.nextRow.Store(next["row"])
	e.nextDefinition.Store(e.savedPart)
	return nil
}

// loopRest is how long a loop rests that went wrong.
const loopRest = 5 * time.Second

// Loop does something until ctx or the engine ends. A loop that panics begins anew.
func (e *Engine) Loop(ctx context.Context, doing string, loop func(context.Context)) {
	run, stop := context.WithCancel(ctx)
	context.AfterFunc(e.closing, stop)
	e.done.Go(func() {
		defer stop()
		for run.Err() == nil {
			_ = e.guarded(doing, func() error { loop(run); return nil })
			select {
			case <-run.Done():
			case <-time.After(loopRest):
			}
		}
	})
}

// Go does something beside, which Close waits for.
func (e *Engine) Go(do func()) { e.done.Go(do) }

// CloseWait is how long Close waits for what is under way to end.
const CloseWait = 4 * time.Second

// Close stops everything and closes the file. What has been answered is kept.
// What does not end in time, whatever it is, is left behind.
func (e *Engine) Close() error {
	e.stop()
	ended := make(chan struct{})
	go func() {
		e.done.Wait()
		close(ended)
	}()
	select {
	case <-ended:
	case <-time.After(CloseWait):
		e.Log.Error("something under way does not end, and is left behind")
	}
	e.events.close()
	return e.store.Close()
}

// State gives the present state; it never changes and may be kept.
func (e *Engine) State() *sheet.Workspace { return e.state.Load().Workspace }

// Seq gives the number of the newest change set in the present state.
func (e *Engine) Seq() int64 { return e.state.Load().seq }

// Newest gives the present state and the number of its newest change set.
func (e *Engine) Newest() (*sheet.Workspace, int64) {
	s := e.state.Load()
	return s.Workspace, s.seq
}

// Present gives a tracker of the present state, all of it, or nil; Trackers gives all.
// They are for asking what somebody may see: reading is Seen's.
func (e *Engine) Present(id sheet.TrackerID) *sheet.Tracker { return e.State().Tracker(id) }

// Trackers gives every tracker of the present state, by id.
func (e *Engine) Trackers() []*sheet.Tracker { return e.State().Trackers() }

// Store gives the store, for reading the journal, runs and outbox.
func (e *Engine) Store() *store.Store { return e.store }

// NewID gives ids for tabs, columns, definitions and trackers.
func (e *Engine) NewID() int64 { return e.nextDefinition.Add(1) - 1 }

// Find finds a tracker by name or id in the present state.
func (e *Engine) Find(tracker string) (*sheet.Tracker, error) { return e.State().Find(tracker) }

// FindTab finds a tracker and a tab by name or id.
func (e *Engine) FindTab(tracker, tab string) (*sheet.Tracker, *sheet.TabShape, error) {
	t, err := e.Find(tracker)
	if err != nil {
		return nil, nil, err
	}
	s, err := t.Tab(tab)
	return t, s, err
}
