// Package workspace puts a workspace together: the engine, and on it every feature. It
// knows no HTTP and serves the interface, tests and benchmarks alike.
package workspace

import (
	"context"
	"crypto/x509"
	"errors"
	"log/slog"
	"time"

	"example.org/kavlo/internal/access"
	"example.org/kavlo/internal/attach"
	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/forms"
	"example.org/kavlo/internal/history"
	"example.org/kavlo/internal/intake"
	"example.org/kavlo/internal/kinds"
	"example.org/kavlo/internal/notify"
	"example.org/kavlo/internal/output"
	"example.org/kavlo/internal/pages"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/syncing"
	"example.org/kavlo/internal/trigger"
	"example.org/kavlo/internal/upkeep"
)

// Config says how a workspace is run.
type Config struct {
	Dir     string // data folder
	Now     func() time.Time
	Mailer  notify.Mailer  // nil: mail goes by the server that an admin sets, and waits without one
	Trust   *x509.CertPool // besides the system, whom that server is trusted by; nil: nobody
	Lists   syncing.Lists  // nil: syncs fail
	Log     *slog.Logger
	Console string // address of the console, for links in mails
	Limits  rule.Limits
	Budgets engine.Budgets // zero: engine.DefaultBudgets
	Setup   *setup.Format  // the kinds of definition there are; nil: all of them
	Store   store.Options
	// SendRate is how many mails a minute may go; 0: as fast as the server takes them.
	SendRate int
	// FileFolders are folders, by their full paths, with workbooks that rules may write into
	// and make others of, besides the workspace's own.
	FileFolders []string
	// KeepRuns is how long runs are kept; 0: KeepRunsFor. The journal is kept.
	KeepRuns time.Duration
}

// KeepRunsFor is how long runs are kept unless told otherwise.
const KeepRunsFor = 90 * 24 * time.Hour

// Workspace is a running workspace: its engine, and what each feature does on it.
type Workspace struct {
	*engine.Engine
	*edit.Editor
	*history.History
	*intake.Intake
	*output.Files
	*syncing.Syncs
	*notify.Post
	*access.Gate
	Pages *pages.Pages
	Forms *forms.Forms
	// Attachments are the files that cells hold.
	Attachments *attach.Files
	*upkeep.Upkeep
	*trigger.Triggers
}

// Open opens the workspace in cfg.Dir and starts the writer. Serve starts what runs by
// itself.
func Open(ctx context.Context, cfg Config) (*Workspace, error) {
	for _, folder := range cfg.FileFolders {
		if err := output.CheckFolder(cfg.Dir, folder); err != nil {
			return nil, err
		}
	}
	if cfg.Limits == (rule.Limits{}) {
		cfg.Limits = rule.DefaultLimits
	}
	if cfg.KeepRuns == 0 {
		cfg.KeepRuns = KeepRunsFor
	}
	if cfg.Setup == nil {
		cfg.Setup = kinds.Setup
	}
	w := &Workspace{Triggers: &trigger.Triggers{Limits: cfg.Limits}}
	if cfg.Lists != nil {
		w.Triggers.Lists = cfg.Lists
	}
	e, err := engine.Open(ctx, engine.Config{Dir: cfg.Dir, Console: cfg.Console, Now: cfg.Now, Log: cfg.Log, Budgets: cfg.Budgets, Kinds: cfg.Setup.Kinds(), Store: cfg.Store, React: w.React, Complete: w.complete, Warn: w.Warn})
	if err != nil {
		return nil, err
	}
	w.Engine, w.Editor, w.History, w.Files = e, &edit.Editor{Engine: e, Setup: cfg.Setup}, history.New(e), output.New(e, cfg.FileFolders)
	w.Pages, w.History.Files = pages.New(e), w.PutBack
	w.Attachments = attach.New(e)
	w.Forms = forms.New(e, access.HashSecret, w.Attachments)
	w.Gate, w.Syncs = access.New(e, cfg.Console), syncing.New(e, cfg.Lists)
	w.Post = notify.New(e, notify.Config{Mailer: cfg.Mailer, Console: cfg.Console, SendRate: cfg.SendRate, Files: w.Files, Secrets: w.Gate, Tallies: mailed{w}, Trust: cfg.Trust, Journaled: w.Journaled})
	w.Upkeep = upkeep.New(e, cfg.KeepRuns, w.NoteUsed, w.Files.Sweep, w.Attachments.Sweep)
	w.Intake = intake.New(e, w.byFile)
	w.attach(e)
	if err := w.AsideBefore(ctx); err != nil {
		return nil, errors.Join(err, e.Close())
	}
	return w, nil
}

// attach tells the triggers what they set off.
func (w *Workspace) attach(e *engine.Engine) {
	w.Attach(e)
	w.Triggers.Write, w.Triggers.Mail, w.Triggers.Sweep = w.Files.Write, w.Post.Mail, w.Upkeep.Sweep
	w.Runners = map[sheet.DefinitionKind]trigger.Runner{
		sheet.KindSync: func(ctx context.Context, c *trigger.Clocked, _ time.Time, mark trigger.Mark) error {
			_, err := w.RunSync(ctx, policy.Itself(policy.ByClock), sheet.ByClock, c.Tracker, c.Definition.Name, syncing.How{Also: mark})
			return err
		},
		sheet.KindRound: func(ctx context.Context, c *trigger.Clocked, occurrence time.Time, _ trigger.Mark) error {
			plan, err := w.PlanRound(ctx, c.Tracker, c.Definition.Name)
			if err != nil {
				return err
			}
			plan.Occurrence = occurrence
			_, _, err = w.RunRound(ctx, policy.Itself(policy.ByClock), sheet.ByClock, c.Tracker, plan)
			return err
		},
	}
	w.Beside = map[sheet.DefinitionKind]bool{sheet.KindSync: true} // lists may be slow to answer
}

// complete opens the pages that open by themselves, and keeps the files that cells hold.
func (w *Workspace) complete(t *engine.Turn) error {
	if w.Attachments == nil { // it is opening
		return nil
	}
	if err := w.Pages.Follow(t); err != nil {
		return err
	}
	w.Attachments.Follow(t)
	return nil
}

// byFile gives the request to run a rule on a file.
func (w *Workspace) byFile(by policy.Principal, cause sheet.Cause, t *sheet.Tracker, r *rule.Compiled, f *rule.File, take func(*engine.Turn) intake.TakeRows) engine.Request {
	return w.Run(by, t, r, cause, trigger.How{File: f, Take: take})
}

// Serve runs what runs by itself until the workspace is closed: the intake, the clock,
// the outbox.
func (w *Workspace) Serve(ctx context.Context) {
	w.Engine.Loop(ctx, "watching the intake", w.Intake.Loop)
	w.Engine.Loop(ctx, "watching the clock", w.ClockLoop)
	w.Engine.Loop(ctx, "watching the outbox", w.Post.Loop)
}
