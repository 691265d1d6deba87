package api

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"mime"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"example.org/kavlo/internal/formats/csv"
	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/output"
	"example.org/kavlo/internal/sheet"
)

func (s *server) exportRoutes() {
	route(s, reader, http.MethodGet, "/trackers/{tracker}/export", "export", "Write a tab, or all of a tracker's, as a workbook, CSV or JSON", s.export, heavy, sends("The file", formatTypes["xlsx"], "text/csv", formatTypes["json"]))
}

type exportQuery struct {
	InTracker
	Tab string `query:"tab" doc:"Name or id; unless set, every tab"`
	Selection
	Format string `query:"format" enum:"xlsx,csv,json" default:"xlsx" doc:"The file's form"`
	Totals string `query:"totals" enum:"yes,no" doc:"yes: a row of sums below each table of a workbook"`
}

type exported struct {
	Type        string `header:"Content-Type"`
	Disposition string `header:"Content-Disposition"`
	PassedOver  int    `header:"Kavlo-Passed-Over" doc:"Rows that the clause could not judge"`
	Body        func(huma.Context)
}

var formatTypes = map[string]string{"xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "csv": "text/csv; charset=utf-8", "json": "application/json"}

func (s *server) export(ctx context.Context, in *exportQuery) (*exported, error) {
	t, err := s.find(ctx, in.Tracker)
	if err != nil {
		return nil, err
	}
	tabs := make([]*sheet.TabShape, 0, len(t.Tabs))
	for i := range t.Tabs {
		if t.Tabs[i].Listed() {
			tabs = append(tabs, &t.Tabs[i])
		}
	}
	name := t.Name
	if in.Tab != "" {
		tab, err := t.Tab(in.Tab)
		if err != nil {
			return nil, err
		}
		tabs, name = []*sheet.TabShape{tab}, tab.Name
	} else if in.Format == "csv" && len(tabs) != 1 {
		return nil, problemOf(http.StatusUnprocessableEntity, "one-tab", "Request refused", fmt.Sprintf("CSV holds one table, and %s has %d tabs: name one", t.Name, len(tabs)))
	}
	if in.narrows() && in.Where == "" && len(tabs) != 1 {
		return nil, problemOf(http.StatusUnprocessableEntity, "one-tab", "Request refused", fmt.Sprintf("an order, words and a view are of one tab, and %s has %d tabs: name one", t.Name, len(tabs)))
	}
	out := &exported{Type: formatTypes[in.Format], Disposition: mime.FormatMediaType("attachment", map[string]string{"filename": output.FileName(name) + "." + in.Format})}
	file, err := spool()
	if err != nil {
		return nil, err
	}
	if in.Format == "json" {
		err = s.exportJSON(ctx, file, out, t, tabs, in)
	} else {
		err = s.exportTables(ctx, file, out, t, tabs, in)
	}
	if err != nil {
		drop(file)
		return nil, asked(err)
	}
	out.Body = s.sending(file)
	return out, nil
}

// exportTables writes tabs as tables of a workbook, or one as CSV.
func (s *server) exportTables(ctx context.Context, file io.Writer, out *exported, t *sheet.Tracker, tabs []*sheet.TabShape, in *exportQuery) error {
	meter := s.workspace.Meter(ctx)
	var tables []outbound.Table
	for _, tab := range tabs {
		if len(tab.Columns) == 0 && in.Tab == "" {
			continue
		}
		q, err := s.query(ctx, t, tab, in.Selection)
		if err != nil {
			return err
		}
		known := func() (outbound.Table, int, error) { return s.workspace.SelectKnown(ctx, t, q, meter) }
		if in.Format == "csv" {
			known = func() (outbound.Table, int, error) { return s.workspace.Select(t, q, meter) }
		}
		table, passed, err := known()
		if err != nil {
			return err
		}
		table.Totals = in.Totals == "yes"
		tables = append(tables, table)
		out.PassedOver += passed
	}
	if len(tables) == 0 {
		return problemOf(http.StatusUnprocessableEntity, "nothing", "Request refused", t.Name+" has no tabs with columns")
	}
	write := func() error { return xlsx.Write(file, tables) }
	if in.Format == "csv" {
		write = func() error { return csv.Write(file, &tables[0]) }
	}
	if err := write(); err != nil {
		return err
	}
	return meter.Err()
}

// exportJSON writes rows as the rest of the interface does.
func (s *server) exportJSON(ctx context.Context, file io.Writer, out *exported, t *sheet.Tracker, tabs []*sheet.TabShape, in *exportQuery) error {
	v := s.viewFor(ctx, s.seen(ctx))
	w := bufio.NewWriter(file)
	before := "["
	for _, tab := range tabs {
		q, err := s.query(ctx, t, tab, in.Selection)
		if err != nil {
			return err
		}
		found, err := v.find(t, q)
		if err != nil {
			return err
		}
		keep := columnNames(tab, found)
		out.PassedOver += found.Odd
		for _, r := range found.Rows {
			if !v.meter.Use(1) {
				return v.meter.Err()
			}
			text, err := json.Marshal(only(v.row(t, r), keep))
			if err != nil {
				return err
			}
			_, _ = w.WriteString(before) // Flush tells of what went wrong
			_, _ = w.Write(text)
			before = ","
		}
	}
	if before == "[" {
		_, _ = w.WriteString(before)
	}
	_, _ = w.WriteString("]")
	return errors.Join(v.meter.Err(), w.Flush())
}

// namesIn parts names at commas.
func namesIn(list string) []string {
	var out []string
	for _, n := range strings.Split(list, ",") {
		if n = strings.TrimSpace(n); n != "" {
			out = append(out, n)
		}
	}
	return out
}
