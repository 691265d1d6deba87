package rule

import (
	"errors"
	"fmt"
	"path"
	"strings"
	"time"

	"github.com/bmatcuk/doublestar/v4"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/query"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// File is a file of the intake that wakes rules; clauses name its facts.
type File struct {
	ID       string // stays when the file is renamed or saved anew
	Path     string // from the workspace's folder, with slashes
	Version  int64  // counts what was saved under the id, from 1
	Size     int64  // bytes
	Created  time.Time
	Modified time.Time
	By       string // who owns it, where the system tells
}

// FileNames are the names of a file's facts in clauses.
var FileNames = []clause.Column{
	{ID: -1, Name: "file.id", Type: value.Type{Kind: value.Text}},
	{ID: -2, Name: "file.name", Type: value.Type{Kind: value.Text}, Slot: 1},
	{ID: -3, Name: "file.extension", Type: value.Type{Kind: value.Text}, Slot: 2},
	{ID: -4, Name: "file.folder", Type: value.Type{Kind: value.Text}, Slot: 3},
	{ID: -5, Name: "file.size", Type: value.Type{Kind: value.Number}, Slot: 4},
	{ID: -6, Name: "file.version", Type: value.Type{Kind: value.Number}, Slot: 5},
	{ID: -7, Name: "file.created", Type: value.Type{Kind: value.DateTime}, Slot: 6},
	{ID: -8, Name: "file.modified", Type: value.Type{Kind: value.DateTime}, Slot: 7},
	{ID: -9, Name: "file.by", Type: value.Type{Kind: value.Text}, Slot: 8},
	{ID: -10, Name: "file.link", Type: value.Type{Kind: value.File}, Slot: 9},
}

// facts gives the values of FileNames.
func (f *File) facts(zone *time.Location) []value.Value {
	name := path.Base(f.Path)
	when := func(t time.Time) value.Value {
		if t.IsZero() {
			return value.Value{}
		}
		return value.DateTimeOf(t.In(zone))
	}
	return []value.Value{value.OfText(f.ID), value.OfText(name), value.OfText(strings.TrimPrefix(path.Ext(name), ".")), value.OfText(path.Dir(f.Path)),
		value.OfInt(f.Size), value.OfInt(f.Version), when(f.Created), when(f.Modified), value.OfText(f.By), value.OfFile(f.Path, name)}
}

// Matches reports whether a path fits a pattern: * and ? stand for letters of a
// name, ** for any folders.
func Matches(pattern, name string) bool {
	if strings.HasSuffix(pattern, "/**") { // the files below
		pattern += "/*"
	}
	ok, err := doublestar.Match(strings.ToLower(pattern), strings.ToLower(name))
	return err == nil && ok
}

// fileStep runs a step on the file that woke the rule.
type fileStep func(*cascade, *run, *clause.Env) error

// compileFile makes a rule that files wake ready to run.
func (c *Compiled) compileFile() (string, error) {
	switch {
	case !strings.HasPrefix(c.Wake.File, "intake/"):
		return "wake", fmt.Errorf("%q is not in the intake: only files that arrive there start rules: write intake/**", c.Wake.File)
	case len(c.In) > 0:
		return "in", errors.New("a rule that files start has no rows, and so no tabs to be in")
	case c.Wake.ByEdit() || c.Wake.Clock != "" || c.Wake.Call:
		return "wake", errors.New("a rule that files start is started by nothing else")
	}
	if !doublestar.ValidatePattern(c.Wake.File) {
		return "wake", fmt.Errorf("%q is not a pattern of files", c.Wake.File)
	}
	scope := c.bound.ScopeOfFile(FileNames)
	var err error
	if c.fileWhere, err = query.Compile(c.Where, scope); err != nil {
		return "where", err
	}
	for i, s := range c.Steps {
		step, err := c.compileFileStep(s, scope)
		if err != nil {
			return fmt.Sprintf("step %d (%s)", i+1, s.Kind()), err
		}
		c.fileSteps = append(c.fileSteps, step)
	}
	return "", nil
}

func (c *Compiled) compileFileStep(s Step, scope *clause.Scope) (fileStep, error) {
	switch {
	case s.Put != nil:
		return putter(s.Put, scope, c.bound.Shape)
	case s.Take != nil:
		take := s.Take
		tab := c.bound.Shape.TabByID(take.Tab)
		if tab == nil {
			return nil, &sheet.NotFound{What: "tab", Name: take.Tab.String(), In: c.bound.Shape.Name}
		}
		if tab.ByID(take.Key) == nil {
			return nil, &sheet.NotFound{What: "column", Name: take.Key.String(), In: tab.Name}
		}
		return func(c *cascade, u *run, _ *clause.Env) error {
			if c.Take == nil {
				return errors.New("there is no file to take rows from")
			}
			says, all, err := c.Take(c.draft, u.tracker, take, u.because)
			rep := c.report(u.rule)
			rep.Steps[u.step].Says, rep.Unmet = says, rep.Unmet || !all
			return err
		}, nil
	case s.Tally != nil:
		return func(c *cascade, u *run, _ *clause.Env) error { return c.tally(u, u.step, nil) }, nil
	case s.Write != nil:
		return func(*cascade, *run, *clause.Env) error { return nil }, nil // asked for once the others are done
	}
	return nil, fmt.Errorf("%s works on rows, and a file has none: put, take or tally", s.Kind())
}

// RunFile runs a rule on a file that woke it, and works out what follows.
func RunFile(d *sheet.Draft, tracker sheet.TrackerID, r *Compiled, f *File, cause sheet.Cause, s Setting) (*Outcome, error) {
	c := newCascade(d, []sheet.Cause{cause}, s)
	env := r.bound.Env(d.Own(tracker), nil, s.Now, s.Meter)
	env.Extra = f.facts(r.bound.Shape.Location())
	rep := c.report(r)
	rep.Considered = 1
	switch r.fileWhere.Judge(env) {
	case clause.Odd:
		rep.pass(Passed{Label: f.Path, Why: env.Fault})
		return c.out, nil
	case clause.No:
		return c.out, nil
	}
	rep.Matched = 1
	if r.Watching {
		rep.Would = append(rep.Would, "run its steps on "+f.Path)
		return c.out, nil
	}
	u := &run{rule: r, tracker: tracker, envs: map[sheet.TabID]*clause.Env{}, routes: map[route][]pairing{}}
	causes := map[[2]int]int{}
	for i, step := range r.fileSteps {
		u.step, u.because = i, c.causeFor(causes, r, i, 0)
		start, before := c.elapsed(), len(d.Changes())
		if err := step(c, u, env); err != nil {
			var over *errPassOver
			if !errors.As(err, &over) {
				return c.out, &StepError{Rule: r.Name, Step: i + 1, Kind: r.Steps[i].Kind(), Label: f.Path, Err: err}
			}
			c.report(r).pass(Passed{Label: f.Path, Column: over.column, Why: over.why})
		}
		done := &c.report(r).Steps[i]
		done.Rows, done.Changed, done.Took = 1, len(d.Changes())-before, c.elapsed()-start
		if err := c.askWrite(u, i, env, nil); err != nil {
			return c.out, err
		}
	}
	return c.out, c.settle(c.events())
}
