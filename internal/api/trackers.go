package api

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/recur"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/wire"
)

// InTracker is the part of an address that names a tracker.
type InTracker struct {
	Tracker string `path:"tracker" doc:"Name or id"`
}

func (s *server) tracker(ctx context.Context, t *sheet.Tracker) (*wire.Tracker, error) {
	overdue, err := s.workspace.Overdue(ctx, t)
	if err != nil && !asksTooMuch(err) { // of which the Today page tells
		return nil, err
	}
	sight := s.workspace.Sight(asker(ctx), t)
	out := &wire.Tracker{ID: t.ID.String(), Name: t.Name, Zone: t.Zone, Dates: t.Dates, Numbers: t.Numbers, Version: t.Masking().Load().Version, Role: sight.Role.String(), Tabs: []wire.Tab{}}
	if sight.Role >= policy.Keeper {
		out.Working = workingDays(t.Working)
	}
	for i := range t.Tabs {
		tab := &t.Tabs[i]
		if !tab.Listed() {
			continue
		}
		w := wire.Tab{ID: tab.ID.String(), Name: tab.Name, Rows: t.Count(tab.ID), Overdue: overdue[tab.ID], ReadOnly: !sight.ChangesTab(tab.ID), Columns: []wire.Column{}}
		if c := tab.LabelColumn(); c != nil {
			w.Label = c.Name
		}
		for j := range tab.Columns {
			w.Columns = append(w.Columns, s.column(t, tab, &tab.Columns[j], sight))
		}
		out.Tabs = append(out.Tabs, w)
	}
	return out, nil
}

func (s *server) column(t *sheet.Tracker, tab *sheet.TabShape, c *sheet.Column, sight *policy.Sight) wire.Column {
	w := wire.Column{ID: c.ID.String(), Name: c.Name, Type: c.Type.Kind.String(), Several: c.Type.Several, Format: c.Type.Display,
		ReadOnly: !sight.ChangesColumn(c.ID), Required: c.Required, Unique: c.Unique, BadInput: "mark"}
	w.Default, w.Minimum, w.Maximum, w.Longest, w.AutoNo = c.Default, c.Min, c.Max, c.Longest, c.AutoNo
	if c.BadInput == sheet.Refuse {
		w.BadInput = "refuse"
	}
	if c.Computed() {
		w.Clause = c.Clause
		if ready, err := s.workspace.Program(t.Shape); err == nil {
			w.Clause, w.Around = setup.ClauseText(ready, tab.ID, c.Clause), ready.Around(c.ID)
		}
	}
	for _, o := range c.Type.Options {
		w.Options = append(w.Options, wire.Option{Name: o.Name, Colour: o.Colour})
	}
	return w
}

func (s *server) trackerRoutes() {
	route(s, reader, http.MethodGet, "/trackers", "list-trackers", "List the trackers",
		func(ctx context.Context, _ *struct{}) (*body[[]wire.Tracker], error) {
			out := []wire.Tracker{}
			for _, t := range s.seen(ctx).Trackers() {
				w, err := s.tracker(ctx, t)
				if err != nil {
					return nil, err
				}
				out = append(out, *w)
			}
			return ok(out), nil
		})
	route(s, reader, http.MethodGet, "/trackers/{tracker}", "get-tracker", "Show a tracker with its tabs and columns",
		func(ctx context.Context, in *InTracker) (*body[wire.Tracker], error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			w, err := s.tracker(ctx, t)
			if err != nil {
				return nil, err
			}
			return ok(*w), nil
		})
	route(s, keeper, http.MethodPost, "/trackers", "new-tracker", "Make a tracker without tabs, or with those of another",
		func(ctx context.Context, in *struct {
			Write
			Body wire.NewTracker
		}) (*body[wire.ChangeSet], error) {
			if in.Body.Like != "" {
				t, err := s.find(ctx, in.Body.Like)
				if err != nil {
					return nil, err
				}
				return s.change(ctx, in.Write, s.workspace.CopyTracker(asker(ctx), t.ID, in.Body.Name))
			}
			zone := in.Body.Zone
			if zone == "" {
				zone = "UTC"
			}
			return s.change(ctx, in.Write, s.workspace.NewTracker(asker(ctx), in.Body.Name, zone))
		})
	route(s, keeper, http.MethodPatch, "/trackers/{tracker}", "change-tracker", "Change a tracker's name, time zone, form of dates, working days or place among the trackers",
		func(ctx context.Context, in *struct {
			InTracker
			Write
			Body wire.TrackerSettings
		}) (*body[wire.ChangeSet], error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			to, err := trackerSettings(in.Body)
			if err != nil {
				return nil, err
			}
			if in.Body.After != "" {
				after, err := s.find(ctx, in.Body.After)
				if err != nil {
					return nil, err
				}
				to.After = after.ID
			}
			return s.change(ctx, in.Write, s.workspace.ChangeTracker(asker(ctx), t.ID, to))
		})
	route(s, keeper, http.MethodDelete, "/trackers/{tracker}", "drop-tracker", "Remove a tracker with all its rows; undo brings it back",
		func(ctx context.Context, in *struct {
			InTracker
			Write
		}) (*body[wire.ChangeSet], error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			return s.change(ctx, in.Write, s.workspace.DropTracker(asker(ctx), t.ID))
		})
	s.setupRoutes()
}

// trackerSettings reads what is to be changed of a tracker.
func trackerSettings(in wire.TrackerSettings) (edit.TrackerSettings, error) {
	out := edit.TrackerSettings{Name: in.Name, Zone: in.Zone, Dates: in.Dates, Numbers: in.Numbers, First: in.First}
	if in.Working == nil {
		return out, nil
	}
	out.Working = &recur.WorkingDays{}
	for i, name := range in.Working.Week {
		at := slices.Index(weekdays, strings.ToLower(name))
		if at < 0 {
			return out, problemOf(http.StatusUnprocessableEntity, "not-a-weekday", "Invalid working days", fmt.Sprintf("working_days.week[%d]: %q is no day of the week: write monday", i, name))
		}
		out.Working.Week = append(out.Working.Week, time.Weekday(at))
	}
	for i, day := range in.Working.Closed {
		at, err := time.Parse(time.DateOnly, day)
		if err != nil {
			return out, problemOf(http.StatusUnprocessableEntity, "not-a-date", "Invalid working days", fmt.Sprintf("working_days.closed[%d]: %q is no date: write it as 2026-12-25", i, day))
		}
		out.Working.Closed = append(out.Working.Closed, at.Unix()/86400)
	}
	slices.Sort(out.Working.Closed)
	out.Working.Closed = slices.Compact(out.Working.Closed)
	return out, nil
}

var weekdays = []string{"sunday", "monday", "tuesday", "wednesday", "thursday", "friday", "saturday"}

// workingDays gives a tracker's working days, those that hold unless others are set.
func workingDays(of recur.WorkingDays) *wire.WorkingDays {
	out := &wire.WorkingDays{Week: []string{}, Closed: []string{}}
	for i := 1; i <= 7; i++ {
		if of.On(time.Weekday(i % 7)) {
			out.Week = append(out.Week, weekdays[i%7])
		}
	}
	for _, day := range of.Closed {
		out.Closed = append(out.Closed, time.Unix(day*86400, 0).UTC().Format(time.DateOnly))
	}
	return out
}

func (s *server) change(ctx context.Context, w Write, req engine.Request) (*body[wire.ChangeSet], error) {
	set, err := s.commit(ctx, w, req)
	if err != nil {
		return nil, err
	}
	return ok(*set), nil
}

// large lets an operation take a body of up to n bytes, over a slow line.
func large(n int64) func(*huma.Operation) {
	return func(op *huma.Operation) { op.MaxBodyBytes, op.BodyReadTimeout = n, 2*time.Minute }
}

func (s *server) setupRoutes() {
	route(s, reader, http.MethodGet, "/setup/schema", "setup-schema", "Give the JSON Schema of setup files, for editors",
		func(context.Context, *struct{}) (*body[json.RawMessage], error) {
			schema, err := s.workspace.Setup.Schema()
			if err != nil {
				return nil, err
			}
			return ok(json.RawMessage(schema)), nil
		})
	route(s, reader, http.MethodGet, "/trackers/{tracker}/setup", "get-setup", "Write a tracker's setup file",
		func(ctx context.Context, in *InTracker) (*body[wire.Setup], error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			text, err := s.workspace.Setup.Encode(t.Shape)
			if err != nil {
				return nil, err
			}
			return ok(wire.Setup{Text: string(text)}), nil
		})
	route(s, keeper, http.MethodPost, "/setup", "load-setup", "Make a tracker as a setup file has it, or bring the one of that name into line",
		func(ctx context.Context, in *struct {
			Write
			Drop string `query:"drop" enum:"yes,no" doc:"yes: filled columns and definitions that the file does not know of may go"`
			Body wire.Setup
		}) (*body[wire.ChangeSet], error) {
			load := s.workspace.LoadSetupKeeping
			if in.Drop == "yes" || in.isPreview() {
				load = s.workspace.LoadSetup
			}
			out, err := s.change(ctx, in.Write, load(asker(ctx), []byte(in.Body.Text)))
			return out, s.whoAdded(ctx, err)
		}, large(setup.MaxSize+1<<20))
}

// whoAdded adds to what a setup file would drop who added it, and when.
func (s *server) whoAdded(ctx context.Context, err error) error {
	var drops *edit.Drops
	if !errors.As(err, &drops) {
		return err
	}
	out := *drops
	out.Items = slices.Clone(drops.Items)
	for i := range out.Items {
		d := &out.Items[i]
		has := func(shape *sheet.Shape) bool {
			switch {
			case shape == nil:
				return false
			case d.Definition != 0:
				return shape.DefinitionByID(d.Definition) != nil
			}
			tab := shape.TabByID(d.Tab)
			return tab != nil && (d.Column == 0 || tab.ByID(d.Column) != nil)
		}
		added, err := s.workspace.AddedBy(ctx, drops.Tracker, time.Time{}, has)
		if err != nil {
			return err
		}
		if added != nil {
			zone := time.UTC
			if t := s.seen(ctx).Tracker(drops.Tracker); t != nil {
				zone = t.Location()
			}
			d.What += fmt.Sprintf(", added by %s on %s", added.Who, added.At.In(zone).Format("2006-01-02 at 15:04"))
		}
	}
	return asked(&out)
}
