package rule

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/sheet"
)

// Take adds and updates rows from the file that woke the rule.
type Take struct {
	Tab   sheet.TabID    `json:"tab"`
	Key   sheet.ColumnID `json:"key"`
	Sheet string         `json:"sheet,omitempty"` // "": the table that fits the tab best
	// Gone says what is done with rows that an earlier file held and this one does not.
	Gone  TakeGone   `json:"gone,omitempty"`
	Marks []MarkGone `json:"marks,omitempty"` // what marks such rows
}

// TakeGone is what is done with rows that are gone from a file.
type TakeGone string

// Rows that are gone stay unless they are removed, or get marks.
const (
	GoneKeep   TakeGone = ""
	GoneRemove TakeGone = "remove"
	GoneMark   TakeGone = "mark"
)

// MarkGone is a value for a column of rows that are gone from a file.
type MarkGone struct {
	Column sheet.ColumnID `json:"column"`
	Value  string         `json:"value"`
}

// Write writes rows of a tab to a file, once for a run of the rule.
type Write struct {
	Tab     sheet.TabID      `json:"tab"`
	Where   string           `json:"where,omitempty"`
	Order   query.Order      `json:"order,omitempty"`
	Columns []sheet.ColumnID `json:"columns,omitempty"` // none: all
	File    string           `json:"file"`              // template of its path below outbound/
	Totals  bool             `json:"totals,omitempty"`
	Replace bool             `json:"replace,omitempty"` // a file of that name; otherwise a new one gets a number
	Sheet   string           `json:"sheet,omitempty"`   // of a workbook that is there already, into which the rows go
	At      string           `json:"at,omitempty"`      // the cell there at which they begin
	// Figures are set beside their labels on the sheet, in the order written; Insert adds
	// labels that are not there.
	Figures []Labelled     `json:"labels,omitempty"`
	Insert  bool           `json:"insert,omitempty"`
	From    string         `json:"from,omitempty"`   // a workbook below templates/ of which a new one is made
	Bare    bool           `json:"bare,omitempty"`   // without the header
	Over    bool           `json:"over,omitempty"`   // what stands there, and no rule wrote, is written over
	Skip    bool           `json:"skip,omitempty"`   // without rows, nothing is written
	Table   string         `json:"table,omitempty"`  // a defined table of the sheet; "": the longest there
	Key     sheet.ColumnID `json:"key,omitempty"`    // rows of the table there are brought into step by it
	Append  bool           `json:"append,omitempty"` // rows are added to the table there, every time
	Chart   *Chart         `json:"chart,omitempty"`  // beside the table of a new workbook
	// Reminder takes the place of a tab: the rows that it holds, with what it shows.
	Reminder sheet.DefinitionID `json:"reminder,omitempty"`
	Keep     int                `json:"keep,omitempty"` // days for which the file is kept; 0: for good
	// Matched writes those rows alone that the rule matched.
	Matched bool `json:"matched,omitempty"`
}

// Labelled is a label with the template of what stands beside it.
type Labelled struct {
	Label string `json:"label"`
	Value string `json:"value"`
}

// Chart draws one column of numbers against one of names.
type Chart struct {
	Title  string         `json:"title,omitempty"`
	Names  sheet.ColumnID `json:"names"`
	Values sheet.ColumnID `json:"values"`
}

// WriteAsk is a file that a cascade asks to be written.
type WriteAsk struct {
	*Write
	Tracker sheet.TrackerID
	State   *sheet.Tracker       // as it stood when the step had its turn
	Only    map[sheet.RowID]bool // the rows that the rule matched, where it writes those alone; nil: all
	Path    string
	Place   string // what the block is remembered by in a workbook: the rule's step
	Would   string // what a preview says of it
	Kept    int    // the number of the version that it was written over; 0: none
	Wrote   string // the path that was written in the end, or ""
	Rows    int
	report  int
	step    int
}

// Report gives the place, among an outcome's reports, of the rule that asked.
func (a *WriteAsk) Report() int { return a.report }

// Tell puts into the report of the step what became of it.
func (a *WriteAsk) Tell(o *Outcome, says string) {
	step := &o.Reports[a.report].Steps[a.step]
	if a.Only != nil && step.Rows > 1 && step.Says != "" { // one of several
		if len(step.Says) < 2000 {
			says = step.Says + "; " + says
		} else {
			says = step.Says
		}
	}
	step.Says = says
}

// outbound is the folder below which Kavlo writes.
const outbound = "outbound/"

// fileName gives the names of the files that a step writes: one or, where its template
// names columns of the tab, one for each row or group of rows.
type fileName struct {
	name clause.ValueFunc
	each bool
}

func compileWrite(w *Write, scope *clause.Scope, c *Compiled) (fileName, error) {
	if w.Reminder != 0 {
		if !slices.ContainsFunc(c.bound.Shape.Definitions, func(p sheet.Definition) bool { return p.ID == w.Reminder }) {
			return fileName{}, errors.New("the reminder whose rows it writes is not there any more")
		}
		file, err := clause.CheckTemplate(w.File, scope)
		if err != nil {
			return fileName{}, fmt.Errorf("file: %w", err)
		}
		return fileName{name: file.Value()}, nil
	}
	tab := c.bound.Shape.TabByID(w.Tab)
	if tab == nil {
		return fileName{}, &sheet.NotFound{What: "tab", Name: w.Tab.String(), In: c.bound.Shape.Name}
	}
	needed := slices.Clone(w.Columns)
	for _, by := range w.Order {
		needed = append(needed, by.Column)
	}
	if w.Key != 0 {
		needed = append(needed, w.Key)
	}
	if w.Chart != nil {
		needed = append(needed, w.Chart.Names, w.Chart.Values)
	}
	for _, id := range needed {
		if tab.ByID(id) == nil {
			return fileName{}, &sheet.NotFound{What: "column", Name: id.String(), In: tab.Name}
		}
	}
	if w.Where != "" {
		if _, err := clause.CheckCondition(w.Where, c.bound.Scope(w.Tab, false)); err != nil {
			return fileName{}, fmt.Errorf("where: %w", err)
		}
	}
	for _, f := range w.Figures {
		if _, err := clause.CheckTemplate(f.Value, &clause.Scope{Tables: c.bound.Scope(w.Tab, false).Tables}); err != nil {
			return fileName{}, fmt.Errorf("labels / %s: %w", f.Label, err)
		}
	}
	file, err := clause.CheckTemplate(w.File, scope)
	if err == nil {
		return fileName{name: file.Value()}, nil
	}
	each, rowErr := clause.CheckTemplate(w.File, c.bound.Scope(w.Tab, false))
	if rowErr != nil {
		return fileName{}, fmt.Errorf("file: %w", err)
	}
	return fileName{name: each.Value(), each: true}, nil
}

// Writes reports whether the rule writes files.
func (r *Rule) Writes() bool {
	return slices.ContainsFunc(r.Steps, func(s Step) bool { return s.Write != nil })
}

// onlyWhole reports whether a rule does nothing to rows, and so needs none.
func (r *Rule) onlyWhole() bool {
	for _, s := range r.Steps {
		if s.Write == nil && s.Tally == nil {
			return false
		}
	}
	return len(r.Steps) > 0 && len(r.In) == 0 && r.Where == "" && !r.Wake.ByEdit()
}

func idsOf(rows []candidate) map[sheet.RowID]bool {
	out := make(map[sheet.RowID]bool, len(rows))
	for _, r := range rows {
		out[r.id] = true
	}
	return out
}

// askWrite asks for the file that a step writes.
func (c *cascade) askWrite(u *run, step int, env *clause.Env, rows []candidate) error {
	w := u.rule.Steps[step].Write
	if w == nil {
		return nil
	}
	rep := c.report(u.rule)
	if w.Matched && len(rows) == 0 {
		rep.Steps[step].Says = "no rows matched, so no file was written"
		return nil
	}
	fail := func(err error) error {
		return &StepError{Rule: u.rule.Name, Step: step + 1, Kind: "write", Label: u.rule.bound.Shape.Name, Err: err}
	}
	if u.rule.files[step].each {
		return c.askEach(u, step, rows, fail)
	}
	name, err := nameOf(u.rule.files[step].name, env)
	if err != nil {
		return fail(err)
	}
	ask := WriteAsk{Write: w, Tracker: u.tracker, State: c.draft.Snapshot(u.tracker), Path: name, Place: fmt.Sprintf("%s.%d", u.rule.ID, step), report: c.reports[u.rule.ID], step: step}
	if w.Matched {
		ask.Only = idsOf(rows)
	}
	c.out.Writes = append(c.out.Writes, ask)
	rep.Steps[step].Rows = 1
	return nil
}

// nameOf works out the name of a file, below the outbound folder.
func nameOf(of clause.ValueFunc, env *clause.Env) (string, error) {
	v := of(env)
	if v.IsOdd() {
		return "", fmt.Errorf("the file's name cannot be worked out: %s", env.Fault)
	}
	name := strings.TrimPrefix(strings.TrimSpace(v.String()), outbound)
	if name == "" {
		return "", errors.New("the file's name is blank")
	}
	return name, nil
}

// mostFiles is how many files a step may write at once.
const mostFiles = 1000

// askEach asks for a file for each name that the rows give.
func (c *cascade) askEach(u *run, step int, matched []candidate, fail func(error) error) error {
	w := u.rule.Steps[step].Write
	state := c.draft.Snapshot(u.tracker)
	tab := state.TabByID(w.Tab)
	q := query.Query{Tab: tab, Where: w.Where, Order: w.Order}
	if w.Matched {
		q.Only = idsOf(matched)
	}
	found, err := query.Select(u.rule.bound, state, q, c.Now, c.Meter)
	if err != nil {
		return fail(err)
	}
	env := u.rule.bound.Env(state, tab, c.Now, c.Meter)
	at := map[string]int{}
	for _, r := range found.Rows {
		program.Look(env, r)
		name, err := nameOf(u.rule.files[step].name, env)
		if err != nil {
			return fail(fmt.Errorf("%s: %w", state.Label(r), err))
		}
		i, known := at[strings.ToLower(name)]
		if !known {
			if len(at) == mostFiles {
				return fail(fmt.Errorf("it would write more than %d files", mostFiles))
			}
			i = len(c.out.Writes)
			at[strings.ToLower(name)] = i
			c.out.Writes = append(c.out.Writes, WriteAsk{Write: w, Tracker: u.tracker, State: state, Path: name, Only: map[sheet.RowID]bool{}, Place: fmt.Sprintf("%s.%d", u.rule.ID, step), report: c.reports[u.rule.ID], step: step})
		}
		c.out.Writes[i].Only[r.ID] = true
	}
	rep := c.report(u.rule)
	rep.Steps[step].Rows = len(at)
	if len(at) == 0 {
		rep.Steps[step].Says = "no rows, so no file was written"
	}
	return nil
}
