package upkeep

import (
	"context"
	"errors"
	"time"

	"example.org/kavlo/internal/engine"
)

// Sweep removes what nobody reads any more, and lets features do the same and write
// down what is written now and then.
func (up *Upkeep) Sweep(ctx context.Context, now time.Time) error {
	steady := up.steady(now)
	var err error
	for _, sweep := range up.Sweeps {
		err = errors.Join(err, sweep(ctx, now, steady))
	}
	if !steady {
		return err
	}
	err = errors.Join(err, up.store.PruneRuns(ctx, now.Add(-up.KeepRuns)))
	if now.Sub(up.swept) < sweepEvery {
		return err
	}
	up.swept = now
	return errors.Join(err, up.store.ForgetAnswers(ctx, now.Add(-engine.KeysKept)), up.store.ForgetExpired(ctx, now.Add(-engine.KeysKept)), up.store.ForgetMails(ctx, now.Add(-up.KeepRuns)))
}

// steadyFor is how long the clock must have gone on evenly before anything is
// removed because its time is up: one that jumps ahead for a moment must not take
// everything with it.
const (
	steadyFor = time.Hour
	jump      = 25 * time.Hour
)

// steady reports whether the clock has gone on evenly for a while.
func (up *Upkeep) steady(now time.Time) bool {
	since := now.Sub(up.ticked)
	if up.ticked.IsZero() || since < 0 || since > jump {
		up.steadySince, up.swept = now, time.Time{}
	}
	up.ticked = now
	return now.Sub(up.steadySince) >= steadyFor
}

// sweepEvery is how often what fills slowly is swept.
const sweepEvery = time.Hour
