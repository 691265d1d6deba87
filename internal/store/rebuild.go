package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"example.org/kavlo/internal/sheet"
)

// Replay plays the journal from its beginning and gives the workspace that it
// comes to. The journal holds every change that was ever made.
func (s *Store) Replay(ctx context.Context) (*sheet.Workspace, error) {
	w := sheet.Empty()
	for after := int64(0); ; {
		numbers, err := s.Since(ctx, after, 1000)
		if err != nil || len(numbers) == 0 {
			return w, err
		}
		for _, seq := range numbers {
			set, err := s.ChangeSet(ctx, seq)
			if err != nil {
				return nil, err
			}
			draft := w.Edit(seq, 1)
			for i := range set.Changes {
				if err := draft.Apply(set.Changes[i]); err != nil {
					return nil, fmt.Errorf("playing change set %d: %w", seq, err)
				}
			}
			w, after = draft.Done(), seq
		}
	}
}

// Differences says in what one workspace is not as another: trackers, and rows
// with all that they hold and where they are.
func (s *Store) Differences(is, should *sheet.Workspace) ([]string, error) {
	var found []string
	say := func(format string, args ...any) {
		if len(found) < mostFound {
			found = append(found, fmt.Sprintf(format, args...))
		}
	}
	for _, t := range should.Trackers() {
		now := is.Tracker(t.ID)
		if now == nil {
			say("tracker %s is not there", t.Name)
			continue
		}
		a, errA := json.Marshal(now.Shape)
		b, errB := json.Marshal(t.Shape)
		if err := errors.Join(errA, errB); err != nil {
			return nil, err
		}
		if string(a) != string(b) {
			say("the setup of tracker %s is another", t.Name)
		}
		if err := differentRows(now, t, say); err != nil {
			return nil, err
		}
	}
	for _, t := range is.Trackers() {
		if should.Tracker(t.ID) == nil {
			say("tracker %s should not be there", t.Name)
		}
	}
	return found, nil
}

func differentRows(is, should *sheet.Tracker, say func(string, ...any)) error {
	b := &Batch{}
	written := func(t *sheet.Tracker, r *sheet.Row) (string, error) {
		fields, err := b.appendRow(nil, t, r)
		if err != nil {
			return "", err
		}
		fields[4] = nil // the version tells when, not what
		return fmt.Sprint(fields), nil
	}
	for i := range should.Tabs {
		tab := &should.Tabs[i]
		for r := range should.Rows(tab.ID) {
			now := is.Row(r.ID)
			if now == nil {
				say("row %s of %s / %s is not there: %s", r.ID, should.Name, tab.Name, should.Label(r))
				continue
			}
			if is.TabByID(now.Tab) == nil {
				say("row %s of %s is in a tab that is not there", r.ID, should.Name)
				continue
			}
			a, errA := written(is, now)
			b, errB := written(should, r)
			if err := errors.Join(errA, errB); err != nil {
				return err
			}
			if a != b {
				say("row %s of %s / %s is not as the journal has it: %s", r.ID, should.Name, tab.Name, should.Label(r))
			}
		}
	}
	for i := range is.Tabs {
		for r := range is.Rows(is.Tabs[i].ID) {
			if should.Row(r.ID) == nil {
				say("row %s of %s / %s should not be there: %s", r.ID, is.Name, is.Tabs[i].Name, is.Label(r))
			}
		}
	}
	return nil
}

// Inspected is what was found in a workspace that nobody has open.
type Inspected struct {
	Found                []string
	Trackers, Rows, Sets int
}

// Inspect looks through a workspace that nobody has open: the file, checksums,
// the journal's chain, how far it had come, and whether the rows are what the
// journal comes to. It changes nothing but what opening does.
func Inspect(ctx context.Context, dir string) (*Inspected, error) {
	if _, err := os.Stat(filepath.Join(dir, dbFile)); errors.Is(err, os.ErrNotExist) {
		if seq, _, ok, _ := readHead(dir); !ok || seq == 0 {
			return nil, fmt.Errorf("there is no workspace in %s", dir)
		}
	}
	s, err := Open(ctx, dir, Options{})
	if errors.Is(err, ErrInUse) {
		return nil, err
	}
	if err != nil { // it does not open: that is what is to be told
		return &Inspected{Found: []string{err.Error()}}, nil //nolint:nilerr // what is wrong is what was asked
	}
	out, err := s.inspect(ctx)
	return out, errors.Join(err, s.Close())
}

func (s *Store) inspect(ctx context.Context) (*Inspected, error) {
	out := &Inspected{}
	var err error
	if out.Found, err = s.Verify(ctx); err != nil {
		return nil, err
	}
	is, aside, err := s.Load(ctx)
	if err != nil {
		out.Found = append(out.Found, err.Error())
		return out, nil //nolint:nilerr // what is wrong with the file is what was asked
	}
	for _, u := range aside {
		out.Found = append(out.Found, u.String())
	}
	for _, t := range is.Trackers() {
		out.Trackers++
		for i := range t.Tabs {
			out.Rows += t.Count(t.Tabs[i].ID)
		}
	}
	last, err := s.LastSeq(ctx)
	if err != nil {
		return nil, err
	}
	out.Sets = int(last)
	should, err := s.Replay(ctx)
	if err != nil {
		out.Found = append(out.Found, "the journal cannot be played: "+err.Error())
		return out, nil //nolint:nilerr // what is wrong with the file is what was asked
	}
	different, err := s.Differences(is, should)
	out.Found = append(out.Found, different...)
	return out, err
}

// Rebuilt tells what a rebuilding did.
type Rebuilt struct {
	Trackers, Rows int
	Mended         []string // what was not as the journal has it
	Aside          string   // where the file as it was lies now
}

// Rebuild makes the trackers and rows of a workspace that nobody has open anew
// from its journal. The file as it was is kept beside it.
func Rebuild(ctx context.Context, dir string, now time.Time) (*Rebuilt, error) {
	s, err := Open(ctx, dir, Options{})
	if err != nil {
		return nil, err
	}
	out, err := s.rebuild(ctx, now)
	return out, errors.Join(err, s.Close())
}

func (s *Store) rebuild(ctx context.Context, now time.Time) (*Rebuilt, error) {
	wrong, err := s.verifyChain(ctx)
	if err != nil {
		return nil, err
	}
	if len(wrong) > 0 {
		return nil, fmt.Errorf("the journal itself is damaged: %s: restore a backup instead", wrong[0])
	}
	should, err := s.Replay(ctx)
	if err != nil {
		return nil, fmt.Errorf("the journal cannot be played, so nothing can be made of it: restore a backup instead: %w", err)
	}
	out := &Rebuilt{Aside: asideName(s.path, now)}
	if err := s.Backup(ctx, out.Aside); err != nil {
		return nil, err
	}
	if err := os.Chmod(out.Aside, 0o600); err != nil {
		return nil, err
	}
	is, aside, err := s.Load(ctx)
	if err != nil {
		return nil, err
	}
	for _, u := range aside {
		out.Mended = append(out.Mended, u.String())
	}
	different, err := s.Differences(is, should)
	if err != nil {
		return nil, err
	}
	out.Mended = append(out.Mended, different...)
	b, err := s.Begin(ctx)
	if err != nil {
		return nil, err
	}
	defer b.Rollback()
	if _, err := b.tx.ExecContext(ctx, "DELETE FROM row; DELETE FROM tracker"); err != nil {
		return nil, fmt.Errorf("clearing what is to be made anew: %w", err)
	}
	for _, t := range should.Trackers() {
		out.Trackers++
		if err := b.saveShape(ctx, should, &sheet.Change{Kind: sheet.Reshape, Tracker: t.ID}); err != nil {
			return nil, err
		}
		rows := newRows{b: b}
		for i := range t.Tabs {
			for r := range t.Rows(t.Tabs[i].ID) {
				out.Rows++
				if err := rows.put(ctx, t, r); err != nil {
					return nil, err
				}
			}
		}
		if err := rows.flush(ctx); err != nil {
			return nil, err
		}
	}
	return out, b.Commit()
}
