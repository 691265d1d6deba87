package api

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"mime"
	"net/http"
	"slices"
	"strings"

	"example.org/kavlo/internal/desk"
	"example.org/kavlo/internal/formats/csv"
	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/wire"
)

func (s *server) exportRoutes() {
	route(s, reader, http.MethodGet, "/trackers/{tracker}/export", "export", "Write a tab, or all of a tracker's, as a workbook, CSV or JSON", s.export)
}

type exportQuery struct {
	InTracker
	Tab     string `query:"tab" doc:"Name or id; unless set, every tab"`
	Where   string `query:"where" doc:"A clause: only the rows for which it holds"`
	Columns string `query:"columns" doc:"Names separated by commas: only these columns"`
	Format  string `query:"format" enum:"xlsx,csv,json" default:"xlsx"`
	Totals  string `query:"totals" enum:"yes,no" doc:"yes: a row of sums below each table of a workbook"`
}

type exported struct {
	Type        string `header:"Content-Type"`
	Disposition string `header:"Content-Disposition"`
	PassedOver  int    `header:"Kavlo-Passed-Over" doc:"Rows that the clause could not judge"`
	Body        []byte
}

var formatTypes = map[string]string{"xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "csv": "text/csv; charset=utf-8", "json": "application/json"}

func (s *server) export(_ context.Context, in *exportQuery) (*exported, error) {
	t, err := s.desk.Find(in.Tracker)
	if err != nil {
		return nil, err
	}
	tabs := make([]*sheet.TabShape, 0, len(t.Tabs))
	for i := range t.Tabs {
		tabs = append(tabs, &t.Tabs[i])
	}
	name := t.Name
	if in.Tab != "" {
		tab, err := t.Tab(in.Tab)
		if err != nil {
			return nil, err
		}
		tabs, name = []*sheet.TabShape{tab}, tab.Name
	} else if in.Format == "csv" && len(tabs) != 1 {
		return nil, problemOf(http.StatusUnprocessableEntity, "one-tab", "Not done", fmt.Sprintf("CSV holds one table, and %s has %d tabs: name one", t.Name, len(tabs)))
	}
	out := &exported{Type: formatTypes[in.Format], Disposition: mime.FormatMediaType("attachment", map[string]string{"filename": desk.FileName(name) + "." + in.Format})}
	if in.Format == "json" {
		return out, s.exportJSON(out, t, tabs, in)
	}
	var tables []outbound.Table
	for _, tab := range tabs {
		if len(tab.Columns) == 0 && in.Tab == "" {
			continue
		}
		table, passed, err := s.desk.Select(t, desk.Selection{Tab: tab, Where: in.Where, Columns: namesIn(in.Columns)})
		if err != nil {
			return nil, err
		}
		table.Totals = in.Totals == "yes"
		tables = append(tables, table)
		out.PassedOver += passed
	}
	if len(tables) == 0 {
		return nil, problemOf(http.StatusUnprocessableEntity, "nothing", "Not done", t.Name+" has no tabs with columns")
	}
	var buf bytes.Buffer
	if in.Format == "csv" {
		err = csv.Write(&buf, &tables[0])
	} else {
		err = xlsx.Write(&buf, tables)
	}
	out.Body = buf.Bytes()
	return out, asked(err)
}

// exportJSON writes rows as the rest of the interface does.
func (s *server) exportJSON(out *exported, t *sheet.Tracker, tabs []*sheet.TabShape, in *exportQuery) error {
	rows := []wire.Row{}
	v := s.view(s.desk.State())
	for _, tab := range tabs {
		keep, err := columnsOf(tab, in.Columns)
		if err != nil {
			return err
		}
		found := slices.Collect(t.Rows(tab.ID))
		if strings.TrimSpace(in.Where) != "" {
			var page wire.Rows
			q := &rowsQuery{Where: in.Where, Limit: t.Count(tab.ID)}
			if found, err = v.filter(t, tab, q, &page); err != nil {
				return err
			}
			out.PassedOver += len(page.PassedOver)
		}
		for _, r := range found {
			rows = append(rows, only(v.row(t, r), keep))
		}
	}
	var err error
	out.Body, err = json.Marshal(rows)
	return err
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
