package api

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"example.org/kavlo/internal/access"
	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/history"
	"example.org/kavlo/internal/intake"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/wire"
)

var internalProblem = problemOf(http.StatusInternalServerError, "internal", "Something went wrong in the service", "nothing was changed; the service's log tells more")

// init makes huma's own refusals (a malformed body, a missing field) problems
// of ours, and lists that are never null; huma has no other place to say so.
func init() {
	huma.DefaultArrayNullable = false
	huma.NewError = func(status int, msg string, errs ...error) huma.StatusError {
		p := problemOf(status, "request", http.StatusText(status), msg)
		for _, err := range errs {
			var ready *wire.Problem
			if errors.As(err, &ready) {
				return ready
			}
			var d *huma.ErrorDetail
			if errors.As(err, &d) {
				p.Errors = append(p.Errors, wire.FieldDetail{Message: d.Message, Location: d.Location, Value: d.Value})
			} else if err != nil {
				p.Errors = append(p.Errors, wire.FieldDetail{Message: err.Error()})
			}
		}
		if len(p.Errors) > 0 {
			p.Field = p.Errors[0].Location
			p.Detail += ": " + p.Errors[0].Message
		}
		return p
	}
}

func problemOf(status int, code, title, detail string) *wire.Problem {
	return &wire.Problem{Type: "urn:kavlo:" + code, Title: title, Status: status, Detail: detail}
}

func writeProblem(w http.ResponseWriter, p *wire.Problem) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(p.Status)
	_ = json.NewEncoder(w).Encode(p) // the reader may be gone
}

// refused marks an error as the request's fault rather than the service's.
type refused struct{ err error }

func (r *refused) Error() string { return r.err.Error() }

func (r *refused) Unwrap() error { return r.err }

// asked marks the errors of working a request out as the request's fault,
// unless it was the writing that failed.
func asked(err error) error {
	var failure *engine.Failure
	if err == nil || errors.As(err, &failure) || errors.Is(err, engine.ErrClosed) || errors.Is(err, context.Canceled) {
		return err
	}
	return &refused{err}
}

// problem gives the problem that an error is; what is the service's own fault
// is logged and told without detail.
func (s *server) problem(ctx context.Context, err error) *wire.Problem {
	var ready *wire.Problem
	if errors.As(err, &ready) {
		return ready
	}
	err = s.told(ctx, err)
	if errors.As(err, &ready) {
		return ready
	}
	p := s.known(ctx, err)
	if p == nil {
		var r *refused
		if !errors.As(err, &r) {
			s.Log.ErrorContext(ctx, "a request failed", "err", err)
			return internalProblem
		}
		p = problemOf(http.StatusUnprocessableEntity, "refused", "Request refused", err.Error())
	}
	var run *engine.RunError
	if errors.As(err, &run) {
		p.Run, p.Detail = run.Run, err.Error()
	}
	return p
}

func (s *server) known(ctx context.Context, err error) *wire.Problem {
	if p := s.knownRace(ctx, err); p != nil {
		return p
	}
	if p := knownText(err); p != nil {
		return p
	}
	if p := knownName(err); p != nil {
		return p
	}
	var busy *engine.Busy
	var much *clause.TooMuch
	var long *engine.TookTooLong
	var ago *history.TooLongAgo
	var failure *engine.Failure
	if errors.As(err, &failure) {
		if why := store.Unwritable(err); why != "" {
			return problemOf(http.StatusInsufficientStorage, "cannot-write", "Cannot write", "nothing was changed: "+why)
		}
	}
	switch {
	case errors.As(err, &busy):
		return problemOf(http.StatusServiceUnavailable, "busy", "Too much to do at once", busy.Error())
	case errors.As(err, &much), errors.As(err, &long), errors.As(err, &ago):
		return problemOf(http.StatusUnprocessableEntity, "too-much", "Too large a request", err.Error())
	case errors.Is(err, access.ErrNoAccess):
		p := problemOf(http.StatusUnauthorized, "no-access", "Not signed in", err.Error())
		p.Hint = "ask an admin for a new one; if no admin can sign in, see docs/operations.md"
		return p
	case errors.Is(err, engine.ErrForbidden):
		return problemOf(http.StatusForbidden, "forbidden", "Not allowed", engine.ErrForbidden.Error())
	case errors.Is(err, engine.ErrOtherRequest):
		return problemOf(http.StatusUnprocessableEntity, "other-request", "The key came with another request", err.Error())
	case errors.Is(err, store.ErrLastKeeper):
		return problemOf(http.StatusConflict, "last-admin", "No admin would be left", store.ErrLastKeeper.Error())
	case errors.Is(err, engine.ErrClosed), errors.Is(err, context.Canceled):
		return problemOf(http.StatusServiceUnavailable, "stopping", "Not available", err.Error())
	}
	return nil
}

// knownRace gives the problem of a request that somebody else overtook.
func (s *server) knownRace(ctx context.Context, err error) *wire.Problem {
	var stale *edit.Stale
	var overtaken *edit.Overtaken
	var conflict *sheet.Conflict
	var undo *history.UndoRefused
	var file *intake.FileError
	var over *edit.Overwrites
	var drops *edit.Drops
	var step *rule.StepError
	var runaway *rule.Runaway
	var beyond *reconcile.Beyond
	switch {
	case errors.As(err, &beyond):
		p := problemOf(http.StatusConflict, "guard", "Sync stopped", err.Error())
		if beyond.Empty == "" {
			p.Hint = "if the preview is right, use --ignore-limit"
		}
		return p
	case errors.As(err, &stale):
		p := problemOf(http.StatusPreconditionFailed, "changed-meanwhile", "Changed by someone else", stale.Error())
		p.Hint = "reload and try again"
		if t := s.seen(ctx).Tracker(stale.Tracker.ID); t != nil && t.Row(stale.Row) != nil {
			row := s.viewFor(ctx, s.seen(ctx)).row(t, t.Row(stale.Row))
			p.Current = &row
		}
		return p
	case errors.As(err, &overtaken):
		p := problemOf(http.StatusPreconditionFailed, "changed-meanwhile", "Changed by someone else", overtaken.Error())
		p.Hint = "reload and try again"
		return p
	case errors.As(err, &file):
		p := problemOf(http.StatusUnprocessableEntity, "needs-file", "The rule needs a file", "rule "+file.Rule+" "+file.Why)
		p.Hint = file.Hint
		return p
	case errors.As(err, &drops):
		p := problemOf(http.StatusConflict, "would-drop", "Data would be deleted", drops.Error())
		p.Hint = "save the setup anew and change that file, or let it go with --drop (drop=yes in the API)"
		return p
	case errors.As(err, &over):
		p := problemOf(http.StatusConflict, "would-keep-odd", "Valid values would be replaced", over.Error())
		p.Hint = "write what fits, or keep it as written with --keep-odd (keep_odd in the API)"
		p.Odd = overwritten(over)
		return p
	case errors.As(err, &undo):
		p := problemOf(http.StatusConflict, "undo-conflict", "Blocked by later changes", undo.Error())
		p.Conflicts = undo.Conflicts
		return p
	case errors.Is(err, history.ErrUndone):
		return problemOf(http.StatusConflict, "undone-already", "Undone already", err.Error())
	case errors.As(err, &step):
		p := problemOf(http.StatusConflict, "rule-failed", "A triggered rule failed", err.Error())
		p.Field = step.Column
		return p
	case errors.As(err, &runaway):
		return problemOf(http.StatusConflict, "rules-chase", "Rules form a loop", err.Error())
	case errors.As(err, &conflict):
		return problemOf(http.StatusConflict, "conflict", "Conflict", conflict.Error())
	}
	return nil
}

// knownText gives the problem of something written wrong: a clause, a setup
// file, a value, a workbook.
func knownText(err error) *wire.Problem {
	var ce *clause.Error
	var se *setup.Error
	var syntax *setup.SyntaxError
	var refusal *sheet.Refusal
	var needed *sheet.Needed
	var book *xlsx.Error
	switch {
	case errors.As(err, &ce):
		p := problemOf(http.StatusUnprocessableEntity, ce.Code, "Invalid clause", err.Error())
		p.Line, p.Col = ce.Position()
		p.Caret = ce.Caret()
		if errors.As(err, &se) {
			p.Field = se.Path
		}
		return p
	case errors.As(err, &syntax):
		p := problemOf(http.StatusUnprocessableEntity, "setup", "Invalid setup", syntax.Error())
		p.Line, p.Caret, p.Hint = syntax.Line, syntax.Caret, syntax.Hint
		return p
	case errors.As(err, &se):
		p := problemOf(http.StatusUnprocessableEntity, "setup", "Invalid setup", err.Error())
		p.Field, p.Line = se.Path, se.Line
		var nf *sheet.NotFound
		if errors.As(err, &nf) && nf.Nearest != "" {
			p.Hint = "did you mean " + nf.Nearest + "?"
		}
		return p
	case errors.As(err, &refusal):
		p := problemOf(http.StatusUnprocessableEntity, "bad-value", "Invalid value", err.Error())
		p.Field, p.Hint = refusal.Column, refusal.Hint
		return p
	case errors.As(err, &needed):
		p := problemOf(http.StatusUnprocessableEntity, "needed", "Still needed", err.Error())
		p.Field, p.Hint = needed.Name, needed.Hint()
		return p
	case errors.As(err, &book):
		p := problemOf(http.StatusUnprocessableEntity, "broken-file", "Damaged file", err.Error())
		p.Field = book.Sheet
		if book.Cell != "" {
			p.Field = fmt.Sprintf("'%s'!%s", book.Sheet, book.Cell)
		}
		return p
	}
	return nil
}

// knownName gives the problem of a name that is not there.
func knownName(err error) *wire.Problem {
	var nf *sheet.NotFound
	var elsewhere *sheet.Elsewhere
	var ambiguous *sheet.Ambiguous
	switch {
	case errors.As(err, &nf):
		status := http.StatusNotFound
		if nf.What == "column" {
			status = http.StatusUnprocessableEntity
		}
		p := problemOf(status, "no-such-name", setup.Capital(nf.What)+" not found", err.Error())
		p.Field = nf.Name
		if nf.Nearest != "" {
			p.Hint = "did you mean " + nf.Nearest + "?"
		}
		return p
	case errors.As(err, &elsewhere):
		p := problemOf(http.StatusNotFound, "elsewhere", "The row is in another tab", err.Error())
		p.Hint = "it is in " + elsewhere.Tab
		return p
	case errors.As(err, &ambiguous):
		return problemOf(http.StatusConflict, "several-rows", "Several rows match", err.Error())
	case errors.Is(err, store.ErrNotFound):
		return problemOf(http.StatusNotFound, "not-found", "Not found", err.Error())
	}
	return nil
}
