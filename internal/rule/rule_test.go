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
			for _, r := range rules {
				if r.Name == rest {
					out, err = rule.Run(d, k.ID, r, nil, sheet.Cause{Kind: sheet.ByHand, Name: r.Name, Woke: -1}, rule.Setting{Program: testkit.Program, Now: testkit.Now, Limits: rule.DefaultLimits, NewID: k.NewID})
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
		for _, w := range r.Would {
			b.WriteString(r.Rule + " would have " + w + "\n")
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

func TestRowsMoveBetweenTrackersInOneTransaction(t *testing.T) {
	k := testkit.New(t, `
tracker: Loans
zone: UTC
tabs:
  Returned: { columns: { Object: { type: text }, Lender: { type: text }, Closed: { type: date }, Value: { type: number } } }
rules:
  - name: Archive
    wake: { edit: [Closed] }
    where: Closed is not blank
    steps: [ { move: { to: "{year(Closed)}", tracker: Archive, create: like Old, columns: { Lender: Owner }, set: { Value: "7" } } } ]
`)
	k.AddTracker(`
tracker: Archive
zone: UTC
tabs:
  Old: { columns: { Object: { type: text }, Owner: { type: text }, Value: { type: text }, Seen: { type: checkbox } } }
rules:
  - { name: Seen, wake: { new row: yes }, steps: [ { set: { Seen: "yes" } } ] }
`)
	id := k.Add("Returned", "Object=Bell", "Lender=Tarn", "Value=5")
	before := k.State
	_, changes, err := k.Edit("Bell", "Closed=2026-03-01")
	require.NoError(t, err)
	archive, err := k.State.Find("Archive")
	require.NoError(t, err)
	tab, err := archive.Tab("2026")
	require.NoError(t, err)
	r := archive.Row(id)
	require.NotNil(t, r, "the row kept its identity")
	shown := map[string]string{}
	for i, c := range tab.Columns {
		shown[c.Name] = r.At(i).String()
	}
	assert.Equal(t, map[string]string{"Object": "Bell", "Owner": "Tarn", "Value": "7", "Seen": "yes"}, shown)
	assert.Nil(t, k.Tracker().Row(id), "and is in one tracker alone")

	set := &sheet.ChangeSet{Changes: changes}
	k.Must(func(d *sheet.Draft) error {
		for _, c := range set.Invert() {
			if err := d.Apply(c); err != nil {
				return err
			}
		}
		return nil
	})
	assert.Equal(t, "Returned:\n  Object=Bell, Lender=Tarn, Value=5\n", k.Dump())
	old, err := before.Find("Archive")
	require.NoError(t, err)
	now, err := k.State.Find("Archive")
	require.NoError(t, err)
	assert.Equal(t, old.Shape, now.Shape)
}

func TestLoopsAreFoundBeforehand(t *testing.T) {
	for setup, want := range map[string][]string{
		"- { name: Up, wake: { edit: [N] }, steps: [ { set: { M: \"{N}\" } } ] }\n  - { name: Down, wake: { edit: [M] }, steps: [ { set: { N: \"{M}\" } } ] }":                                                                 {"Up -> Down -> Up"},
		"- { name: Self, wake: { edit: [N] }, steps: [ { set: { N: \"{N + 1}\" } } ] }":                                                                                                                                        nil,
		"- { name: Put, wake: { new row: yes }, in: A, steps: [ { put: { tab: A, key: N, values: { N: \"{N + 1}\" } } } ] }":                                                                                                   {"Put -> Put"},
		"- { name: Fine, wake: { edit: [N] }, steps: [ { set: { M: \"{N}\" } } ] }\n  - { name: Clock, wake: { clock: daily at 8:00 }, steps: [ { set: { N: \"1\" } } ] }":                                                     nil,
		"- { name: A, wake: { edit: [N] }, steps: [ { set: { M: \"1\" } } ] }\n  - { name: B, wake: { edit: [M] }, steps: [ { set: { O: \"1\" } } ] }\n  - { name: C, wake: { edit: [O] }, steps: [ { set: { N: \"1\" } } ] }": {"A -> B -> C -> A"},
		"- { name: Up, paused: yes, wake: { edit: [N] }, steps: [ { set: { N: \"1\" } } ] }":                                                                                                                                   nil,
	} {
		k := testkit.New(t, "tracker: T\ntabs:\n  A: { columns: { N: { type: number }, M: { type: number }, O: { type: number } } }\nrules:\n  "+setup)
		rules, err := testkit.Rules(k.Tracker().Shape)
		require.NoError(t, err)
		var got []string
		for _, l := range rule.Loops(rules) {
			got = append(got, l.String())
		}
		assert.Equal(t, want, got, setup)
	}
}
