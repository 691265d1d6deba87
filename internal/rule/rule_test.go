package rule_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
)

// Each file of testdata is a scenario: a setup, rows, what somebody does, and
// the tracker afterwards with what the rules reported.
func TestScenarios(t *testing.T) {
	files, err := filepath.Glob("testdata/*.txt")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, file := range files {
		t.Run(strings.TrimSuffix(filepath.Base(file), ".txt"), func(t *testing.T) {
			archive, err := txtar.ParseFile(file)
			require.NoError(t, err)
			parts := map[string]string{}
			for _, f := range archive.Files {
				parts[f.Name] = string(f.Data)
			}
			k := testkit.New(t, parts["setup"])
			for line := range strings.Lines(parts["rows"]) {
				tab, cells, _ := strings.Cut(strings.TrimSpace(line), ": ")
				k.Add(tab, strings.Split(cells, ", ")...)
			}
			var said strings.Builder
			for line := range strings.Lines(parts["do"]) {
				said.WriteString(do(t, k, strings.TrimSpace(line)))
			}
			got := k.Dump()
			if os.Getenv("UPDATE") != "" {
				for i := range archive.Files {
					switch archive.Files[i].Name {
					case "then":
						archive.Files[i].Data = []byte(got)
					case "says":
						archive.Files[i].Data = []byte(said.String())
					}
				}
				require.NoError(t, os.WriteFile(file, txtar.Format(archive), 0o644))
				return
			}
			assert.Equal(t, parts["then"], got)
			assert.Equal(t, parts["says"], said.String())
		})
	}
}

// do makes an edit ("edit Bell: Stage=Agreed") or runs a rule ("run Mark late")
// and gives what came of it in words.
func do(t *testing.T, k *testkit.Kit, line string) string {
	verb, rest, _ := strings.Cut(line, " ")
	var out *rule.Outcome
	var err error
	switch verb {
	case "edit":
		label, cells, _ := strings.Cut(rest, ": ")
		out, _, err = k.Edit(label, strings.Split(cells, ", ")...)
	case "run":
		_, err = k.Try(func(d *sheet.Draft) error {
			rules, err := testkit.Rules(k.Tracker().Shape)
			require.NoError(t, err)
			for _, r := range rules.List {
				if r.Name == rest {
					out, err = rule.Run(d, k.ID, r, sheet.Cause{Kind: sheet.ByHand, Name: r.Name, Woke: -1}, rule.Setting{Book: testkit.Rules, Now: testkit.Now, Limits: rule.DefaultLimits, NewID: k.NewID})
				}
			}
			return err
		})
	}
	var b strings.Builder
	if err != nil {
		b.WriteString("refused: " + err.Error() + "\n")
		return b.String()
	}
	for _, r := range out.Reports {
		if r.Matched > 0 {
			b.WriteString(r.Rule + ": " + plural(r.Matched))
			for _, s := range r.Steps {
				b.WriteString(", " + s.Kind + " " + plural(s.Changed))
			}
			b.WriteString("\n")
		}
		for _, p := range r.PassedOver {
			b.WriteString(r.Rule + " passed over " + p.Label + ": " + p.Why + "\n")
		}
	}
	if b.Len() == 0 {
		return "nothing followed\n"
	}
	return b.String()
}

func plural(n int) string { return strings.Repeat("|", n) }

const touring = `
tracker: Loans
zone: Europe/Lisbon
tabs:
  Requested: { columns: { Object: { type: text }, Stage: &s { type: choice, options: [Requested, Agreed, Crating] }, Flag: { type: text } } }
  Agreed:    { columns: { Object: { type: text }, Stage: *s, Flag: { type: text } } }
  Crating:   { columns: { Object: { type: text }, Stage: *s } }
  Log:       { columns: { What: { type: text }, Stage: { type: text } } }
rules:
  - name: Move
    wake: { edit: [Stage] }
    in: [Requested, Agreed, Crating]
    where: Stage is not blank and Stage is not tab
    steps: [ { move: { to: "{Stage}", clear: [Flag] } } ]
  - name: Log
    wake: { edit: [Stage] }
    in: [Requested, Agreed, Crating]
    where: Stage changed
    steps: [ { put: { tab: Log, key: What, values: { What: "{Object}", Stage: "{Stage}" } } } ]
`

// Whatever is edited, every row stands in the one tab that its stage names, a
// cascade either happens whole or not at all, and taking it back restores all.
func TestRandomEditsLeaveEveryRowInItsTab(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		k := testkit.New(t, touring)
		objects := []string{"Bell", "Lamp", "Horn", "Lens"}
		for _, o := range objects {
			k.Add("Requested", "Object="+o, "Stage=Requested", "Flag=x")
		}
		for range rapid.IntRange(1, 12).Draw(rt, "edits") {
			before := k.Dump()
			_, changes, err := k.Edit(rapid.SampledFrom(objects).Draw(rt, "row"), "Stage="+rapid.SampledFrom([]string{"Requested", "Agreed", "Crating", "", "Lost"}).Draw(rt, "stage"))
			if err != nil {
				if got := k.Dump(); got != before {
					rt.Fatalf("a refused edit left\n%s", got)
				}
				continue
			}
			tr := k.Tracker()
			for _, o := range objects {
				r := k.Row(o)
				stage := r.Get(tr.TabOf(r), k.Column("Stage").ID)
				if !stage.IsOdd() && !stage.IsBlank() && stage.String() != tr.TabOf(r).Name {
					rt.Fatalf("%s is %s and stands in %s", o, stage, tr.TabOf(r).Name)
				}
			}
			if rapid.Bool().Draw(rt, "undo") {
				set := &sheet.ChangeSet{Changes: changes}
				k.Must(func(d *sheet.Draft) error {
					for _, c := range set.Invert() {
						if err := d.Apply(c); err != nil {
							return err
						}
					}
					return nil
				})
				if got := k.Dump(); got != before {
					rt.Fatalf("taking it back gave\n%s\ninstead of\n%s", got, before)
				}
			}
		}
	})
}

func TestARunawayIsStoppedAndNamesTheRules(t *testing.T) {
	k := testkit.New(t, `
tracker: Loans
zone: UTC
tabs: { A: { columns: { N: { type: number }, M: { type: number } } } }
rules:
  - { name: Up, wake: { edit: [N] }, where: N > M, steps: [ { set: { M: "{N + 1}" } } ] }
  - { name: Chase, wake: { edit: [M] }, where: M > N, steps: [ { set: { N: "{M + 1}" } } ] }
`)
	k.Add("A", "N=1", "M=1")
	before := k.Dump()
	_, _, err := k.Edit(k.Row("1").ID.String(), "N=2")
	var runaway *rule.Runaway
	require.ErrorAs(t, err, &runaway)
	assert.Subset(t, runaway.Rules, []string{"Up", "Chase"})
	assert.Equal(t, before, k.Dump())
}
