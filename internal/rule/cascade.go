package rule

import (
	"fmt"
	"slices"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
)

// Outcome is what a cascade came to.
type Outcome struct {
	Causes  []sheet.Cause
	Reports []Report // of the rules that considered any row, in the order they first ran
	Writes  []WriteAsk
	Mails   []MailAsk
}

// Of gives the rules of a program that can run, in the order of the setup.
func Of(p *program.Program) []*Compiled {
	var out []*Compiled
	for r, err := range program.All[*Compiled](p, sheet.KindRule) {
		if err == nil { // what is wrong with one stops no other
			out = append(out, r)
		}
	}
	return out
}

// rules gives the rules of a shape, as the cascade goes.
func (c *cascade) rules(s *sheet.Shape) ([]*Compiled, error) {
	if known, is := c.known[s]; is {
		return known, nil
	}
	p, err := c.Program(s)
	if err != nil {
		return nil, err
	}
	c.known[s] = Of(p)
	return c.known[s], nil
}

// cascade is one cascade being worked out.
type cascade struct {
	draft *sheet.Draft
	Setting
	visits  int
	out     *Outcome
	reports map[sheet.DefinitionID]int
	lastOf  *Compiled // whose report was asked for last, and where it stands
	last    int
	ran     map[ruleRow]bool // false: ran, and its where has failed since
	watch   int              // changes of the draft already turned into events
	chain   []string
	known   map[*sheet.Shape][]*Compiled
}

type ruleRow struct {
	rule sheet.DefinitionID
	row  sheet.RowID
}

// event is a row that changed, for rules to be woken by.
type event struct {
	tracker sheet.TrackerID
	row     sheet.RowID
	columns []sheet.ColumnID
	by      []sheet.DefinitionID // the rules that changed them; 0: no rule
	added   bool
	before  *sheet.Row // as it was; nil for a new row
	tabWas  *sheet.TabShape
	cause   int
}

// Follow works out what follows from the changes already applied to the draft;
// causes[0] is what set them off. On an error the draft must be thrown away:
// nothing of the cascade stands.
func Follow(d *sheet.Draft, causes []sheet.Cause, s Setting) (*Outcome, error) {
	c := newCascade(d, causes, s)
	return c.out, c.settle(c.events())
}

// Run runs one rule on the rows of its tabs, or on those of only where it is not
// nil, for the clock, by hand or by a call, and works out what follows.
func Run(d *sheet.Draft, tracker sheet.TrackerID, r *Compiled, only map[sheet.RowID]bool, cause sheet.Cause, s Setting) (*Outcome, error) {
	c := newCascade(d, []sheet.Cause{cause}, s)
	t := d.Own(tracker)
	var rows []candidate
	for _, tab := range r.Tabs() {
		for _, row := range c.since(r, t, c.match(t, tab, r, only)) {
			rows = append(rows, candidate{id: row.ID, cause: 0})
		}
	}
	if r.Watching {
		c.watchSteps(r, tracker, rows)
		return c.out, nil
	}
	if err := c.runSteps(r, tracker, rows); err != nil {
		return c.out, err
	}
	return c.out, c.settle(c.events())
}

// Match gives the rows that a rule would run on now, without running anything. The meter is
// asked for its error by whoever gives it.
func Match(t *sheet.Tracker, r *Compiled, now time.Time, meter *clause.Meter) ([]*sheet.Row, Report) {
	c := newCascade(nil, nil, Setting{Now: now, Limits: DefaultLimits, Meter: meter})
	var rows []*sheet.Row
	for _, tab := range r.Tabs() {
		if found := c.match(t, tab, r, nil); rows == nil {
			rows = found
		} else {
			rows = append(rows, found...)
		}
	}
	return rows, *c.report(r)
}

func newCascade(d *sheet.Draft, causes []sheet.Cause, s Setting) *cascade {
	return &cascade{draft: d, Setting: s, out: &Outcome{Causes: causes},
		reports: map[sheet.DefinitionID]int{}, ran: map[ruleRow]bool{}, known: map[*sheet.Shape][]*Compiled{}}
}

// events turns what the draft has seen since last asked into events, one a row.
func (c *cascade) events() []event {
	changes := c.draft.Changes()
	from := c.watch
	c.watch = len(changes)
	if !c.anyRule(changes[from:], (*Compiled).waits) {
		return nil
	}
	first := make(map[sheet.RowID]int, len(changes)-from)
	at := make(map[sheet.RowID]int, len(changes)-from)
	var out []event
	for i := from; i < len(changes); i++ {
		ch := &changes[i]
		if _, known := first[ch.Row]; !known {
			first[ch.Row] = i
		}
		arrived := ch.Kind == sheet.Move && ch.ToTracker != ch.Tracker // new to the tracker it came to
		if ch.Kind != sheet.Set && ch.Kind != sheet.Add && !arrived {
			continue
		}
		n, known := at[ch.Row]
		if !known {
			n = len(out)
			at[ch.Row] = n
			e := event{tracker: ch.Tracker, row: ch.Row, added: ch.Kind == sheet.Add, cause: ch.Because}
			if e.before = c.draft.Was(first[ch.Row]); e.before != nil {
				e.tabWas = c.draft.Tracker(changes[first[ch.Row]].Tracker).TabByID(e.before.Tab)
			}
			out = append(out, e)
		}
		if arrived {
			out[n].tracker, out[n].added, out[n].cause = ch.ToTracker, true, ch.Because
		}
		if ch.Kind == sheet.Set && !slices.Contains(out[n].columns, ch.Column) {
			out[n].columns = append(out[n].columns, ch.Column)
			out[n].by = append(out[n].by, c.ruleOf(ch))
		}
	}
	return c.comesTrue(changes, from, out)
}

// ruleOf gives the rule that made a change; 0: none did.
func (c *cascade) ruleOf(ch *sheet.Change) sheet.DefinitionID {
	if cause := &c.out.Causes[ch.Because]; cause.Kind == sheet.ByRule {
		return cause.Definition
	}
	return 0
}

// anyRule reports whether a tracker that the changes touched has such a rule; a program
// that cannot be had is for level to tell of.
func (c *cascade) anyRule(changes []sheet.Change, such func(*Compiled) bool) bool {
	known := map[sheet.TrackerID]bool{}
	for i := range changes {
		for _, id := range [...]sheet.TrackerID{changes[i].Tracker, changes[i].ToTracker} {
			t := c.draft.Tracker(id)
			if known[id] || t == nil {
				continue
			}
			known[id] = true
			rules, err := c.rules(t.Shape)
			if err != nil || slices.ContainsFunc(rules, such) {
				return true
			}
		}
	}
	return false
}

// waits reports whether an edit may wake the rule.
func (r *Compiled) waits() bool { return !r.Paused && r.Wake.ByEdit() && r.Wake.File == "" }

// settle lets rules follow from events, level by level, until nothing follows.
func (c *cascade) settle(events []event) error {
	for depth := 0; len(events) > 0; depth++ {
		if depth >= c.Limits.Depth {
			return &Runaway{Rules: c.chasing(), Why: fmt.Sprintf("rules form a loop that turned %d times, so nothing was saved", depth)}
		}
		next, err := c.level(events)
		if err != nil {
			return err
		}
		events = next
	}
	return nil
}

// chasing gives the last stretch of rules that ran, once each.
func (c *cascade) chasing() []string {
	var names []string
	for _, name := range slices.Backward(c.chain) {
		if slices.Contains(names, name) {
			break
		}
		names = append([]string{name}, names...)
	}
	if len(names) > 0 {
		names = append(names, names[0])
	}
	return names
}

type candidate struct {
	id    sheet.RowID
	cause int
}

// level wakes, in order, every rule that the events wake, and gives the events
// of what those rules changed.
func (c *cascade) level(events []event) ([]event, error) {
	byTracker := map[sheet.TrackerID][]event{}
	var order []sheet.TrackerID
	for _, e := range events {
		if byTracker[e.tracker] == nil {
			order = append(order, e.tracker)
		}
		byTracker[e.tracker] = append(byTracker[e.tracker], e)
	}
	var next []event
	for _, id := range order {
		t := c.draft.Own(id)
		if t == nil {
			continue
		}
		rules, err := c.rules(t.Shape)
		if err != nil {
			return nil, err
		}
		c.release(rules, t, byTracker[id])
		for _, r := range rules {
			if !r.waits() {
				continue
			}
			more, err := c.wake(r, id, byTracker[id])
			if err != nil {
				return nil, err
			}
			next = append(next, more...)
		}
	}
	return next, nil
}

// release lets rules that have run on a row run on it again where what has
// happened since made their condition fail: only then can it newly come true.
func (c *cascade) release(rules []*Compiled, t *sheet.Tracker, events []event) {
	for _, r := range rules {
		envs := map[sheet.TabID]*clause.Env{}
		for i := range events {
			e := &events[i]
			key := ruleRow{r.ID, e.row}
			row := t.Row(e.row)
			if !c.ran[key] || row == nil {
				continue
			}
			tr := r.tabs[row.Tab]
			if tr == nil || tr.where == nil {
				continue
			}
			env := envs[row.Tab]
			if env == nil {
				env = r.bound.Env(t, t.TabOf(row), c.Now, c.Meter)
				envs[row.Tab] = env
			}
			program.Look(env, row)
			env.Before = beforeCells(e, t.TabOf(row))
			if tr.where.Judge(env) != clause.Yes {
				c.ran[key] = false
			}
		}
	}
}

func (c *cascade) wake(r *Compiled, tracker sheet.TrackerID, events []event) ([]event, error) {
	t := c.draft.Tracker(tracker)
	var rows []candidate
	envs := map[sheet.TabID]*clause.Env{}
	for i := range events {
		e := &events[i]
		if r.Wake.Becomes == "" && !r.wokenBy(e) {
			continue
		}
		row := t.Row(e.row)
		if row == nil || r.tabs[row.Tab] == nil {
			continue
		}
		env := envs[row.Tab]
		if env == nil {
			env = r.bound.Env(t, t.TabOf(row), c.Now, c.Meter)
			envs[row.Tab] = env
		}
		if r.Wake.Becomes != "" && !r.wokenBy(e) && !r.hasComeTrue(c.draft, t, row, env, c) {
			continue
		}
		if c.judge(r, r.tabs[row.Tab], env, t, row, e) && c.mayRun(r, e) {
			rows = append(rows, candidate{row.ID, e.cause})
		}
	}
	back := c.returns(r, t, events)
	if len(rows)+len(back) == 0 {
		return nil, nil
	}
	if c.visits += len(rows) + len(back); c.visits > c.Limits.Rows {
		return nil, &Runaway{Rules: append(c.chasing(), r.Name), Why: fmt.Sprintf("rules visited more than %d rows, so nothing was saved", c.Limits.Rows)}
	}
	if r.Watching {
		if len(rows) > 0 {
			c.watchSteps(r, tracker, rows)
		}
		return nil, nil
	}
	c.chain = append(c.chain, r.Name)
	if len(back) > 0 {
		if err := c.sendBack(r, tracker, back); err != nil {
			return nil, err
		}
	}
	if len(rows) > 0 {
		if err := c.runSteps(r, tracker, rows); err != nil {
			return nil, err
		}
	}
	return c.events(), nil
}

func (r *Compiled) wokenBy(e *event) bool {
	switch {
	case e.added: // a new row is no edit, unless the rule says so
		return r.Wake.Added
	case r.Wake.Any:
		return len(e.columns) > 0
	}
	return slices.ContainsFunc(e.columns, func(id sheet.ColumnID) bool { return slices.Contains(r.Wake.Edit, id) })
}

// mayRun holds a rule to one run per row and cascade, unless its condition has failed for
// the row since, or another rule has changed what wakes it: two that set each other's
// values chase each other until they are stopped.
func (c *cascade) mayRun(r *Compiled, e *event) bool {
	key := ruleRow{r.ID, e.row}
	if c.ran[key] && !r.wokenByOthers(e) {
		return false
	}
	c.ran[key] = true
	return true
}

func (r *Compiled) wokenByOthers(e *event) bool {
	for i, id := range e.columns {
		if e.by[i] != 0 && e.by[i] != r.ID && (r.Wake.Any || slices.Contains(r.Wake.Edit, id)) {
			return true
		}
	}
	return false
}

func (c *cascade) report(r *Compiled) *Report {
	if c.lastOf == r {
		return &c.out.Reports[c.last]
	}
	i, ok := c.reports[r.ID]
	if !ok {
		i = len(c.out.Reports)
		c.reports[r.ID] = i
		rep := Report{Rule: r.Name, Definition: r.ID, Watching: r.Watching}
		for _, s := range r.Steps {
			rep.Steps = append(rep.Steps, StepReport{Kind: s.Kind(), Name: s.Name, Remark: s.Remark})
		}
		c.out.Reports = append(c.out.Reports, rep)
	}
	c.lastOf, c.last = r, i
	return &c.out.Reports[i]
}
