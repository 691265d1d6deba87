package value

import "slices"

// DateStyles are the ways in which people write the last of March 2026.
var DateStyles = []string{"2026-03-31", "31.03.2026", "31/03/2026", "03/31/2026", "31 March 2026", "31 Mar 2026"}

var dateLayouts = []string{"2006-01-02", "02.01.2006", "02/01/2006", "01/02/2006", "2 January 2006", "2 Jan 2006"}

// ShowDated gives the value as Show does, with a date or the date of a date-time
// in one of DateStyles.
func (v Value) ShowDated(t Type, style string) string {
	i := slices.Index(DateStyles, style)
	if i <= 0 || v.kind != Date && v.kind != DateTime {
		return v.Show(t)
	}
	layout := dateLayouts[i]
	if v.kind == DateTime {
		layout += " 15:04"
	}
	return v.Time().Format(layout)
}
