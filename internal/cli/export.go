package cli

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"example.org/kavlo/internal/client"
)

func (a *app) exportCmd() *cobra.Command {
	e := client.Export{}
	var replace bool
	cmd := &cobra.Command{Use: "export TRACKER[/TAB] FILE", Short: "Export a tab, or a whole tracker, as a workbook, CSV or JSON", Args: args("TRACKER[/TAB]", "FILE"),
		Long: `Writes a tab, or all tabs of a tracker, to a file whose ending says the form:
.xlsx, .csv (one tab) or .json. A workbook has a table for each tab, with types,
dropdowns, notes, links and colours; imported again, it is as it was. A file that
already exists is kept unless --replace is given.`,
		Example: "  kavlo export \"Touring loans/In transit\" transit.xlsx --where 'Due before today' --totals",
		RunE: func(cmd *cobra.Command, given []string) error {
			var found bool
			if e.Tracker, e.Tab, found = strings.Cut(given[0], "/"); found && strings.TrimSpace(e.Tab) == "" {
				return usage("%q is not of the form TRACKER or TRACKER/TAB", given[0])
			}
			path := given[1]
			switch e.Format = strings.TrimPrefix(strings.ToLower(filepath.Ext(path)), "."); e.Format {
			case "xlsx", "csv", "json":
			default:
				return usage("the ending of %s says no form: end it in .xlsx, .csv or .json", path)
			}
			if _, err := os.Stat(path); err == nil && !replace {
				return fmt.Errorf("%s already exists: choose another name, or --replace", path)
			} else if err != nil && !errors.Is(err, fs.ErrNotExist) {
				return fmt.Errorf("looking for %s: %w", path, err)
			}
			c, err := a.client()
			if err != nil {
				return err
			}
			passed := 0
			size, err := replaceFile(path, func(f *os.File) error {
				passed, err = c.Export(cmd.Context(), e, f)
				return err
			})
			if err != nil {
				return err
			}
			if passed > 0 {
				lines(a.out, "%d rows skipped: the clause depends on an odd cell.", passed)
			}
			lines(a.out, "Wrote %s (%d bytes).", path, size)
			return nil
		}}
	f := cmd.Flags()
	choosing(cmd, &e.Which)
	f.BoolVar(&e.Totals, "totals", false, "a row of sums below each table of a workbook")
	f.BoolVar(&replace, "replace", false, "replace a file that is there")
	return cmd
}

// replaceFile writes a file beside its place and puts it there whole.
func replaceFile(path string, write func(*os.File) error) (size int64, err error) {
	f, err := os.CreateTemp(filepath.Dir(path), "."+filepath.Base(path)+".*")
	if err != nil {
		return 0, fmt.Errorf("writing %s: %w", path, err)
	}
	defer os.Remove(f.Name()) // nothing, once it has its name
	if err := errors.Join(write(f), f.Sync()); err != nil {
		return 0, errors.Join(err, f.Close())
	}
	if info, err := f.Stat(); err == nil {
		size = info.Size()
	}
	if err := errors.Join(f.Chmod(0o644), f.Close()); err != nil {
		return 0, fmt.Errorf("writing %s: %w", path, err)
	}
	if err := os.Rename(f.Name(), path); err != nil {
		return 0, fmt.Errorf("putting %s in its place: %w", path, err)
	}
	return size, nil
}
