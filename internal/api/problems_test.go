package api

import (
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"testing"

	"github.com/stretchr/testify/assert"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/wire"
)

func TestProblemsSayWhereAndWhatToDo(t *testing.T) {
	r := newRig(t)
	r.add("Bell")
	r.add("Bell")
	row := "/trackers/Loans/tabs/Requested/rows"
	for _, c := range []struct {
		method, path string
		body         any
		status       int
		says, hint   string
		field        string
	}{
		{"GET", "/trackers/Lones", nil, 404, "there is no tracker", "did you mean Loans?", "Lones"},
		{"GET", "/trackers/Loans/tabs/Requestd/rows", nil, 404, "there is no tab", "did you mean Requested?", ""},
		{"GET", row + "?where=" + url.QueryEscape("Stge is blank"), nil, 422, "did you mean Stage?", "", ""},
		{"GET", row + "?columns=Objct", nil, 422, "did you mean Object?", "", ""},
		{"GET", row + "/Bell", nil, 409, "2 rows in Requested are called", "", ""},
		{"GET", row + "?limit=99999", nil, 422, "expected number <= 5000", "", "query.limit"},
		{"PATCH", row + "/r1", wire.RowEdit{Cells: map[string]any{"Due": "TBC"}}, 422, "is not a date", "write it as 2026-03-31", "Due"},
		{"PATCH", row + "/r1", wire.RowEdit{Cells: map[string]any{"Days": 5}}, 422, "is computed", "", "Days"},
		{"PATCH", row + "/r1", wire.RowEdit{Cells: map[string]any{"Stage": "Lost"}}, 409, `there is no tab "Lost"`, "", ""},
		{"PATCH", row + "/r1", []byte(`{"cells": `), 400, "", "", ""},
		{"PATCH", row + "/r1", map[string]any{"celsl": 1}, 422, "unexpected property", "", ""},
		{"PATCH", "/trackers/Loans/rows", wire.RowEdits{Edits: []wire.RowEdit{{Row: "one"}}}, 422, "is not the id of a row", "", ""},
		{"POST", "/trackers/Loans/rules", map[string]any{"name": "R", "where": "Stge is blank", "steps": []any{map[string]any{"set": map[string]any{"Object": "x"}}}}, 422, "did you mean Stage?", "", ""},
		{"POST", "/trackers/Loans/rules", map[string]any{"name": "R", "in": "Requestd", "steps": []any{map[string]any{"set": map[string]any{"Object": "x"}}}}, 422, "did you mean Requested?", "", ""},
		{"POST", "/trackers/Loans/rules/Moove/run", nil, 404, "did you mean Move?", "", ""},
		{"POST", "/undo/99", nil, 404, "not found", "", ""},
		{"GET", "/runs/nothing", nil, 404, "not found", "", ""},
		{"GET", "/nowhere", nil, 404, "not part of the interface", "", ""},
		{"POST", "/people/Nobody/link", nil, 404, "not found", "", ""},
		{"PUT", "/people", wire.NewPerson{Address: "nobody", Access: "editor"}, 422, "is not a mail address", "", ""},
	} {
		t.Run(c.method+" "+c.path, func(t *testing.T) {
			a := r.call("keeper", c.method, c.path, c.body)
			p := a.problem(t)
			assert.Equal(t, c.status, p.Status, p.Detail)
			assert.Contains(t, p.Detail, c.says)
			if c.hint != "" {
				assert.Equal(t, c.hint, p.Hint)
			}
			if c.field != "" {
				assert.Equal(t, c.field, p.Field)
			}
		})
	}
	p := r.call("keeper", "GET", row+"?where="+url.QueryEscape("Object is blank and Stge is blank"), nil).problem(t)
	assert.Equal(t, "Object is blank and Stge is blank\n                    ^", p.Caret)
	assert.Equal(t, 21, p.Col)
}

func TestAPanicIsAProblemAndNotTheEnd(t *testing.T) {
	s := &server{Options: Options{Log: slog.New(slog.DiscardHandler)}}
	s.metrics, s.guard = newMetrics(nil), http.NewCrossOriginProtection()
	web := s.web()
	web.GET("/boom", plain(func(http.ResponseWriter, *http.Request) { panic("a secret") }))
	w := httptest.NewRecorder()
	web.ServeHTTP(w, httptest.NewRequest(http.MethodGet, "http://localhost/boom", nil))
	assert.Equal(t, 500, w.Code)
	assert.NotContains(t, w.Body.String(), "secret")
	assert.Contains(t, w.Body.String(), "nothing was changed")
}

func TestABrokenFileIsAProblemThatNamesSheetAndCell(t *testing.T) {
	s := &server{Options: Options{Log: slog.New(slog.DiscardHandler)}}
	p := s.problem(t.Context(), asked(fmt.Errorf("loans.xlsx: %w", &xlsx.Error{Sheet: "On display", Cell: "B7", Err: errors.New("it names shared text 99, which is not there")})))
	assert.Equal(t, http.StatusUnprocessableEntity, p.Status)
	assert.Equal(t, "'On display'!B7", p.Field)
	assert.Contains(t, p.Detail, "loans.xlsx: sheet On display: cell B7: it names shared text 99")
}

// What went wrong inside is logged and not told to strangers.
func TestTheServicesOwnFaultsAreToldWithoutDetail(t *testing.T) {
	s := &server{Options: Options{Log: slog.New(slog.DiscardHandler)}}
	for _, err := range []error{errors.New("disk secret"), asked(&engine.Failure{Err: errors.New("disk secret")})} {
		p := s.problem(t.Context(), err)
		assert.Equal(t, http.StatusInternalServerError, p.Status)
		assert.NotContains(t, p.Error(), "secret")
	}
	assert.Equal(t, http.StatusServiceUnavailable, s.problem(t.Context(), asked(engine.ErrClosed)).Status)
}
