package workspace

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"example.org/kavlo/internal/formats/chart"
	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/output"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/tally"
	"example.org/kavlo/internal/value"
)

// TallyNow is a tally with what it came to.
type TallyNow struct {
	*tally.Compiled
	*tally.Answer
	Than time.Time // the end of the earlier day that it is compared with; zero: none
	// NotThen says why it could not be compared.
	NotThen string
}

// Tally works a tally of a tracker out, as somebody sees it.
func (w *Workspace) Tally(ctx context.Context, by policy.Principal, t *sheet.Tracker, name string) (*TallyNow, error) {
	def, err := t.Definition(sheet.KindTally, name)
	if err != nil {
		return nil, err
	}
	ready, err := w.Program(t.Shape)
	if err != nil {
		return nil, err
	}
	c, err := program.Ready[*tally.Compiled](ready, def.ID)
	if err != nil {
		return nil, err
	}
	out, now := &TallyNow{Compiled: c}, w.Now()
	var then *tally.Then
	switch end, compared := c.ComparedWith(now); {
	case !compared:
	case !end.Before(now):
		out.NotThen = c.Compare + " is no earlier day"
	default:
		if then, err = w.then(ctx, by, t, c, end); err != nil {
			out.NotThen = err.Error()
		} else if then == nil {
			out.NotThen = "the tracker was not there yet"
		} else {
			out.Than = end
		}
	}
	out.Answer, err = c.Work(t, then, now, w.Meter(ctx))
	return out, err
}

// then gives a tracker as it was, as somebody sees it, with a tally compiled for it; nil
// where there was none.
func (w *Workspace) then(ctx context.Context, by policy.Principal, t *sheet.Tracker, c *tally.Compiled, end time.Time) (*tally.Then, error) {
	state, err := w.AsOf(ctx, end)
	if err != nil {
		return nil, err
	}
	was := w.SeenIn(by, state).Tracker(t.ID)
	if was == nil {
		return nil, nil //nolint:nilnil // there was none
	}
	p, err := program.Bind(was.Shape)
	if err != nil {
		return nil, err
	}
	compiled, err := c.Compile(p)
	if err != nil {
		return nil, err
	}
	return &tally.Then{Tracker: was, Tally: compiled.(*tally.Compiled)}, nil
}

// Picture gives a tally as it is drawn.
func (n *TallyNow) Picture(dark bool) *chart.Picture {
	out := &chart.Picture{Dark: dark, Unit: unitOf(n.Types[n.Show]), Comma: n.Style().Comma()}
	switch n.Draw {
	case tally.Line:
		out.Kind = chart.Line
	case tally.Stacked:
		out.Kind = chart.Stacked
	}
	if len(n.By) == 2 {
		n.twice(out)
		return out
	}
	now, before := chart.Series{Name: "now"}, chart.Series{Name: n.ComparedDay(), Faint: true}
	for i := range n.Groups {
		g := &n.Groups[i]
		out.Labels = append(out.Labels, strings.Join(g.Labels, ", "))
		now.Values = append(now.Values, g.Values[n.Show].Float())
		if g.Before != nil {
			before.Values = append(before.Values, g.Before[n.Show].Float())
		}
	}
	if n.Others != nil {
		out.Labels = append(out.Labels, n.Others.Labels[0])
		now.Values = append(now.Values, n.Others.Values[n.Show].Float())
		if before.Values != nil {
			before.Values = append(before.Values, 0)
		}
	}
	if before.Values == nil {
		now.Name = ""
	}
	if out.Series = []chart.Series{now}; before.Values != nil {
		out.Series = append(out.Series, before)
	}
	return out
}

// twice lays out groups of two things: the first along the axis, the second as series.
func (n *TallyNow) twice(out *chart.Picture) {
	at, series := map[string]int{}, map[string]int{}
	for i := range n.Groups {
		g := &n.Groups[i]
		if _, known := at[g.Labels[0]]; !known {
			at[g.Labels[0]] = len(out.Labels)
			out.Labels = append(out.Labels, g.Labels[0])
		}
		if _, known := series[g.Labels[1]]; !known {
			series[g.Labels[1]] = len(out.Series)
			out.Series = append(out.Series, chart.Series{Name: g.Labels[1]})
		}
	}
	for i := range out.Series {
		out.Series[i].Values = make([]float64, len(out.Labels))
	}
	for i := range n.Groups {
		g := &n.Groups[i]
		out.Series[series[g.Labels[1]]].Values[at[g.Labels[0]]] = g.Values[n.Show].Float()
	}
}

func unitOf(t value.Type) string {
	switch {
	case t.Display == "percent":
		return "%"
	case len(t.Display) == 3 && strings.ToUpper(t.Display) == t.Display:
		return t.Display
	}
	return ""
}

// Table gives a tally as a table, with its chart where it has one thing to group by.
func (n *TallyNow) Table() outbound.Table {
	out := outbound.Table{Name: n.Name, Count: len(n.Groups)}
	for i, by := range n.By {
		typ := n.ByTypes[i]
		if by.Period != "" {
			typ = value.Type{Kind: value.Text}
		}
		out.Columns = append(out.Columns, outbound.Column{Name: by.Name, Type: typ})
	}
	for i, f := range n.Figures {
		out.Columns = append(out.Columns, outbound.Column{Name: f.Name, Type: n.Types[i]})
	}
	if n.Than != (time.Time{}) {
		for i, f := range n.Figures {
			out.Columns = append(out.Columns, outbound.Column{Name: f.Name + ", " + n.Than.Format(time.DateOnly), Type: n.Types[i]})
		}
	}
	groups := n.Groups
	if n.Others != nil {
		groups = append(groups[:len(groups):len(groups)], *n.Others)
		out.Count++
	}
	out.Rows = func(yield func(outbound.Row) bool) {
		for i := range groups {
			if !yield(outbound.Row{Cells: n.cells(&groups[i], len(out.Columns))}) {
				return
			}
		}
	}
	if len(n.By) == 1 && len(n.Groups) > 0 {
		out.Chart = &outbound.Chart{Title: n.Name, Names: n.By[0].Name, Values: n.Figures[n.Show].Name}
	}
	return out
}

func (n *TallyNow) cells(g *tally.Group, width int) []value.Value {
	cells := make([]value.Value, 0, width)
	for j, by := range n.By {
		switch {
		case len(g.Keys) == 0 || len(g.Labels) < len(n.By) || g.Keys[j].IsBlank() || by.Period != "":
			cells = append(cells, value.OfText(g.Labels[min(j, len(g.Labels)-1)]))
		default:
			cells = append(cells, g.Keys[j])
		}
	}
	cells = append(append(cells, g.Values...), g.Before...)
	for len(cells) < width {
		cells = append(cells, value.Value{})
	}
	return cells
}

// keepSent is how many days the files of tallies that went with mails are kept.
const keepSent = 30

// mailed are the tallies that go with mails.
type mailed struct{ *Workspace }

// each works out the tallies that a round attaches, as somebody sees them. One that they do
// not see is left out.
func (w mailed) each(ctx context.Context, by policy.Principal, t *sheet.Tracker, round *reminder.CompiledRound, do func(*TallyNow) error) error {
	seen := w.SeenBy(by, t)
	if seen == nil {
		return nil
	}
	for _, id := range round.Attach {
		def := seen.DefinitionByID(id)
		if def == nil || def.Kind != sheet.KindTally {
			continue
		}
		now, err := w.Tally(ctx, by, seen, id.String())
		if err == nil {
			err = do(now)
		}
		if err != nil {
			return fmt.Errorf("tally %s: %w", def.Name, err)
		}
	}
	return nil
}

// mostMailed is how many groups of a tally stand in a mail.
const mostMailed = 15

// Figures gives the tallies that a round attaches as small tables.
func (w mailed) Figures(ctx context.Context, by policy.Principal, t *sheet.Tracker, round *reminder.CompiledRound) ([]reminder.Figures, error) {
	var out []reminder.Figures
	err := w.each(ctx, by, t, round, func(now *TallyNow) error {
		table := now.Table()
		f := reminder.Figures{Title: now.Name}
		for i := range table.Columns {
			f.Heads = append(f.Heads, table.Columns[i].Name)
		}
		if len(now.By) == 0 {
			f.Heads = append([]string{""}, f.Heads...)
		}
		for row := range table.Rows {
			if len(f.Rows) == mostMailed {
				f.More++
				continue
			}
			var cells []string
			if len(now.By) == 0 {
				cells = append(cells, "All")
			}
			for i, v := range row.Cells {
				cells = append(cells, v.Show(table.Columns[i].Type))
			}
			f.Rows = append(f.Rows, cells)
		}
		out = append(out, f)
		return nil
	})
	return out, err
}

// Leave leaves the tallies that a round attaches as a picture and a workbook each, and gives
// their paths.
func (w mailed) Leave(ctx context.Context, by policy.Principal, t *sheet.Tracker, round *reminder.CompiledRound, folder string) ([]string, error) {
	var out []string
	err := w.each(ctx, by, t, round, func(now *TallyNow) error {
		leave := func(ending string, text []byte) error {
			path, err := w.Workspace.Leave(ctx, store.Written{Path: folder + "/" + output.FileName(now.Name) + ending, Tracker: t.ID, Name: round.Name, Rows: len(now.Groups), Keep: keepSent}, text)
			if err == nil {
				out = append(out, path)
			}
			return err
		}
		var picture, table bytes.Buffer
		var err error
		if now.Draw != tally.Number {
			if err = now.Picture(false).PNG(&picture); err == nil {
				err = leave(".png", picture.Bytes())
			}
			if err != nil && !errors.Is(err, chart.ErrNothing) { // no group has a figure to draw
				return err
			}
		}
		if err = xlsx.Write(&table, []outbound.Table{now.Table()}); err == nil {
			err = leave(".xlsx", table.Bytes())
		}
		return err
	})
	return out, err
}
