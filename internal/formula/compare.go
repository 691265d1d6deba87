package formula

import (
	"strings"

	"example.org/kavlo/internal/value"
)

func holds(op string, c int) bool {
	switch op {
	case "=":
		return c == 0
	case "<>":
		return c != 0
	case "<":
		return c < 0
	case ">":
		return c > 0
	case "<=":
		return c <= 0
	}
	return c >= 0
}

// compare puts numbers before texts and texts before truths, as worksheets do; a blank is
// whatever the other side would be if it were blank.
func compare(a, b value.Value) int {
	if a.Kind() == value.Blank {
		a = likeBlank(b)
	}
	if b.Kind() == value.Blank {
		b = likeBlank(a)
	}
	if x, y := order(a), order(b); x != y {
		return x - y
	}
	if a.Kind() == value.Text {
		return strings.Compare(value.Fold(a.Raw()), value.Fold(b.Raw()))
	}
	x, _ := asNumber(a)
	y, _ := asNumber(b)
	return value.Compare(x, y)
}

func likeBlank(other value.Value) value.Value {
	switch other.Kind() {
	case value.Text:
		return value.OfText("")
	case value.Checkbox:
		return value.OfBool(false)
	}
	return value.OfInt(0)
}

func order(v value.Value) int {
	switch v.Kind() {
	case value.Number, value.Blank:
		return 0
	case value.Text:
		return 1
	}
	return 2
}
