// Package upkeep keeps a workspace sound: copies, checks, sweeping what nobody reads.
package upkeep

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
)

// Upkeep looks after a workspace.
type Upkeep struct {
	*engine.Engine
	KeepRuns                   time.Duration // how long runs are kept; the journal is kept
	Sweeps                     []Sweep       // what features sweep
	store                      *store.Store
	swept, ticked, steadySince time.Time // of the clock's loop
}

// Sweep removes what nobody reads any more; steady tells that the clock has gone on
// evenly for a while, so that what is past its time may go.
type Sweep func(ctx context.Context, now time.Time, steady bool) error

// New gives the upkeep of an engine's workspace.
func New(e *engine.Engine, keepRuns time.Duration, sweeps ...Sweep) *Upkeep {
	return &Upkeep{Engine: e, KeepRuns: keepRuns, Sweeps: sweeps, store: e.Store()}
}

// Backup writes a consistent copy of the workspace's file while work goes on.
// The folders of files are not in it.
func (up *Upkeep) Backup(ctx context.Context, to io.Writer) (err error) {
	dir, err := os.MkdirTemp(up.Dir, ".backup-*")
	if err != nil {
		return fmt.Errorf("making room for the backup: %w", err)
	}
	defer func() { err = errors.Join(err, os.RemoveAll(dir)) }()
	path := filepath.Join(dir, "kavlo.db")
	if err := up.store.Backup(ctx, path); err != nil {
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
func (up *Upkeep) Check(ctx context.Context, thoroughly bool) (found []string, rows int, err error) {
	if found, err = up.store.Verify(ctx); err != nil {
		return nil, 0, err
	}
	var stored *sheet.Workspace
	var aside []store.Unreadable
	now := up.State()
	for range 5 { // until nothing is written between the one look and the other
		if stored, aside, err = up.store.Load(ctx); err != nil {
			return append(found, err.Error()), 0, nil //nolint:nilerr // what is wrong with the file is what was asked
		}
		if after := up.State(); after == now {
			break
		}
		now = up.State()
	}
	for _, u := range aside {
		found = append(found, u.String())
	}
	for _, t := range now.Trackers() {
		for i := range t.Tabs {
			rows += t.Count(t.Tabs[i].ID)
		}
	}
	if up.State() == now { // else somebody writes all the time, and differences are no faults
		different, err := up.store.Differences(stored, now)
		if err != nil {
			return nil, 0, err
		}
		found = append(found, different...)
	}
	if !thoroughly {
		return found, rows, nil
	}
	should, err := up.store.Replay(ctx)
	if err != nil {
		return append(found, "the journal cannot be played: "+err.Error()), rows, nil //nolint:nilerr // what is wrong with the file is what was asked
	}
	if up.State() == now {
		different, err := up.store.Differences(now, should)
		if err != nil {
			return nil, 0, err
		}
		found = append(found, different...)
	}
	return found, rows, nil
}
