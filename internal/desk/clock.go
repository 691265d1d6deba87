package desk

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/recur"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
)

// Clocked is a part that the clock wakes.
type Clocked struct {
	Tracker *sheet.Tracker
	Part    *sheet.Part
	Phrase  string
	Next    time.Time
	Last    time.Time // the last occurrence it ran for; zero if never
	when    *recur.Schedule
	ahead   time.Time // of when it ran last, where that is still to come; Last is now then
}

func (c *Clocked) calendar() recur.Calendar {
	return recur.Calendar{Zone: c.Tracker.Location(), Working: c.Tracker.Working}
}

// byClock is who stands in the journal for what the clock wakes.
const byClock = "the clock"

// grace is how late an occurrence may be and not count as missed.
const grace = 2 * time.Minute

// Clocked gives every part that the clock wakes, the next first.
func (d *Desk) Clocked(ctx context.Context) ([]Clocked, error) {
	var out []Clocked
	last, err := d.store.ClockedAll(ctx)
	if err != nil {
		return nil, err
	}
	for _, t := range d.State().Trackers() {
		for i := range t.Parts {
			p := &t.Parts[i]
			if shape, is := d.asideParts.Load(p.ID); is && shape == t.Shape {
				continue
			}
			c, err := d.clocked(t, p)
			if err != nil { // one that cannot be read holds up no other
				d.Notice(engine.AboutPart(p), fmt.Sprintf("%s %s of %s does not run by its clock: %v", p.Kind, p.Name, t.Name, err))
				continue
			}
			if c == nil {
				continue
			}
			c.Last = last[store.Part{Tracker: t.ID, ID: c.Part.ID}]
			if now := d.Now(); c.Last.After(now.Add(grace)) { // the machine's clock was ahead when it ran
				c.ahead, c.Last = c.Last, now
			}
			from := c.Last
			if from.IsZero() {
				from = d.Now()
			}
			if next, ok := c.when.Next(from, c.calendar()); ok {
				c.Next = next
				out = append(out, *c)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Clocked) int { return a.Next.Compare(b.Next) })
	return out, nil
}

// decoded gives a part's definition as it is stored.
func decoded[T program.Definition](d *Desk, p *sheet.Part) (T, error) {
	var none T
	def, err := d.Setup.Kinds().Decode(p)
	if err != nil {
		return none, err
	}
	return def.(T), nil
}

// clocked gives a part that runs by itself, or nil.
func (d *Desk) clocked(t *sheet.Tracker, p *sheet.Part) (*Clocked, error) {
	ready, err := d.Program(t.Shape)
	if err != nil {
		return nil, err
	}
	e, err := ready.Entry(p.ID)
	if err != nil {
		return nil, err
	}
	if e.Definition == nil {
		return nil, e.Err
	}
	scheduler, is := e.Definition.(program.Scheduler)
	if !is {
		return nil, nil
	}
	when, err := scheduler.Schedule()
	if when == nil || err != nil {
		return nil, err
	}
	return &Clocked{Tracker: t, Part: p, Phrase: when.Clock.Phrase, when: when}, nil
}

// clockLoop runs what comes due.
func (d *Desk) clockLoop(ctx context.Context) {
	for {
		if d.Unwritable() {
			_ = d.Ready(ctx) // notes it when there is room again
		}
		next, err := d.tick(ctx, true)
		if err != nil && ctx.Err() == nil {
			d.Log.Error("the clock could not be worked through", "err", err)
		}
		wait := 20 * time.Second
		if !next.IsZero() {
			wait = min(wait, max(100*time.Millisecond, next.Sub(d.Now())))
		}
		timer := time.NewTimer(wait)
		select {
		case <-ctx.Done():
			timer.Stop()
			return
		case <-timer.C:
		}
	}
}

// Tick runs every clocked part that is due now, each once however many of its
// occurrences were missed, and gives when the next is due.
func (d *Desk) Tick(ctx context.Context) (time.Time, error) { return d.tick(ctx, false) }

// tick does what Tick does. With beside, it waits for no sync: a list that is slow
// to answer holds up nothing else.
func (d *Desk) tick(ctx context.Context, beside bool) (time.Time, error) {
	all, err := d.Clocked(ctx)
	if err != nil {
		return time.Time{}, err
	}
	now := d.Now()
	if err := d.sweep(ctx, now); err != nil {
		d.Log.Error("what is not needed any more could not be swept", "err", err)
	}
	var next time.Time
	for i := range all {
		c := &all[i]
		switch {
		case !c.ahead.IsZero():
			d.Notice(aboutClock, fmt.Sprintf("The machine's clock was ahead for a while, or is behind now: %s %s of %s ran for %s, and it is %s. It goes on from now.",
				c.Part.Kind, c.Part.Name, c.Tracker.Name, c.ahead.Format(time.DateTime), now.Format(time.DateTime)))
			err = d.setClocked(ctx, c, now)
		case c.Last.IsZero(): // first seen: count from now on
			err = d.setClocked(ctx, c, now)
		case !c.Next.After(now) && beside && c.Part.Kind == sheet.PartSync:
			d.runBeside(ctx, *c, now)
		case !c.Next.After(now):
			err = d.runGuarded(ctx, c, now)
		}
		if err != nil {
			d.Log.Error("a clocked run failed", "part", c.Part.Name, "err", err)
		}
		if after, ok := c.when.Next(now, c.calendar()); ok && (next.IsZero() || after.Before(next)) {
			next = after
		}
	}
	return next, nil
}

// sweep removes what nobody reads any more, and writes down what is written now
// and then.
func (d *Desk) sweep(ctx context.Context, now time.Time) error {
	err := d.noteUsed(ctx)
	if !d.steady(now) {
		return err
	}
	err = errors.Join(err, d.store.PruneRuns(ctx, now.Add(-d.KeepRuns)), d.sweepWritten(ctx))
	if now.Sub(d.swept) < sweepEvery {
		return err
	}
	d.swept = now
	return errors.Join(err, d.store.ForgetAnswers(ctx, now.Add(-KeysKept)), d.store.ForgetExpired(ctx, now.Add(-KeysKept)))
}

// steadyFor is how long the clock must have gone on evenly before anything is
// removed because its time is up: one that jumps ahead for a moment must not take
// everything with it.
const (
	steadyFor = time.Hour
	jump      = 25 * time.Hour
)

// steady reports whether the clock has gone on evenly for a while.
func (d *Desk) steady(now time.Time) bool {
	since := now.Sub(d.ticked)
	if d.ticked.IsZero() || since < 0 || since > jump {
		d.steadySince, d.swept = now, time.Time{}
	}
	d.ticked = now
	return now.Sub(d.steadySince) >= steadyFor
}

const aboutClock = "the machine's clock"

// notAfter gives a time, or now where that is still to come.
func notAfter(t, now time.Time) time.Time {
	if t.After(now) {
		return now
	}
	return t
}

// sweepEvery is how often what fills slowly is swept.
const sweepEvery = time.Hour

// runBeside runs a clocked part by itself, unless it is running still.
func (d *Desk) runBeside(ctx context.Context, c Clocked, now time.Time) {
	if _, running := d.beside.LoadOrStore(c.Part.ID, true); running {
		return
	}
	d.Go(func() {
		defer d.beside.Delete(c.Part.ID)
		if err := d.runGuarded(ctx, &c, now); err != nil {
			d.Log.Error("a clocked run failed", "part", c.Part.Name, "err", err)
		}
	})
}

// runGuarded runs a clocked part. One that goes wrong in a way nobody thought of is
// set aside until its tracker's setup changes or the service starts anew.
func (d *Desk) runGuarded(ctx context.Context, c *Clocked, now time.Time) error {
	err := d.Guarded(string(c.Part.Kind)+" "+c.Part.Name+" was run by its clock", func() error { return d.runClocked(ctx, c, now) })
	var panicked *Panicked
	if !errors.As(err, &panicked) {
		return err
	}
	d.asideParts.Store(c.Part.ID, c.Tracker.Shape)
	d.Notice(engine.AboutPart(c.Part), fmt.Sprintf("%s %s of %s was set aside, because the service went wrong while running it. It runs by its clock again once it is changed, or the service is started anew.", c.Part.Kind, c.Part.Name, c.Tracker.Name))
	return errors.Join(err, d.setClocked(context.WithoutCancel(ctx), c, now))
}

func (d *Desk) setClocked(ctx context.Context, c *Clocked, at time.Time) error {
	b, err := d.store.Begin(ctx)
	if err != nil {
		return err
	}
	defer b.Rollback()
	if err := b.SetClocked(ctx, c.Tracker.ID, c.Part.ID, at); err != nil {
		return err
	}
	return b.Commit()
}

func (d *Desk) runClocked(ctx context.Context, c *Clocked, now time.Time) error {
	occurrence, ok := c.when.Due(c.Last, now, c.calendar())
	if !ok {
		return nil
	}
	if c.when.Skip && now.Sub(c.when.Opened(occurrence, c.calendar())) > grace {
		return d.setClocked(ctx, c, occurrence)
	}
	marked := func(ctx context.Context, b *store.Batch, _ *Result) error {
		return b.SetClocked(ctx, c.Tracker.ID, c.Part.ID, occurrence)
	}
	run := clockedRuns[c.Part.Kind]
	if run == nil {
		return fmt.Errorf("nothing runs a %s by its clock", c.Part.Kind)
	}
	err := run(d, ctx, c, occurrence, marked)
	if err != nil { // the failure is on record; the next occurrence tries again
		if markErr := d.setClocked(ctx, c, occurrence); markErr != nil {
			return markErr
		}
	}
	return err
}

// mark keeps, in the transaction of what a clock woke, for which occurrence it ran.
type mark = func(context.Context, *store.Batch, *Result) error

// clockedRuns run definitions of each kind by their clock. What they do marks the
// occurrence in the same transaction.
var clockedRuns = map[sheet.PartKind]func(d *Desk, ctx context.Context, c *Clocked, occurrence time.Time, marked mark) error{
	sheet.PartRule: func(d *Desk, ctx context.Context, c *Clocked, _ time.Time, marked mark) error {
		r, err := d.FindRule(c.Tracker, c.Part.Name)
		if err != nil {
			return err
		}
		req := d.run(policy.Itself(byClock), c.Tracker, r, sheet.Cause{Kind: sheet.ByClock, Name: r.Name}, running{})
		_, err = d.Commit(ctx, with(req, marked))
		return err
	},
	sheet.PartSync: func(d *Desk, ctx context.Context, c *Clocked, _ time.Time, marked mark) error {
		_, err := d.RunSync(ctx, policy.Itself(byClock), sheet.ByClock, c.Tracker, c.Part.Name, SyncHow{also: marked})
		return err
	},
	sheet.PartRound: func(d *Desk, ctx context.Context, c *Clocked, occurrence time.Time, _ mark) error {
		plan, err := d.PlanRound(ctx, c.Tracker, c.Part.Name)
		if err != nil {
			return err
		}
		plan.Occurrence = occurrence
		_, _, err = d.RunRound(ctx, policy.Itself(byClock), sheet.ByClock, c.Tracker, plan)
		return err
	},
}
