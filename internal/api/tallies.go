package api

import (
	"bytes"
	"context"
	"errors"
	"mime"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"example.org/kavlo/internal/formats/chart"
	"example.org/kavlo/internal/formats/csv"
	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/output"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/tally"
	"example.org/kavlo/internal/value"
	"example.org/kavlo/internal/wire"
	"example.org/kavlo/internal/workspace"
)

// tally works out the tally that an address names, as whoever asks sees it.
func (s *server) tally(ctx context.Context, in InDefinition) (*sheet.Tracker, *workspace.TallyNow, error) {
	t, err := s.find(ctx, in.Tracker)
	if err != nil {
		return nil, nil, err
	}
	now, err := s.workspace.Tally(ctx, asker(ctx), t, in.Definition)
	return t, now, asked(err)
}

func (s *server) tallyView(t *sheet.Tracker, n *workspace.TallyNow) (*wire.Tally, error) {
	draw := n.Draw
	if draw == "" {
		draw = tally.Bars
	}
	out := &wire.Tally{ID: n.ID.String(), Name: n.Name, Draw: string(draw), Show: n.Figures[n.Show].Name, By: []string{}, Groups: []wire.TallyGroup{}, Hidden: n.Hidden, NotThan: n.NotThen, Skipped: n.Odd, OnToday: n.Today, DrawnNow: draw != tally.Number && len(n.Groups) > 0}
	says, err := s.workspace.Setup.Sentence(t.DefinitionByID(n.ID), t.Shape)
	if err != nil {
		return nil, err
	}
	if out.Says = says; !n.Than.IsZero() {
		out.Than = &n.Than
	}
	for _, by := range n.By {
		out.By = append(out.By, by.Name)
	}
	for i, f := range n.Figures {
		out.Figures = append(out.Figures, wire.TallyFigure{Name: f.Name, Type: n.Types[i].Kind.String(), Format: n.Types[i].Display})
	}
	for i := range n.Groups {
		out.Groups = append(out.Groups, tallyGroup(n, &n.Groups[i]))
	}
	if n.Others != nil {
		others := tallyGroup(n, n.Others)
		out.Others = &others
	}
	out.Total = tallyGroup(n, &n.Total)
	for _, p := range n.Passed {
		out.Passed = append(out.Passed, wire.PassedOver(p))
	}
	return out, nil
}

func tallyGroup(n *workspace.TallyNow, g *tally.Group) wire.TallyGroup {
	values := func(of []value.Value) map[string]any {
		if of == nil {
			return nil
		}
		out := make(map[string]any, len(of))
		for i, v := range of {
			out[n.Figures[i].Name] = v.JSON(n.Types[i])
		}
		return out
	}
	out := wire.TallyGroup{Group: some(g.Labels), Values: values(g.Values), Before: values(g.Before)}
	for i, why := range g.Why {
		if why == "" {
			continue
		}
		if out.Odd == nil {
			out.Odd = map[string]string{}
		}
		out.Odd[n.Figures[i].Name], out.Values[n.Figures[i].Name] = why, nil
	}
	return out
}

// tallyRoutes serves what tallies come to, as figures, pictures and files.
func (s *server) tallyRoutes() {
	const one = "/trackers/{tracker}/tallies/{definition}"
	route(s, reader, http.MethodGet, one+"/figures", "tally-figures", "Work a tally out",
		func(ctx context.Context, in *InDefinition) (*body[wire.Tally], error) {
			t, now, err := s.tally(ctx, *in)
			if err != nil {
				return nil, err
			}
			out, err := s.tallyView(t, now)
			if err != nil {
				return nil, err
			}
			return ok(*out), nil
		}, heavy)
	route(s, reader, http.MethodGet, "/trackers/{tracker}/tallies-now", "tallies-now", "Work out every tally of a tracker",
		func(ctx context.Context, in *struct {
			InTracker
			Today string `query:"today" enum:"yes,no" doc:"yes: those alone that stand on the Today page"`
		}) (*body[[]wire.Tally], error) {
			t, err := s.find(ctx, in.Tracker)
			if err != nil {
				return nil, err
			}
			out := []wire.Tally{}
			ready, err := s.workspace.Program(t.Shape)
			if err != nil {
				return nil, err
			}
			for c, err := range program.All[*tally.Compiled](ready, sheet.KindTally) {
				if err != nil || in.Today == "yes" && !c.Today {
					continue
				}
				now, err := s.workspace.Tally(ctx, asker(ctx), t, c.ID.String())
				if err != nil {
					return nil, asked(err)
				}
				w, err := s.tallyView(t, now)
				if err != nil {
					return nil, err
				}
				out = append(out, *w)
			}
			return ok(out), nil
		}, heavy)
	route(s, reader, http.MethodGet, one+"/picture", "tally-picture", "Draw a tally",
		func(ctx context.Context, in *struct {
			InDefinition
			Format string `query:"format" enum:"svg,png" default:"svg" doc:"Lines that scale, or dots"`
			Theme  string `query:"theme" enum:"light,dark" default:"light" doc:"Of its colours"`
			Width  int    `query:"width" minimum:"240" maximum:"1600" default:"640" doc:"In points: letters are as large in each"`
			Drawn  string `query:"drawn" maxLength:"40" doc:"Any text: a browser that asks with another draws anew"`
		}) (*exported, error) {
			_, now, err := s.tally(ctx, in.InDefinition)
			if err != nil {
				return nil, err
			}
			var out bytes.Buffer
			kind, picture := "image/svg+xml", now.Picture(in.Theme == "dark")
			picture.Width = in.Width
			if in.Format == "png" {
				kind = "image/png"
				err = picture.PNG(&out)
			} else {
				err = picture.SVG(&out)
			}
			if errors.Is(err, chart.ErrNothing) {
				return nil, problemOf(http.StatusNotFound, "nothing-to-draw", "Nothing to draw", "no row is counted, so there is nothing to draw")
			}
			if err != nil {
				return nil, err
			}
			return sent(kind, "", out.Bytes()), nil
		}, sends("The picture", "image/svg+xml", "image/png"), heavy)
	route(s, reader, http.MethodGet, one+"/table", "tally-table", "Write a tally as a workbook with its chart, or as CSV",
		func(ctx context.Context, in *struct {
			InDefinition
			Format string `query:"format" enum:"xlsx,csv" default:"xlsx" doc:"A workbook with its chart, or CSV"`
		}) (*exported, error) {
			_, now, err := s.tally(ctx, in.InDefinition)
			if err != nil {
				return nil, err
			}
			var out bytes.Buffer
			table := now.Table()
			if in.Format == "csv" {
				err = csv.Write(&out, &table)
			} else {
				err = xlsx.Write(&out, []outbound.Table{table})
			}
			if err != nil {
				return nil, err
			}
			return sent(formatTypes[in.Format], output.FileName(now.Name)+"."+in.Format, out.Bytes()), nil
		}, sends("The file", formatTypes["xlsx"], "text/csv"), heavy)
}

// sent is an answer that is a file.
func sent(kind, name string, text []byte) *exported {
	out := &exported{Type: kind, Disposition: "inline", Body: func(ctx huma.Context) {
		_, _ = ctx.BodyWriter().Write(text) // whoever asked may have left
	}}
	if name != "" {
		out.Disposition = mime.FormatMediaType("attachment", map[string]string{"filename": name})
	}
	return out
}
