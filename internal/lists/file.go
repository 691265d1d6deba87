package lists

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"os"
	"path"
	"strings"

	"example.org/kavlo/internal/formats"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/value"
)

// fetchFile reads a file of the workspace's folder, or of a web address. The
// records of a table have its headers as their fields.
func (c *Connectors) fetchFile(ctx context.Context, l *reconcile.List) ([]reconcile.Entry, error) {
	data, err := c.fileBytes(ctx, l)
	if err != nil {
		return nil, fmt.Errorf("the file %s: %w", l.File, err)
	}
	name := path.Base(strings.SplitN(l.File, "?", 2)[0])
	if head := bytes.TrimLeft(data, "\ufeff \t\r\n"); len(head) > 0 && (head[0] == '{' || head[0] == '[') {
		return jsonEntries(l, head)
	}
	r, err := formats.Read(name, bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, err
	}
	s, t, err := pickTable(r, l)
	if err != nil {
		return nil, err
	}
	var out []reconcile.Entry
	for rec := range s.Records(t) {
		doc := make(map[string]any, len(t.Columns))
		for i, col := range t.Columns {
			doc[col.Name] = plainJSON(rec.Cells[i], col.Kind)
		}
		out = append(out, entry(l, doc, fmt.Sprintf("%s, row %d", name, rec.Row+1)))
	}
	return out, nil
}

func (c *Connectors) fileBytes(ctx context.Context, l *reconcile.List) ([]byte, error) {
	if strings.HasPrefix(l.File, "http://") || strings.HasPrefix(l.File, "https://") {
		a, err := c.call(ctx, l, http.MethodGet, l.File, nil, nil)
		if err != nil {
			return nil, err
		}
		if a.status != http.StatusOK {
			return nil, fmt.Errorf("it answered %s", statusText(a.status))
		}
		return a.body, nil
	}
	file, err := c.place(l.File)
	if err != nil {
		return nil, err
	}
	info, err := os.Stat(file)
	if err != nil {
		return nil, err
	}
	if info.Size() > MaxFile {
		return nil, fmt.Errorf("it is larger than %d MB", MaxFile>>20)
	}
	return os.ReadFile(file)
}

func jsonEntries(l *reconcile.List, data []byte) ([]reconcile.Entry, error) {
	d := json.NewDecoder(bytes.NewReader(data))
	d.UseNumber()
	var doc any
	if err := d.Decode(&doc); err != nil {
		return nil, fmt.Errorf("it is not whole JSON: %w", err)
	}
	found, err := reconcile.Pointer(doc, l.Items)
	if err != nil {
		return nil, fmt.Errorf("items %s: %w", l.Items, err)
	}
	records, isArray := found.([]any)
	if !isArray {
		return nil, fmt.Errorf("items %q leads to no array of records", l.Items)
	}
	out := make([]reconcile.Entry, len(records))
	for i, r := range records {
		out[i] = entry(l, r, fmt.Sprintf("record %d", i+1))
	}
	return out, nil
}

// pickTable gives the table meant: of the sheet named, or the longest there is.
func pickTable(r *reading.Reading, l *reconcile.List) (*reading.Sheet, *reading.Table, error) {
	var sheet *reading.Sheet
	var table *reading.Table
	var names []string
	for i := range r.Sheets {
		s := &r.Sheets[i]
		names = append(names, s.Name)
		if !s.Meant(l.Sheet) {
			continue
		}
		for j := range s.Tables {
			if table == nil || s.Tables[j].Rows > table.Rows {
				sheet, table = s, &s.Tables[j]
			}
		}
	}
	if table != nil {
		return sheet, table, nil
	}
	if l.Sheet != "" {
		says := fmt.Sprintf("it has no sheet %q with a table", l.Sheet)
		if near := value.Nearest(l.Sheet, names); near != "" {
			says += ": did you mean " + near + "?"
		}
		return nil, nil, errors.New(says)
	}
	return nil, nil, errors.New("it holds no table: a table is a header row with rows below it")
}

// plainJSON gives a cell as a record of JSON would hold it.
func plainJSON(v value.Value, t value.Type) any {
	if v.IsOdd() {
		return v.Raw()
	}
	return v.JSON(t)
}
