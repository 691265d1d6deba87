package value

import (
	"slices"
	"strings"
)

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

// NumberStyles are the ways in which people write 1234.5; digits are grouped in amounts
// of money alone.
var NumberStyles = []string{"1 234.5", "1,234.5", "1.234,5", "1 234,5"}

var numberMarks = []*strings.Replacer{
	nil,
	strings.NewReplacer("\u202f", ",", ".", "."),
	strings.NewReplacer("\u202f", ".", ".", ","),
	strings.NewReplacer(".", ","),
}

// Style is how the people of a tracker write: one of DateStyles and one of NumberStyles;
// "": the first.
type Style struct{ Dates, Numbers string }

// Comma reports whether decimals are written after a comma.
func (s Style) Comma() bool { return strings.HasSuffix(s.Numbers, ",5") }

// ShowIn gives the value as Show does, in a style.
func (v Value) ShowIn(t Type, s Style) string {
	if v.kind != Number || t.Display == Duration {
		return v.ShowDated(t, s.Dates)
	}
	text := v.Show(t)
	if i := slices.Index(NumberStyles, s.Numbers); i > 0 {
		return numberMarks[i].Replace(text)
	}
	return text
}
