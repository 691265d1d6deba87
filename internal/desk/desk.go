// Package desk puts the features of a workspace on the engine: edits, rules, undo,
// setup, imports, lists, mail, files and access.
package desk

import (
	"context"
	"errors"
	"log/slog"
	"sync"
	"sync/atomic"
	"time"

	"golang.org/x/time/rate"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
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
	Budgets Budgets       // zero: DefaultBudgets
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
	*engine.Engine
	Mailer   Mailer
	Lists    Lists
	Console  string
	Limits   rule.Limits
	SendRate int
	KeepRuns time.Duration

	store   *store.Store
	wake    chan struct{} // tells the sender that mail waits
	past    past          // states of before that were asked for lately
	pace    *rate.Limiter // of mails; nil: none
	sending sync.Mutex    // one pass over the outbox at a time
	beside  sync.Map      // ids of clocked parts that run by themselves
	syncs   syncing
	// memory counts the changes to what reminders remember and who is paused. The
	// writer alone makes them.
	memory   atomic.Int64
	used     sync.Map // by hash of a secret: when it was last used
	accesses atomic.Int64

	// of the clock's loop
	swept, ticked, steadySince time.Time

	sighted map[string]sighting // of the intake's loop: files stamped with times still to come

	asideParts sync.Map // by id: clocked parts that went wrong, with the shape that they did in
}

// Open opens the workspace in cfg.Dir and starts the writer. Serve starts the
// scheduler and the sender.
func Open(ctx context.Context, cfg Config) (*Desk, error) {
	if cfg.Limits == (rule.Limits{}) {
		cfg.Limits = rule.DefaultLimits
	}
	if cfg.KeepRuns == 0 {
		cfg.KeepRuns = KeepRunsFor
	}
	d := &Desk{Mailer: cfg.Mailer, Lists: cfg.Lists, Console: cfg.Console, Limits: cfg.Limits, SendRate: cfg.SendRate, KeepRuns: cfg.KeepRuns, wake: make(chan struct{}, 1)}
	if cfg.SendRate > 0 {
		d.pace = rate.NewLimiter(rate.Limit(float64(cfg.SendRate)/60), 1)
	}
	e, err := engine.Open(ctx, engine.Config{Dir: cfg.Dir, Now: cfg.Now, Log: cfg.Log, Budgets: cfg.Budgets, Setup: cfg.Setup, Store: cfg.Store, React: d.react, Warn: d.warn})
	if err != nil {
		return nil, err
	}
	d.Engine, d.store = e, e.Store()
	if err := d.asideBefore(ctx); err != nil {
		return nil, errors.Join(err, e.Close())
	}
	return d, nil
}

// Serve runs the scheduler and the outbox sender until the desk is closed.
func (d *Desk) Serve(ctx context.Context) {
	d.Loop(ctx, "watching the intake", d.intakeLoop)
	d.Loop(ctx, "watching the clock", d.clockLoop)
	d.Loop(ctx, "watching the outbox", d.sendLoop)
}

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

func foldName(s string) string { return value.Fold(s) }

// What the engine has, under the names that callers of a desk know.
type (
	Request     = engine.Request
	Turn        = engine.Turn
	Result      = engine.Result
	Key         = engine.Key
	Failure     = engine.Failure
	RunError    = engine.RunError
	RunBody     = engine.RunBody
	Event       = engine.Event
	Notice      = engine.Notice
	Budgets     = engine.Budgets
	Panicked    = engine.Panicked
	Busy        = engine.Busy
	TookTooLong = engine.TookTooLong
)

var (
	ErrClosed       = engine.ErrClosed
	ErrForbidden    = engine.ErrForbidden
	ErrOtherRequest = engine.ErrOtherRequest
	DefaultBudgets  = engine.DefaultBudgets
)

// KeysKept is how long idempotency keys are remembered.
const KeysKept = engine.KeysKept

func mustJSON(v any) []byte { return engine.MustJSON(v) }
