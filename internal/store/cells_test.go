package store

import (
	"maps"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

func TestCellsAreReadHoweverTheyAreWritten(t *testing.T) {
	for text, want := range map[string]map[sheet.ColumnID]value.Value{
		`{}`:                            {},
		` { } `:                         {},
		`{"c1":"Bell"}`:                 {1: value.OfText("Bell")},
		`{"c1": "Bell", "c22": 7}`:      {1: value.OfText("Bell"), 22: value.OfInt(7)},
		`{"c1":"a \"b\" \\ \u00e9\n"}`:  {1: value.OfText("a \"b\" \\ é\n")},
		`{"c1":"a,b}","c2":-0.5}`:       {1: value.OfText("a,b}"), 2: value.MustNumber("-0.5")},
		`{"c1":null,"c2":true}`:         {1: {}, 2: value.OfBool(true)},
		`{"c1":{"date":"2026-03-31"}}`:  {1: value.OfDate(2026, 3, 31)},
		`{"c1":{"odd":"T\"BC"},"c2":1}`: {1: value.OfOdd(`T"BC`), 2: value.OfInt(1)},
		`{"c1":{"choice":"a; b"}}`:      {1: value.OfChoice("a", "b")},
	} {
		got, err := readCells([]byte(text))
		require.NoError(t, err, text)
		assert.Equal(t, want, got, text)
	}
	for _, text := range []string{``, `{`, `[]`, `{"c1"}`, `{"c1":}`, `{"c1":"x}`, `{"x":1}`, `{"c1":1,}`, `{"c1":1}}`, `{"c1":{"colour":"x"}}`, `{"c1":{"date":"TBC"}}`, `{"c1":1e999}`, `{"c1":nul}`} {
		_, err := readCells([]byte(text))
		assert.Error(t, err, text)
	}
}

func TestTextsReadAreShared(t *testing.T) {
	r := newCellReader()
	tab := &sheet.TabShape{ID: 1, Name: "A", Columns: []sheet.Column{{ID: 5, Name: "X"}, {ID: 2, Name: "Y"}}}
	img, err := r.image(tab, []byte(`{"c2":"Averin","c5":"Bell","c9":"carried"}`), sheet.Besides{Origin: "o"})
	require.NoError(t, err)
	assert.Equal(t, map[sheet.ColumnID]value.Value{2: value.OfText("Averin"), 5: value.OfText("Bell"), 9: value.OfText("carried")}, maps.Collect(img.Cells()))
	assert.Equal(t, "o", img.Origin())
	quoted := []byte(`"Averin"`)
	again := testing.AllocsPerRun(100, func() {
		if _, _, err := r.text(quoted); err != nil {
			t.Fatal(err)
		}
	})
	assert.Zero(t, again, "a text met lately")
}

// Whatever stands in the file, reading it does not panic, and what reads as JSON
// reads the same in the quick way.
func FuzzCells(f *testing.F) {
	for _, s := range []string{`{}`, `{"c1":"Bell","c2":-0.5,"c3":{"date":"2026-03-31"},"c4":null}`, `{"c1":"\u00e9\"","c2":{"odd":"x"}}`, `{"c1":"}`, `{"c1":{"odd":1}}`, "{\"c1\":\"\xff\"}"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		quick, slow := map[sheet.ColumnID]value.Value{}, map[sheet.ColumnID]value.Value{}
		errQuick := newCellReader().each(text, func(id sheet.ColumnID, v value.Value) { quick[id] = v })
		errSlow := anyCells(text, func(id sheet.ColumnID, v value.Value) { slow[id] = v })
		if errSlow == nil && errQuick == nil && !maps.Equal(quick, slow) {
			t.Fatalf("%s reads as %v, and quickly as %v", text, slow, quick)
		}
		if errSlow == nil && errQuick != nil {
			t.Fatalf("%s cannot be read quickly: %v", text, errQuick)
		}
	})
}
