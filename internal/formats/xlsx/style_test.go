package xlsx

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/value"
)

func TestWhatNumberFormatsShow(t *testing.T) {
	for code, want := range map[string]shows{
		"General": showsNumber, "0.00": showsNumber, "#,##0.00 [$€-407]": showsNumber, "0.00E+00": showsNumber, `"days" 0`: showsNumber, "[Red]0": showsNumber, "": showsNumber, "@": showsNumber,
		"yyyy-mm-dd": showsDate, "d/m/yy": showsDate, "dd mmm yyyy": showsDate, "mmm yy": showsDate, "[$-816]d \"de\" mmm": showsDate, "yyyy-mm-dd hh:mm": showsDate, "m/d": showsDate, "mmm": showsDate, `d\.m\.yyyy;@`: showsDate,
		"hh:mm": showsTime, "h:mm AM/PM": showsTime, "[h]:mm": showsDuration, "mm:ss": showsTime,
	} {
		assert.Equal(t, want, showsOf(code), code)
	}
}

func TestHowNumbersAreShown(t *testing.T) {
	for code, want := range map[string]string{
		"0%": "percent", "0.00%": "percent", `0"%"`: "", "#,##0.00 [$€-407]": "EUR", `"€" #,##0.00`: "EUR", "[$£-809]#,##0": "GBP", "[$CHF] 0.00": "CHF", "$#,##0": "USD", "#,##0.00 [$EUR]": "EUR", "General": "", "0.00": "", `#,##0 "kg"`: "",
	} {
		assert.Equal(t, want, displayOf(code), code)
	}
}

func TestSerialNumbersAreDaysOfTheirEpoch(t *testing.T) {
	b := &book{epoch: epoch1900}
	for _, tc := range []struct {
		serial string
		as     shows
		want   string
	}{
		{"46112", showsDate, "2026-03-31"}, {"46112.5", showsDate, "2026-03-31T12:00"}, {"61", showsDate, "1900-03-01"}, {"1", showsDate, "1900-01-01"}, {"59", showsDate, "1900-02-28"},
		{"0.354166666666667", showsTime, "08:30"}, {"0.999988425925926", showsTime, "23:59:59"}, {"0", showsTime, "00:00"}, {"46112.0000115741", showsDate, "2026-03-31T00:00:01"},
	} {
		v, ok := b.ofSerial(tc.serial, tc.as)
		assert.True(t, ok, tc.serial)
		assert.Equal(t, tc.want, v.String(), tc.serial)
	}
	for _, bad := range []string{"-1", "2958467", "x", "0"} {
		_, ok := b.ofSerial(bad, showsDate)
		assert.False(t, ok, bad)
	}
	b.epoch = epoch1904
	v, _ := b.ofSerial("44650", showsDate)
	assert.Equal(t, "2026-03-31", v.String())
}

func TestChoicesAreFoundWhereverTheyStand(t *testing.T) {
	words := func(names ...string) []reading.Cell {
		cells := make([]reading.Cell, len(names))
		for i, n := range names {
			cells[i].Value = value.OfText(n)
		}
		return cells
	}
	here := reading.GridOf("Loans", words("Stage", "Open"), words("", "Held"))
	lists := reading.GridOf("My lists", words("One"), words(" Two "), words(""))
	b := &book{names: map[string]string{"stages": "'My lists'!$A$1:$A$9"}}
	for formula, want := range map[string][]string{
		`"Open, Held,"`: {"Open", "Held"}, "$B$1:$B$2": {"Open", "Held"}, "'My lists'!$A$1:$A$3": {"One", "Two"}, "Stages": {"One", "Two"}, "Gone!$A$1:$A$2": nil, "OFFSET(A1,0,0)": nil, "": nil,
	} {
		assert.Equal(t, want, b.choicesOf(dropdown{grid: here, formula: formula}, []*reading.Grid{here, lists}), formula)
	}
}

func TestSheetNamesAreOnesThatASheetMayHave(t *testing.T) {
	b := &writer{names: map[string]bool{}}
	long := "A name that is longer than sheets may have"
	for _, tc := range [][2]string{{"Loans", "Loans"}, {"loans", "loans 2"}, {"a/b: [c]?", "a b  (c)"}, {"''", "Sheet"}, {"", "Sheet 2"}, {long, "A name that is longer than shee"}, {long, "A name that is longer than 2"}} {
		assert.Equal(t, tc[1], b.sheetName(tc[0]), tc[0])
	}
}
