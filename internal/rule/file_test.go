package rule_test

import (
	"errors"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
)

func TestPatternsOfFiles(t *testing.T) {
	for _, tc := range []struct {
		pattern, file string
		fits          bool
	}{
		{"intake/**", "intake/a.csv", true},
		{"intake/**", "intake/deep/er/a.csv", true},
		{"intake/**", "intake", false},
		{"intake/*.csv", "intake/A.CSV", true},
		{"intake/*.csv", "intake/deep/a.csv", false},
		{"intake/**/*.csv", "intake/a.csv", true},
		{"intake/**/*.csv", "intake/deep/er/a.csv", true},
		{"intake/**/loans/*.xlsx", "intake/2026/loans/a.xlsx", true},
		{"intake/**/loans/*.xlsx", "intake/2026/a.xlsx", false},
		{"intake/requests?.xlsx", "intake/requests1.xlsx", true},
		{"intake/requests?.xlsx", "intake/requests10.xlsx", false},
		{"intake/[", "intake/a", false},
	} {
		assert.Equal(t, tc.fits, rule.Matches(tc.pattern, tc.file), "%s %s", tc.pattern, tc.file)
	}
}

const filing = `
tracker: Files
zone: Europe/Lisbon
tabs:
  Log:  { columns: { Id: { type: text }, Name: { type: text }, Where: { type: text }, Size: { type: number }, Saved: { type: date-time }, File: { type: file }, Big: { type: text } } }
  Rows: { columns: { No: { type: text } } }
rules:
  - name: Log
    wake: { file: "intake/**" }
    where: file.extension is "csv"
    steps:
      - put: { tab: Log, key: Id, values: { Id: "{file.id}", Name: "{file.name}", Where: "{file.folder}", Size: "{file.size}", Saved: "{file.modified}", File: "{file.link}" } }
      - take: { tab: Rows, key: No }
      - write: { tab: Log, file: "outbound/{file.name} of {today}.csv" }
  - name: Mark
    wake: { new row: yes }
    in: Log
    where: Size > 100
    steps: [ { set: { Big: "yes, {Name}" } } ]
  - { name: Watch, watching only: yes, wake: { file: "intake/**" }, steps: [ { take: { tab: Rows, key: No } } ] }
  - { name: Both, wake: hand, in: Rows, steps: [ { write: { tab: Rows, file: rows.csv } } ] }
`

type taken struct {
	says string
	err  error
}

func runFile(k *testkit.Kit, name string, f *rule.File, take *taken) (*rule.Outcome, error) {
	var out *rule.Outcome
	_, err := k.Try(func(d *sheet.Draft) error {
		rules, err := testkit.Rules(k.Tracker().Shape)
		require.NoError(k.T, err)
		s := rule.Setting{Program: testkit.Program, Now: testkit.Now, Limits: rule.DefaultLimits, NewID: k.NewID}
		if take != nil {
			s.Take = func(*sheet.Draft, sheet.TrackerID, *rule.Take, int) (string, bool, error) {
				return take.says, take.err == nil, take.err
			}
		}
		for _, r := range rules {
			if r.Name == name {
				out, err = rule.RunFile(d, k.ID, r, f, sheet.Cause{Kind: sheet.ByFile, Name: f.Path, Woke: -1}, s)
			}
		}
		return err
	})
	return out, err
}

func TestARuleRunsOnAFile(t *testing.T) {
	k := testkit.New(t, filing)
	f := &rule.File{ID: "f1", Path: "intake/deep/loans.csv", Version: 2, Size: 120, Modified: time.Date(2026, 6, 1, 8, 30, 0, 0, time.UTC)}
	out, err := runFile(k, "Log", f, &taken{says: "took 2 rows"})
	require.NoError(t, err)
	row := k.Row("f1")
	tab := k.Tab("Log")
	for name, want := range map[string]string{"Name": "loans.csv", "Where": "intake/deep", "Size": "120", "Saved": "2026-06-01T09:30", "File": "loans.csv <intake/deep/loans.csv>", "Big": "yes, loans.csv"} {
		assert.Equal(t, want, row.Get(tab, k.Column(name).ID).String(), name)
	}
	require.Len(t, out.Reports, 2, "what it put woke another rule")
	assert.Equal(t, "took 2 rows", out.Reports[0].Steps[1].Says)
	require.Len(t, out.Writes, 1)
	assert.Equal(t, "loans.csv of 2026-03-25.csv", out.Writes[0].Path)

	f.Path, f.Version = "intake/renamed.csv", 3
	_, err = runFile(k, "Log", f, &taken{})
	require.NoError(t, err)
	assert.Equal(t, 1, k.Tracker().Count(tab.ID), "by its id, it is the same file")
	assert.Equal(t, "renamed.csv", k.Row("f1").Get(tab, k.Column("Name").ID).String())

	f.Path = "intake/loans.txt"
	out, err = runFile(k, "Log", f, &taken{})
	require.NoError(t, err)
	assert.Zero(t, out.Reports[0].Matched)
	assert.Empty(t, out.Writes)
}

func TestWhatFailsOnAFileLeavesNothing(t *testing.T) {
	k := testkit.New(t, filing)
	f := &rule.File{ID: "f1", Path: "intake/loans.csv"}
	before := k.State
	_, err := runFile(k, "Log", f, &taken{err: errors.New("it is cut short")})
	require.EqualError(t, err, "rule Log, step 2 (take), intake/loans.csv: it is cut short")
	assert.Same(t, before, k.State, "not even the row that the first step put")
	_, err = runFile(k, "Log", f, nil)
	require.ErrorContains(t, err, "there is no file to take rows from")
}

func TestAWatchingRuleOnlySaysWhatItWouldDoWithAFile(t *testing.T) {
	k := testkit.New(t, filing)
	out, err := runFile(k, "Watch", &rule.File{ID: "f1", Path: "intake/loans.csv"}, &taken{err: errors.New("not called")})
	require.NoError(t, err)
	assert.Equal(t, []string{"run its steps on intake/loans.csv"}, out.Reports[0].Would)
}

func TestAFileIsAskedForOnceARun(t *testing.T) {
	k := testkit.New(t, filing)
	k.Add("Rows", "No=1")
	k.Add("Rows", "No=2")
	var out *rule.Outcome
	k.Must(func(d *sheet.Draft) error {
		rules, err := testkit.Rules(k.Tracker().Shape)
		require.NoError(t, err)
		for _, r := range rules {
			if r.Name == "Both" {
				out, err = rule.Run(d, k.ID, r, nil, sheet.Cause{Kind: sheet.ByHand}, rule.Setting{Program: testkit.Program, Now: testkit.Now, Limits: rule.DefaultLimits, NewID: k.NewID})
			}
		}
		return err
	})
	require.Len(t, out.Writes, 1)
	out.Writes[0].Tell(out, "wrote it")
	assert.Equal(t, "wrote it", out.Reports[0].Steps[0].Says)
}
