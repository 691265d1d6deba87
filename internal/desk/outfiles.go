package desk

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"
	"time"

	"example.org/kavlo/internal/formats/csv"
	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
)

// The folders of a workspace in which files arrive and into which Kavlo writes.
const (
	IntakeFolder   = "intake"
	OutboundFolder = "outbound"
)

// writeFiles writes the files that a result's rules ask for, from the state
// that it comes to, before that is committed: what is on record as written is
// there. A stop in between leaves a file, and the rule writes it again.
func (d *Desk) writeFiles(r *Result) error {
	if r.Outcome == nil {
		return nil
	}
	for i := range r.Outcome.Writes {
		ask := &r.Outcome.Writes[i]
		says, err := d.writeFile(r, ask)
		if err != nil {
			return &RunError{Outcome: r.Outcome, Err: fmt.Errorf("writing %s/%s: %w", OutboundFolder, ask.Path, err)}
		}
		ask.Tell(r.Outcome, says)
	}
	return nil
}

func (d *Desk) writeFile(r *Result, ask *rule.WriteAsk) (string, error) {
	t := r.After.Tracker(ask.Tracker)
	table, passed, err := d.tableOf(t, ask, r.Set.At)
	if err != nil {
		return "", err
	}
	table.Totals = ask.Totals
	name, err := safePath(ask.Path)
	if err != nil {
		return "", err
	}
	full := filepath.Join(d.Dir, OutboundFolder, filepath.FromSlash(name))
	if err := os.MkdirAll(filepath.Dir(full), 0o750); err != nil {
		return "", err
	}
	var text []byte
	var where string
	if ask.Chart != nil {
		table.Chart = &outbound.Chart{Title: ask.Chart.Title, Names: t.ColumnByID(ask.Chart.Names).Name, Values: t.ColumnByID(ask.Chart.Values).Name}
	}
	if ask.Sheet != "" {
		text, where, err = placed(full, ask, &table, t)
	} else {
		if full, name, err = freeName(full, name, ask.Replace); err != nil {
			return "", err
		}
		text, where, err = written(name, &table)
	}
	if err != nil {
		return "", err
	}
	if err := putFile(full, text); err != nil {
		return "", err
	}
	ask.Wrote, ask.Rows = name, table.Count
	says := fmt.Sprintf("wrote %d rows to %s/%s, %s", table.Count, OutboundFolder, name, where)
	if passed > 0 {
		says += fmt.Sprintf("; %d rows were passed over, odd cells in them", passed)
	}
	return says, nil
}

// tableOf gives the rows that a step writes, of a tab or of a reminder.
func (d *Desk) tableOf(t *sheet.Tracker, ask *rule.WriteAsk, at time.Time) (outbound.Table, int, error) {
	if ask.Reminder != 0 {
		table, err := d.ofReminder(context.Background(), t, ask.Reminder, at)
		return table, 0, err
	}
	rules, err := d.Book(t.Shape)
	if err != nil {
		return outbound.Table{}, 0, err
	}
	tab := t.TabByID(ask.Tab)
	s := Selection{Tab: tab, Where: ask.Where}
	for _, id := range ask.Columns {
		s.Columns = append(s.Columns, tab.ByID(id).Name)
	}
	return selectRows(rules.Bound, t, s, at)
}

// written gives a new file with the table, and the range that it stands in.
func written(name string, table *outbound.Table) ([]byte, string, error) {
	var buf bytes.Buffer
	var err error
	switch ext := strings.ToLower(path.Ext(name)); ext {
	case ".csv":
		err = csv.Write(&buf, table)
	case ".xlsx":
		err = xlsx.Write(&buf, []outbound.Table{*table})
	default:
		return nil, "", fmt.Errorf("the ending %q says no form: end the name in .xlsx or .csv", ext)
	}
	return buf.Bytes(), xlsx.RangeOf(table, "A1", true), err
}

// placed gives a workbook that is there with the table's rows put into it.
func placed(full string, ask *rule.WriteAsk, table *outbound.Table, t *sheet.Tracker) ([]byte, string, error) {
	before, err := os.ReadFile(full)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, "", errors.New("there is no such workbook to write into: put it there first")
	}
	if err != nil {
		return nil, "", err
	}
	var buf bytes.Buffer
	if ask.At == "" {
		into := xlsx.Into{Sheet: ask.Sheet, Table: ask.Table}
		if ask.Key != 0 {
			into.Key = t.ColumnByID(ask.Key).Name
		}
		u, err := xlsx.Update(&buf, before, table, into)
		return buf.Bytes(), fmt.Sprintf("%s: %d added, %d changed, %d unchanged", u.Range, u.Added, u.Changed, u.Unchanged), err
	}
	where, err := xlsx.Place(&buf, before, table, xlsx.At{Sheet: ask.Sheet, Cell: ask.At, Headers: !ask.Bare})
	return buf.Bytes(), where, err
}

// safePath gives a path below the outbound folder whose names any system takes.
func safePath(p string) (string, error) {
	var parts []string
	for _, part := range strings.Split(strings.ReplaceAll(p, `\`, "/"), "/") {
		switch strings.TrimSpace(part) {
		case "", ".":
		case "..":
			return "", fmt.Errorf("%q leads out of the %s folder", p, OutboundFolder)
		default:
			parts = append(parts, FileName(part))
		}
	}
	if len(parts) == 0 {
		return "", fmt.Errorf("%q names no file", p)
	}
	return strings.Join(parts, "/"), nil
}

// freeName gives the name itself or, where a file has it and is to stay, one
// with a number.
func freeName(full, name string, replace bool) (string, string, error) {
	if replace {
		return full, name, nil
	}
	ext := filepath.Ext(full)
	stem, shown := strings.TrimSuffix(full, ext), strings.TrimSuffix(name, ext)
	for n := 1; n < 10_000; n++ {
		if n > 1 {
			full, name = fmt.Sprintf("%s (%d)%s", stem, n, ext), fmt.Sprintf("%s (%d)%s", shown, n, ext)
		}
		if _, err := os.Lstat(full); errors.Is(err, fs.ErrNotExist) {
			return full, name, nil
		} else if err != nil {
			return "", "", err
		}
	}
	return "", "", errors.New("too many files have that name already")
}

// putFile writes a file beside its place and puts it there whole.
func putFile(full string, text []byte) error {
	f, err := os.CreateTemp(filepath.Dir(full), ".writing-*")
	if err != nil {
		return err
	}
	defer os.Remove(f.Name()) // nothing, once it has its name
	_, err = f.Write(text)
	if err := errors.Join(err, f.Chmod(0o640), f.Sync(), f.Close()); err != nil {
		return err
	}
	return os.Rename(f.Name(), full)
}
