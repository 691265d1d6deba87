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

// Defined is what a workbook says of a table's columns, and of whose its rows are.
type Defined struct {
	Columns  []outbound.Column
	Identity *outbound.Identity
}

// Definitions takes the sheet of definitions out of a workbook that Kavlo
// wrote, gives what it says of each table's columns, and marks those tables as
// exact. In other workbooks it finds none.
func Definitions(grids []*reading.Grid) ([]*reading.Grid, map[TableAt]*Defined) {
	at := slices.IndexFunc(grids, func(g *reading.Grid) bool { return g.Hidden && g.Name == DefinitionsSheet })
	if at < 0 {
		return grids, nil
	}
	found := map[TableAt]*Defined{}
	for row := range grids[at].Height() {
		texts := make([]string, grids[at].Width(row))
		for i := range texts {
			texts[i] = grids[at].At(row, i).Value.Raw()
		}
		if len(texts) < 4 || texts[0] == "" {
			continue // a list of choices
		}
		t := TableAt{texts[0], texts[1]}
		if found[t] == nil {
			found[t] = &Defined{}
		}
		text := []byte(strings.Join(texts[3:], ""))
		if texts[2] == outbound.IdentityColumn {
			id := &outbound.Identity{}
			if json.Unmarshal(text, id) == nil && id.Workspace != "" {
				found[t].Identity = id
				continue
			}
		}
		c := outbound.Column{Name: texts[2]}
		if json.Unmarshal(text, &c.Type) != nil {
			return grids, nil // somebody has changed it: it is a sheet like others
		}
		found[t].Columns = append(found[t].Columns, c)
	}
	rest := slices.Delete(slices.Clone(grids), at, at+1)
	for _, g := range rest {
		for i := range g.Declared {
			d := &g.Declared[i]
			if of := found[TableAt{g.Name, d.Name}]; of != nil && len(of.Columns) <= d.Range.Right-d.Range.Left+1 {
				d.Exact = true
			}
		}
	}
	return rest, found
}
