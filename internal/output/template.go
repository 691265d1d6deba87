package output

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/formats/xlsx/patch"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// TemplatesFolder is the folder of a workspace for workbooks of which new ones are made.
const TemplatesFolder = "templates"

// filled makes a workbook of a template, and says what was filled in.
func (files *Files) filled(ctx context.Context, ask *rule.WriteAsk, t *sheet.Tracker, at time.Time) ([]byte, string, error) {
	template, err := files.template(ask.From)
	if err != nil {
		return nil, "", err
	}
	ready, err := files.Program(t.Shape)
	if err != nil {
		return nil, "", err
	}
	meter := files.TurnMeter(ctx)
	tab := t.TabByID(ask.Tab)
	found, err := query.Select(ready, t, query.Query{Tab: tab, Where: ask.Where, Order: ask.Order, Only: ask.Only}, at, meter)
	if err != nil {
		return nil, "", err
	}
	h := &holes{program: ready, tracker: t, tab: tab, rows: found.Rows, alone: ready.Env(t, nil, at, meter), env: ready.Env(t, tab, at, meter), scope: ready.Scope(0, false), inRow: ready.Scope(tab.ID, false)}
	var out bytes.Buffer
	done, err := patch.Fill(&out, template, h)
	if err == nil {
		err = meter.Err()
	}
	if err != nil {
		return nil, "", err
	}
	says := fmt.Sprintf("from %s, %d holes filled", ask.From, done.Holes)
	if len(done.Where) > 0 {
		says += ", rows at " + strings.Join(done.Where, ", ")
	}
	return out.Bytes(), says, nil
}

// figures works out what stands beside labels.
func (files *Files) figures(ctx context.Context, ask *rule.WriteAsk, t *sheet.Tracker, at time.Time) ([]patch.Figure, error) {
	ready, err := files.Program(t.Shape)
	if err != nil {
		return nil, err
	}
	meter := files.TurnMeter(ctx)
	h := &holes{alone: ready.Env(t, nil, at, meter), scope: ready.Scope(0, false)}
	var out []patch.Figure
	for _, f := range ask.Figures {
		v, err := h.Text(f.Value)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", f.Label, err)
		}
		out = append(out, patch.Figure{Label: f.Label, Value: v})
	}
	return out, meter.Err()
}

// template reads a workbook of the templates folder, or of one that the service was told of.
func (files *Files) template(name string) ([]byte, error) {
	path, err := files.safePath(strings.TrimPrefix(name, TemplatesFolder+"/"), name)
	if err != nil {
		return nil, err
	}
	var text []byte
	if filepath.IsAbs(path) {
		text, err = files.Read(path)
	} else {
		var dir *os.Root
		if dir, err = files.ownFolder(TemplatesFolder); err != nil {
			return nil, err
		}
		defer func() { _ = dir.Close() }()
		text, err = dir.ReadFile(filepath.FromSlash(path))
	}
	if errors.Is(err, fs.ErrNotExist) {
		return nil, fmt.Errorf("there is no such workbook: put it into the folder %s of the data folder", TemplatesFolder)
	}
	return text, err
}

// holes fills a template's texts with clauses of a tracker.
type holes struct {
	program *program.Program
	tracker *sheet.Tracker
	tab     *sheet.TabShape
	rows    []*sheet.Row
	alone   *clause.Env // of texts that ask for no row
	env     *clause.Env // of a row
	scope   *clause.Scope
	inRow   *clause.Scope
}

func (h *holes) Text(text string) (value.Value, error) {
	expr, err := clause.CheckTemplate(text, h.scope)
	if err != nil {
		return value.Value{}, err
	}
	v := expr.Value()(h.alone)
	if v.IsOdd() {
		return v, fmt.Errorf("%s cannot be worked out: %s", text, v.Raw())
	}
	return v, nil
}

func (h *holes) Row(text string) (func(int) value.Value, int, error) {
	expr, err := clause.CheckTemplate(text, h.inRow)
	if err != nil {
		return nil, 0, err
	}
	of := expr.Value()
	return func(i int) value.Value {
		program.Look(h.env, h.rows[i])
		return of(h.env)
	}, len(h.rows), nil
}
