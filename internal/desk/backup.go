package desk

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"example.org/kavlo/internal/sheet"
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

// Check says what is wrong with the workspace: the file, and whether every
// tracker in memory is what the file holds, each row once.
func (d *Desk) Check(ctx context.Context) (found []string, rows int, err error) {
	if err := d.store.Check(ctx); err != nil {
		return []string{err.Error()}, 0, nil //nolint:nilerr // what is wrong with the file is what was asked
	}
	stored, aside, err := d.store.Load(ctx)
	if err != nil {
		return nil, 0, err
	}
	for _, u := range aside {
		found = append(found, u.String())
	}
	now := d.State()
	for _, t := range now.Trackers() {
		other := stored.Tracker(t.ID)
		if other == nil {
			found = append(found, fmt.Sprintf("tracker %s is not in the file", t.Name))
			continue
		}
		seen := map[sheet.RowID]string{}
		for i := range t.Tabs {
			tab := &t.Tabs[i]
			if n, m := t.Count(tab.ID), other.Count(tab.ID); n != m && d.State() == now {
				found = append(found, fmt.Sprintf("%s / %s has %d rows, and the file %d", t.Name, tab.Name, n, m))
			}
			for r := range t.Rows(tab.ID) {
				rows++
				if in := seen[r.ID]; in != "" {
					found = append(found, fmt.Sprintf("row %s of %s is in %s and in %s", r.ID, t.Name, in, tab.Name))
				}
				seen[r.ID] = tab.Name
			}
		}
	}
	return found, rows, nil
}
