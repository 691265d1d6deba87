package cli

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"time"

	"github.com/spf13/cobra"

	"example.org/kavlo/internal/store"
)

func (a *app) backupCmd() *cobra.Command {
	return &cobra.Command{Use: "backup FILE", Short: "Write a consistent copy of the workspace's file while the service runs", Args: args("FILE"),
		Long: "The copy holds trackers, rows, the journal, runs, the outbox and people. The folders intake, outbound and lists are files like others, and are copied as such.", RunE: func(cmd *cobra.Command, given []string) error {
			if _, err := os.Stat(given[0]); !errors.Is(err, fs.ErrNotExist) {
				return fmt.Errorf("%s is there already: give another name", given[0])
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
	return &cobra.Command{Use: "restore FILE", Short: "Put a backup in the place of the workspace, while no service runs on it", Args: args("FILE"),
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
				lines(a.out, "What was there before lies in %s.", r.Aside)
			}
			return nil
		}}
}

func (a *app) checkCmd() *cobra.Command {
	return &cobra.Command{Use: "check", Short: "Tell whether the workspace is sound", Args: args(), RunE: func(cmd *cobra.Command, _ []string) error {
		c, err := a.client()
		if err != nil {
			return err
		}
		s, err := c.Check(cmd.Context())
		if err != nil {
			return err
		}
		g := &grid{heads: []string{"found"}}
		for _, f := range s.Found {
			g.add(f)
		}
		if a.output != "table" {
			err = a.show(s, g)
		} else if s.Sound {
			lines(a.out, "Sound: %d trackers with %d rows, each once, as the file has them.", s.Trackers, s.Rows)
		}
		if err == nil && !s.Sound {
			err = fmt.Errorf("the workspace is not sound: %s", s.Found[0])
		}
		return err
	}}
}
