package api

import (
	"context"
	"net/http"
	"strings"

	"example.org/kavlo/internal/value"
	"example.org/kavlo/internal/wire"
)

// mostFound is how many rows a search by label gives.
const mostFound = 20

// findRoute finds rows of all trackers by what they are called.
func (s *server) findRoute() {
	route(s, reader, http.MethodGet, "/find", "find-rows", "Find rows of all trackers by their labels: those that begin so first",
		func(ctx context.Context, in *struct {
			Text string `query:"text" required:"true" minLength:"1" maxLength:"200" doc:"What the label holds, in any letter case"`
		}) (*body[[]wire.FoundRow], error) {
			meter := s.workspace.Meter(ctx)
			text, begin, hold := value.Fold(in.Text), []wire.FoundRow{}, []wire.FoundRow{}
			for _, t := range s.seen(ctx).Trackers() {
				for i := range t.Tabs {
					tab := &t.Tabs[i]
					if !tab.Listed() {
						continue
					}
					for row := range t.Rows(tab.ID) {
						if !meter.Use(1) {
							return nil, asked(meter.Err())
						}
						label := t.Label(row)
						at := strings.Index(value.Fold(label), text)
						if at < 0 || at > 0 && len(hold) == mostFound {
							continue
						}
						found := wire.FoundRow{ID: row.ID.String(), Label: label, Tab: tab.Name, TabID: tab.ID.String(), Tracker: t.Name, TrackerID: t.ID.String()}
						if at > 0 {
							hold = append(hold, found)
						} else if begin = append(begin, found); len(begin) == mostFound {
							return ok(begin), nil
						}
					}
				}
			}
			all := append(begin, hold...)
			return ok(all[:min(mostFound, len(all))]), nil
		})
}
