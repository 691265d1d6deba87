package output

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"slices"
	"strings"
	"time"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/formats"
	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
)

// ofReminder gives the rows that a reminder holds at a moment as a table, with
// the columns that it shows.
func (files *Files) ofReminder(ctx context.Context, t *sheet.Tracker, id sheet.DefinitionID, at time.Time) (outbound.Table, error) {
	p := t.DefinitionByID(id)
	if p == nil {
		return outbound.Table{}, errors.New("the reminder is not there any more")
	}
	ready, err := files.Program(t.Shape)
	if err != nil {
		return outbound.Table{}, err
	}
	known, err := program.Ready[*reminder.Compiled](ready, id)
	if err != nil {
		return outbound.Table{}, err
	}
	people, _, err := files.Directory(ctx)
	if err != nil {
		return outbound.Table{}, err
	}
	meter := files.TurnMeter(ctx)
	c := known.Metered(meter)
	h := c.Collect(t, people, at)
	if err := meter.Err(); err != nil {
		return outbound.Table{}, err
	}
	items := append(h.Items, h.Nobody...)
	out := outbound.Table{Name: p.Name, Count: len(items)}
	for i, typ := range c.ShownTypes() {
		out.Columns = append(out.Columns, outbound.Column{Name: c.Show[i].Title, Type: typ})
	}
	out.Rows = func(yield func(outbound.Row) bool) {
		for i := range items {
			if !yield(outbound.Row{Cells: items[i].Values}) {
				return
			}
		}
	}
	return out, nil
}

// keepWritten keeps, with the change that a rule wrote files from, what it wrote.
func keepWritten(ctx context.Context, b *store.Batch, r *engine.Result, out *rule.Outcome) error {
	for i := range out.Writes {
		w := &out.Writes[i]
		if w.Wrote == "" {
			continue
		}
		rep := &out.Reports[w.Report()]
		err := b.PutWritten(ctx, &store.Written{Path: w.Wrote, Tracker: w.Tracker, Rule: rep.Definition, Name: rep.Rule, At: r.Set.At, Rows: w.Rows, Keep: w.Keep})
		if err != nil {
			return err
		}
		if w.Kept > 0 {
			if err := b.PutVersion(ctx, &store.Version{Path: w.Wrote, N: w.Kept, Tracker: w.Tracker, Run: r.Run, At: r.Set.At}); err != nil {
				return err
			}
		}
	}
	return nil
}

// Leave puts a file that goes with mails into the outbound folder, and into the list of
// files. It gives the path, which may differ from the one asked for by what no file's
// name can hold.
func (files *Files) Leave(ctx context.Context, w store.Written, text []byte) (string, error) {
	var err error
	if w.Path, err = safeParts(w.Path, w.Path); err != nil {
		return "", err
	}
	if err := files.notAnothers(ctx, w.Path, w.Tracker); err != nil {
		return "", err
	}
	if _, err := files.replace(w.Path, text); err != nil {
		return "", err
	}
	w.At = files.Now()
	b, err := files.store.Begin(ctx)
	if err != nil {
		return "", err
	}
	defer b.Rollback()
	if err := b.PutWritten(ctx, &w); err != nil {
		return "", err
	}
	return w.Path, b.Commit()
}

// Sweep removes the files whose time is up. What somebody has put in the
// place of one since is not looked at: it was told how long to keep the name.
func (files *Files) Sweep(ctx context.Context, now time.Time, steady bool) error {
	if !steady {
		return nil
	}
	if err := files.sweepVersions(ctx, now); err != nil {
		return err
	}
	past, err := files.store.WrittenPast(ctx, now)
	if err != nil {
		return err
	}
	if len(past) == 0 {
		return nil
	}
	for _, w := range past {
		if err := files.remove(w.Path); err != nil {
			return fmt.Errorf("removing %s, whose time is up: %w", w.Path, err)
		}
		if err := files.store.DropWritten(ctx, w.Path); err != nil {
			return err
		}
	}
	return nil
}

// Snapshot is a file that a rule wrote, as it is now.
type Snapshot struct {
	store.Written
	Size int64
	Gone bool // somebody has taken it away
}

// Snapshots gives the files that rules of a tracker wrote, the newest first.
func (files *Files) Snapshots(ctx context.Context, t *sheet.Tracker) ([]Snapshot, error) {
	all, err := files.store.WrittenBy(ctx, t.ID)
	if err != nil {
		return nil, err
	}
	out := make([]Snapshot, len(all))
	for i, w := range all {
		out[i].Written = w
		err := files.inPlace(w.Path, func(dir *os.Root, place string) error {
			info, err := dir.Stat(place)
			if err == nil {
				out[i].Size = info.Size()
			}
			return err
		})
		out[i].Gone = err != nil
	}
	return out, nil
}

// Snapshot opens one of them by its path.
func (files *Files) Snapshot(ctx context.Context, t *sheet.Tracker, path string) (*os.File, error) {
	all, err := files.store.WrittenBy(ctx, t.ID)
	if err != nil {
		return nil, err
	}
	names := make([]string, len(all))
	for i, w := range all {
		if names[i] = w.Path; w.Path == path {
			f, err := files.open(path)
			if errors.Is(err, fs.ErrNotExist) {
				return nil, fmt.Errorf("%s is not there any more: somebody has taken it away", shown(path))
			}
			return f, err
		}
	}
	return nil, &sheet.NotFound{What: "file written", Name: path, In: t.Name, Nearest: value.Nearest(path, names)}
}

// Comparison tells what is different between two files that rules wrote.
type Comparison struct {
	Key     string // the column by which rows were found again
	Added   []string
	Removed []string
	Changed []CellChange
	Same    int
}

// CellChange is one cell that differs.
type CellChange struct {
	Row, Column, Before, After string
}

// Compare reads two files and tells what is different in the later one, row by
// row, found again by a column; unless named, by the first.
func (files *Files) Compare(ctx context.Context, t *sheet.Tracker, before, after, key string) (*Comparison, error) {
	a, err := files.snapshotTable(ctx, t, before)
	if err != nil {
		return nil, err
	}
	b, err := files.snapshotTable(ctx, t, after)
	if err != nil {
		return nil, err
	}
	if key == "" && len(b.heads) > 0 {
		key = b.heads[0]
	}
	ka, kb := a.column(key), b.column(key)
	if ka < 0 || kb < 0 {
		return nil, &sheet.NotFound{What: "column", Name: key, In: after, Nearest: value.Nearest(key, b.heads)}
	}
	return compareTables(a, b, ka, kb), nil
}

type snapshotTable struct {
	heads []string
	rows  [][]string
}

func (s *snapshotTable) column(name string) int {
	for i, h := range s.heads {
		if value.EqualText(h, name) {
			return i
		}
	}
	return -1
}

func (files *Files) snapshotTable(ctx context.Context, t *sheet.Tracker, path string) (*snapshotTable, error) {
	f, err := files.Snapshot(ctx, t, path)
	if err != nil {
		return nil, err
	}
	defer func() { _ = f.Close() }()
	info, err := f.Stat()
	if err != nil {
		return nil, err
	}
	r, err := formats.Read(path, f, info.Size())
	if err != nil {
		return nil, err
	}
	out := &snapshotTable{}
	for i := range r.Sheets {
		s := &r.Sheets[i]
		if len(s.Tables) > 0 {
			out.read(s, &s.Tables[0])
			break
		}
	}
	return out, nil
}

func (s *snapshotTable) read(from *reading.Sheet, table *reading.Table) {
	for _, c := range table.Columns {
		s.heads = append(s.heads, c.Name)
	}
	for r := range from.Records(table) {
		row := make([]string, len(r.Cells))
		for i, v := range r.Cells {
			row[i] = v.String()
		}
		s.rows = append(s.rows, row)
	}
}

func compareTables(a, b *snapshotTable, ka, kb int) *Comparison {
	out := &Comparison{Key: b.heads[kb]}
	was := map[string][]string{}
	nth := numbered()
	for _, row := range a.rows {
		was[nth(row[ka])] = row
	}
	nth = numbered()
	for _, row := range b.rows {
		key := nth(row[kb])
		old, known := was[key]
		if !known {
			out.Added = append(out.Added, row[kb])
			continue
		}
		delete(was, key)
		before := len(out.Changed)
		for i, h := range b.heads {
			if j := a.column(h); j >= 0 && strings.TrimSpace(old[j]) != strings.TrimSpace(row[i]) {
				out.Changed = append(out.Changed, CellChange{Row: row[kb], Column: h, Before: old[j], After: row[i]})
			}
		}
		if len(out.Changed) == before {
			out.Same++
		}
	}
	nth = numbered()
	for _, row := range a.rows {
		if _, gone := was[nth(row[ka])]; gone {
			out.Removed = append(out.Removed, row[ka])
		}
	}
	return out
}

// numbered tells rows with the same key apart, by which of them they are.
func numbered() func(key string) string {
	seen := map[string]int{}
	return func(key string) string {
		key = value.Fold(key)
		seen[key]++
		return fmt.Sprint(key, " #", seen[key])
	}
}

// Newest gives the files that each rule wrote when it last wrote any, as far as
// they are still there.
func (files *Files) Newest(ctx context.Context, t *sheet.Tracker, rules []sheet.DefinitionID) ([]string, error) {
	if len(rules) == 0 {
		return nil, nil
	}
	all, err := files.Snapshots(ctx, t)
	if err != nil {
		return nil, err
	}
	var out []string
	for _, id := range rules {
		first := slices.IndexFunc(all, func(s Snapshot) bool { return s.Rule == id && !s.Gone })
		for i := range all {
			if first >= 0 && all[i].Rule == id && all[i].At.Equal(all[first].At) && !all[i].Gone {
				out = append(out, all[i].Path)
			}
		}
	}
	return out, nil
}
