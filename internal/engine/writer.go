package engine

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/thrift"
)

type pending struct {
	req    Request
	ctx    context.Context
	have   map[any]any // what it needs and has got
	result *Result
	err    error
	done   chan struct{}
}

// Commit works a request out against the newest state and makes it durable.
// When it returns without error, the change is kept whatever happens.
func (e *Engine) Commit(ctx context.Context, req Request) (*Result, error) {
	if req.Release != nil { // a file is taken in: memory is minded
		defer thrift.Begin()()
	}
	if t := e.State().Tracker(req.Tracker); t != nil {
		t.Prepare() // here, and not while others wait
	}
	have := req.had()
	if req.Rehearse {
		if err := e.rehearse(ctx, req, have); err != nil {
			return nil, err
		}
	}
	for range rehearsals {
		p := &pending{req: req, ctx: ctx, have: have, done: make(chan struct{})}
		if err := e.enqueue(p); err != nil {
			return nil, err
		}
		var needs *unmet
		if !errors.As(p.err, &needs) {
			return p.result, p.err
		}
		if err := e.rehearse(ctx, req, have); err != nil {
			return nil, err
		}
	}
	return nil, fmt.Errorf("%s: what it needs changed each time it was got: try again", req.doing())
}

// had gives what a request came with.
func (r *Request) had() map[any]any {
	have := map[any]any{}
	for _, give := range r.provided {
		give(have)
	}
	return have
}

// rehearse works a request out outside the writer, for nothing but to get what it
// needs. What else goes wrong with it, its turn will tell.
func (e *Engine) rehearse(ctx context.Context, req Request, have map[any]any) error {
	ctx, done, err := e.Heavy(ctx)
	if err != nil {
		return err
	}
	defer done()
	_ = e.guarded(req.doing(), func() error {
		_, err := e.take(e.state.Load(), &req, taken{ctx: ctx, meter: e.Meter(ctx), nextRow: e.nextRow.Load(), have: have, loading: true, rehearsing: true})
		return err
	})
	return ctx.Err()
}

func (e *Engine) enqueue(p *pending) error {
	select {
	case e.queue <- p:
	case <-p.ctx.Done():
		return p.ctx.Err()
	case <-e.stopped:
		return ErrClosed
	}
	select {
	case <-p.done:
	case <-e.stopped: // the writer has gone; it may have answered before
		select {
		case <-p.done:
		default:
			return ErrClosed
		}
	}
	return nil
}

// Preview works a request out against the present state and commits nothing.
func (e *Engine) Preview(ctx context.Context, req Request) (*Result, error) {
	ctx, done, err := e.Heavy(ctx)
	if err != nil {
		return nil, err
	}
	defer done()
	return e.take(e.state.Load(), &req, taken{ctx: ctx, meter: e.Meter(ctx), nextRow: e.nextRow.Load(), have: req.had(), loading: true})
}

// groupSize is how many waiting requests may share a transaction.
const groupSize = 64

func (e *Engine) writer(ctx context.Context) {
	for {
		select {
		case <-ctx.Done():
			for {
				select {
				case p := <-e.queue:
					p.err = ErrClosed
					close(p.done)
				default:
					return
				}
			}
		case p := <-e.queue:
			group := []*pending{p}
			var after *pending
		gather:
			for len(group) < groupSize && p.req.Release == nil {
				select {
				case q := <-e.queue:
					if q.req.Release != nil { // it cannot be worked out twice, so it goes alone
						after = q
						break gather
					}
					group = append(group, q)
				default:
					break gather
				}
			}
			e.commitGroup(group)
			if after != nil {
				e.commitGroup([]*pending{after})
			}
		}
	}
}

// commitGroup works out and writes requests that share one transaction. Each
// stands or falls alone: one that cannot be written is taken out, and the others
// are worked out anew without it.
func (e *Engine) commitGroup(group []*pending) {
	defer func() {
		for _, p := range group {
			close(p.done)
		}
	}()
	left := group
	for len(left) > 0 {
		err := e.guarded("writing", func() error { return e.tryGroup(left) })
		if err == nil {
			return
		}
		var own *ownFault
		if !errors.As(err, &own) { // the transaction itself failed
			e.Log.Error("a transaction failed; the state before it stands", "err", err)
			e.failed(err)
			for _, p := range left {
				if p.err == nil {
					p.result, p.err = nil, &Failure{err}
				}
			}
			return
		}
		e.Log.Error("a request could not be written", "kind", own.of.req.Kind, "name", own.of.req.Name, "err", own.err)
		e.failed(own.err)
		own.of.result, own.of.err = nil, &Failure{own.err}
		left = slices.DeleteFunc(slices.Clone(left), func(p *pending) bool { return p == own.of })
		for _, p := range left {
			p.result, p.err = nil, nil
		}
	}
}

// ownFault is a failure for which one request of a group is to blame.
type ownFault struct {
	of  *pending
	err error
}

func (e *ownFault) Error() string { return e.err.Error() }

func (e *ownFault) Unwrap() error { return e.err }

// attempt is one transaction under way: what it has put in place outside the database,
// to be taken back if it fails.
type attempt struct {
	state *published // as it comes to be
	undo  []func() error
	part  int64 // the counter of definitions that it writes
}

// tryGroup writes a group and publishes what it comes to. Where it fails, all is
// as before.
func (e *Engine) tryGroup(group []*pending) error {
	seq, nextRow := e.seq, e.nextRow.Load()
	a := &attempt{state: e.state.Load()}
	committed := false
	defer func() {
		if committed {
			return
		}
		e.seq = seq // after a panic too
		e.nextRow.Store(nextRow)
		for _, undo := range slices.Backward(a.undo) {
			if err := undo(); err != nil {
				e.Log.Error("what was put in place before a transaction failed could not be taken back", "err", err)
			}
		}
	}()
	if err := e.writeGroup(context.Background(), group, a); err != nil {
		return err
	}
	committed = true
	e.savedPart = a.part
	e.wrote()
	a.state.seq = e.seq - 1
	e.state.Store(a.state)
	for _, p := range group {
		if p.err != nil || p.result.turn == nil {
			continue
		}
		if p.result.Set.Seq > 0 {
			e.events.publish(Event{Seq: p.result.Set.Seq, Set: p.result.Set, State: a.state.Workspace})
		}
		for _, do := range p.result.turn.after {
			_ = e.guarded(p.req.doing(), func() error { do(p.result); return nil })
		}
	}
	return nil
}

func (e *Engine) writeGroup(ctx context.Context, group []*pending, a *attempt) error {
	b, err := e.store.Begin(ctx)
	if err != nil {
		return err
	}
	defer b.Rollback()
	startRow := e.nextRow.Load()
	answers := map[string]*pending{}
	for _, p := range group {
		if p.err = p.ctx.Err(); p.err != nil {
			continue
		}
		if again, err := e.answered(ctx, p, answers); err != nil {
			return err
		} else if again {
			continue
		}
		p.err = e.guarded(p.req.doing(), func() (err error) {
			p.result, err = e.take(a.state, &p.req, taken{ctx: p.ctx, meter: e.meter(p.ctx, e.Budgets.Turn), seq: e.seq, nextRow: e.nextRow.Load(), have: p.have, final: true})
			return err
		})
		if panicked := (*Panicked)(nil); errors.As(p.err, &panicked) {
			p.err = &Failure{panicked}
		}
		if p.err == nil {
			p.err = p.ctx.Err() // whoever has left is not told, so nothing is done behind their back
		}
		if err := e.guarded(p.req.doing(), func() error { return e.writeOne(ctx, b, p, a) }); err != nil {
			return &ownFault{p, err}
		}
		if p.err == nil {
			a.state = &published{Workspace: p.result.After, programs: a.state.programs.following(p.result.After, p.result.turn.made)}
		}
	}
	if next := e.nextRow.Load(); next != startRow {
		if err := b.SetCounter(ctx, "row", next); err != nil {
			return err
		}
	}
	a.part = e.nextDefinition.Load()
	if a.part != e.savedPart {
		if err := b.SetCounter(ctx, "part", a.part); err != nil {
			return err
		}
	}
	return b.Commit()
}

// writeOne writes what a request came to, or that it failed.
func (e *Engine) writeOne(ctx context.Context, b *store.Batch, p *pending, a *attempt) error {
	if p.req.Release != nil && p.err == nil {
		p.req.Release()
	}
	if p.err == nil {
		p.err = e.placeAll(p.result, a)
	}
	if p.err == nil {
		return e.write(ctx, b, p)
	}
	if run := e.failedRun(p); run != nil {
		return b.PutRun(ctx, run)
	}
	return nil
}

// placeAll puts what a request comes to outside the database in its place. What fails
// takes back what this request put there before.
func (e *Engine) placeAll(r *Result, a *attempt) error {
	had := len(a.undo)
	for _, do := range r.turn.place {
		undo, err := do(r)
		if undo != nil {
			a.undo = append(a.undo, undo)
		}
		if err != nil {
			for _, undo := range slices.Backward(a.undo[had:]) {
				err = errors.Join(err, undo())
			}
			a.undo = a.undo[:had]
			return &RunError{Report: r.Note.Report, Err: err}
		}
	}
	return nil
}

func (e *Engine) write(ctx context.Context, b *store.Batch, p *pending) error {
	r := p.result
	for _, do := range r.turn.store { // before the run's record, which tells what this did
		if err := do(ctx, b, r); err != nil {
			return err
		}
	}
	run := e.runOf(&p.req, r)
	switch {
	case len(r.Set.Changes) > 0:
		if err := b.Save(ctx, r.After, r.Set.Changes); err != nil {
			return err
		}
		if err := b.Journal(ctx, r.Set, run); err != nil {
			return err
		}
		e.seq++
		e.nextRow.Store(int64(r.nextRow))
	case run != nil:
		if err := b.PutRun(ctx, run); err != nil {
			return err
		}
	}
	if p.req.Key.ID != "" {
		if err := b.Answer(ctx, p.req.Key.ID, p.req.Key.Hash, e.Now(), r.Set.Seq, fmt.Sprint(r.Set.Seq)); err != nil {
			return err
		}
	}
	return nil
}

// answered gives an earlier answer under the same idempotency key.
func (e *Engine) answered(ctx context.Context, p *pending, group map[string]*pending) (bool, error) {
	key := p.req.Key
	if key.ID == "" {
		return false, nil
	}
	if first := group[key.ID]; first != nil {
		p.result, p.err = first.result, first.err
		if first.req.Key.Hash != key.Hash {
			p.result, p.err = nil, ErrOtherRequest
		}
		return true, nil
	}
	group[key.ID] = p
	r, err := e.AnsweredBefore(ctx, key)
	if errors.Is(err, ErrOtherRequest) {
		p.err = err
		return true, nil
	}
	p.result = r
	return r != nil, err
}

// AnsweredBefore gives the result of the request that a key came with before, or
// nil. It serves those who do something outside before they commit.
func (e *Engine) AnsweredBefore(ctx context.Context, key Key) (*Result, error) {
	if key.ID == "" {
		return nil, nil
	}
	answer, hash, found, err := e.store.Answered(ctx, key.ID)
	if err != nil || !found {
		return nil, err
	}
	if hash != key.Hash {
		return nil, ErrOtherRequest
	}
	return &Result{Again: answer, Set: &sheet.ChangeSet{}, Before: e.State(), After: e.State()}, nil
}
