// Package output writes files: exports, and what rules write into the outbound folder,
// with the versions of before.
package output

import (
	"bytes"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"
	"time"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/formats/csv"
	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/formats/xlsx/patch"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
)

// Files are what a workspace writes.
type Files struct {
	*engine.Engine
	store   *store.Store
	folders []string
}

// New gives the files of an engine's workspace, and of other folders by their full paths.
func New(e *engine.Engine, folders []string) *Files {
	files := &Files{Engine: e, store: e.Store()}
	for _, f := range folders {
		files.folders = append(files.folders, filepath.Clean(f))
	}
	return files
}

// The folders of a workspace in which files arrive and into which Kavlo writes.
const (
	IntakeFolder   = "intake"
	OutboundFolder = "outbound"
)

// prepared is a file that is ready to be put in its place.
type prepared struct {
	text   []byte
	where  string // the range that the rows stand in
	rows   int
	passed int    // rows that could not be judged
	skip   bool   // there are no rows, and then nothing is written
	over   *state // of the workbook that it takes the place of; nil: it is a new file
	err    error
}

// state tells one state of a file from another.
type state struct {
	size int64
	at   time.Time
}

func (files *Files) stateOf(name string) *state {
	var info fs.FileInfo
	err := files.inPlace(name, func(dir *os.Root, place string) (err error) {
		info, err = dir.Lstat(place)
		return err
	})
	if err != nil {
		return nil
	}
	return &state{info.Size(), info.ModTime()}
}

func (s *state) same(other *state) bool {
	return s == nil && other == nil || s != nil && other != nil && s.size == other.size && s.at.Equal(other.at)
}

// prepare works out the file that a step writes, from the tracker as it stood at the step.
func (files *Files) prepare(ctx context.Context, ask *rule.WriteAsk, at time.Time) (out prepared) {
	t := ask.State
	table, passed, err := files.asked(ctx, t, ask, at)
	if err != nil {
		return prepared{err: err}
	}
	out.rows, out.passed = table.Count, passed
	table.Totals = ask.Totals
	if ask.Chart != nil {
		table.Chart = &outbound.Chart{Title: ask.Chart.Title, Names: t.ColumnByID(ask.Chart.Names).Name, Values: t.ColumnByID(ask.Chart.Values).Name}
	}
	if ask.Skip && table.Count == 0 {
		return prepared{skip: true, passed: passed}
	}
	name, err := files.safePath(ask.Path, ask.File)
	if err != nil {
		return prepared{err: err}
	}
	var from []byte
	if ask.From != "" {
		if from, out.where, err = files.filled(ctx, ask, t, at); err != nil {
			return prepared{err: fmt.Errorf("template %s: %w", ask.From, err)}
		}
	}
	switch {
	case ask.Sheet == "" && from != nil:
		out.text = from
		return out
	case ask.Sheet == "":
		out.text, out.where, out.err = written(name, &table)
		return out
	case from != nil:
		out.text, out.where, out.err = files.placedIn(ctx, from, ask, &table, t, at)
		return out
	}
	out.over = files.stateOf(name)
	out.text, out.where, out.err = files.placed(ctx, name, ask, &table, t, at)
	return out
}

// put puts a file that was prepared in its place, before the change that it was written
// from is committed: what is on record as written is there. A stop in between leaves a
// file, and the rule writes it again. What it gives takes the file back.
func (files *Files) put(ready prepared, ask *rule.WriteAsk, at time.Time) (says string, undo func() error, err error) {
	name, err := files.safePath(ask.Path, ask.File)
	if err != nil {
		return "", nil, err
	}
	into := ask.Sheet != "" && ask.From == ""
	if into && !ready.over.same(files.stateOf(name)) { // written to since, perhaps by this very turn
		ready = files.prepare(context.Background(), ask, at)
	}
	if ready.err != nil {
		return "", nil, ready.err
	}
	if ready.skip {
		return "no rows: nothing was written", func() error { return nil }, nil
	}
	if err := files.notAnothers(context.Background(), name, ask.Tracker); err != nil {
		return "", nil, err
	}
	if !into && !ask.Replace {
		if name, err = files.free(name); err != nil {
			return "", nil, err
		}
	}
	if ask.Kept, err = files.keepVersion(name); err != nil {
		return "", nil, err
	}
	if undo, err = files.replace(name, ready.text); err != nil {
		return "", undo, err
	}
	ask.Wrote, ask.Rows = name, ready.rows
	says = fmt.Sprintf("wrote %d rows to %s, %s", ready.rows, shown(name), ready.where)
	if ready.passed > 0 {
		says += fmt.Sprintf("; %d rows were skipped because of odd cells", ready.passed)
	}
	return says, undo, nil
}

// would says what a preview would write.
func (p *prepared) would(ask *rule.WriteAsk) string {
	if p.skip {
		return "no rows: nothing would be written"
	}
	return fmt.Sprintf("would write %d rows to %s, %s", p.rows, shown(ask.Path), p.where)
}

// asked gives the rows that a step writes, of a tab or of a reminder.
func (files *Files) asked(ctx context.Context, t *sheet.Tracker, ask *rule.WriteAsk, at time.Time) (outbound.Table, int, error) {
	if ask.Reminder != 0 {
		table, err := files.ofReminder(ctx, t, ask.Reminder, at)
		return table, 0, err
	}
	ready, err := files.Program(t.Shape)
	if err != nil {
		return outbound.Table{}, 0, err
	}
	tab := t.TabByID(ask.Tab)
	q := query.Query{Tab: tab, Where: ask.Where, Order: ask.Order, Only: ask.Only}
	for _, id := range ask.Columns {
		q.Columns = append(q.Columns, tab.ByID(id).Name)
	}
	return tableOf(ready, t, q, at, files.TurnMeter(ctx), nil)
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
func (files *Files) placed(ctx context.Context, name string, ask *rule.WriteAsk, table *outbound.Table, t *sheet.Tracker, at time.Time) ([]byte, string, error) {
	before, err := files.Read(name)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, "", errors.New("there is no such workbook to write into: put it there first")
	}
	if err != nil {
		return nil, "", err
	}
	return files.placedIn(ctx, before, ask, table, t, at)
}

// placedIn gives a workbook with the table's rows put into it.
func (files *Files) placedIn(ctx context.Context, before []byte, ask *rule.WriteAsk, table *outbound.Table, t *sheet.Tracker, at time.Time) ([]byte, string, error) {
	var buf bytes.Buffer
	if len(ask.Figures) > 0 {
		figures, err := files.figures(ctx, ask, t, at)
		if err != nil {
			return nil, "", err
		}
		done, err := patch.Label(&buf, before, ask.Sheet, figures, ask.Insert)
		return buf.Bytes(), done.Says(), err
	}
	if ask.At == "" {
		into := patch.Into{Sheet: ask.Sheet, Table: ask.Table}
		if ask.Key != 0 {
			into.Key = t.ColumnByID(ask.Key).Name
		}
		u, err := patch.Update(&buf, before, table, into)
		return buf.Bytes(), fmt.Sprintf("%s: %d added, %d changed, %d unchanged", u.Range, u.Added, u.Changed, u.Unchanged), err
	}
	done, err := patch.Place(&buf, before, table, patch.At{Sheet: ask.Sheet, Cell: ask.At, Headers: !ask.Bare, Over: ask.Over, Name: ask.Place})
	return buf.Bytes(), done.Says(), err
}

// standing remembers what stands in a place, and gives what puts it back there.
func standing(dir *os.Root, place string) (putBack func(*os.Root) error, err error) {
	info, err := dir.Lstat(place)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return func(dir *os.Root) error { return dir.Remove(place) }, nil
	case err != nil:
		return nil, err
	case info.Mode()&fs.ModeSymlink != 0: // it is replaced and not followed
		to, err := dir.Readlink(place)
		return func(dir *os.Root) error { return errors.Join(dir.Remove(place), dir.Symlink(to, place)) }, err
	}
	before, err := dir.ReadFile(place)
	return func(dir *os.Root) error { return putIn(dir, filepath.ToSlash(place), before, info.Mode().Perm()) }, err
}

// putIn writes a file beside its place and puts it there whole.
func putIn(dir *os.Root, name string, text []byte, mode fs.FileMode) error {
	place := filepath.FromSlash(name)
	beside := filepath.Join(filepath.Dir(place), ".writing-"+rand.Text())
	f, err := dir.OpenFile(beside, os.O_CREATE|os.O_EXCL|os.O_WRONLY, private)
	if err != nil {
		return err
	}
	defer func() { _ = dir.Remove(beside) }() // nothing, once it has its name
	_, err = f.Write(text)
	if mode != private {
		err = errors.Join(err, f.Chmod(mode))
	}
	if err := errors.Join(err, f.Sync(), f.Close()); err != nil {
		return err
	}
	return dir.Rename(beside, place)
}

// fileKey is what a file is prepared for: a step of a rule as it is compiled, and a name.
type fileKey struct {
	step *rule.Write
	path string
	nth  int
}

// Write lets a turn write the files that its rules ask for. What is in them is worked out
// and written up outside the writer; in it they are only put in their places.
func (files *Files) Write(t *engine.Turn, out *rule.Outcome) error {
	touched := (&sheet.ChangeSet{Changes: t.Draft.Changes()}).Trackers()
	for i := range out.Writes {
		ask := &out.Writes[i]
		ready, err := engine.Loaded(t, fileKey{ask.Write, ask.Path, i}, append([]sheet.TrackerID{ask.Tracker}, touched...), func(ctx context.Context) (prepared, error) {
			return files.prepare(ctx, ask, t.Now), nil
		})
		if err != nil {
			return err
		}
		if ready.err != nil { // a preview fails where the run would
			return fmt.Errorf("writing %s: %w", shown(ask.Path), ready.err)
		}
		ask.Would = ready.would(ask)
		t.Place(func(*engine.Result) (func() error, error) {
			says, undo, err := files.put(ready, ask, t.Now)
			if err != nil {
				return undo, fmt.Errorf("writing %s: %w", shown(ask.Path), err)
			}
			ask.Tell(out, says)
			return undo, nil
		})
	}
	t.Store(func(ctx context.Context, b *store.Batch, r *engine.Result) error { return keepWritten(ctx, b, r, out) })
	return nil
}
