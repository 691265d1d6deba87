package clause

import (
	"fmt"
	"iter"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/recur"
	"example.org/kavlo/internal/value"
)

// The tests' tab: a loan that was edited on Wednesday 25 March 2026.
var (
	stages = []value.Option{{Name: "Requested"}, {Name: "Agreed"}, {Name: "Crating"}}
	scope  = &Scope{Name: "Crating", Edit: true, Columns: []Column{
		{ID: 1, Name: "Object", Type: value.Type{Kind: value.Text}, Slot: 0},
		{ID: 2, Name: "Stage", Type: value.Type{Kind: value.Choice, Options: stages}, Slot: 1},
		{ID: 3, Name: "Arrived", Type: value.Type{Kind: value.Date}, Slot: 2},
		{ID: 4, Name: "Condition report", Type: value.Type{Kind: value.File}, Slot: 3},
		{ID: 5, Name: "Value", Type: value.Type{Kind: value.Number}, Slot: 4},
		{ID: 6, Name: "Packed", Type: value.Type{Kind: value.Checkbox}, Slot: 5},
		{ID: 7, Name: "Ends", Type: value.Type{Kind: value.Date}, Slot: 6},
		{ID: 8, Name: "Country", Type: value.Type{Kind: value.Text}, Slot: 7},
	}, Tables: []Table{{ID: 9, Name: "Countries", Columns: []Column{
		{ID: 8, Name: "Country", Type: value.Type{Kind: value.Text}, Slot: 0},
		{ID: 21, Name: "Code", Type: value.Type{Kind: value.Text}, Slot: 1},
		{ID: 22, Name: "Fee", Type: value.Type{Kind: value.Number}, Slot: 2},
	}}}}
	today = value.OfDate(2026, time.March, 25)
)

func env() *Env {
	own := []value.Value{value.OfText("Tide clock"), value.OfChoice("Agreed"), value.OfDate(2026, time.March, 2), {}, value.MustNumber("12500.5"),
		value.OfBool(true), value.OfOdd("TBC"), value.OfText("Averin")}
	return &Env{
		Cells: own, Row: 3,
		Page: func(row int64) value.Value {
			return value.OfText(fmt.Sprintf("http://kavlo.example.org/t/t1/pages/p2/r%d", row))
		},
		Own: func() iter.Seq[[]value.Value] {
			above := []value.Value{value.OfText("Lamp"), {}, {}, {}, value.OfInt(7500)}
			return slices.Values([][]value.Value{above, own, {value.OfText("Horn"), {}, {}, {}, value.OfInt(9)}})
		},
		Before: []value.Value{value.OfText("Tide clock"), value.OfChoice("Requested"), value.OfDate(2026, time.March, 2), {}, value.MustNumber("12500.5"), value.OfBool(true), value.OfOdd("TBC"), value.OfText("Averin")},
		Tab:    "Crating", Today: today, Now: value.DateTimeOf(today.Time().Add(9 * time.Hour)), Days: recur.WorkingDays{},
		Rows: func(int64) iter.Seq2[string, []value.Value] {
			return func(yield func(string, []value.Value) bool) {
				for _, r := range [][]value.Value{{value.OfText("Averin"), value.OfText("0042"), value.OfInt(3)}, {value.OfText("Corrin"), value.OfText("9703"), value.OfInt(4)}, {value.OfText("averin"), value.OfText("0117"), value.OfInt(5)}} {
					if !yield("Countries", r) {
						return
					}
				}
			}
		},
	}
}

func TestConditions(t *testing.T) {
	for text, want := range map[string]Tri{
		`Stage is "Agreed"`:                                                 Yes,
		`stage IS "agreed"`:                                                 Yes,
		`Stage is not tab`:                                                  Yes,
		`tab is "Crating"`:                                                  Yes,
		`Stage is one of ("Requested", "Crating")`:                          No,
		`Arrived before today - 15 days`:                                    Yes,
		`Arrived before today - 1 month`:                                    No,
		`Arrived on or before 2026-03-02`:                                   Yes,
		`Arrived within 10 days`:                                            No,
		`today + 3 days within 10 days`:                                     Yes,
		`Arrived between 2026-03-01 and 2026-03-31`:                         Yes,
		`[Condition report] is blank`:                                       Yes,
		`[Condition report] is not blank`:                                   No,
		`[Condition report] contains "x"`:                                   No, // a comparison with a blank is simply no
		`Value >= 5000 and (Packed or Stage is blank)`:                      Yes,
		`Value < 12500.6`:                                                   Yes,
		`not Packed`:                                                        No,
		`Object contains "CLOCK" and Packed`:                                Yes,
		`Object starts with "tide"`:                                         Yes,
		`Object ends with "lamp"`:                                           No,
		`Object is exactly "tide clock"`:                                    No,
		`Object matches "^Tide [a-z]+$"`:                                    Yes,
		`Stage changed`:                                                     Yes,
		`Object changed`:                                                    No,
		`Stage changed and Stage was "Requested"`:                           Yes,
		`[Ends] before today`:                                               Odd, // TBC is no date
		`[Ends] is odd`:                                                     Yes,
		`[Ends] before today and not Packed`:                                No,  // does not hang on it
		`[Ends] before today or Packed`:                                     Yes, // neither does this
		`[Ends] before today and Packed`:                                    Odd,
		`not ([Ends] before today)`:                                         Odd,
		`days between Arrived and today is 23`:                              Yes,
		`workdays between Arrived and today is 17`:                          Yes,
		`today + 2 workdays is 2026-03-27`:                                  Yes,
		`(count in Countries where Country is "Averin") is 2`:               Yes,
		`(sum Fee in Countries where Country is this.Country) is 8`:         Yes,
		`(first Code in Countries where Country is this.Country) is "0042"`: Yes,
		`(if Value > 10000 then "High" else "Standard") is "High"`:          Yes,
		`round(Value, 0) is 12500 and length(Object) is 10`:                 Yes,
	} {
		t.Run(text, func(t *testing.T) {
			e, err := CheckCondition(text, scope)
			require.NoError(t, err)
			assert.Equal(t, want, e.Condition()(env()))
		})
	}
}

func TestTemplatesAndValues(t *testing.T) {
	for text, want := range map[string]value.Value{
		"{Stage}":               value.OfChoice("Agreed"), // one hole keeps its type
		"{Arrived}":             value.OfDate(2026, time.March, 2),
		"{Object} of {Country}": value.OfText("Tide clock of Averin"),
		"no holes":              value.OfText("no holes"),
		"{days between Arrived and today - 15 days}": value.OfInt(8),
	} {
		e, err := CheckTemplate(text, scope)
		require.NoError(t, err, text)
		assert.Equal(t, want, e.Value()(env()), text)
	}
}

// Each example of the function table is a test of it.
func TestFunctionsYieldWhatTheirExamplesSay(t *testing.T) {
	for name, f := range functions {
		e, err := CheckValue(f.example, scope)
		require.NoError(t, err, name)
		assert.Equal(t, f.yields, e.Value()(env()).String(), f.example)
	}
}

// testdata/errors.txt holds clauses that are wrong, each with a mark under the
// mistake, and what is said of it.
func TestMistakesAreShownWhereTheyAre(t *testing.T) {
	text, err := os.ReadFile("testdata/errors.txt")
	require.NoError(t, err)
	codes := map[string]bool{}
	for _, block := range strings.Split(strings.TrimSpace(string(text)), "\n\n") {
		lines := strings.Split(block, "\n")
		require.Len(t, lines, 3, block)
		t.Run(lines[0], func(t *testing.T) {
			s := *scope
			s.Edit = !strings.Contains(lines[2], CodeNoEdit)
			_, err := CheckCondition(lines[0], &s)
			var ce *Error
			require.ErrorAs(t, err, &ce)
			code, says, _ := strings.Cut(lines[2], ":")
			says = strings.TrimSpace(says)
			codes[code] = true
			assert.Equal(t, code, ce.Code)
			assert.Contains(t, ce.Msg, says)
			assert.Equal(t, lines[0]+"\n"+strings.TrimRight(lines[1], " "), ce.Caret())
		})
	}
	for _, code := range []string{CodeSyntax, CodeUnclosed, CodeNoName, CodeAmbiguous, CodeType, CodeNoChoice, CodeNoEdit} {
		assert.True(t, codes[code], "%s has no example", code)
	}
}

func TestLimitsHoldAtAndJustPastThem(t *testing.T) {
	deep := func(n int) string { return strings.Repeat("(", n) + "Packed" + strings.Repeat(")", n) }
	_, err := CheckCondition(deep(20), scope)
	require.NoError(t, err)
	_, err = CheckCondition(deep(MaxDepth+5), scope)
	var ce *Error
	require.ErrorAs(t, err, &ce)
	assert.Equal(t, CodeTooDeep, ce.Code)
	_, err = CheckCondition("Packed "+strings.Repeat(" ", MaxLength), scope)
	require.ErrorAs(t, err, &ce)
	assert.Equal(t, CodeTooLong, ce.Code)
}

// A column renamed does not break a clause, since stored clauses hold ids.
func TestStoredClausesSurviveRenaming(t *testing.T) {
	e, err := CheckCondition(`Arrived before today and [Condition report] is blank`, scope)
	require.NoError(t, err)
	stored := e.Print(ByID)
	assert.NotContains(t, stored, "Arrived")
	renamed := *scope
	renamed.Columns = append([]Column(nil), scope.Columns...)
	renamed.Columns[2].Name = "Came in"
	e, err = CheckCondition(stored, &renamed)
	require.NoError(t, err)
	assert.Equal(t, `[Came in] before today and [Condition report] is blank`, e.Print(ByName))
}

func TestConditionsAllocateNothing(t *testing.T) {
	e, err := CheckCondition(`Arrived before today - 15 days and [Condition report] is blank and Stage is "agreed" and Value > 3`, scope)
	require.NoError(t, err)
	holds, at := e.Condition(), env()
	assert.Zero(t, testing.AllocsPerRun(100, func() { holds(at) }))
}

// clauseText draws the text of a clause that reads.
func clauseText(t *rapid.T, depth int) string {
	if depth == 0 || rapid.IntRange(0, 3).Draw(t, "leaf") == 0 {
		return rapid.SampledFrom([]string{`Stage is "Agreed"`, `Arrived before today - 15 days`, `[Condition report] is blank`, `Value * 2 + 1 >= 30`, `Packed`, `[Ends] is odd`, `Stage changed`,
			`Object contains "a {Country} b"`, `Arrived between 2026-01-01 and today`, `Country is one of ("Averin", "Corrin")`, `days between Arrived and today > 3`, `Stage was not "Agreed"`,
			`(count in Countries where Country is this.Country) > 1`, `min(Value, 3) < 2`, `(if Packed then 1 else 2) is 1`}).Draw(t, "simple")
	}
	join := rapid.SampledFrom([]string{" and ", " or "}).Draw(t, "join")
	text := "(" + clauseText(t, depth-1) + ")" + join + "(" + clauseText(t, depth-1) + ")"
	if rapid.Bool().Draw(t, "not") {
		text = "not (" + text + ")"
	}
	return text
}

func TestPrintedClausesReadTheSame(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := clauseText(t, 3)
		first, err := CheckCondition(text, scope)
		if err != nil {
			t.Fatalf("%s: %v", text, err)
		}
		printed := first.Print(ByName)
		second, err := CheckCondition(printed, scope)
		if err != nil {
			t.Fatalf("%s printed as %s: %v", text, printed, err)
		}
		if again := second.Print(ByName); again != printed {
			t.Fatalf("%s printed as %s and then as %s", text, printed, again)
		}
		if a, b := first.Condition()(env()), second.Condition()(env()); a != b {
			t.Fatalf("%s is %v, printed as %s it is %v", text, a, printed, b)
		}
		if stored, err := CheckCondition(first.Print(ByID), scope); err != nil || stored.Print(ByName) != printed {
			t.Fatalf("%s stored as %s: %v", text, first.Print(ByID), err)
		}
	})
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"", `Stage is "Agreed"`, `"{`, `[`, `"a {b} {"c {d}"}"`, `not not not`, `(((((`, `1 + + 2`, `x in y where z`, "a\nb", "\xff", `today - 9999999999999 years`, `Object matches "("`} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		if e, err := CheckCondition(s, scope); err == nil {
			e.Condition()(env())
			if _, err := CheckCondition(e.Print(ByName), scope); err != nil {
				t.Fatalf("%q printed as %q: %v", s, e.Print(ByName), err)
			}
		}
		if e, err := CheckTemplate(s, scope); err == nil {
			e.Value()(env())
		}
	})
}

func TestErrorsGiveTheMend(t *testing.T) {
	s := &Scope{Name: "T", Columns: []Column{
		{ID: 1, Name: "Due on", Type: value.Type{Kind: value.Date}}, {ID: 2, Name: "Stage", Type: value.Type{Kind: value.Text}},
		{ID: 3, Name: "Part of town", Type: value.Type{Kind: value.Text}}, {ID: 4, Name: "Year", Type: value.Type{Kind: value.Text}}}}
	for text, says := range map[string]string{
		"Due on before today":                    "a name of several words stands in brackets: [Due on]",
		"Stage is blank and due on before today": "a name of several words stands in brackets: [Due on]",
		"Part of town is \"North\"":              "a name of several words stands in brackets: [Part of town]",
		"Stage is empty":                         `to ask whether there is nothing, write "is blank"`,
		"Year > 2020":                            "to compare it as a number, write number(Year)",
		"Year before today":                      "",
	} {
		_, err := CheckCondition(text, s)
		require.Error(t, err, text)
		assert.Contains(t, err.Error(), says, text)
	}
	_, err := CheckCondition(`Stage is "Due on" and Sage is blank`, s)
	assert.NotContains(t, err.Error(), "brackets", "what stands in quotes is not meant")
}
