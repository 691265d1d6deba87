// Package intake takes files in: those that are sent, and those that arrive in the
// intake folder.
package intake

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"
	"time"

	"github.com/fsnotify/fsnotify"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/formats"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/thrift"
)

// IntakeFolder is the folder of the workspace in which files arrive.
const IntakeFolder = "intake"

// Waker gives the request to run a rule on a file. Take takes rows from the file for its
// steps.
type Waker func(by policy.Principal, cause sheet.Cause, t *sheet.Tracker, r *rule.Compiled, f *rule.File, take func(*engine.Turn) TakeRows) engine.Request

// TakeRows takes rows of a file into a tab, as a step says.
type TakeRows = func(d *sheet.Draft, tracker sheet.TrackerID, step *rule.Take, because int) (says string, all bool, err error)

// Intake watches the intake folder.
type Intake struct {
	*engine.Engine
	store   *store.Store
	Machine func() time.Time // the machine's clock, by which files are stamped; tests move it
	wake    Waker
	sighted map[string]sighting // of the loop: files stamped with times still to come
	again   again
}

// New gives the intake of an engine's workspace, which wakes rules.
func New(e *engine.Engine, wake Waker) *Intake {
	return &Intake{Engine: e, store: e.Store(), Machine: time.Now, wake: wake}
}

// restFor is how long a file must not have changed before it is taken to be
// whole: until then somebody may still be writing it.
const restFor = 2 * time.Second

// arrived is a file that wakes rules.
type arrived struct {
	rule.File
	box  *Intake
	full string
	hash string
}

// Loop looks through the intake at the start, for what was missed while
// the service was down, and again whenever something happens there.
func (box *Intake) Loop(ctx context.Context) {
	watcher, err := fsnotify.NewWatcher()
	if err != nil { // looking every so often does as well, only later
		box.Log.Warn("the intake cannot be watched, and is looked through every 20 seconds instead", "err", err)
	} else {
		defer watcher.Close()
	}
	var events chan fsnotify.Event
	var failures chan error
	if watcher != nil {
		events, failures = watcher.Events, watcher.Errors
	}
	if err := os.MkdirAll(filepath.Join(box.Dir, IntakeFolder), 0o750); err != nil {
		box.Log.Error("the intake cannot be made", "err", err)
	}
	for {
		box.watchFolders(watcher)
		resting, err := box.Look(ctx)
		if err != nil && ctx.Err() == nil {
			box.Log.Error("the intake could not be looked through", "err", err)
		}
		wait := 20 * time.Second
		if resting {
			wait = restFor / 2
		}
		timer := time.NewTimer(wait)
		select {
		case <-ctx.Done():
			timer.Stop()
			return
		case err := <-failures:
			box.Log.Warn("watching the intake", "err", err)
		case <-events:
			select { // what belongs together comes in bursts
			case <-ctx.Done():
			case <-time.After(restFor / 4):
			}
			drain(events)
		case <-timer.C:
		}
		timer.Stop()
	}
}

func drain(events chan fsnotify.Event) {
	for {
		select {
		case <-events:
		default:
			return
		}
	}
}

// watchFolders watches the intake and all folders in it; watching one twice is
// nothing.
func (box *Intake) watchFolders(w *fsnotify.Watcher) {
	if w == nil {
		return
	}
	root := filepath.Join(box.Dir, IntakeFolder)
	_ = filepath.WalkDir(root, func(p string, e fs.DirEntry, err error) error {
		if err == nil && e.IsDir() {
			_ = w.Add(p) // what cannot be watched is found by looking
		}
		return nil
	})
}

// Look looks through the intake once and wakes the rules of each file that is
// new or has changed. It tells whether files are left that do not rest yet.
func (box *Intake) Look(ctx context.Context) (resting bool, err error) {
	root := filepath.Join(box.Dir, IntakeFolder)
	if err := os.MkdirAll(root, 0o750); err != nil {
		return false, fmt.Errorf("making the intake: %w", err)
	}
	known, err := box.store.Files(ctx)
	if err != nil {
		return false, err
	}
	seen := newSeen(known)
	err = filepath.WalkDir(root, func(p string, e fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if passing(e.Name()) && p != root {
			if e.IsDir() {
				return filepath.SkipDir
			}
			return nil
		}
		if !e.Type().IsRegular() {
			return nil
		}
		info, err := e.Info()
		if errors.Is(err, fs.ErrNotExist) {
			return nil
		}
		if err != nil {
			return err
		}
		rel, err := filepath.Rel(box.Dir, p)
		if err != nil {
			return err
		}
		seen.there(filepath.ToSlash(rel), info)
		return nil
	})
	if err != nil {
		return false, fmt.Errorf("looking through the intake: %w", err)
	}
	for _, name := range seen.changed {
		if !box.rests(name, seen.infos[name]) {
			resting = true
			continue
		}
		if err := box.takeIn(ctx, seen, name); err != nil {
			return resting, err
		}
	}
	return resting, box.store.PutFiles(ctx, seen.vanished()...)
}

// takeIn wakes the rules of a file and keeps it as seen. A rule that fails is
// on record and is not tried again until the file changes.
func (box *Intake) takeIn(ctx context.Context, s *seen, name string) error {
	full := filepath.Join(box.Dir, filepath.FromSlash(name))
	hash, err := hashOf(full)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		box.Log.Warn("a file of the intake cannot be read", "file", name, "err", err)
		return nil
	}
	f, isNew := s.identify(name, hash, box.Now())
	if isNew {
		before, err := box.store.Try(ctx, name, hash)
		if err != nil {
			return err
		}
		if before >= MostTries {
			box.putAside(name)
			return box.store.PutFiles(ctx, f)
		}
		box.Mended(aboutFile(name))
		a := &arrived{box: box, File: rule.File{ID: f.ID, Path: f.Path, Version: f.Version, Size: f.Size, Created: f.Created, Modified: f.Modified, By: ownerOf(s.infos[name])}, full: full, hash: hash}
		err = box.Guarded("reading the file "+name, func() error { return box.wakeByFile(ctx, a) })
		var panicked *engine.Panicked
		if errors.As(err, &panicked) { // as good as seen: it would go wrong again
			box.putAside(name)
			err = nil
		} else if endErr := box.store.Ended(context.WithoutCancel(ctx), name); err == nil {
			err = endErr
		}
		if err != nil {
			return err
		}
	}
	return box.store.PutFiles(ctx, f)
}

// MostTries is how often a file is read that the service did not outlive.
const MostTries = 2

func aboutFile(name string) string { return "file " + name }

// putAside tells that a file is not read any more.
func (box *Intake) putAside(name string) {
	box.Notice(aboutFile(name), fmt.Sprintf("The file %s was put aside, because the service went wrong while reading it. Nothing of it was imported; save it anew, in another form perhaps, to have it tried again.", name))
}

// AsideBefore tells of the files that were put aside before the service started.
func (box *Intake) AsideBefore(ctx context.Context) error {
	names, err := box.store.NeverEnded(ctx, MostTries+1)
	for _, name := range names {
		box.putAside(name)
	}
	return err
}

func hashOf(full string) (string, error) {
	f, err := os.Open(full)
	if err != nil {
		return "", err
	}
	defer f.Close()
	h := sha256.New()
	if _, err := io.Copy(h, f); err != nil {
		return "", err
	}
	return hex.EncodeToString(h.Sum(nil)), nil
}

func (box *Intake) wakeByFile(ctx context.Context, a *arrived) error {
	for _, t := range box.State().Trackers() {
		ready, err := box.Program(t.Shape)
		if err != nil {
			box.Log.Error("the rules of a tracker cannot be read", "tracker", t.Name, "err", err)
			continue
		}
		for _, r := range rule.Of(ready) {
			if r.Paused || r.Wake.File == "" || !rule.Matches(r.Wake.File, a.Path) {
				continue
			}
			req := box.wake(policy.Itself(policy.ByFiles), sheet.Cause{Kind: sheet.ByFile, Name: a.Path}, t, r, &a.File, a.taker)
			done := thrift.Begin() // a file is taken in: memory is minded
			_, err := box.Commit(ctx, req)
			done()
			if err != nil {
				var failed *engine.Failure
				if errors.Is(err, engine.ErrClosed) || errors.As(err, &failed) || ctx.Err() != nil {
					return err // the file has not been seen: it is tried again
				}
				box.Log.Warn("a rule that a file woke failed", "rule", r.Name, "file", a.Path, "err", err)
			}
		}
	}
	return nil
}

// sheetMark names a sheet before a range.
func sheetMark(sheet string) string {
	if sheet == "" {
		return ""
	}
	return sheet + "!"
}

// fileKey is what the reading of a file rests on.
type fileKey struct{ path, hash string }

// taker takes rows from the file for steps of rules.
func (a *arrived) taker(turn *engine.Turn) TakeRows {
	return func(draft *sheet.Draft, tracker sheet.TrackerID, t *rule.Take, because int) (string, bool, error) {
		file, err := engine.Need(turn, fileKey{a.full, a.hash}, func(context.Context) (*reading.Reading, error) { return formats.ReadFile(a.full) })
		if err != nil {
			return "", false, err
		}
		return a.take(file, &taking{turn: turn, draft: draft, tracker: draft.Own(tracker), because: because}, t)
	}
}

func (a *arrived) take(file *reading.Reading, to *taking, t *rule.Take) (string, bool, error) {
	tab := to.tracker.TabByID(t.Tab)
	s, err := bestTable(file, tab, t.Sheet)
	if err != nil {
		return "", false, err
	}
	to.key, to.gone = tab.ByID(t.Key).Name, t
	rep, lacking, err := a.box.takeTable(to, s)
	if err != nil {
		return "", false, fmt.Errorf("importing %s of %s: %w", s.table.Range, path.Base(a.Path), err)
	}
	says := fmt.Sprintf("took %d rows of %s: %d added, %d updated, %d unchanged", s.table.Rows, s.table.Range, rep.Added, rep.Updated, rep.Unchanged)
	if rep.Odd > 0 {
		says += fmt.Sprintf(", %d odd cells", rep.Odd)
	}
	for i, trouble := range rep.Troubles {
		if i == 10 {
			says += fmt.Sprintf("; and %d more not taken", len(rep.Troubles)-i)
			break
		}
		says += fmt.Sprintf("; not taken: %s: %s", trouble.Where, trouble.Why)
	}
	for i, held := range rep.Held {
		if i == 10 {
			says += fmt.Sprintf("; and %d more changed on both sides", len(rep.Held)-i)
			break
		}
		says += fmt.Sprintf("; %s of %s has changed on both sides: it stays %q, and the file has %q", held.Column, held.Label, held.Here, held.File)
	}
	switch {
	case to.kept != "":
		says += "; " + to.kept
	case to.left > 0:
		says += fmt.Sprintf("; %d gone from the file: %s", to.left, map[rule.TakeGone]string{rule.GoneRemove: "deleted", rule.GoneMark: "marked"}[t.Gone])
	}
	if len(lacking) > 0 {
		says += "; the tab has no column " + strings.Join(lacking, ", ")
	}
	for _, l := range besides(file, t.Sheet) {
		says += fmt.Sprintf("; ignored %s%s: %s", sheetMark(l.Sheet), l.Range, l.Reason)
	}
	for _, l := range s.table.LeftOut {
		says += fmt.Sprintf("; ignored %s%s: %s", sheetMark(s.sheet.Name), l.Range, l.Reason)
	}
	return says, len(rep.Troubles)+len(rep.Held)+len(lacking) == 0 && to.kept == "", nil
}
