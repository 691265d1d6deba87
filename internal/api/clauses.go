package api

import (
	"context"
	"errors"
	"net/http"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/wire"
)

func (s *server) clauseRoutes() {
	route(s, reader, http.MethodPost, "/clauses/check", "check-clause", "Say whether a clause reads, and what could stand where one types",
		func(ctx context.Context, in *struct{ Body wire.ClauseQuestion }) (*body[wire.ClauseAnswer], error) {
			t, err := s.find(ctx, in.Body.Tracker)
			if err != nil {
				return nil, err
			}
			ready, err := s.workspace.Program(t.Shape)
			if err != nil {
				return nil, err
			}
			var tabs []sheet.TabID
			for _, name := range in.Body.Tabs {
				tab, err := t.Tab(name)
				if err != nil {
					return nil, err
				}
				tabs = append(tabs, tab.ID)
			}
			return ok(checkClause(in.Body, ready.ScopeOfAll(tabs, in.Body.Edit))), nil
		})
}

func checkClause(q wire.ClauseQuestion, scope *clause.Scope) wire.ClauseAnswer {
	check := map[string]func(string, *clause.Scope) (*clause.Expr, error){"value": clause.CheckValue, "template": clause.CheckTemplate}[q.Kind]
	if check == nil {
		check = clause.CheckCondition
	}
	var out wire.ClauseAnswer
	expr, err := check(q.Text, scope)
	var mistake *clause.Error
	switch {
	case err == nil:
		out.Type, out.Printed = expr.Type().String(), expr.Print(clause.ByName)
	case errors.As(err, &mistake):
		line, column := mistake.Position()
		out.Mistake = &wire.ClauseMistake{Code: mistake.Code, Says: mistake.Msg, Line: line, Column: column, Offset: mistake.Offset, Length: mistake.Length, Caret: mistake.Caret()}
	}
	if q.At != nil {
		for _, c := range clause.Complete(q.Text, *q.At, scope) {
			out.Completions = append(out.Completions, wire.Completion{Text: c.Text, Kind: c.Kind, Says: c.Says, From: c.From})
		}
	}
	return out
}
