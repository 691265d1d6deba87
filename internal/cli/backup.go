package cli

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"example.org/kavlo/internal/client"
	"example.org/kavlo/internal/service"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/wire"
)

func (a *app) backupCmd() *cobra.Command {
	return &cobra.Command{Use: "backup FILE", Short: "Back up the workspace while the service runs", Args: args("FILE"),
		Long: "The copy holds trackers, rows, the journal, runs, the outbox and people. The folders intake, outbound and lists are files like others, and are copied as such.", RunE: func(cmd *cobra.Command, given []string) error {
			if _, err := os.Stat(given[0]); !errors.Is(err, fs.ErrNotExist) {
				return fmt.Errorf("%s already exists: choose another name", given[0])
			}
			c, err := a.client()
			if err != nil {
				return err
			}
			size, err := replaceFile(given[0], func(f *os.File) error { return errors.Join(f.Chmod(0o600), c.Backup(cmd.Context(), f)) })
			if err != nil {
				return err
			}
			if err := os.Chmod(given[0], 0o600); err != nil { // it holds what is nobody else's
				return err
			}
			lines(a.out, "Wrote %s (%d bytes).", given[0], size)
			return nil
		}}
}

func (a *app) restoreCmd() *cobra.Command {
	return &cobra.Command{Use: "restore FILE", Short: "Restore a backup; stop the service first", Args: args("FILE"),
		Long: "The backup is checked first. What was there before is put aside, beside it.", RunE: func(cmd *cobra.Command, given []string) error {
			r, err := store.Restore(cmd.Context(), a.dir(), given[0], time.Now())
			if err != nil {
				return err
			}
			if a.output != "table" {
				return a.json(r)
			}
			lines(a.out, "Restored %d trackers with %d rows into %s.", r.Trackers, r.Rows, a.dir())
			if r.Aside != "" {
				lines(a.out, "The previous data is in %s.", r.Aside)
			}
			return nil
		}}
}

func (a *app) checkCmd() *cobra.Command {
	var thorough bool
	cmd := &cobra.Command{Use: "check", Short: "Check the workspace for problems", Args: args(),
		Long: `Looks through the workspace: whether the file is whole, every row and change set
is as it was written, and the rows are what the service has. With --thorough, all
of the journal is played and the rows are held against it. Where no service runs
on the data folder, the folder is looked through as it lies there, thoroughly.`,
		RunE: func(cmd *cobra.Command, _ []string) error {
			s, err := a.checked(cmd.Context(), thorough)
			if err != nil {
				return err
			}
			g := &grid{heads: []string{"found"}}
			for _, f := range s.Found {
				g.add(f)
			}
			if a.output != "table" || !s.Sound {
				err = a.show(s, g)
			} else {
				lines(a.out, "No problems found: %d trackers, %d rows.", s.Trackers, s.Rows)
			}
			if err == nil && !s.Sound {
				err = fmt.Errorf("the workspace is not sound: %s", s.Found[0])
			}
			return err
		}}
	cmd.Flags().BoolVar(&thorough, "thorough", false, "play all of the journal and hold the rows against it")
	return cmd
}

// checked asks the service or, where none runs on the data folder, looks itself.
func (a *app) checked(ctx context.Context, thorough bool) (*wire.Soundness, error) {
	inspected := func() (*wire.Soundness, error) {
		i, err := store.Inspect(ctx, a.dir())
		if err != nil {
			return nil, err
		}
		return &wire.Soundness{Sound: len(i.Found) == 0, Found: append([]string{}, i.Found...), Trackers: i.Trackers, Rows: i.Rows}, nil
	}
	local := a.url == "" && a.data != ""
	if _, err := os.Stat(filepath.Join(a.dir(), service.AddressFile)); local && errors.Is(err, fs.ErrNotExist) {
		return inspected()
	}
	c, err := a.client()
	if err != nil {
		return nil, err
	}
	out, err := c.Check(ctx, thorough)
	var away *client.Unreachable
	if local && errors.As(err, &away) { // it was stopped by force, and left its address
		if s, err := inspected(); !errors.Is(err, store.ErrInUse) {
			return s, err
		}
	}
	return out, err
}

func (a *app) rebuildCmd() *cobra.Command {
	return &cobra.Command{Use: "rebuild", Short: "Rebuild the rows from the journal; stop the service first", Args: args(),
		Long: `Makes trackers and rows anew from the journal, which holds every change that was
ever made. For when kavlo check says that rows are not as the journal has them.
The file as it was is kept beside it.`,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if _, err := os.Stat(a.dir()); err != nil {
				return err
			}
			r, err := store.Rebuild(cmd.Context(), a.dir(), time.Now())
			if err != nil {
				return err
			}
			if a.output != "table" {
				return a.json(r)
			}
			for _, m := range r.Mended {
				lines(a.out, "Repaired: %s", m)
			}
			lines(a.out, "Rebuilt %d trackers with %d rows. The previous file is in %s.", r.Trackers, r.Rows, r.Aside)
			return nil
		}}
}
