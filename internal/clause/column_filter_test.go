package clause

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/value"
)

// screenable are conditions that columns tell in whole, in part or not at all.
var screenable = []string{
	"Arrived before today - 15 days", "Arrived on or before today", "Arrived after 2026-03-20", "Arrived on or after today - 2 weeks", "Arrived before now",
	"[Ends] on or before today", "[Ends] after today + 3 days", "[Ends] < 2026-03-24T12:00", "[Condition report] is blank", "[Condition report] is not blank", "Arrived is odd", "Value is not odd",
	"Value < 12.5", "Value <= 12.5", "Value > 0", "Value >= 12.505", "Value between 1 and 20", "Value < Value", "Arrived before [Ends]",
	`Stage is "Agreed"`, "Value * 2 > 10", "not (Value < 3)",
}

// TestScreensAgree holds that what is told from columns is what judging row by
// row tells, over all kinds of cells and joined conditions.
func TestScreensAgree(t *testing.T) {
	ends := *scope
	ends.Columns = append([]Column(nil), scope.Columns...)
	ends.Columns[6].Type.Kind = value.DateTime
	rapid.Check(t, func(t *rapid.T) {
		text := "(" + rapid.SampledFrom(screenable).Draw(t, "first") + ")"
		for _, part := range rapid.SliceOfN(rapid.SampledFrom(screenable), 0, 2).Draw(t, "parts") {
			text += " and (" + part + ")"
		}
		expr, err := CheckCondition(text, &ends)
		require.NoError(t, err)
		n := rapid.IntRange(1, value.VectorRows).Draw(t, "rows")
		numbers := []value.Value{value.OfInt(0), value.OfInt(12), value.MustNumber("12.5"), value.MustNumber("12.50"), value.MustNumber("-3.125")}
		if rapid.IntRange(0, 4).Draw(t, "large") == 0 {
			numbers = append(numbers, value.MustNumber("999999999999999999")) // too large to stand beside thousandths
		}
		rows := make([][]value.Value, n)
		for i := range rows {
			rows[i] = []value.Value{{}, cellOf(t, value.OfChoice("Agreed")), cellOf(t, value.OfDays(today.Days()+rapid.Int64Range(-30, 5).Draw(t, "day"))), cellOf(t, value.OfFile("a.pdf", "")),
				cellOf(t, rapid.SampledFrom(numbers).Draw(t, "number")), {},
				cellOf(t, value.OfSeconds(today.Seconds()+rapid.Int64Range(-200_000, 400_000).Draw(t, "second")))}[:rapid.IntRange(3, 7).Draw(t, "cells")]
		}
		e := env()
		e.Now = value.DateTimeOf(today.Time().Add(9 * time.Hour))
		holds, screen := expr.Condition(), expr.ColumnFilter()
		if screen == nil {
			return
		}
		columns := make([]*value.Vector, 8)
		for slot := range columns {
			columns[slot] = &value.Vector{}
			columns[slot].Fill(n, func(i int) *value.Value {
				if slot < len(rows[i]) {
					return &rows[i][slot]
				}
				return nil
			})
		}
		yes, ask := screen.Judge(screen.Bounds(e), n, func(slot int) *value.Vector { return columns[slot] })
		require.Zero(t, yes.And(ask).Count(), "a row is both told and asked")
		for i := range rows {
			e.Cells, e.Before = rows[i], nil
			switch want := holds(e); {
			case yes.Has(i):
				require.Equal(t, Yes, want, "%s: row %d %v", text, i, rows[i])
			case !ask.Has(i):
				require.Equal(t, No, want, "%s: row %d %v", text, i, rows[i])
			}
		}
		require.Zero(t, yes.Or(ask).Without(value.FirstBits(n)).Count(), "marks beyond the last row")
	})
}

// cellOf gives v or, now and then, a blank or an odd cell.
func cellOf(t *rapid.T, v value.Value) value.Value {
	switch rapid.IntRange(0, 9).Draw(t, "fit") {
	case 0:
		return value.Value{}
	case 1:
		return value.OfOdd("TBC")
	case 2:
		return value.OfText("  ")
	}
	return v
}
