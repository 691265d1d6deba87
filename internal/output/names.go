package output

import (
	"strings"
	"unicode"
)

// FileName makes a name safe for files of any system: what is not allowed
// somewhere becomes a space, and names that some systems keep for devices get
// an underscore.
func FileName(name string) string {
	safe := strings.Map(func(r rune) rune {
		switch {
		case strings.ContainsRune(`<>:"/\|?*`, r), unicode.IsControl(r):
			return ' '
		case !unicode.IsPrint(r) && !unicode.IsSpace(r):
			return -1
		}
		return r
	}, name)
	safe = strings.Trim(strings.ReplaceAll(strings.Join(strings.Fields(safe), " "), " .", "."), ". ")
	stem, _, _ := strings.Cut(safe, ".")
	switch upper := strings.ToUpper(stem); {
	case safe == "":
		return "unnamed"
	case upper == "CON" || upper == "PRN" || upper == "AUX" || upper == "NUL" || len(upper) == 4 && (strings.HasPrefix(upper, "COM") || strings.HasPrefix(upper, "LPT")):
		safe = "_" + safe
	}
	for len(safe) > 180 {
		r := []rune(safe)
		safe = strings.TrimRight(string(r[:len(r)-1]), ". ")
	}
	return safe
}
