// Package desk is the service's heart. It holds the present state of every
// tracker and is the one door through which anything alters one: whoever wants
// a change hands in a Request, whose change set is worked out against the
// newest state, written in one transaction and only then published.
//
// desk.go opens and closes it, commit.go is the door, edit.go, rules.go,
// undo.go, setup.go, imports.go and syncs.go (with sync_*.go) make requests,
// rounds.go and outbox.go see to mail, acting.go to what people do from it, feed.go
// to calendars, clock.go runs what the clock wakes, intake.go, outfiles.go and
// snapshots.go see to files, why.go tells where things came from, access.go who may
// come in, events.go tells who listens.
package desk

import (
	"context"
	"errors"
	"log/slog"
	"sync"
	"sync/atomic"
	"time"

	"golang.org/x/time/rate"

	"example.org/kavlo/internal/kinds"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
)

// Mail is a letter on its way.
type Mail struct {
	ID         string // makes the Message-ID, the same on every try
	To         string
	Subject    string
	Text, HTML string
	Date       time.Time
	Attach     []Attachment
	Pause      string // address at which the reader stops such mails, or ""
}

// Attachment is a file that goes with a mail.
type Attachment struct {
	Name string
	Data []byte
}

// Mailer hands a mail over to a mail server. An error whose Temporary method
// says false means that trying again is useless.
type Mailer interface {
	Send(ctx context.Context, m *Mail) error
}

// Config says how a desk is run.
type Config struct {
	Dir     string // data folder
	Now     func() time.Time
	Mailer  Mailer // nil: mail waits in the outbox
	Lists   Lists  // nil: syncs fail
	Log     *slog.Logger
	Console string // address of the console, for links in mails
	Limits  rule.Limits
	Budgets Budgets // zero: DefaultBudgets
	Setup   *setup.Format // the kinds of definition there are; nil: all of them
	Store   store.Options
	// SendRate is how many mails a minute may go; 0: as fast as the server takes them.
	SendRate int
	// KeepRuns is how long runs are kept; 0: KeepRunsFor. The journal is kept.
	KeepRuns time.Duration
}

// KeepRunsFor is how long runs are kept unless told otherwise.
const KeepRunsFor = 90 * 24 * time.Hour

// Desk is a running workspace.
type Desk struct {
	Config
	store    *store.Store
	state    atomic.Pointer[published]
	queue    chan *pending
	stop     context.CancelFunc
	done     sync.WaitGroup
	nextPart atomic.Int64
	nextRow  atomic.Int64  // written by the writer alone
	wake     chan struct{} // tells the sender that mail waits

	// owned by the writer
	seq       int64
	savedPart int64

	heavy        *gate
	closing      context.Context // is done once the desk closes
	stopped      chan struct{}   // closed once the writer has gone
	past         past            // states of before that were asked for lately
	pastPrograms pastPrograms
	pace         *rate.Limiter // of mails; nil: none
	sending      sync.Mutex    // one pass over the outbox at a time
	beside       sync.Map      // ids of clocked parts that run by themselves
	syncs        syncing
	events       broadcast
	noticed      notices
	// memory counts the changes to what reminders remember and who is paused. The
	// writer alone makes them.
	memory   atomic.Int64
	used     sync.Map // by hash of a secret: when it was last used
	accesses atomic.Int64

	// of the clock's loop
	swept, ticked, steadySince time.Time

	sighted map[string]sighting // of the intake's loop: files stamped with times still to come

	asideParts sync.Map // by id: clocked parts that went wrong, with the shape that they did in

	unwritable atomic.Bool
	readyMu    sync.Mutex
	readyAt    time.Time // when writing was last tried, and went
}

// published is a state with the number of the last change set in it.
type published struct {
	*sheet.Workspace
	seq      int64
	programs programs
}

// Open opens the workspace in cfg.Dir and starts the writer. Serve starts the
// scheduler and the sender.
func Open(ctx context.Context, cfg Config) (*Desk, error) {
	if cfg.Now == nil {
		cfg.Now = time.Now
	}
	if cfg.Log == nil {
		cfg.Log = slog.New(slog.DiscardHandler)
	}
	if cfg.Limits == (rule.Limits{}) {
		cfg.Limits = rule.DefaultLimits
	}
	if cfg.Budgets == (Budgets{}) {
		cfg.Budgets = DefaultBudgets
	}
	if cfg.Setup == nil {
		cfg.Setup = kinds.Setup
	}
	if cfg.KeepRuns == 0 {
		cfg.KeepRuns = KeepRunsFor
	}
	s, err := store.Open(ctx, cfg.Dir, cfg.Store)
	if err != nil {
		return nil, err
	}
	var pace *rate.Limiter
	if cfg.SendRate > 0 {
		pace = rate.NewLimiter(rate.Limit(float64(cfg.SendRate)/60), 1)
	}
	run, stop := context.WithCancel(context.WithoutCancel(ctx))
	d := &Desk{Config: cfg, pace: pace, store: s, queue: make(chan *pending, 256), wake: make(chan struct{}, 1), heavy: newGate(cfg.Budgets), closing: run, stop: stop, stopped: make(chan struct{})}
	if err := d.load(ctx); err != nil {
		stop()
		return nil, errors.Join(err, s.Close())
	}
	d.failed(s.NoRoom())
	d.done.Add(1)
	go func() {
		defer d.done.Done()
		defer close(d.stopped)
		d.writer(run)
	}()
	return d, nil
}

func (d *Desk) load(ctx context.Context) error {
	w, aside, err := d.store.Load(ctx)
	if err != nil {
		return err
	}
	for _, u := range aside {
		d.notice(u.What+" "+u.ID, u.String())
	}
	next := map[string]int64{}
	for _, name := range []string{"row", "part"} {
		if next[name], err = d.store.Counter(ctx, name); err != nil {
			return err
		}
	}
	last, err := d.store.LastSeq(ctx)
	if err != nil {
		return err
	}
	if err := d.asideBefore(ctx); err != nil {
		return err
	}
	d.seq, d.savedPart = last+1, next["part"]
	d.state.Store(&published{w, d.seq - 1, programs{}.following(w, nil)})
	d.nextRow.Store(next["row"])
	d.nextPart.Store(d.savedPart)
	return nil
}

// Serve runs the scheduler and the outbox sender until the desk is closed.
func (d *Desk) Serve(ctx context.Context) {
	run, stop := context.WithCancel(ctx)
	before := d.stop
	d.stop = func() { stop(); before() }
	d.done.Add(3)
	for doing, loop := range map[string]func(context.Context){"watching the intake": d.intakeLoop, "watching the clock": d.clockLoop, "watching the outbox": d.sendLoop} {
		go func() {
			defer d.done.Done()
			for run.Err() == nil { // a loop that went wrong begins anew
				_ = d.guarded(doing, func() error { loop(run); return nil })
				select {
				case <-run.Done():
				case <-time.After(loopRest):
				}
			}
		}()
	}
}

// loopRest is how long a loop rests that went wrong.
const loopRest = 5 * time.Second

// closeWait is how long Close waits for what is under way to end.
const closeWait = 4 * time.Second

// Close stops everything and closes the file. What has been answered is kept.
// What does not end in time, whatever it is, is left behind.
func (d *Desk) Close() error {
	d.stop()
	ended := make(chan struct{})
	go func() {
		d.done.Wait()
		close(ended)
	}()
	select {
	case <-ended:
	case <-time.After(closeWait):
		d.Log.Error("something under way does not end, and is left behind")
	}
	d.events.close()
	return d.store.Close()
}

// State gives the present state; it never changes and may be kept.
func (d *Desk) State() *sheet.Workspace { return d.state.Load().Workspace }

// Seq gives the number of the newest change set in the present state.
func (d *Desk) Seq() int64 { return d.state.Load().seq }

// Store gives the store, for reading the journal, runs and outbox.
func (d *Desk) Store() *store.Store { return d.store }

// newID gives ids for tabs, columns, parts and trackers.
func (d *Desk) newID() int64 { return d.nextPart.Add(1) - 1 }

// Directory gives people's addresses by name, and names by address.
func (d *Desk) Directory(ctx context.Context) (reminder.Directory, map[string]string, error) {
	people, err := d.store.People(ctx)
	if err != nil {
		return nil, nil, err
	}
	dir, names := reminder.Directory{}, map[string]string{}
	for _, p := range people {
		dir[foldName(p.Name)] = p.Address
		names[p.Address] = p.Name
	}
	return dir, names, nil
}

// Find finds a tracker by name or id in the present state.
func (d *Desk) Find(tracker string) (*sheet.Tracker, error) { return d.State().Find(tracker) }

// FindTab finds a tracker and a tab by name or id.
func (d *Desk) FindTab(tracker, tab string) (*sheet.Tracker, *sheet.TabShape, error) {
	t, err := d.Find(tracker)
	if err != nil {
		return nil, nil, err
	}
	s, err := t.Tab(tab)
	return t, s, err
}
