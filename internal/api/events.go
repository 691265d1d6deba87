package api

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"reflect"
	"strconv"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/wire"
)

const (
	heartbeat = 20 * time.Second
	// between is the least time between two tellings of who is where.
	between = time.Second
	// replayed is how many change sets a listener that comes back is told of;
	// one that missed more is told to fetch again.
	replayed = 500
	// told is how many rows an event lists.
	told = 500
)

func (s *server) eventRoutes() {
	route(s, reader, http.MethodGet, "/events", "events", "Be told of every change set as it is committed (Server-Sent Events; each is a JSON Event; resumes by Last-Event-ID)",
		func(_ context.Context, in *struct {
			Last  string `header:"Last-Event-ID" doc:"The last event that was heard: those after it are sent first"`
			After int64  `query:"after" minimum:"0" doc:"Where there is no Last-Event-ID: the last change set that the page knows of"`
		}) (*huma.StreamResponse, error) {
			last := in.After
			if in.Last != "" {
				var err error
				if last, err = strconv.ParseInt(in.Last, 10, 64); err != nil || last < 0 {
					return nil, problemOf(http.StatusBadRequest, "request", "Bad Last-Event-ID", fmt.Sprintf("%q is not the number of a change set", in.Last))
				}
			}
			return &huma.StreamResponse{Body: func(ctx huma.Context) { s.stream(ctx, last) }}, nil
		}, sends("Events, for as long as one listens", "text/event-stream"))
}

func (s *server) stream(ctx huma.Context, last int64) {
	ctx.SetHeader("Content-Type", "text/event-stream")
	ctx.SetHeader("Cache-Control", "no-store")
	out := &eventWriter{ctx: ctx}
	events, stop := s.workspace.Listen()
	defer stop()
	moved := s.presence.Changed() // before the listener knows that it listens, so that it misses nothing
	out.printf(": listening\n\n")
	if last > 0 {
		last = s.replay(out, last)
	}
	there := hereWriter{s: s, out: out}
	var soon <-chan time.Time // when who is where is told next; nil: once it changes
	beat := time.NewTicker(heartbeat)
	defer beat.Stop()
	access, asking := s.workspace.Accesses(), ctx.Context()
	letIn := func() bool { // still; asked whenever anybody's access has changed
		now := s.workspace.Accesses()
		if now == access {
			return true
		}
		access = now
		p, err := s.bearer(ctx)
		asking = policy.With(context.WithValue(ctx.Context(), personKey{}, p), principal(p))
		return err == nil
	}
	for !out.failed {
		select {
		case <-ctx.Context().Done():
			return
		case <-beat.C:
			if !letIn() {
				return
			}
			out.printf(": still here\n\n")
			there.write(asking) // whoever was silent for long has gone
		case <-moved:
			moved, soon = nil, time.After(between)
		case <-soon:
			moved, soon = s.presence.Changed(), nil
			if !letIn() {
				return
			}
			there.write(asking)
		case e, open := <-events:
			if !open || !letIn() {
				return // the listener fell behind, or the service stops; it will come back
			}
			if e.Seq > last {
				last = e.Seq
				out.write(s.rendered.get(s.eventKey(asking, e.Set), func() []byte {
					// whoever is first to ask may leave before others have it
					return s.written(context.WithoutCancel(asking), e.Set, e.State)
				}))
			}
		}
	}
}

// replay tells what happened after a number, and gives the last number told.
func (s *server) replay(out *eventWriter, after int64) int64 {
	numbers, err := s.workspace.Store().Since(out.ctx.Context(), after, replayed+1)
	if err != nil {
		s.Log.Error("events could not be replayed", "err", err)
		return after
	}
	state := s.workspace.Seen(asker(out.ctx.Context()))
	if len(numbers) > replayed {
		last := max(numbers[len(numbers)-1], s.workspace.Seq())
		out.write(s.frame(wire.Event{Seq: last, At: s.workspace.Now(), Says: "much has changed", Reload: true, Trackers: s.allTrackers(state), Tabs: []string{}, Rows: []wire.Row{}, Gone: []string{}}))
		return last
	}
	for _, seq := range numbers {
		set, err := s.workspace.Store().ChangeSet(out.ctx.Context(), seq)
		if err != nil {
			s.Log.Error("events could not be replayed", "err", err)
			return after
		}
		out.write(s.written(out.ctx.Context(), set, s.workspace.State()))
		after = seq
	}
	return after
}

func (s *server) allTrackers(state *sheet.Workspace) []string {
	out := []string{}
	for _, t := range state.Trackers() {
		out = append(out, t.ID.String())
	}
	return out
}

// written writes out the event that a change set is for the listener; nil where it is nothing.
func (s *server) written(ctx context.Context, set *sheet.ChangeSet, state *sheet.Workspace) []byte {
	left := s.left(ctx, set)
	if len(left.Changes) == 0 && len(set.Changes) > 0 {
		return nil
	}
	return s.frame(s.event(ctx, left, s.workspace.SeenIn(asker(ctx), state)))
}

// frame writes an event as it goes over the wire, once for all who are told the same.
func (s *server) frame(e wire.Event) []byte {
	text, err := json.Marshal(e)
	if err != nil {
		s.Log.Error("an event could not be written", "seq", e.Seq, "err", err)
	}
	return fmt.Appendf(nil, "id: %d\nevent: change\ndata: %s\n\n", e.Seq, text)
}

func (s *server) event(ctx context.Context, set *sheet.ChangeSet, state *sheet.Workspace) wire.Event {
	e := wire.Event{Seq: set.Seq, Who: set.Who, At: set.At, Says: setWords(set), Trackers: []string{}, Tabs: []string{}, Rows: []wire.Row{}, Gone: []string{}}
	v := s.viewFor(ctx, state)
	trackers := v.trackersOf(set)
	for _, id := range set.Trackers() {
		e.Trackers = append(e.Trackers, id.String())
	}
	if len(e.Trackers) > 0 {
		e.Tracker = e.Trackers[0]
	}
	for _, id := range set.Tabs() {
		e.Tabs = append(e.Tabs, id.String())
	}
	for i := range set.Changes {
		e.Reload = e.Reload || refetches(&set.Changes[i])
	}
	rows := set.Rows()
	if len(rows) > told {
		e.Reload = true
		return e
	}
	for _, id := range rows {
		found := false
		for _, t := range trackers {
			if r := t.Row(id); r != nil {
				e.Rows = append(e.Rows, v.row(t, r))
				found = true
				break
			}
		}
		if !found {
			e.Gone = append(e.Gone, id.String())
		}
	}
	return e
}

// refetches reports whether a change of setup may alter what rows hold or who sees them.
// One of rules, reminders and the like alone does not.
func refetches(c *sheet.Change) bool {
	if c.Kind != sheet.Reshape {
		return false
	}
	if c.ShapeBefore == nil || c.ShapeAfter == nil {
		return true
	}
	before, after := *c.ShapeBefore, *c.ShapeAfter
	before.Definitions, after.Definitions = lookedInto(before.Definitions), lookedInto(after.Definitions)
	return !reflect.DeepEqual(before, after)
}

// lookedInto gives the definitions of which computed columns may tell.
func lookedInto(all []sheet.Definition) []sheet.Definition {
	var out []sheet.Definition
	for _, d := range all {
		if d.Kind == sheet.KindDossier || d.Kind == sheet.KindList {
			out = append(out, d)
		}
	}
	return out
}

// hereWriter tells a listener who is where, whenever it is not what was told last.
type hereWriter struct {
	s    *server
	out  *eventWriter
	last []byte
}

func (w *hereWriter) write(ctx context.Context) {
	text, err := json.Marshal(w.s.present(ctx))
	if err != nil {
		w.s.Log.Error("who is there could not be told", "err", err)
		return
	}
	if !bytes.Equal(text, w.last) {
		w.last = text
		w.out.printf("event: present\ndata: %s\n\n", text)
	}
}

// eventWriter writes events and remembers when the listener is gone.
type eventWriter struct {
	ctx    huma.Context
	failed bool
}

func (w *eventWriter) printf(format string, args ...any) { w.write(fmt.Appendf(nil, format, args...)) }

// write sends what it is given at once; nothing is not for this listener.
func (w *eventWriter) write(frame []byte) {
	if len(frame) == 0 {
		return
	}
	out := w.ctx.BodyWriter()
	if _, err := out.Write(frame); err != nil {
		w.failed = true
		return
	}
	if f, ok := out.(http.Flusher); ok {
		f.Flush()
	}
}
