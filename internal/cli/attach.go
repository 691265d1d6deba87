package cli

import (
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"example.org/kavlo/internal/attach"
	"example.org/kavlo/internal/wire"
)

// attachEach uploads files given as Column=path and puts what cells are to hold among cells.
func attachEach(given []string, cells map[string]any, keep func(column, name string, text []byte) (*wire.Attached, error)) error {
	paths, err := byColumn(given)
	if err != nil {
		return err
	}
	for column, path := range paths {
		text, err := os.ReadFile(path)
		if err != nil {
			return fmt.Errorf("reading the file for %s: %w", column, err)
		}
		kept, err := keep(column, filepath.Base(path), text)
		if err != nil {
			return fmt.Errorf("%s: %w", path, err)
		}
		cells[column] = kept.Value
	}
	return nil
}

func (a *app) rowFileCmd() *cobra.Command {
	return &cobra.Command{Use: "file TRACKER/TAB ROW COLUMN FILE", Short: "Save the file that a cell holds", Args: args("TRACKER/TAB", "ROW", "COLUMN", "FILE"),
		Example: "  kavlo row file \"Touring loans/Requested\" \"Enamelled sextant\" Photo sextant.png",
		RunE: func(cmd *cobra.Command, given []string) error {
			tracker, tab, err := place(given[0])
			if err != nil {
				return err
			}
			c, err := a.client()
			if err != nil {
				return err
			}
			row, err := c.Row(cmd.Context(), tracker, tab, given[1])
			if err != nil {
				return err
			}
			held, _ := row.Cells[given[2]].(string)
			id := attach.ID(held)
			if id == "" {
				return fmt.Errorf("%s of %s holds no file", given[2], given[1])
			}
			size, err := replaceFile(given[3], func(f *os.File) error { return c.Attachment(cmd.Context(), id, f) })
			if err != nil {
				return err
			}
			lines(a.out, "Wrote %s (%d bytes).", given[3], size)
			return nil
		}}
}
