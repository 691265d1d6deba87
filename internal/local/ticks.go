package local

import (
	"slices"

	"example.org/kavlo/internal/value"
)

// YesNo reads yes or no as the product writes them.
func YesNo(s string) (value.Value, bool) {
	v, err := value.Parse(s, value.Type{Kind: value.Checkbox})
	return v, err == nil
}

// Words for yes and no, as people tick with them. Of single letters only those of
// English: others are points of the compass and the like.
var (
	yesWords = []string{"y", "ja", "oui", "sim", "sí", "si", "sì"}
	noWords  = []string{"n", "nein", "nee", "non", "não", "nao", "no"}
)

// SaysYes reports whether a text is a word for yes.
func SaysYes(s string) bool { return slices.Contains(yesWords, value.Fold(s)) }

// SaysNo reports whether a text is a word for no.
func SaysNo(s string) bool { return slices.Contains(noWords, value.Fold(s)) }

// AnyYesNo reads yes or no in one of several languages.
func AnyYesNo(s string) (value.Value, bool) {
	switch {
	case SaysYes(s):
		return value.OfBool(true), true
	case SaysNo(s):
		return value.OfBool(false), true
	}
	return YesNo(s)
}
