package trigger

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
	Tracker    *sheet.Tracker
	Definition *sheet.Definition
	Phrase     string
	Next       time.Time
	Last       time.Time // the last occurrence it ran for; zero if never
	when       *recur.Schedule
	ahead      time.Time // of when it ran last, where that is still to come; Last is now then
}

func (c *Clocked) calendar() recur.Calendar {
	return recur.Calendar{Zone: c.Tracker.Location(), Working: c.Tracker.Working}
}

// grace is how late an occurrence may be and not count as missed.
const grace = 2 * time.Minute

// Clocked gives every part that the clock wakes, the next first.
func (tg *Triggers) Clocked(ctx context.Context) ([]Clocked, error) {
	var out []Clocked
	last, err := tg.store.ClockedAll(ctx)
	if err != nil {
		return nil, err
	}
	for _, t := range tg.State().Trackers() {
		for i := range t.Definitions {
			p := &t.Definitions[i]
			if shape, is := tg.aside.Load(p.ID); is && shape == t.Shape {
				continue
			}
			c, err := tg.clocked(t, p)
			if err != nil { // one that cannot be read holds up no other
				tg.Notice(engine.AboutDefinition(p), fmt.Sprintf("%s %s of %s does not run by its clock: %v", p.Kind, p.Name, t.Name, err))
				continue
			}
			if c == nil {
				continue
			}
			c.Last = last[store.DefinitionKey{Tracker: t.ID, ID: c.Definition.ID}]
			if now := tg.Now(); c.Last.After(now.Add(grace)) { // the machine's clock was ahead when it ran
				c.ahead, c.Last = c.Last, now
			}
			from := c.Last
			if from.IsZero() {
				from = tg.Now()
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

// clocked gives a part that runs by itself, or nil.
func (tg *Triggers) clocked(t *sheet.Tracker, p *sheet.Definition) (*Clocked, error) {
	ready, err := tg.Program(t.Shape)
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
	when, err := program.ScheduleOf(e.Definition)
	if when == nil || err != nil {
		return nil, err
	}
	return &Clocked{Tracker: t, Definition: p, Phrase: when.Clock.Phrase, when: when}, nil
}

// ClockLoop runs what comes due.
func (tg *Triggers) ClockLoop(ctx context.Context) {
	for {
		if tg.Unwritable() {
			_ = tg.Ready(ctx) // notes it when there is room again
		}
		next, err := tg.tick(ctx, true)
		if err != nil && ctx.Err() == nil {
			tg.Log.Error("the clock could not be worked through", "err", err)
		}
		wait := 20 * time.Second
		if !next.IsZero() {
			wait = min(wait, max(100*time.Millisecond, next.Sub(tg.Now())))
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
func (tg *Triggers) Tick(ctx context.Context) (time.Time, error) { return tg.tick(ctx, false) }

// tick does what Tick does. With beside, it waits for no sync: a list that is slow
// to answer holds up nothing else.
func (tg *Triggers) tick(ctx context.Context, beside bool) (time.Time, error) {
	all, err := tg.Clocked(ctx)
	if err != nil {
		return time.Time{}, err
	}
	now := tg.Now()
	if err := tg.Sweep(ctx, now); err != nil {
		tg.Log.Error("what is not needed any more could not be swept", "err", err)
	}
	var next time.Time
	for i := range all {
		c := &all[i]
		switch {
		case !c.ahead.IsZero():
			tg.Notice(aboutClock, fmt.Sprintf("The machine's clock was ahead for a while, or is behind now: %s %s of %s ran for %s, and it is %s. It goes on from now.",
				c.Definition.Kind, c.Definition.Name, c.Tracker.Name, c.ahead.Format(time.DateTime), now.Format(time.DateTime)))
			err = tg.setClocked(ctx, c, now)
		case c.Last.IsZero(): // first seen: count from now on
			err = tg.setClocked(ctx, c, now)
		case !c.Next.After(now) && beside && tg.Beside[c.Definition.Kind]:
			tg.runBeside(ctx, *c, now)
		case !c.Next.After(now):
			err = tg.runGuarded(ctx, c, now)
		}
		if err != nil {
			tg.Log.Error("a clocked run failed", "part", c.Definition.Name, "err", err)
		}
		if after, ok := c.when.Next(now, c.calendar()); ok && (next.IsZero() || after.Before(next)) {
			next = after
		}
	}
	return next, nil
}

const aboutClock = "the machine's clock"

// runBeside runs a clocked part by itself, unless it is running still.
func (tg *Triggers) runBeside(ctx context.Context, c Clocked, now time.Time) {
	if _, running := tg.beside.LoadOrStore(c.Definition.ID, true); running {
		return
	}
	tg.Go(func() {
		defer tg.beside.Delete(c.Definition.ID)
		if err := tg.runGuarded(ctx, &c, now); err != nil {
			tg.Log.Error("a clocked run failed", "part", c.Definition.Name, "err", err)
		}
	})
}

// runGuarded runs a clocked part. One that goes wrong in a way nobody thought of is
// set aside until its tracker's setup changes or the service starts anew.
func (tg *Triggers) runGuarded(ctx context.Context, c *Clocked, now time.Time) error {
	err := tg.Guarded(string(c.Definition.Kind)+" "+c.Definition.Name+" was run by its clock", func() error { return tg.runClocked(ctx, c, now) })
	var panicked *engine.Panicked
	if !errors.As(err, &panicked) {
		return err
	}
	tg.aside.Store(c.Definition.ID, c.Tracker.Shape)
	tg.Notice(engine.AboutDefinition(c.Definition), fmt.Sprintf("%s %s of %s was set aside, because the service went wrong while running it. It runs by its clock again once it is changed, or the service is started anew.", c.Definition.Kind, c.Definition.Name, c.Tracker.Name))
	return errors.Join(err, tg.setClocked(context.WithoutCancel(ctx), c, now))
}

func (tg *Triggers) setClocked(ctx context.Context, c *Clocked, at time.Time) error {
	b, err := tg.store.Begin(ctx)
	if err != nil {
		return err
	}
	defer b.Rollback()
	if err := b.SetClocked(ctx, c.Tracker.ID, c.Definition.ID, at); err != nil {
		return err
	}
	return b.Commit()
}

func (tg *Triggers) runClocked(ctx context.Context, c *Clocked, now time.Time) error {
	occurrence, ok := c.when.Due(c.Last, now, c.calendar())
	if !ok {
		return nil
	}
	if c.when.Skip && now.Sub(c.when.Opened(occurrence, c.calendar())) > grace {
		return tg.setClocked(ctx, c, occurrence)
	}
	marked := func(ctx context.Context, b *store.Batch, _ *engine.Result) error {
		return b.SetClocked(ctx, c.Tracker.ID, c.Definition.ID, occurrence)
	}
	run := tg.Runners[c.Definition.Kind]
	if c.Definition.Kind == sheet.KindRule {
		run = tg.runRule
	}
	if run == nil {
		return fmt.Errorf("nothing runs a %s by its clock", c.Definition.Kind)
	}
	err := run(ctx, c, occurrence, marked)
	if err != nil { // the failure is on record; the next occurrence tries again
		if markErr := tg.setClocked(ctx, c, occurrence); markErr != nil {
			return markErr
		}
	}
	return err
}

// Mark keeps, in the transaction of what a clock woke, for which occurrence it ran.
type Mark = func(context.Context, *store.Batch, *engine.Result) error

func (tg *Triggers) runRule(ctx context.Context, c *Clocked, _ time.Time, marked Mark) error {
	r, err := tg.FindRule(c.Tracker, c.Definition.Name)
	if err != nil {
		return err
	}
	req := tg.Run(policy.Itself(policy.ByClock), c.Tracker, r, sheet.Cause{Kind: sheet.ByClock, Name: r.Name}, How{Since: c.Last})
	_, err = tg.Commit(ctx, With(req, marked))
	return err
}
