package sheet_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/value"
)

const doors = `
tracker: Doors
zone: UTC
tabs:
  Asked:
    columns:
      Object:  { type: text, longest text: 10 }
      No:      { type: number, automatic number: yes }
      Stage:   { type: text, default: Requested }
      Value:   { type: number, minimum: 0, maximum: 100 }
      Due:     { type: date, bad input: refuse }
      Double:  { type: computed, clause: Value * 2 }
`

func TestAddRowSeesToDefaultsAndNumbers(t *testing.T) {
	k := testkit.New(t, doors)
	tab := k.Tab("Asked")
	to := sheet.Place{Tracker: k.ID, Tab: tab.ID}
	id := func(name string) sheet.ColumnID { return k.Column(name).ID }
	var rows []sheet.RowID
	k.Must(func(d *sheet.Draft) error {
		for _, given := range []map[sheet.ColumnID]any{
			{id("Object"): "Bell"},
			{id("Object"): "Lamp", id("No"): 41, id("Stage"): ""},
			{id("Object"): "Oar", id("Value"): value.OfInt(7)},
		} {
			row, err := d.AddRow(to, given, 0)
			if err != nil {
				return err
			}
			rows = append(rows, row)
		}
		return nil
	})
	said := func(i int) []string {
		var out []string
		for slot := range tab.Columns {
			out = append(out, k.Tracker().Row(rows[i]).At(slot).String())
		}
		return out[:4]
	}
	assert.Equal(t, []string{"Bell", "1", "Requested", ""}, said(0))
	assert.Equal(t, []string{"Lamp", "41", "", ""}, said(1), "what is given stands, a blank too")
	assert.Equal(t, []string{"Oar", "42", "Requested", "7"}, said(2))
}

func TestSetReadsAndRefuses(t *testing.T) {
	k := testkit.New(t, doors)
	tab := k.Tab("Asked")
	var row sheet.RowID
	k.Must(func(d *sheet.Draft) (err error) {
		row, err = d.AddRow(sheet.Place{Tracker: k.ID, Tab: tab.ID}, map[sheet.ColumnID]any{k.Column("Object").ID: "Bell"}, 0)
		return err
	})
	for _, c := range []struct {
		column  string
		raw     any
		want    string // as it then stands
		refused string
	}{
		{"Value", "12.5", "12.5", ""},
		{"Value", value.OfText(" 12.50 "), "12.5", ""},
		{"Value", "a lot", "a lot", ""},
		{"Value", 101, "", "out of bounds"},
		{"Value", value.OfInt(-1), "", "at least 0"},
		{"Object", "a longer name than that", "", "at most 10 characters"},
		{"Due", "2026-04-01", "2026-04-01", ""},
		{"Due", "soon", "", "soon"},
		{"Due", nil, "", ""},
		{"Double", 4, "", "is computed"},
	} {
		at := sheet.Cell{Tracker: k.ID, Row: row, Column: k.Column(c.column).ID}
		_, err := k.Try(func(d *sheet.Draft) error { return d.Set(at, c.raw, 0) })
		if c.refused != "" {
			var refusal *sheet.Refusal
			require.ErrorAs(t, err, &refusal, "%s = %v", c.column, c.raw)
			assert.ErrorContains(t, err, c.refused)
			assert.Equal(t, []any{row, "Bell", "Asked"}, []any{refusal.Row, refusal.Label, refusal.Tab})
			continue
		}
		require.NoError(t, err, "%s = %v", c.column, c.raw)
		assert.Equal(t, c.want, k.Tracker().Row(row).Get(tab, at.Column).String(), "%s = %v", c.column, c.raw)
	}
	for _, at := range []sheet.Cell{{Tracker: k.ID, Row: 99, Column: 1}, {Tracker: 99, Row: row, Column: 1}, {Tracker: k.ID, Row: row, Column: 999}} {
		_, err := k.Try(func(d *sheet.Draft) error { return d.Set(at, "x", 0) })
		var missing *sheet.NotFound
		require.ErrorAs(t, err, &missing)
	}
}
