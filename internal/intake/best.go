package intake

import (
	"fmt"

	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// bestTable finds the table of a file that fits a tab: of a sheet that is named,
// or the one with the most of the tab's columns, and of those the longest.
func bestTable(file *reading.Reading, tab *sheet.TabShape, sheetName string) (source, error) {
	var best source
	most := 0
	var names []string
	for i := range file.Sheets {
		s := &file.Sheets[i]
		names = append(names, s.Name)
		if sheetName != "" && !value.EqualText(s.Name, sheetName) {
			continue
		}
		for j := range s.Tables {
			t := &s.Tables[j]
			shared := 0
			for _, c := range t.Columns {
				if _, err := tab.Column(c.Name); err == nil {
					shared++
				}
			}
			if shared > most || shared == most && shared > 0 && t.Rows > best.table.Rows {
				best, most = source{sheet: s, table: t, tab: tab.Name}, shared
			}
		}
	}
	switch {
	case most > 0:
		return best, nil
	case sheetName != "" && !containsFold(names, sheetName):
		return best, &sheet.NotFound{What: "sheet", Name: sheetName, In: file.File, Nearest: value.Nearest(sheetName, names)}
	}
	return best, fmt.Errorf("%s holds no table with a column of %s", file.File, tab.Name)
}

func containsFold(names []string, name string) bool {
	for _, n := range names {
		if value.EqualText(n, name) {
			return true
		}
	}
	return false
}
