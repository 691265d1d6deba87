package intake

import (
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/sheet"
)

// looks gives the looks of rows' cells by column, in maps that rows share which
// look alike: most do, or stripe by stripe.
type looks []map[sheet.ColumnID]string

// mostShared is how many maps are remembered to be shared.
const mostShared = 8

// of gives the looks of a record; nil where all of its cells are plain.
func (l *looks) of(r *reading.Record, columns []*sheet.Column) map[sheet.ColumnID]string {
	n := 0
	for i, c := range columns {
		if c != nil && r.Styles[i] != "" {
			n++
		}
	}
	if n == 0 {
		return nil
	}
	for _, known := range *l {
		same := len(known) == n
		for i, c := range columns {
			same = same && (c == nil || known[c.ID] == r.Styles[i])
		}
		if same {
			return known
		}
	}
	out := make(map[sheet.ColumnID]string, n)
	for i, c := range columns {
		if c != nil && r.Styles[i] != "" {
			out[c.ID] = r.Styles[i]
		}
	}
	*l = append(looks{out}, (*l)[:min(len(*l), mostShared-1)]...)
	return out
}
