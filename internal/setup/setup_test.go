package setup_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/demo"
	"example.org/kavlo/internal/kinds"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
)

func ids() setup.IDs {
	n := int64(0)
	return func() int64 { n++; return n }
}

// Writing a tracker's setup and reading it back changes nothing, to the letter.
func TestSavedSetupsLoadAsTheSame(t *testing.T) {
	next := ids()
	first, err := kinds.Setup.Parse([]byte(demo.Setup("http://lists.example.org")), nil, next)
	require.NoError(t, err)
	text, err := kinds.Setup.Encode(first)
	require.NoError(t, err)
	second, err := kinds.Setup.Parse(text, first, next)
	require.NoError(t, err)
	assert.Equal(t, first, second)
	again, err := kinds.Setup.Encode(second)
	require.NoError(t, err)
	assert.Equal(t, string(text), string(again))

	fresh, err := kinds.Setup.Parse(text, nil, ids()) // in another workspace: the same but for ids
	require.NoError(t, err)
	elsewhere, err := kinds.Setup.Encode(fresh)
	require.NoError(t, err)
	assert.Equal(t, string(text), string(elsewhere))
}

func TestStepsAboutFilesLoadAsTheyWereSaved(t *testing.T) {
	text := base + `rules:
  - name: Files
    wake: { file: intake/** }
    where: file.size > 100 and file.extension is "csv"
    steps:
      - put: { tab: Crating, key: Object, values: { Object: "{file.name}" } }
      - take: { tab: Crating, key: Object, sheet: Loans }
      - write: { tab: Crating, where: Arrived before today, columns: [Object, Arrived], file: "outbound/{file.name}.xlsx", totals: yes, chart: { title: When, names: Object, values: Arrived } }
  - name: Report
    wake: { clock: daily at 7:00 }
    steps:
      - write: { tab: Crating, file: report.xlsx, sheet: Figures, at: B3, bare: yes }
      - write: { tab: Crating, file: report.xlsx, sheet: Figures, table: Stock, key: Object }
      - write: { tab: Crating, file: report.xlsx, sheet: Figures, append: yes, replace: yes }
`
	next := ids()
	first, err := kinds.Setup.Parse([]byte(text), nil, next)
	require.NoError(t, err)
	saved, err := kinds.Setup.Encode(first)
	require.NoError(t, err)
	second, err := kinds.Setup.Parse(saved, first, next)
	require.NoError(t, err, string(saved))
	assert.Equal(t, first, second)
	assert.Contains(t, string(saved), `where: file.size > 100 and file.extension is "csv"`)
	says, err := kinds.Setup.Sentence(&first.Definitions[0], first)
	require.NoError(t, err)
	assert.Equal(t, "When a file matching intake/** arrives or changes, if `file.size > 100 and file.extension is \"csv\"`: add or update a row in Crating, matched by Object, then import its rows into Crating, matched by Object, then write the rows of Crating where `Arrived before today` to outbound/{file.name}.xlsx.", says)
}

func TestARenamedColumnIsToldAsThat(t *testing.T) {
	text := base + "rules:\n  - { name: R, wake: { edit: [Stage] }, where: Stage is blank, steps: [ { set: { Object: x } } ] }\n"
	before, err := kinds.Setup.Parse([]byte(text), nil, ids())
	require.NoError(t, err)
	after := before.Clone()
	after.Tabs[0].Name = "Packing"
	after.Tabs[0].Columns[1].Name = "Standing"
	says, err := kinds.Setup.Differences(before, after)
	require.NoError(t, err)
	assert.Equal(t, []string{"renamed tab Crating: Packing", "renamed column Stage: Standing"}, says, "that the rule follows is no difference")
	after.Tabs[0].Columns[0].Name, after.Tabs[0].Columns[1].Name = "Stage", "Object"
	says, err = kinds.Setup.Differences(before, after)
	require.NoError(t, err)
	assert.NotEmpty(t, says, "names that change places are told too")
}

func TestColumnsOfOneNameAndTypeAreOneColumn(t *testing.T) {
	s, err := kinds.Setup.Parse([]byte("tracker: T\ntabs:\n  A: { columns: { X: { type: text }, Y: { type: text } } }\n  B: { columns: { X: { type: text }, Y: { type: number } } }\n"), nil, ids())
	require.NoError(t, err)
	assert.Equal(t, s.Tabs[0].Columns[0].ID, s.Tabs[1].Columns[0].ID)
	assert.NotEqual(t, s.Tabs[0].Columns[1].ID, s.Tabs[1].Columns[1].ID)
}

const base = `tracker: Loans
zone: Europe/Lisbon
tabs:
  Crating: { columns: { Object: { type: text }, Stage: { type: choice, options: { Agreed: blue } }, Arrived: { type: date } } }
`

// What is wrong is told with its line, its place and the nearest name.
func TestMistakesAreToldWithLineAndPlace(t *testing.T) {
	for _, tc := range []struct{ add, says string }{
		{"rules:\n  - { name: R, wake: { edit: [Stge] }, steps: [ { set: { Object: x } } ] }", `line 6: rules / R / wake / edit: there is no column "Stge" in Crating: did you mean Stage?`},
		{"rules:\n  - name: R\n    wake: { edit: [Stage] }\n    where: Stge is blank\n    steps: [ { set: { Object: x } } ]", `line 8: rules / R / where: there is no column "Stge"`},
		{"rules:\n  - { name: R, steps: [ { move: { to: Cratign } } ] }", `there is no tab "Cratign" in Loans: did you mean Crating?`},
		{"rules:\n  - { name: R, in: Cratng, steps: [ { set: { Object: x } } ] }", "did you mean Crating?"},
		{"rules:\n  - { name: R, steps: [ { set: { Arrived: TBC } } ] }", "is not a date"},
		{"rules:\n  - { name: R, steps: [ { set: { Arrived: \"{Object contains \\\"x\\\"}\" } } ] }", "column Arrived takes date"},
		{"rules:\n  - { name: R, steps: [] }", "at least one step"},
		{"rules:\n  - { name: R, stepps: [] }", `line 6: rules / R: there is no key "stepps" here: did you mean steps?`},
		{"rules:\n  - { name: R, steps: [ { set: { Object: x }, move: { to: Crating } } ] }", "a step is one of"},
		{"rules:\n  - { name: R, wake: { clock: sometimes }, steps: [ { set: { Object: x } } ] }", "clock phrase"},
		{"rules:\n  - { name: R, where: Arrived > 5, steps: [ { set: { Object: x } } ] }", "line 6"},
		{"reminders:\n  - { name: R, in: Crating, where: Arrived before today, show: [Objct], to: x@example.org }", "did you mean Object?"},
		{"rounds:\n  - { name: R, clock: daily at 7:00, reminders: [None], subject: x }", `there is no reminder "None"`},
		{"rounds:\n  - { name: R, clock: daily at 7:00, reminders: all, subject: x, missed: perhaps }", "run once or skip"},
		{"syncs:\n  - { name: S, list: L, tab: Crating, key: { Object: id } }", `there is no list "L"`},
		{"lists:\n  - { name: L, from: { htp: x } }", `did you mean http?`},
		{"tabz: {}", `there is no key "tabz" here: did you mean tabs?`},
	} {
		t.Run(tc.says, func(t *testing.T) {
			_, err := kinds.Setup.Parse([]byte(base+tc.add), nil, ids())
			var e *setup.Error
			require.ErrorAs(t, err, &e)
			assert.ErrorContains(t, err, tc.says)
			assert.Positive(t, e.Line)
		})
	}
	for text, says := range map[string]string{
		"":                           "is empty",
		"tracker: [":                 "the setup cannot be read",
		"tracker: T\nzone: Mars/Sea": "there is no time zone",
		"tracker: T\ntabs: { A: { columns: { X: { type: txt } } } }":                                                   "did you mean text?",
		"tracker: T\ntabs: { A: { columns: { X: { type: choice } } } }":                                                "needs options",
		"tracker: T\ntabs: { A: { columns: { X: { type: text }, x: { type: text } } } }":                               "used twice",
		"tracker: T\ntabs: { A: { columns: { X: { type: computed, clause: Y }, Y: { type: computed, clause: X } } } }": "in a circle",
		"tracker: T\ntabs: { A: { columns: { X: { type: number, default: many } } } }":                                 "is not a number",
		"tracker: T\ntabs: { A: { columns: { X: { type: choice, options: { a: pink } } } } }":                          "is not a colour",
		"tracker: T\nworking days: { week: sometimes }":                                                                "weekdays",
	} {
		_, err := kinds.Setup.Parse([]byte(text), nil, ids())
		require.ErrorContains(t, err, says, text)
	}
	_, err := kinds.Setup.Parse([]byte(strings.Repeat("x", setup.MaxSize+1)), nil, ids())
	require.ErrorContains(t, err, "larger than")
}

func TestPartsAreSaidAsSentences(t *testing.T) {
	s, err := kinds.Setup.Parse([]byte(demo.Setup("http://lists.example.org")), nil, ids())
	require.NoError(t, err)
	says := map[string]string{}
	for i := range s.Definitions {
		says[s.Definitions[i].Name], err = kinds.Setup.Sentence(&s.Definitions[i], s)
		require.NoError(t, err)
	}
	for name, want := range map[string]string{
		"Move loans to their stage":  "When Stage changes in Requested, Agreed, Crating, In transit, On display or Returned, if `Stage is not blank and Stage is not tab`: move the row to the tab named in Stage and clear Flag.",
		"Mark loans past their date": "Weekdays at 08:00, for rows in Requested, Agreed or Crating where `Due before today and Flag is blank`: set Flag to Late.",
		"Crates not there yet":       "Reminds the Courier about rows in In transit where `Expected before today`.",
		"Lenders":                    "Daily at 6:00, syncs Lenders with the list Lender register in both directions, matched by Lender no. Conflicts wait for a person. Rows missing from the list are marked.",
		"Morning round":              "Weekdays at 08:30, sends each person one email with the rows that match their reminders. People without rows get no email.",
	} {
		assert.Equal(t, want, says[name])
	}
}

func TestOnePartCanBeReadAlone(t *testing.T) {
	s, err := kinds.Setup.Parse([]byte(base), nil, ids())
	require.NoError(t, err)
	p, err := kinds.Setup.ParseDefinition(sheet.KindRule, []byte(`{"name": "R", "steps": [{"set": {"Object": "x"}}]}`), s, func() int64 { return 99 }, 0)
	require.NoError(t, err)
	assert.Equal(t, sheet.DefinitionID(99), p.ID)
	body, err := kinds.Setup.EncodeDefinition(p, s)
	require.NoError(t, err)
	assert.Equal(t, `{"name":"R","wake":"hand","steps":[{"set":{"Object":"x"}}]}`, string(body), "in the order of a setup file")
	_, err = kinds.Setup.ParseDefinition("dance", []byte("name: x"), s, nil, 0)
	require.ErrorContains(t, err, "no kind of definition")
}

func FuzzParse(f *testing.F) {
	f.Add(base)
	f.Add(demo.Setup("http://lists.example.org"))
	f.Add("a: &a [*a]")
	f.Add("tracker: T\ntabs: &t { A: { columns: *t } }")
	f.Fuzz(func(t *testing.T, text string) {
		s, err := kinds.Setup.Parse([]byte(text), nil, ids())
		if err != nil {
			return
		}
		saved, err := kinds.Setup.Encode(s)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := kinds.Setup.Parse(saved, nil, ids()); err != nil {
			t.Fatalf("saved as\n%s\n%v", saved, err)
		}
	})
}

// Parts of a file can stand for one another, so a small one can ask for much.
func TestASetupAsksForNoMoreThanItMay(t *testing.T) {
	many := func(n int, line string) string {
		var b strings.Builder
		for i := range n {
			fmt.Fprintf(&b, line, i)
		}
		return b.String()
	}
	for says, text := range map[string]string{
		"at most 200 tabs":        "tracker: T\ntabs:\n" + many(201, "  T%d: { columns: { A: { type: text } } }\n"),
		"at most 500 columns":     "tracker: T\ntabs:\n  A:\n    columns:\n" + many(501, "      C%d: { type: text }\n"),
		"all tabs together 10000": "tracker: T\ntabs:\n  A:\n    columns: &c\n" + many(400, "      C%d: { type: text }\n") + many(100, "  T%d: { columns: *c }\n"),
		"rules, lists, syncs":     "tracker: T\ntabs: { A: { columns: { X: { type: text } } } }\nreminders:\n" + many(1001, "  - { name: R%d, in: A, where: X is blank, to: a@example.org }\n"),
		"larger than 4 MB":        "tracker: T\n# " + strings.Repeat("x", setup.MaxSize),
		"did not find expected":   "tracker: [" + strings.Repeat("[", 20_000),
		"used twice":              "tracker: T\ntabs: { A: { columns: { X: { type: text } } }, A: { columns: { X: { type: text } } } }",
	} {
		_, err := kinds.Setup.Parse([]byte(text), nil, ids())
		require.Error(t, err, says)
		if says != "did not find expected" {
			require.ErrorContains(t, err, says)
		}
	}
}
