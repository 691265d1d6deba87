package output

import (
	"fmt"
	"io"

	"example.org/kavlo/internal/dossier"
	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/formats/xlsx"
	"example.org/kavlo/internal/formats/xlsx/patch"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// WritePages writes pages of a pattern as a workbook: of the template that the pattern
// names, or in the form that pages have by default. t is the tracker as whoever asks sees it.
func (files *Files) WritePages(w io.Writer, t *sheet.Tracker, c *dossier.Compiled, pages []outbound.Page) error {
	if c.Template == "" {
		return xlsx.WritePages(w, c.Name, pages)
	}
	template, err := files.template(c.Template)
	if err == nil {
		var names []string
		if names, err = files.allNames(t.ID, c.ID); err == nil {
			err = patch.Pages(w, template, c.Name, pages, names, value.DateOf(files.Now().In(t.Location())))
		}
	}
	if err != nil {
		return fmt.Errorf("template %s: %w", c.Template, err)
	}
	return nil
}

// allNames gives what stands on a pattern's pages for those who see all of them.
func (files *Files) allNames(tracker sheet.TrackerID, pattern sheet.DefinitionID) ([]string, error) {
	t := files.State().Tracker(tracker)
	if t == nil {
		return nil, nil
	}
	ready, err := files.Program(t.Shape)
	if err != nil {
		return nil, err
	}
	c, err := program.Ready[*dossier.Compiled](ready, pattern)
	if err != nil {
		return nil, err
	}
	return c.Names(t), nil
}
