package engine

import (
	"context"
	"fmt"
	"runtime"
	"sync/atomic"
	"time"

	"example.org/kavlo/internal/clause"
)

// Budgets say what one request may cost. Whatever asks for more is refused, with
// what to do about it, rather than holding up everybody else.
type Budgets struct {
	Looks    int64         // rows of tabs that the clauses of one request may look at
	Read     time.Duration // what only reads may take so long
	Turn     time.Duration // and a turn of the writer, for which others wait, so long
	Replayed int           // change sets that a look back in time may play back
	AtOnce   int           // heavy requests at work at once
	Waiting  int           // heavy requests that may wait for their turn
}

// DefaultBudgets are what the service uses unless told otherwise.
var DefaultBudgets = Budgets{Looks: 50_000_000, Read: 30 * time.Second, Turn: 10 * time.Second, Replayed: 200_000, AtOnce: max(2, runtime.NumCPU()-1), Waiting: 64}

// TookTooLong says that a request used up its time.
type TookTooLong struct{ Time time.Duration }

func (e *TookTooLong) Error() string {
	return fmt.Sprintf("this took longer than %s and was stopped: ask for less at a time", e.Time)
}

// Busy says that too many heavy requests wait already.
type Busy struct{ Waiting int }

func (e *Busy) Error() string {
	return fmt.Sprintf("%d requests as heavy as this one wait for their turn already: try again in a moment", e.Waiting)
}

// meter gives a meter for the clauses of one request, which ends with whoever
// asked, with the service, or when time is up.
func (e *Engine) meter(ctx context.Context, most time.Duration) *clause.Meter {
	start := time.Now()
	return clause.NewMeter(e.Budgets.Looks, func() error {
		switch {
		case ctx.Err() != nil:
			return ctx.Err()
		case e.closing.Err() != nil:
			return ErrClosed
		case time.Since(start) > most:
			return &TookTooLong{most}
		}
		return nil
	})
}

// Meter gives a meter for the clauses of a request that only reads.
func (e *Engine) Meter(ctx context.Context) *clause.Meter { return e.meter(ctx, e.Budgets.Read) }

// gate lets some heavy requests work at once, and others wait.
type gate struct {
	places  chan struct{}
	waiting atomic.Int64
	most    int
}

func newGate(b Budgets) *gate {
	return &gate{places: make(chan struct{}, b.AtOnce), most: b.Waiting}
}

// atWork is how the context of a heavy request tells that it has its place.
type atWork struct{}

// Heavy waits until a heavy request may work, and gives the context in which it
// does and what it calls when it is done. One that waits ends with its asker; one
// that is at work already has its place.
func (e *Engine) Heavy(ctx context.Context) (context.Context, func(), error) {
	if ctx.Value(atWork{}) != nil {
		return ctx, func() {}, nil
	}
	g := e.heavy
	select {
	case g.places <- struct{}{}:
	default:
		if n := g.waiting.Add(1); n > int64(g.most) {
			g.waiting.Add(-1)
			return ctx, nil, &Busy{g.most}
		}
		defer g.waiting.Add(-1)
		select {
		case g.places <- struct{}{}:
		case <-ctx.Done():
			return ctx, nil, ctx.Err()
		case <-e.closing.Done():
			return ctx, nil, ErrClosed
		}
	}
	return context.WithValue(ctx, atWork{}, true), func() { <-g.places }, nil
}

// TurnMeter gives a meter for the clauses of what others wait for.
func (e *Engine) TurnMeter(ctx context.Context) *clause.Meter { return e.meter(ctx, e.Budgets.Turn) }
