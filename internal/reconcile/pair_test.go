package reconcile_test

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/testkit"
	"example.org/kavlo/internal/value"
)

// world is a list, a tab and what both were after the last sync.
type world struct {
	*testkit.Kit
	policy reconcile.Policy
	list   map[string][]value.Value // by the list's own id: key, then fields
	next   int
	base   map[string]*reconcile.Base
	into   *reconcile.Target
}

func newWorld(t testing.TB, p reconcile.Policy) *world {
	k := testkit.New(t, lenders)
	into := &reconcile.Target{Tracker: k.ID, Tab: k.Tab("Lenders").ID, Key: k.Column("No").ID, Columns: []sheet.ColumnID{k.Column("Name").ID, k.Column("Fee").ID},
		MoveTo: k.Tab("Former").ID, Note: "Gone from the list", Origin: "sync"}
	return &world{Kit: k, policy: p, list: map[string][]value.Value{}, base: map[string]*reconcile.Base{}, into: into}
}

// put sets a record of the list: "7 Name Fee".
func (w *world) put(id, key, name, fee string) {
	f, _ := value.Parse(fee, value.Type{Kind: value.Number})
	if _, odd := value.ParseNumber(fee); odd != nil && fee != "" {
		f = value.OfOdd(fee)
	}
	w.list[id] = []value.Value{value.OfText(key), value.OfText(name), f}
}

func (w *world) plan() *reconcile.Plan {
	var items []reconcile.Item
	for _, id := range slices.Sorted(maps.Keys(w.list)) {
		r := w.list[id]
		items = append(items, reconcile.Item{Key: r[0], Fields: r[1:], ID: id})
	}
	var base []reconcile.Base
	for _, key := range slices.Sorted(maps.Keys(w.base)) {
		base = append(base, *w.base[key])
	}
	return reconcile.Compare(items, w.into.Rows(w.Tracker()), base, []string{"Name", "Fee"}, w.policy)
}

// sync runs a sync, stopping after so many writes to the list (-1: never).
func (w *world) sync(stop int) *reconcile.Plan {
	p := w.plan()
	w.Must(func(d *sheet.Draft) error { return p.Apply(d, w.into) })
	remember := func(o *reconcile.Outcome, sent bool) {
		if o.Base != nil {
			delete(w.base, value.Fold(o.Base.Key))
		}
		if b := o.After(sent); b != nil {
			w.base[value.Fold(b.Key)] = b
		}
	}
	for i := range p.Outcomes {
		remember(&p.Outcomes[i], false)
	}
	for i := range p.Outcomes {
		o := &p.Outcomes[i]
		if !o.Sends() {
			continue
		}
		if stop == 0 {
			break
		}
		stop--
		w.send(o)
		if stop == 0 { // the write was made, and nobody noted it
			break
		}
		if b := o.After(false); b != nil {
			delete(w.base, value.Fold(b.Key))
		}
		remember(o, true)
		if b := o.After(true); b != nil && o.Kind == reconcile.AddToList {
			w.base[value.Fold(b.Key)].ID = w.idOf(o.Key)
		}
	}
	return p
}

func (w *world) idOf(key value.Value) string {
	for id, r := range w.list {
		if reconcile.Fold(r[0]) == reconcile.Fold(key) {
			return id
		}
	}
	return ""
}

func (w *world) send(o *reconcile.Outcome) {
	switch o.Kind {
	case reconcile.AddToList:
		w.next++
		w.list[fmt.Sprintf("n%d", w.next)] = append([]value.Value{o.Key}, o.Tab.Fields...)
	case reconcile.GoneTab:
		delete(w.list, o.List.ID)
	default:
		r := slices.Clone(w.list[o.List.ID])
		for _, f := range o.ToList {
			r[f+1] = o.Tab.Fields[f]
		}
		if o.Rekey == reconcile.ByTab {
			r[0] = o.Tab.Key
		}
		w.list[o.List.ID] = r
	}
}

// dump gives both sides as text, key by key.
func (w *world) dump() (list, tab string) {
	var a, b []string
	for _, r := range w.list {
		a = append(a, fmt.Sprintf("%s %s %s", r[0], r[1], r[2]))
	}
	for _, it := range w.into.Rows(w.Tracker()) {
		b = append(b, fmt.Sprintf("%s %s %s", it.Key, it.Fields[0], it.Fields[1]))
	}
	slices.Sort(a)
	slices.Sort(b)
	return strings.Join(a, "\n"), strings.Join(b, "\n")
}

func both() reconcile.Policy {
	return reconcile.Policy{Direction: reconcile.Both, Conflict: reconcile.Hold, Gone: reconcile.Remove}
}

func (w *world) edit(label, column, to string) {
	r, c := w.Row(label), w.Column(column)
	v, _ := value.Fit(value.OfText(to), c.Type)
	w.Must(func(d *sheet.Draft) error {
		t := d.Own(w.ID)
		return d.Apply(sheet.Change{Kind: sheet.Set, Tracker: w.ID, Tab: r.Tab, Row: r.ID, Column: c.ID, Before: t.Row(r.ID).Get(t.TabOf(r), c.ID), After: v})
	})
}

func (w *world) remove(label string) {
	r := w.Row(label)
	w.Must(func(d *sheet.Draft) error {
		return d.Apply(sheet.Change{Kind: sheet.Remove, Tracker: w.ID, Tab: r.Tab, Row: r.ID})
	})
}

// settled holds that another sync finds nothing to do.
func (w *world) settled(t testing.TB) {
	t.Helper()
	p := w.plan()
	for _, o := range p.Outcomes {
		assert.Equal(t, reconcile.Conflict, o.Kind, "%+v", o)
	}
}

func TestBothWaysMergesFieldByField(t *testing.T) {
	w := newWorld(t, both())
	w.put("a", "001", "Quillmoor", "5")
	w.put("b", "002", "Hask", "7")
	w.Add("Lenders", "No=003", "Name=Tarn")
	w.sync(-1)
	list, tab := w.dump()
	assert.Equal(t, "001 Quillmoor 5\n002 Hask 7\n003 Tarn ", list)
	assert.Equal(t, list, tab)
	w.settled(t)

	w.put("a", "001", "Quillmoor Trust", "5") // the name there, the fee here: both stand
	w.edit("001", "Fee", "6")
	w.put("b", "002", "Hask", "8") // the same field on both sides: held
	w.edit("002", "Fee", "9")
	p := w.sync(-1)
	n := p.Counts()
	assert.Equal(t, reconcile.Counts{UpdateTab: 1, UpdateList: 1, Conflicts: 1, Unchanged: 1}, n)
	list, tab = w.dump()
	assert.Contains(t, list, "001 Quillmoor Trust 6")
	assert.Contains(t, tab, "001 Quillmoor Trust 6")
	assert.Contains(t, list, "002 Hask 8")
	assert.Contains(t, tab, "002 Hask 9")
	w.settled(t)

	held := w.plan().Outcomes[0]
	assert.Equal(t, []int{1}, held.Clash)
	w.policy.Decided = map[string]reconcile.Decision{"002": {Winner: reconcile.ByTab, Seen: "another"}}
	assert.Equal(t, 1, w.plan().Counts().Conflicts, "a word on another conflict does not count")
	w.policy.Decided["002"] = reconcile.Decision{Winner: reconcile.ByTab, Seen: held.Seen}
	w.sync(-1)
	list, tab = w.dump()
	assert.Contains(t, list, "002 Hask 9")
	assert.Equal(t, list, tab)
}

// Each case begins with 001 and 002 agreed on both sides.
func TestOutcomes(t *testing.T) {
	for name, c := range map[string]struct {
		policy       reconcile.Policy
		do           func(*world)
		list, tab    string
		says, counts string
	}{
		"in: the list is the truth": {reconcile.Policy{Direction: reconcile.In, Conflict: reconcile.ByList, Gone: reconcile.Keep}, func(w *world) {
			w.edit("001", "Name", "Edited")
			w.remove("002")
			w.Add("Lenders", "No=009", "Name=Own")
		}, "001 One 1\n002 Two 2", "001 One 1\n002 Two 2\n009 Own ", "", ""},
		"in, edits of the tab kept": {reconcile.Policy{Direction: reconcile.In, Conflict: reconcile.ByTab, Gone: reconcile.Keep}, func(w *world) {
			w.edit("001", "Name", "Edited")
			w.remove("002")
		}, "001 One 1\n002 Two 2", "001 Edited 1", "", ""},
		"in: gone is removed": {reconcile.Policy{Direction: reconcile.In, Conflict: reconcile.ByList, Gone: reconcile.Remove}, func(w *world) { delete(w.list, "b") }, "001 One 1", "001 One 1", "", ""},
		"in: gone is kept":    {reconcile.Policy{Direction: reconcile.In, Conflict: reconcile.ByList, Gone: reconcile.Keep}, func(w *world) { delete(w.list, "b") }, "001 One 1", "001 One 1\n002 Two 2", "", ""},
		"out: the tab is the truth": {reconcile.Policy{Direction: reconcile.Out, Conflict: reconcile.ByTab, Gone: reconcile.Remove}, func(w *world) {
			w.put("a", "001", "Drifted", "1")
			w.put("x", "077", "Theirs", "")
			w.remove("002")
			w.Add("Lenders", "No=009", "Name=New")
		}, "001 One 1\n009 New \n077 Theirs ", "001 One 1\n009 New ", "", ""},
		"out: gone is kept in the list": {reconcile.Policy{Direction: reconcile.Out, Conflict: reconcile.ByTab, Gone: reconcile.Keep}, func(w *world) { w.remove("002") }, "001 One 1\n002 Two 2", "001 One 1", "", ""},
		"both: removed here":            {both(), func(w *world) { w.remove("002") }, "001 One 1", "001 One 1", "", ""},
		"both: removed there":           {both(), func(w *world) { delete(w.list, "b") }, "001 One 1", "001 One 1", "", ""},
		"both: removed on both sides":   {both(), func(w *world) { delete(w.list, "b"); w.remove("002") }, "001 One 1", "001 One 1", "", ""},
		"both: removed here, changed there": {both(), func(w *world) {
			w.remove("002")
			w.put("b", "002", "Changed", "2")
		}, "001 One 1\n002 Changed 2", "001 One 1", "", "conflict"},
		"both, list wins: removed here, changed there": {reconcile.Policy{Direction: reconcile.Both, Conflict: reconcile.ByList, Gone: reconcile.Remove}, func(w *world) {
			w.remove("002")
			w.put("b", "002", "Changed", "2")
		}, "001 One 1\n002 Changed 2", "001 One 1\n002 Changed 2", "", ""},
		"both, tab wins: removed there, changed here": {reconcile.Policy{Direction: reconcile.Both, Conflict: reconcile.ByTab, Gone: reconcile.Remove}, func(w *world) {
			delete(w.list, "b")
			w.edit("002", "Name", "Changed")
		}, "001 One 1\n002 Changed 2", "001 One 1\n002 Changed 2", "", ""},
		"both: the same change on both sides": {both(), func(w *world) {
			w.put("b", "002", "Three", "2.0")
			w.edit("002", "Name", "Three")
		}, "001 One 1\n002 Three 2", "001 One 1\n002 Three 2", "", ""},
		"a key changed in the tab":  {both(), func(w *world) { w.edit("002", "No", "022") }, "001 One 1\n022 Two 2", "001 One 1\n022 Two 2", "", ""},
		"a key changed in the list": {both(), func(w *world) { w.put("b", "022", "Two", "3") }, "001 One 1\n022 Two 3", "001 One 1\n022 Two 3", "", ""},
		"in: a key changed in the tab goes back": {reconcile.Policy{Direction: reconcile.In, Conflict: reconcile.ByList, Gone: reconcile.Keep}, func(w *world) { w.edit("002", "No", "022") },
			"001 One 1\n002 Two 2", "001 One 1\n002 Two 2", "", ""},
		"a key twice in the list": {both(), func(w *world) { w.put("c", "002", "Twin", "") }, "001 One 1\n002 Twin \n002 Two 2", "001 One 1\n002 Two 2", "several records of the list have this key", ""},
		"a key twice in the tab": {both(), func(w *world) {
			w.Add("Lenders", "No=002", "Name=Twin")
			w.put("b", "002", "Changed", "2")
		}, "001 One 1\n002 Changed 2", "001 One 1\n002 Twin \n002 Two 2", "several rows of the tab have this key", ""},
		"a blank key": {both(), func(w *world) {
			w.Add("Lenders", "Name=Nobody")
			w.put("z", " ", "Blank", "")
		}, "  Blank \n001 One 1\n002 Two 2", " Nobody \n001 One 1\n002 Two 2", "is blank", ""},
		"an odd cell stays at home": {both(), func(w *world) { w.edit("002", "Fee", "TBC") }, "001 One 1\n002 Two 2", "001 One 1\n002 Two TBC", `Fee holds "TBC"`, ""},
		"an odd value of the list":  {both(), func(w *world) { w.put("b", "002", "Two", "TBC") }, "001 One 1\n002 Two TBC", "001 One 1\n002 Two TBC", "", ""},
		"a row that moved on": {both(), func(w *world) {
			r := w.Row("002")
			w.Must(func(d *sheet.Draft) error {
				return d.Apply(sheet.Change{Kind: sheet.Move, Tracker: w.ID, Tab: r.Tab, Row: r.ID, ToTab: w.Tab("Former").ID})
			})
			w.put("b", "002", "Changed", "3")
		}, "001 One 1\n002 Changed 3", "001 One 1\n002 Changed 3", "", ""},
	} {
		t.Run(name, func(t *testing.T) {
			w := newWorld(t, c.policy)
			w.put("a", "001", "One", "1")
			w.put("b", "002", "Two", "2")
			w.Add("Lenders", "No=001", "Name=One", "Fee=1")
			w.Add("Lenders", "No=002", "Name=Two", "Fee=2")
			w.sync(-1)
			c.do(w)
			p := w.sync(-1)
			list, tab := w.dump()
			assert.Equal(t, c.list, list, "list")
			assert.Equal(t, c.tab, tab, "tab")
			assert.Equal(t, c.counts == "conflict", p.Counts().Conflicts == 1, "conflicts: %+v", p.Counts())
			if c.says == "" {
				assert.Empty(t, p.Troubles)
			} else {
				require.NotEmpty(t, p.Troubles)
				assert.Contains(t, p.Troubles[0].Why, c.says)
			}
			w.settled(t)
		})
	}
}

func TestMarksComeAndGo(t *testing.T) {
	w := newWorld(t, reconcile.Policy{Direction: reconcile.In, Conflict: reconcile.ByList, Gone: reconcile.Mark})
	w.put("a", "001", "One", "1")
	w.put("b", "002", "Two", "2")
	w.sync(-1)
	gone := w.list["b"]
	delete(w.list, "b")
	w.sync(-1)
	assert.Contains(t, w.Dump(), "No=002 (Gone from the list), Name=Two")
	w.settled(t)
	w.list["b"] = gone
	w.sync(-1)
	assert.NotContains(t, w.Dump(), "Gone")
	w.into.Marks = []reconcile.Marking{{Column: w.Column("Name").ID, Value: value.OfText("lost")}}
	w.policy.Gone = reconcile.Move
	delete(w.list, "b")
	w.sync(-1)
	assert.Contains(t, w.Dump(), "Former:\n  No=002, Name=Two")
	w.settled(t)
}

func TestGuard(t *testing.T) {
	w := newWorld(t, reconcile.Policy{Direction: reconcile.In, Conflict: reconcile.ByList, Gone: reconcile.Remove})
	for i := range 10 {
		w.put(fmt.Sprint(i), fmt.Sprintf("%03d", i), "Name", "1")
	}
	require.NoError(t, w.plan().Guard(0.25, false), "what is new is not guarded against")
	w.sync(-1)
	for i := range 3 {
		delete(w.list, fmt.Sprint(i))
	}
	require.ErrorContains(t, w.plan().Guard(0.25, false), "3 of 10 rows of the tab would change or go (30 %), more than the change limit of 25 %")
	require.NoError(t, w.plan().Guard(0.25, true))
	require.NoError(t, w.plan().Guard(0.3, false))
	clear(w.list)
	require.ErrorContains(t, w.plan().Guard(1, true), "the list answered with no records, where 10 are known")
	w.policy = both()
	w.put("1", "001", "Name", "1")
	for _, it := range w.into.Rows(w.Tracker()) {
		w.remove(it.Row.String())
	}
	require.ErrorContains(t, w.plan().Guard(1, true), "the tab holds no rows")
}

func TestNewestWins(t *testing.T) {
	side := func(name string, at int64) []reconcile.Item {
		return []reconcile.Item{{Key: value.OfText("1"), Fields: []value.Value{value.OfText(name)}, Row: 1, ID: "1", Changed: at}}
	}
	base := []reconcile.Base{{Key: "1", Fields: []value.Value{value.OfText("was")}, Row: 1, ID: "1"}}
	p := reconcile.Policy{Direction: reconcile.Both, Conflict: reconcile.Newest, Gone: reconcile.Keep}
	for _, c := range []struct {
		list, tab int64
		want      reconcile.Counts
	}{{9, 5, reconcile.Counts{UpdateTab: 1}}, {5, 9, reconcile.Counts{UpdateList: 1}}, {0, 9, reconcile.Counts{Conflicts: 1}}, {5, 5, reconcile.Counts{Conflicts: 1}}} {
		got := reconcile.Compare(side("theirs", c.list), side("ours", c.tab), base, []string{"Name"}, p)
		assert.Equal(t, c.want, got.Counts(), "%+v", c)
	}
}

// After a both-way sync without held conflicts, both sides agree on what both
// have, and a second sync finds nothing; also where syncs were cut short after
// any write.
func TestBothWaysConverges(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		w := newWorld(t, reconcile.Policy{Direction: reconcile.Both, Conflict: rapid.SampledFrom([]reconcile.Winner{reconcile.ByList, reconcile.ByTab, reconcile.Hold}).Draw(rt, "conflict"),
			Gone: rapid.SampledFrom([]reconcile.Gone{reconcile.Keep, reconcile.Mark, reconcile.Remove}).Draw(rt, "gone")})
		key := func() string { return fmt.Sprintf("%03d", rapid.IntRange(1, 6).Draw(rt, "key")) }
		name := func() string { return rapid.SampledFrom([]string{"", "a", "b", "c"}).Draw(rt, "name") }
		fee := func() string { return rapid.SampledFrom([]string{"", "1", "2"}).Draw(rt, "fee") }
		for range rapid.IntRange(1, 5).Draw(rt, "rounds") {
			for range rapid.IntRange(0, 6).Draw(rt, "events") {
				k := key()
				id := w.idOf(value.OfText(k))
				var row *sheet.Row
				for _, it := range w.into.Rows(w.Tracker()) {
					if it.Key.String() == k {
						row = w.Tracker().Row(it.Row)
					}
				}
				switch rapid.IntRange(0, 5).Draw(rt, "event") {
				case 0:
					delete(w.list, id)
				case 1, 2:
					if id == "" {
						w.next++
						id = fmt.Sprintf("l%d", w.next)
					}
					w.put(id, k, name(), fee())
				case 3:
					if row != nil {
						w.remove(row.ID.String())
					}
				default:
					if row == nil {
						w.Add("Lenders", "No="+k, "Name="+name(), "Fee="+fee())
					} else {
						w.edit(row.ID.String(), "Name", name())
					}
				}
			}
			if rapid.Bool().Draw(rt, "cut short") {
				w.sync(rapid.IntRange(0, 3).Draw(rt, "after"))
			}
			p := w.sync(-1)
			list, tab := w.dump()
			again := w.plan()
			if n := again.Counts(); n.AddTab+n.AddList+n.UpdateTab+n.UpdateList+n.GoneList+n.GoneTab > 0 || len(again.Troubles) > 0 || n.Conflicts != p.Counts().Conflicts {
				rt.Fatalf("a second sync finds %+v %+v\nlist\n%s\ntab\n%s", n, again.Troubles, list, tab)
			}
			for _, o := range again.Outcomes {
				if o.Kind == reconcile.Settled {
					rt.Fatalf("a second sync would remember %+v", o)
				}
			}
			if p.Counts().Conflicts > 0 {
				continue
			}
			if w.policy.Gone == reconcile.Remove && list != tab {
				rt.Fatalf("the sides differ:\nlist\n%s\ntab\n%s", list, tab)
			}
			for _, it := range w.into.Rows(w.Tracker()) {
				if r := w.list[w.idOf(it.Key)]; r != nil && fmt.Sprint(r[1:]) != fmt.Sprint(it.Fields) {
					rt.Fatalf("key %s: the list has %v and the tab %v", it.Key, r[1:], it.Fields)
				}
			}
		}
	})
}
