package clause

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// The bar is where somebody types.
func TestCompletions(t *testing.T) {
	for typed, want := range map[string]string{
		"|":                               "Object",
		"Sta|":                            "Stage",
		"[Cond|":                          "[Condition report]",
		"cond|":                           "[Condition report]",
		"Stage |":                         "is not blank",
		"Arrived bef|":                    "before",
		"Value |":                         ">=",
		`Stage is "Ag|`:                   "Agreed",
		`Stage is one of ("Agreed", "Cr|`: "Crating",
		"Stage is |":                      "not",
		"count in |":                      "Countries",
		"count in Countries where |":      "Fee",
		"count in Countries where Country is this.|": "Object",
		"Packed and up|":         "upper(",
		`Object contains "x" a|`: "and",
		"Stage ch|":              "changed",
		"days|":                  "days between",
	} {
		at := strings.IndexByte(typed, '|')
		var got []string
		for _, c := range Complete(strings.Replace(typed, "|", "", 1), at, scope) {
			got = append(got, c.Text)
		}
		assert.Contains(t, got, want, typed)
	}
	for typed, not := range map[string]string{"Arrived |": "contains", "Stage |": "before", `Object is "x`: "Agreed", "count in Countries where Country is this.": "Fee", "Sta": "Value"} {
		for _, c := range Complete(strings.TrimSuffix(typed, "|"), len(typed), scope) {
			assert.NotEqual(t, not, c.Text, typed)
		}
	}
}

// What is offered reads on: put in place, the clause has no mistake there.
func TestCompletionsReplaceWhatWasTyped(t *testing.T) {
	text := "Stage is not blank and cond"
	all := Complete(text, len(text), scope)
	assert.NotEmpty(t, all)
	whole := text[:all[0].From] + all[0].Text + " is blank"
	_, err := CheckCondition(whole, scope)
	assert.NoError(t, err, whole)
}

func FuzzComplete(f *testing.F) {
	f.Add("Stage is \"Ag", 12)
	f.Add("[Cond", 3)
	f.Add("count in Ä", 10)
	f.Fuzz(func(t *testing.T, text string, at int) {
		for _, c := range Complete(text, at, scope) {
			if c.From < 0 || c.From > len(text) {
				t.Fatalf("%q at %d: from %d", text, at, c.From)
			}
		}
	})
}
