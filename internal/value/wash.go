package value

import (
	"strconv"
	"strings"
)

// NearestWash gives the colour word that comes nearest to a colour as #RRGGBB: by its hue,
// and grey where it has next to none.
func NearestWash(rgb string) string {
	n, err := strconv.ParseUint(strings.TrimPrefix(rgb, "#"), 16, 32)
	if err != nil || len(rgb) != 7 {
		return ""
	}
	r, g, b := int(n>>16&255), int(n>>8&255), int(n&255)
	high, low := max(r, g, b), min(r, g, b)
	spread := high - low
	if spread < 18 {
		return "grey"
	}
	hue := 0 // in degrees
	switch high {
	case r:
		hue = (60*(g-b)/spread + 360) % 360
	case g:
		hue = 60*(b-r)/spread + 120
	default:
		hue = 60*(r-g)/spread + 240
	}
	for _, w := range []struct {
		to   int
		word string
	}{{22, "brick"}, {68, "amber"}, {155, "green"}, {190, "teal"}, {255, "blue"}, {300, "violet"}, {345, "rose"}} {
		if hue < w.to {
			return w.word
		}
	}
	return "brick"
}
