package api

import (
	"context"
	"net/http"
	"strings"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/tabview"
	"example.org/kavlo/internal/wire"
)

// Selection says, in an address, which rows and columns of a tab are asked for.
type Selection struct {
	View    string `query:"view" doc:"Name or id of a view of the tab: its rows, order and columns, narrowed by what else is asked for"`
	Where   string `query:"where" doc:"A clause: only the rows for which it holds"`
	Words   string `query:"words" doc:"Only rows that contain these words, in any column; a phrase goes in quotation marks"`
	Columns string `query:"columns" doc:"Names separated by commas: only these columns"`
	Order   string `query:"order" doc:"Columns, as in: Due, Value descending"`
}

// narrows reports whether rows have to be looked at to be chosen or put in order.
func (in *Selection) narrows() bool {
	return strings.TrimSpace(in.Where+in.Words) != "" || in.Order != "" || in.View != ""
}

// query gives what of a tab is asked for.
func (s *server) query(ctx context.Context, t *sheet.Tracker, tab *sheet.TabShape, in Selection) (query.Query, error) {
	q := query.Query{Tab: tab, Where: in.Where, Words: in.Words}
	var err error
	if q.Order, err = query.ParseOrder(in.Order, tab); err != nil {
		return q, asked(err)
	}
	for _, n := range namesIn(in.Columns) {
		c, err := tab.Column(n)
		if err != nil {
			return q, err
		}
		q.Columns = append(q.Columns, c.Name)
	}
	if in.View != "" {
		if q, err = s.viewed(t, q, in.View); err != nil {
			return q, err
		}
	}
	if q.Words == "" {
		return q, nil
	}
	_, names, err := s.workspace.Directory(ctx)
	q.Names = names
	return q, err
}

// viewed narrows a view of the tab by what is asked for.
func (s *server) viewed(t *sheet.Tracker, q query.Query, name string) (query.Query, error) {
	def, err := t.Definition(sheet.KindView, name)
	if err != nil {
		return q, err
	}
	ready, err := s.workspace.Program(t.Shape)
	if err != nil {
		return q, err
	}
	v, err := program.Ready[*tabview.View](ready, def.ID)
	if err != nil {
		return q, err
	}
	if v.Tab != q.Tab.ID {
		return q, problemOf(http.StatusUnprocessableEntity, "view", "Request refused", "the view "+v.Name+" is not of the tab "+q.Tab.Name)
	}
	if q.Where != "" { // by itself, so that what is wrong with it is shown where it was written
		if _, err := clause.CheckCondition(q.Where, ready.Scope(q.Tab.ID, false)); err != nil {
			return q, err
		}
	}
	return v.Narrow(q), nil
}

type orderQuery struct {
	InTab
	Selection
}

// orderRoute serves the ids of rows alone: for whoever has the rows already.
func (s *server) orderRoute() {
	route(s, reader, http.MethodGet, "/trackers/{tracker}/tabs/{tab}/order", "order-rows", "List the ids of a tab's rows, chosen and put in order, without their cells",
		func(ctx context.Context, in *orderQuery) (*body[wire.RowOrder], error) {
			if in.narrows() {
				at, done, err := s.workspace.Heavy(ctx)
				if err != nil {
					return nil, err
				}
				defer done()
				ctx = at
			}
			t, tab, err := s.tab(ctx, in.InTab)
			if err != nil {
				return nil, err
			}
			q, err := s.query(ctx, t, tab, in.Selection)
			if err != nil {
				return nil, err
			}
			v := s.viewFor(ctx, s.seen(ctx))
			found, err := v.find(t, q)
			if err != nil {
				return nil, err
			}
			out := wire.RowOrder{Rows: make([]string, len(found.Rows)), PassedOver: passedRows(found.Passed), Odd: found.Odd}
			for i, r := range found.Rows {
				out.Rows[i] = r.ID.String()
			}
			return ok(out), v.meter.Err()
		})
}
