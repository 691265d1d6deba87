package clause_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/value"
)

// What is but arithmetic of the row's figures can be said as a workbook says it; all else
// cannot.
func TestArithmetic(t *testing.T) {
	of := func(id int64, name string, kind value.Kind) clause.Column {
		return clause.Column{ID: id, Name: name, Type: value.Type{Kind: kind}, Slot: int(id) - 1}
	}
	scope := &clause.Scope{Columns: []clause.Column{of(1, "Fee", value.Number), of(2, "Days", value.Number), of(3, "Due", value.Date), of(4, "Came", value.Date), of(5, "Hall", value.Text), of(6, "At", value.DateTime)}}
	for text, want := range map[string]string{
		"Fee * Days":                    "(<1>*<2>)",
		"Fee * 1.21 + Days":             "((<1>*1.21)+<2>)",
		"Fee - (Days - 2)":              "(<1>-(<2>-2))",
		"Fee / Days":                    "(<1>/<2>) divides",
		"-Fee + 3":                      "((-<1>)+3)",
		"Due - Came":                    "(<3>-<4>)",
		"Due + 3 days":                  "(<3>+3)",
		"Due - 2 weeks":                 "(<3>-14)",
		"Due + 1 months":                "",
		"Due - today":                   "",
		"At - At":                       "",
		"2 + 3":                         "",
		"Hall":                          "",
		"Fee > 3":                       "",
		"if Fee > 3 then Fee else Days": "",
		"running sum Fee":               "",
		"days between Came and Due":     "",
	} {
		e, err := clause.Parse(text)
		require.NoError(t, err, text)
		e, err = clause.Check(e, scope)
		require.NoError(t, err, text)
		a := e.Arithmetic()
		if want == "" {
			assert.Nil(t, a, text)
			continue
		}
		require.NotNil(t, a, text)
		var got strings.Builder
		for i, part := range a.Parts {
			got.WriteString(part)
			if i < len(a.Columns) {
				got.WriteString("<" + value.OfInt(a.Columns[i]).String() + ">")
			}
		}
		if a.Divides() {
			got.WriteString(" divides")
		}
		assert.Equal(t, want, got.String(), text)
	}
}
