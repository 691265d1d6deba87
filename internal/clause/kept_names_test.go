package clause

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/value"
)

// A clause that is stored by ids, and is read where one of its columns is not.
func TestMistakesInStoredClausesAreToldByName(t *testing.T) {
	column := func(id int64, name string) Column {
		return Column{ID: id, Name: name, Type: value.Type{Kind: value.Text}}
	}
	s := &Scope{Name: "Here", Columns: []Column{column(1, "Stage")}, Tables: []Table{
		{ID: 90, Name: "There", Columns: []Column{column(2, "Loan no"), column(3, "Flag")}},
		{ID: 3, Name: "Third"},
	}}
	for stored, want := range map[string][2]string{
		`[#1] is "a" and [#2] is "b"`:            {`there is no column "Loan no" in Here`, `[Loan no]`},
		`[#7] is blank`:                          {`there is no column "#7" in Here`, `[#7]`}, // which is gone
		`[#3] is blank`:                          {`there is no column "#3" in Here`, `[#3]`}, // a column's and a tab's
		`count in [#90] where [#1] is "x" > "y"`: {"", ""},
	} {
		_, err := CheckCondition(stored, s)
		var e *Error
		require.True(t, errors.As(err, &e), "%s: %v", stored, err)
		if want[0] != "" {
			assert.Equal(t, want[0], e.Msg)
			assert.Equal(t, want[1], e.Text[e.Offset:e.Offset+e.Length])
			continue
		}
		assert.Contains(t, e.Text, "in There where ")
		assert.NotContains(t, e.Text, "[#90]")
	}
}
