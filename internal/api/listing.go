package api

import (
	"context"
	"fmt"
	"maps"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/wire"
)

type rowsQuery struct {
	InTab
	Selection
	Rows   string `query:"rows" doc:"Ids separated by commas, 500 at most: only these rows"`
	Offset int    `query:"offset" minimum:"0" doc:"How many are passed over first"`
	Limit  int    `query:"limit" minimum:"1" maximum:"5000" default:"200" doc:"How many at most"`
	AsOf   string `query:"as_of" format:"date-time" doc:"The rows as they stood at this time (RFC 3339)"`
}

type rowsAnswer struct {
	Link string `header:"Link" doc:"rel=next leads to the next page (RFC 8288)"`
	Body wire.Rows
}

// stateAt gives the present state, or the one of a time.
func (s *server) stateAt(ctx context.Context, asOf string) (*sheet.Workspace, error) {
	if asOf == "" {
		return s.seen(ctx), nil
	}
	at, err := time.Parse(time.RFC3339, asOf)
	if err != nil {
		return nil, asked(fmt.Errorf("%q is not a time: write it like 2026-03-31T08:30:00Z", asOf))
	}
	state, err := s.workspace.AsOf(ctx, at)
	if err != nil {
		return nil, err
	}
	return s.workspace.SeenIn(asker(ctx), state), nil
}

func (s *server) listRows(ctx context.Context, in *rowsQuery) (*rowsAnswer, error) {
	if in.AsOf != "" || in.narrows() {
		at, done, err := s.workspace.Heavy(ctx)
		if err != nil {
			return nil, err
		}
		defer done()
		ctx = at
	}
	state, err := s.stateAt(ctx, in.AsOf)
	if err != nil {
		return nil, err
	}
	t, err := state.Find(in.Tracker)
	if err != nil {
		return nil, err
	}
	tab, err := t.Tab(in.Tab)
	if err != nil {
		return nil, err
	}
	q, err := s.query(ctx, t, tab, in.Selection)
	if err != nil {
		return nil, err
	}
	q.Offset, q.Limit = in.Offset, in.Limit
	if in.Rows != "" {
		if q.Only, err = rowsNamed(in.Rows); err != nil {
			return nil, err
		}
	}
	v := s.viewFor(ctx, state)
	out := &rowsAnswer{Body: wire.Rows{Rows: []wire.Row{}}}
	found, err := v.find(t, q)
	if err != nil {
		return nil, err
	}
	out.Body.Total, out.Body.PassedOver = found.Total, passedRows(found.Passed)
	keep := columnNames(tab, found)
	out.Body.Columns = keep
	size := 0
	for _, r := range found.Rows {
		out.Body.Rows = append(out.Body.Rows, only(v.row(t, r), keep))
		if size += sizeOf(r); size > mostOfPage { // a page of very long texts ends early
			break
		}
	}
	if err := v.meter.Err(); err != nil {
		return nil, err
	}
	if next := in.Offset + len(out.Body.Rows); next < out.Body.Total && len(out.Body.Rows) > 0 {
		link := url.Values{"offset": {strconv.Itoa(next)}, "limit": {strconv.Itoa(in.Limit)}}
		for key, text := range map[string]string{"view": in.View, "where": in.Where, "words": in.Words, "columns": in.Columns, "as_of": in.AsOf, "order": in.Order, "rows": in.Rows} {
			if text != "" {
				link.Set(key, text)
			}
		}
		out.Link = fmt.Sprintf("</api/v1/trackers/%s/tabs/%s/rows?%s>; rel=\"next\"", t.ID, tab.ID, link.Encode())
	}
	return out, nil
}

// mostNamed is how many rows may be asked for by their ids.
const mostNamed = 500

func rowsNamed(ids string) (map[sheet.RowID]bool, error) {
	out := map[sheet.RowID]bool{}
	for _, id := range strings.Split(ids, ",") {
		row, ok := sheet.ParseRowID(strings.TrimSpace(id))
		if !ok {
			return nil, asked(fmt.Errorf("%q is not the id of a row", id))
		}
		out[row] = true
	}
	if len(out) > mostNamed {
		return nil, asked(fmt.Errorf("%d rows are named, and %d may be: ask several times", len(out), mostNamed))
	}
	return out, nil
}

// mostOfPage is how many bytes of text the rows of a page may hold.
const mostOfPage = 16 << 20

func sizeOf(r *sheet.Row) int {
	n := 0
	for _, v := range r.Cells() {
		n += len(v.Raw())
	}
	for _, note := range r.Notes() {
		n += len(note)
	}
	return n
}

// find gives the rows that a query finds, as whoever asks sees them.
func (v *view) find(t *sheet.Tracker, q query.Query) (*query.Rows, error) {
	ready, err := v.workspace.Program(t.Shape)
	if err != nil {
		return nil, err
	}
	return query.Select(ready, t, q, v.now, v.meter)
}

func passedRows(in []query.Passed) []wire.PassedOver {
	var out []wire.PassedOver
	for _, p := range in {
		out = append(out, wire.PassedOver(p))
	}
	return out
}

// columnNames gives the names of the columns that a query gave; nil for all of the tab's.
func columnNames(tab *sheet.TabShape, found *query.Rows) []string {
	var keep []string
	same := len(found.Slots) == len(tab.Columns)
	for i, slot := range found.Slots {
		same = same && i == slot
		keep = append(keep, tab.Columns[slot].Name)
	}
	if same {
		return nil
	}
	return keep
}

func only(r wire.Row, keep []string) wire.Row {
	if len(keep) == 0 {
		return r
	}
	cells := make(map[string]any, len(keep))
	for _, k := range keep {
		cells[k] = r.Cells[k]
	}
	r.Cells = cells
	maps.DeleteFunc(r.OddWhy, func(name, _ string) bool { return !slices.Contains(keep, name) })
	maps.DeleteFunc(r.OddFit, func(name string, _ any) bool { return !slices.Contains(keep, name) })
	r.Odd = slices.DeleteFunc(r.Odd, func(name string) bool { return !slices.Contains(keep, name) })
	return r
}
