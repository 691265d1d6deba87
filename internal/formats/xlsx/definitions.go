package xlsx

import (
	"encoding/json"
	"slices"
	"strings"

	"example.org/kavlo/internal/formats/outbound"
	"example.org/kavlo/internal/reading"
)

// TableAt names a table object of a sheet.
type TableAt struct{ Sheet, Table string }

// Definitions takes the sheet of definitions out of a workbook that Kavlo
// wrote, gives what it says of each table's columns, and marks those tables as
// exact. In other workbooks it finds none.
func Definitions(grids []*reading.Grid) ([]*reading.Grid, map[TableAt][]outbound.Column) {
	at := slices.IndexFunc(grids, func(g *reading.Grid) bool { return g.Hidden && g.Name == DefinitionsSheet })
	if at < 0 {
		return grids, nil
	}
	found := map[TableAt][]outbound.Column{}
	for row := range grids[at].Height() {
		texts := make([]string, grids[at].Width(row))
		for i := range texts {
			texts[i] = grids[at].At(row, i).Value.Raw()
		}
		if len(texts) < 4 || texts[0] == "" {
			continue // a list of choices
		}
		c := outbound.Column{Name: texts[2]}
		if json.Unmarshal([]byte(strings.Join(texts[3:], "")), &c.Type) != nil {
			return grids, nil // somebody has changed it: it is a sheet like others
		}
		t := TableAt{texts[0], texts[1]}
		found[t] = append(found[t], c)
	}
	rest := slices.Delete(slices.Clone(grids), at, at+1)
	for _, g := range rest {
		for i := range g.Declared {
			if d := &g.Declared[i]; len(found[TableAt{g.Name, d.Name}]) == d.Range.Right-d.Range.Left+1 {
				d.Exact = true
			}
		}
	}
	return rest, found
}
