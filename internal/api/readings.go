package api

import (
	"context"
	"encoding/json"
	"net/http"
	"path/filepath"
	"strings"
	"time"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/formats"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/wire"
)

// What a reading shows of a sheet.
const (
	picturedRows    = 300
	picturedColumns = 60
	picturedText    = 80 // letters of a cell
)

// InFile is a file that is sent to be read.
type InFile struct {
	Name        string `query:"name" required:"true" maxLength:"255" doc:"The file's name"`
	Corrections string `query:"corrections" maxLength:"200000" doc:"What a person says of the tables, as JSON: a list of {sheet, table, leave_out, range, header_rows, tab, key, columns: [{column, name, type, leave_out, computed, day_order}]}; tables and columns count from 1, and table 0 is one that was not found"`
	upload
}

// read reads the file and applies the corrections.
func (in *InFile) read(ctx context.Context, most time.Duration) (*reading.Reading, error) {
	name := filepath.Base(strings.ReplaceAll(in.Name, `\`, "/"))
	if in.err != nil {
		return nil, in.err
	}
	ctx, cancel := context.WithTimeoutCause(ctx, most, &engine.TookTooLong{Time: most})
	defer cancel()
	file, err := formats.ReadContext(ctx, name, in.file, in.size)
	if ctx.Err() != nil {
		return nil, context.Cause(ctx)
	}
	if err != nil {
		return nil, asked(err)
	}
	if in.Corrections == "" {
		return file, nil
	}
	var corrections []reading.Correction
	d := json.NewDecoder(strings.NewReader(in.Corrections))
	d.DisallowUnknownFields()
	if err := d.Decode(&corrections); err != nil {
		return nil, problemOf(http.StatusUnprocessableEntity, "corrections", "The corrections cannot be read", err.Error())
	}
	return file, asked(file.Correct(corrections))
}

func (s *server) readingRoutes() {
	route(s, reader, http.MethodPost, "/readings", "read-file", "Tell which tables a file holds, and store nothing",
		func(ctx context.Context, in *InFile) (*body[wire.Reading], error) {
			defer in.done()
			r, err := in.read(ctx, s.workspace.Budgets.Read)
			if err != nil {
				return nil, err
			}
			return ok(readingView(r)), nil
		}, takesFile, heavy)
}

func readingView(r *reading.Reading) wire.Reading {
	out := wire.Reading{File: r.File, Sheets: []wire.ReadSheet{}}
	for i := range r.Sheets {
		s := &r.Sheets[i]
		g := s.Grid()
		w := wire.ReadSheet{Name: s.Name, Hidden: s.Hidden, Rows: g.Height(), Cells: [][]string{}, Tables: []wire.ReadTable{}, LeftOut: leftOut(s.LeftOut)}
		for row := range g.Height() {
			w.Columns = max(w.Columns, g.Width(row))
			if row >= picturedRows {
				continue
			}
			cells := make([]string, min(g.Width(row), picturedColumns))
			for c := range cells {
				if cells[c] = g.At(row, c).Value.String(); len(cells[c]) > picturedText {
					cells[c] = string([]rune(cells[c])[:min(picturedText, len([]rune(cells[c])))])
				}
			}
			w.Cells = append(w.Cells, cells)
		}
		for j := range s.Tables {
			w.Tables = append(w.Tables, tableView(&s.Tables[j]))
		}
		out.Sheets = append(out.Sheets, w)
	}
	return out
}

func tableView(t *reading.Table) wire.ReadTable {
	w := wire.ReadTable{Range: t.Range.String(), HeaderRows: t.HeaderRows, Rows: t.Rows, Columns: []wire.ReadColumn{}, LeftOut: leftOut(t.LeftOut), Doubts: append([]string{}, t.Doubts...)}
	for _, c := range t.Columns {
		col := wire.ReadColumn{Name: c.Name, Type: c.Type, Display: c.Display, Reason: c.Reason, Choices: c.Choices, Odd: []wire.OddAt{}, Clause: c.Clause, Why: c.Why, Order: c.DayOrder}
		for _, o := range c.Odd {
			if len(col.Odd) < shownRows {
				col.Odd = append(col.Odd, wire.OddAt{Cell: o.Cell, Text: o.Text})
			}
		}
		w.Columns = append(w.Columns, col)
	}
	return w
}

func leftOut(parts []reading.LeftOut) []wire.LeftOut {
	out := []wire.LeftOut{}
	for _, p := range parts {
		out = append(out, wire.LeftOut{Range: p.Range.String(), Reason: p.Reason})
	}
	return out
}
