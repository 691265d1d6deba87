package api

import (
	"context"
	"net/http"

	"example.org/kavlo/internal/presence"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/wire"
)

// InOwnPage is the part of an address that names a page that one has open.
type InOwnPage struct {
	InTracker
	Page string `path:"page" maxLength:"40" doc:"What tells one's pages apart"`
}

func (s *server) presenceRoutes() {
	route(s, reader, http.MethodGet, "/presence", "list-present", "List who has a page open, and where in it they are; events tell when that changes",
		func(ctx context.Context, _ *struct{}) (*body[[]wire.Present], error) {
			return ok(s.present(ctx)), nil
		})
	route(s, reader, http.MethodPut, "/trackers/{tracker}/presence/{page}", "put-present", "Say that one has a page of a tracker open; to be said again within 50 seconds",
		func(ctx context.Context, in *struct {
			InOwnPage
			Body wire.Place
		}) (*struct{}, error) {
			place, err := s.placeOf(ctx, in.Tracker, in.Body)
			if err != nil {
				return nil, err
			}
			by := asker(ctx)
			s.presence.Put(s.workspace.Now(), presence.Seat{Person: by.Person, Name: by.Name, Page: in.Page, Place: place})
			return nil, nil //nolint:nilnil // nothing to say
		})
	route(s, reader, http.MethodDelete, "/trackers/{tracker}/presence/{page}", "delete-present", "Say that one has closed a page",
		func(ctx context.Context, in *InOwnPage) (*struct{}, error) {
			if _, err := s.find(ctx, in.Tracker); err != nil {
				return nil, err
			}
			s.presence.Leave(asker(ctx).Person, in.Page)
			return nil, nil //nolint:nilnil // nothing to say
		})
}

// placeOf reads where somebody says that they are. A row that has gone meanwhile is left out.
func (s *server) placeOf(ctx context.Context, tracker string, at wire.Place) (presence.Place, error) {
	t, err := s.find(ctx, tracker)
	if err != nil {
		return presence.Place{}, err
	}
	place := presence.Place{Tracker: t.ID}
	if at.Tab == "" {
		return place, nil
	}
	tab, err := t.Tab(at.Tab)
	if err != nil {
		return place, err
	}
	place.Tab = tab.ID
	if at.Column != "" {
		c, err := tab.Column(at.Column)
		if err != nil {
			return place, err
		}
		place.Column = c.ID
	}
	if at.Row != "" {
		id, is := sheet.ParseRowID(at.Row)
		if !is {
			return place, &sheet.NotFound{What: "row", Name: at.Row, In: t.Name}
		}
		if t.Row(id) != nil {
			place.Row = id
		}
	}
	return place, nil
}

// present gives who is there, as far as the asker sees where that is.
func (s *server) present(ctx context.Context) []wire.Present {
	state := s.seen(ctx)
	out := []wire.Present{}
	for _, seat := range s.presence.All(s.workspace.Now()) {
		t := state.Tracker(seat.Tracker)
		if t == nil {
			continue
		}
		p := wire.Present{Person: seat.Person, Name: seat.Name, Page: seat.Page, Tracker: t.ID.String()}
		tab := seat.Tab
		if r := t.Row(seat.Row); r != nil {
			p.Row, p.Label, tab = r.ID.String(), t.Label(r), r.Tab
		}
		for i := range t.Tabs {
			if t.Tabs[i].ID != tab {
				continue
			}
			p.Tab = tab.String()
			for _, c := range t.Tabs[i].Columns {
				if c.ID == seat.Column {
					p.Column = c.Name
				}
			}
		}
		out = append(out, p)
	}
	return out
}
