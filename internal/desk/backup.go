package desk

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
)

// Backup writes a consistent copy of the workspace's file while work goes on.
// The folders of files are not in it.
func (d *Desk) Backup(ctx context.Context, to io.Writer) (err error) {
	dir, err := os.MkdirTemp(d.Dir, ".backup-*")
	if err != nil {
		return fmt.Errorf("making room for the backup: %w", err)
	}
	defer func() { err = errors.Join(err, os.RemoveAll(dir)) }()
	path := filepath.Join(dir, "kavlo.db")
	if err := d.store.Backup(ctx, path); err != nil {
		return err
	}
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	_, err = io.Copy(to, f)
	return errors.Join(err, f.Close())
}

// Check says what is wrong with the workspace: with the file and what it is to
// hold by its own checksums, and whether the trackers in memory are what the file
// holds. Thoroughly, they are held against all of the journal too.
func (d *Desk) Check(ctx context.Context, thoroughly bool) (found []string, rows int, err error) {
	if found, err = d.store.Verify(ctx); err != nil {
		return nil, 0, err
	}
	var stored *sheet.Workspace
	var aside []store.Unreadable
	now := d.State()
	for range 5 { // until nothing is written between the one look and the other
		if stored, aside, err = d.store.Load(ctx); err != nil {
			return append(found, err.Error()), 0, nil //nolint:nilerr // what is wrong with the file is what was asked
		}
		if after := d.State(); after == now {
			break
		}
		now = d.State()
	}
	for _, u := range aside {
		found = append(found, u.String())
	}
	for _, t := range now.Trackers() {
		for i := range t.Tabs {
			rows += t.Count(t.Tabs[i].ID)
		}
	}
	if d.State() == now { // else somebody writes all the time, and differences are no faults
		different, err := d.store.Differences(stored, now)
		if err != nil {
			return nil, 0, err
		}
		found = append(found, different...)
	}
	if !thoroughly {
		return found, rows, nil
	}
	should, err := d.store.Replay(ctx)
	if err != nil {
		return append(found, "the journal cannot be played: "+err.Error()), rows, nil //nolint:nilerr // what is wrong with the file is what was asked
	}
	if d.State() == now {
		different, err := d.store.Differences(now, should)
		if err != nil {
			return nil, 0, err
		}
		found = append(found, different...)
	}
	return found, rows, nil
}
