package rule

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Tally counts and adds up rows of a tab, or records of a list, by group, and
// puts the figures into a tab by key, once for a run of the rule. Nobody names
// the groups: they are what the rows hold. A group that has vanished goes to
// zero.
type Tally struct {
	Of      sheet.TabID        `json:"of,omitempty"`   // the tab whose rows are counted, or
	List    sheet.DefinitionID `json:"list,omitempty"` // the list whose records are
	Fields  []TallyField       `json:"fields,omitempty"`
	Where   string             `json:"where,omitempty"`
	By      string             `json:"by"` // clause of the group
	Into    sheet.TabID        `json:"into"`
	Key     sheet.ColumnID     `json:"key"`
	Figures []Figure           `json:"figures"`
	Matched bool               `json:"matched,omitempty"` // only the rows that the rule matched; groups without any stay as they are
}

// TallyField gives a field of a list's records a name and a type for clauses.
type TallyField struct {
	Name string     `json:"name"`
	From string     `json:"from"` // JSON Pointer
	Type value.Kind `json:"type"`
}

// Figure is a figure of each group and the column that takes it.
type Figure struct {
	Column sheet.ColumnID `json:"column"`
	What   string         `json:"what"`         // one of query.Figures
	Of     string         `json:"of,omitempty"` // clause of what is added or compared; a plain count needs none
}

type compiledTally struct {
	*Tally
	groups query.Grouping
	scope  *clause.Scope
	key    *sheet.Column
	into   []*sheet.Column // of the figures
}

// TallyScope gives what names mean in the clauses of a tally.
func TallyScope(b *program.Program, t *Tally) (*clause.Scope, error) {
	if t.List == 0 {
		if b.Shape.TabByID(t.Of) == nil {
			return nil, &sheet.NotFound{What: "tab", Name: t.Of.String(), In: b.Shape.Name}
		}
		return b.Scope(t.Of, false), nil
	}
	columns := make([]clause.Column, len(t.Fields))
	for i, f := range t.Fields {
		columns[i] = clause.Column{Name: f.Name, Type: value.Type{Kind: f.Type}, Slot: i}
	}
	s := b.ScopeOfFile(columns)
	s.Name = "the list"
	return s, nil
}

// compileTallies compiles the steps that tally.
func (c *Compiled) compileTallies() (string, error) {
	for i, s := range c.Steps {
		if s.Tally == nil {
			continue
		}
		t, err := c.compileTally(s.Tally)
		if err != nil {
			return fmt.Sprintf("step %d (tally)", i+1), err
		}
		c.tallies[i] = t
	}
	return "", nil
}

func (c *Compiled) compileTally(t *Tally) (*compiledTally, error) {
	shape := c.bound.Shape
	out := &compiledTally{Tally: t}
	if t.List != 0 && (c.Wake.ByEdit() || c.Wake.File != "") {
		return nil, errors.New("the records of a list are fetched on a schedule, an API call or a manual run: a rule woken by edits or files counts rows of a tab")
	}
	if t.List != 0 && !slices.ContainsFunc(shape.Definitions, func(p sheet.Definition) bool { return p.ID == t.List }) {
		return nil, errors.New("the list that it counts is not there any more")
	}
	var err error
	if out.scope, err = TallyScope(c.bound, t); err != nil {
		return nil, err
	}
	if out.groups.Where, err = query.Compile(t.Where, out.scope); err != nil {
		return nil, fmt.Errorf("where: %w", err)
	}
	by, err := clause.CheckValue(t.By, out.scope)
	if err != nil {
		return nil, fmt.Errorf("by: %w", err)
	}
	out.groups.By = by.Value()
	tab := shape.TabByID(t.Into)
	if tab == nil {
		return nil, &sheet.NotFound{What: "tab", Name: t.Into.String(), In: shape.Name}
	}
	if t.Into == t.Of {
		return nil, errors.New("a tab is not tallied into itself")
	}
	if out.key = tab.ByID(t.Key); out.key == nil || out.key.Computed() {
		return nil, &sheet.NotFound{What: "stored column", Name: t.Key.String(), In: tab.Name}
	}
	for _, f := range t.Figures {
		col := tab.ByID(f.Column)
		if col == nil || col.Computed() || f.Column == t.Key {
			return nil, &sheet.NotFound{What: "stored column besides the key", Name: f.Column.String(), In: tab.Name}
		}
		of, err := compileFigure(f, col, out.scope)
		if err != nil {
			return nil, fmt.Errorf("column %s: %w", col.Name, err)
		}
		out.groups.Figures, out.into = append(out.groups.Figures, query.Figure{What: f.What, Of: of}), append(out.into, col)
	}
	return out, nil
}

func compileFigure(f Figure, col *sheet.Column, scope *clause.Scope) (clause.ValueFunc, error) {
	counts := strings.HasPrefix(f.What, "count")
	adds := f.What == "sum" || f.What == "average"
	if (counts || adds) && col.Type.Kind != value.Number {
		return nil, fmt.Errorf("a %s is a number, and the column takes %s", f.What, col.Type.Kind.Phrase())
	}
	if f.Of == "" {
		if f.What != "count" {
			return nil, fmt.Errorf("say of what: %s COLUMN", f.What)
		}
		return nil, nil
	}
	e, err := clause.CheckValue(f.Of, scope)
	if err != nil {
		return nil, err
	}
	switch {
	case adds && e.Type() != clause.Number:
		return nil, fmt.Errorf("a %s is of numbers, and this is %s", f.What, e.Type())
	case !counts && !value.Comparable(e.Type().Kind(), col.Type.Kind):
		return nil, fmt.Errorf("the column takes %s, and this is %s", col.Type.Kind.Phrase(), e.Type())
	}
	return e.Value(), nil
}

// Lists gives the lists whose records the rule counts.
func (r *Rule) Lists() []sheet.DefinitionID {
	var out []sheet.DefinitionID
	for _, s := range r.Steps {
		if s.Tally != nil && s.Tally.List != 0 {
			out = append(out, s.Tally.List)
		}
	}
	return out
}

// tally works out the groups and puts their figures.
func (c *cascade) tally(u *run, step int, rows []candidate) error {
	t := u.rule.tallies[step]
	fail := func(err error) error {
		return &StepError{Rule: u.rule.Name, Step: step + 1, Kind: "tally", Label: u.rule.bound.Shape.Name, Err: err}
	}
	groups := t.groups.Start()
	rep := c.report(u.rule)
	var only map[sheet.RowID]bool
	if t.Matched {
		only = idsOf(rows)
	}
	err := c.tallied(u, t, only, func(env *clause.Env, who Passed) error {
		rep.Steps[step].Rows++
		groups.Take(env, func(why string) { c.tallyPassed(u, env, who, why) })
		return nil
	})
	if err != nil {
		return fail(err)
	}
	before := len(c.draft.Changes())
	if err := c.putGroups(u, t, groups); err != nil {
		return fail(err)
	}
	rep.Steps[step].Changed += len(c.draft.Changes()) - before
	rep.Steps[step].Says = countOf(len(groups.All), "group")
	return nil
}

// putGroups puts the figures of every group, and zero where a group has vanished.
func (c *cascade) putGroups(u *run, t *compiledTally, groups *query.Groups) error {
	tab := c.draft.Own(u.tracker).TabByID(t.Into)
	var vanished []value.Value
	if !t.Matched {
		vanished = c.vanished(u, tab, t, groups)
	}
	cells := make([]cellSetter, len(t.into)+1)
	cells[0].column = t.key
	for i, col := range t.into {
		cells[i+1].column = col
	}
	put := func(g *query.Group) error {
		values := make([]value.Value, len(cells))
		var err error
		if values[0], err = c.draft.Read(c.draft.Tracker(u.tracker), t.key, g.Key); err != nil {
			return refused(err, 0, t.key)
		}
		for i := range t.into {
			if values[i+1], err = g.Figure(i); err != nil {
				return err
			}
		}
		return c.put(u, tab, cells, values, 0)
	}
	for _, g := range groups.All {
		if err := put(g); err != nil {
			return err
		}
	}
	for _, key := range vanished {
		if err := put(t.groups.New(key)); err != nil {
			return err
		}
	}
	return nil
}

// vanished gives the keys of the tab that no group has, sorted.
func (c *cascade) vanished(u *run, tab *sheet.TabShape, t *compiledTally, groups *query.Groups) []value.Value {
	keys := map[string]value.Value{}
	slot := tab.Slot(t.Key)
	for r := range c.draft.Own(u.tracker).Rows(tab.ID) {
		v := r.At(slot)
		folded := value.Fold(v.String())
		if _, known := keys[folded]; !v.IsBlank() && !groups.Has(v) && !known {
			keys[folded] = v
		}
	}
	var out []value.Value
	for _, folded := range slices.Sorted(maps.Keys(keys)) {
		out = append(out, keys[folded])
	}
	return out
}

func (c *cascade) tallyPassed(u *run, env *clause.Env, who Passed, why string) {
	if why == "" {
		who.Column, why = query.Fault(c.draft.Tracker(u.tracker), env)
	}
	who.Why = why
	c.report(u.rule).pass(who)
}

// countOf gives a count with its noun.
func countOf(n int, noun string) string {
	if n == 1 {
		return "1 " + noun
	}
	return fmt.Sprintf("%d %ss", n, noun)
}

// tallied lays each row or record before the clauses.
func (c *cascade) tallied(u *run, t *compiledTally, only map[sheet.RowID]bool, each func(*clause.Env, Passed) error) error {
	tr := c.draft.Own(u.tracker)
	if t.List == 0 {
		tab := tr.TabByID(t.Of)
		env := u.rule.bound.Env(tr, tab, c.Now, c.Meter)
		for row := range tr.Rows(t.Of) {
			if only != nil && !only[row.ID] {
				continue
			}
			program.Look(env, row)
			if err := each(env, Passed{Row: row.ID.String(), Label: tr.Label(row), Tab: tab.Name}); err != nil {
				return err
			}
		}
		return nil
	}
	if c.Records == nil {
		return errors.New("the list's records have not been fetched")
	}
	entries, err := c.Records(t.List)
	if err != nil {
		return err
	}
	env := u.rule.bound.Env(tr, nil, c.Now, c.Meter)
	env.Extra = make([]value.Value, len(t.Fields))
	for i := range entries {
		for f, field := range t.Fields {
			raw, err := reconcile.Pointer(entries[i].Doc, field.From)
			if err != nil {
				return fmt.Errorf("%s of the list: %w", entries[i].Where, err)
			}
			v, err := value.FromJSON(raw, value.Type{Kind: field.Type})
			var misfit *value.Misfit
			if errors.As(err, &misfit) {
				v = value.OfOdd(misfit.Text)
			} else if err != nil {
				return err
			}
			env.Extra[f] = v
		}
		env.OddColumn, env.Fault = 0, ""
		if err := each(env, Passed{Row: entries[i].ID, Label: entries[i].Where, Tab: "the list"}); err != nil {
			return err
		}
	}
	return nil
}
