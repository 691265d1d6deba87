package tabview_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/tabview"
)

var format = setup.With(program.Kinds{{Name: sheet.KindView, Plural: "views", New: func() program.Definition { return &tabview.View{} }}})

const loans = `
tracker: Loans
zone: UTC
tabs:
  Open: { columns: { Object: { type: text }, Due: { type: date }, Loan fee: { type: number } } }
  Done: { columns: { Object: { type: text } } }
`

func read(t *testing.T, views string) (*sheet.Shape, error) {
	t.Helper()
	n := int64(0)
	return format.Parse([]byte(loans+views), nil, func() int64 { n++; return n })
}

func TestAViewIsReadAndWrittenAlike(t *testing.T) {
	shape, err := read(t, `views:
  - { name: Dear, remark: for the insurers, tab: Open, words: brass, where: "[Loan fee] > 100", order: "Due descending, Object", columns: [Object, Loan fee], frozen: 1 }
  - { name: All, tab: Done }
`)
	require.NoError(t, err)
	says, err := format.Sentence(&shape.Definitions[0], shape)
	require.NoError(t, err)
	assert.Equal(t, "Shows rows of Open that contain \"brass\" where `[Loan fee] > 100`, sorted by Due descending, Object, with the columns Object, Loan fee.", says)
	says, err = format.Sentence(&shape.Definitions[1], shape)
	require.NoError(t, err)
	assert.Equal(t, "Shows rows of Done.", says)
	text, err := format.Encode(shape)
	require.NoError(t, err)
	again, err := format.Parse(text, shape, func() int64 { t.Fatal("an id is asked for"); return 0 })
	require.NoError(t, err)
	assert.Equal(t, shape.Definitions, again.Definitions)
}

func TestWhatIsWrongWithAViewIsSaid(t *testing.T) {
	for view, want := range map[string]string{
		"{ name: A }":                                 "say which tab",
		"{ name: A, tab: Opne }":                      "did you mean Open",
		"{ name: A, tab: Open, where: Due }":          "Due",
		"{ name: A, tab: Open, order: Duo }":          "did you mean Due",
		"{ name: A, tab: Open, order: \"Due, Due\" }": "twice",
		"{ name: A, tab: Done, columns: [Due] }":      "Due",
		"{ name: A, tab: Open, frozen: -1 }":          "is not a whole number",
		"{ name: A, tab: Open, colums: [Object] }":    "did you mean columns",
		"{ name: A, tab: Open, where: Loan fee > 1 }": "[Loan fee]",
	} {
		_, err := read(t, "views: [ "+view+" ]\n")
		require.Error(t, err, view)
		assert.Contains(t, err.Error(), want, view)
	}
}

func TestWhatIsAskedForNarrowsAView(t *testing.T) {
	v := &tabview.View{Where: "A > 1", Words: "brass", Order: query.Order{{Column: 7}}, Columns: []sheet.ColumnID{9, 8}}
	assert.Equal(t, query.Query{Where: "A > 1", Words: "brass", Order: query.Order{{Column: 7}}, Columns: []string{"c9", "c8"}}, v.Narrow(query.Query{}))
	got := v.Narrow(query.Query{Where: "B", Words: "tin", Order: query.Order{{Column: 6, Down: true}}, Columns: []string{"A"}})
	assert.Equal(t, query.Query{Where: "(A > 1) and (B)", Words: "brass tin", Order: query.Order{{Column: 6, Down: true}}, Columns: []string{"A"}}, got)
}
