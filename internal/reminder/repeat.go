package reminder

import (
	"errors"
	"fmt"
	"hash/fnv"
	"slices"
	"strconv"
	"strings"
	"time"

	"example.org/kavlo/internal/clause"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/recur"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// compileMore compiles what most reminders lack, and says which part is wrong.
func (t *tabReminder) compileMore(r *Reminder, b *program.Program, scope *clause.Scope) (string, error) {
	for _, v := range []struct {
		part, text string
		to         *clause.ValueFunc
	}{{"due", r.Due, &t.due}, {"group", r.Group, &t.group}} {
		if v.text == "" {
			continue
		}
		e, err := clause.CheckValue(v.text, scope)
		if err != nil {
			return v.part, err
		}
		if v.part == "due" && e.Type() != clause.Date && e.Type() != clause.DateTime {
			return v.part, fmt.Errorf("due is a date, and this is %s", e.Type())
		}
		*v.to = e.Value()
	}
	raise := ""
	if r.Raise != nil {
		raise = r.Raise.To
	}
	for _, v := range []struct {
		part, text string
		to         *clause.ValueFunc
	}{{"copy", r.Copy, &t.copy}, {"otherwise", r.Otherwise, &t.otherwise}, {"raise", raise, &t.raise}} {
		if v.text == "" {
			continue
		}
		e, err := clause.CheckTemplate(v.text, scope)
		if err != nil {
			return v.part, err
		}
		*v.to = e.Value()
	}
	tab := b.Shape.TabByID(t.tab)
	for _, cell := range r.Act.Done {
		if c := tab.ByID(cell.Column); c == nil || c.Computed() {
			return "act", &sheet.NotFound{What: "stored column", Name: cell.Column.String(), In: tab.Name}
		}
		e, err := clause.CheckTemplate(cell.To, scope)
		if err != nil {
			return "act", err
		}
		t.done = append(t.done, e.Value())
	}
	if id := r.Act.Date; id != 0 {
		if c := tab.ByID(id); c == nil || c.Computed() || c.Type.Kind != value.Date {
			return "act", errors.New("the date that can be set from a mail is a stored date column of every tab of the reminder")
		}
	}
	return "", nil
}

// State is what is known of a row that a reminder holds, from earlier rounds and from
// what people did.
type State struct {
	Since time.Time        // when a round first held it
	By    map[string]Known // by address; "": everybody of whom nothing else is known
}

// Known is what is known of a row and one person.
type Known struct {
	Told  time.Time // when a round last told them; zero: never
	Until int64     // day until which they put it off, days since 1970-01-01; 0: not
	Mark  string    // the row's Mark then; "": whatever becomes of the row
}

// Forever is the Until of a row that somebody has done with.
const Forever = 2_932_896 // 9999-12-31

func (s State) of(person string) Known {
	if k, ok := s.By[person]; ok {
		return k
	}
	return s.By[""]
}

// Apply leaves out what is not to be told at now, which is in the tracker's zone: rows
// that a person has put off or done with, until they stand otherwise, and rows that they
// were told of already and that are not to be repeated. It raises what has been overdue
// for long; that waits for no repeat. mark gives a row's Mark now.
func (c *Compiled) Apply(h Holding, states map[sheet.RowID]State, now time.Time, working recur.WorkingDays, mark func(sheet.RowID) string) Holding {
	today := value.DateOf(now).Days()
	out := h
	out.Items, out.Nobody, out.Held = nil, nil, len(h.Items)+len(h.Nobody)
	for _, items := range [][]Item{h.Items, h.Nobody} {
		for _, it := range items {
			s := states[it.Row]
			if it.Since == 0 {
				if it.Since = today; !s.Since.IsZero() {
					it.Since = value.DateOf(s.Since.In(now.Location())).Days()
				}
			}
			c.raised(&it, today, working)
			if len(it.To) == 0 {
				out.Nobody = append(out.Nobody, it)
				continue
			}
			var to []string
			for _, person := range it.To {
				k := s.of(person)
				off := k.Until > today && (k.Mark == "" || k.Mark == mark(it.Row))
				if off || !c.again(k, now) {
					continue
				}
				to = append(to, person)
				if !k.Told.IsZero() {
					it.before = append(it.before[:len(it.before):len(it.before)], person)
				}
			}
			if it.To = to; len(to) > 0 {
				out.Items = append(out.Items, it)
			}
		}
	}
	return out
}

// raised tells of a row those to whom it is raised, once it has been overdue for long.
func (c *Compiled) raised(it *Item, today int64, working recur.WorkingDays) {
	if c.Raise == nil || len(it.raise) == 0 {
		return
	}
	days := today - it.Since
	if c.Raise.Workdays {
		days = working.Between(it.Since, today)
	}
	if days >= int64(c.Raise.After) {
		it.tell(it.raise, Raised)
	}
}

// NewTo reports whether no round has told a person of the row yet.
func (i *Item) NewTo(person string) bool { return !slices.Contains(i.before, person) }

// Mark tells one standing of a row from another, as far as it concerns the reminder: its
// tab, its due day, whom it concerns, its choices and ticks, and what marks it done.
func (c *Compiled) Mark(t *sheet.Tracker, row *sheet.Row, people Directory, now time.Time) string {
	h := fnv.New64a()
	put := func(s string) { _, _ = h.Write(append([]byte(s), 0)) }
	tab := t.TabOf(row)
	put(tab.ID.String())
	for i := range tab.Columns {
		col := &tab.Columns[i]
		state := col.Type.Kind == value.Choice || col.Type.Kind == value.Checkbox
		if !col.Computed() && (state || slices.ContainsFunc(c.Act.Done, func(cell Cell) bool { return cell.Column == col.ID })) {
			put(row.At(i).String())
		}
	}
	for _, tr := range c.tabs {
		if tr.tab != row.Tab {
			continue
		}
		env := c.bound.Env(t, tab, now, c.meter)
		program.Look(env, row)
		if tr.due != nil {
			put(tr.due(env).String())
		}
		to, _ := addresses(tr.to, env, people)
		put(strings.Join(to, ";"))
	}
	return strconv.FormatUint(h.Sum64(), 36)
}

// again reports whether a row that was told of is told of again.
func (c *Compiled) again(s Known, now time.Time) bool {
	switch {
	case s.Told.IsZero() || c.Repeat == 0:
		return true
	case c.Repeat == Once:
		return false
	}
	return value.DateOf(now).Days()-value.DateOf(s.Told.In(now.Location())).Days() >= int64(c.Repeat)
}

// Ahead gives the rows with a due day from today on that the reminder will hold
// the day after it, if nothing changes, besides those it holds now.
func (c *Compiled) Ahead(t *sheet.Tracker, people Directory, now time.Time, until int64) []Item {
	var out []Item
	today := value.DateOf(now.In(t.Location())).Days()
	for _, tr := range c.tabs {
		if tr.due == nil {
			continue
		}
		tab := t.TabByID(tr.tab)
		env := c.bound.Env(t, tab, now, c.meter)
		for row := range t.Rows(tr.tab) {
			program.Look(env, row)
			due := tr.due(env)
			if due.IsOdd() || due.IsBlank() || due.Days() < today || due.Days() > until {
				continue
			}
			then := c.bound.Env(t, tab, now.AddDate(0, 0, int(due.Days()-today)+1), c.meter)
			program.Look(then, row)
			if tr.where.Judge(then) != clause.Yes {
				continue
			}
			program.Look(env, row)
			out = append(out, c.item(tr, env, t, tab, row, people))
		}
	}
	return out
}

// Holds reports whether the reminder holds a row at a moment.
func (c *Compiled) Holds(t *sheet.Tracker, row *sheet.Row, now time.Time) bool {
	for _, tr := range c.tabs {
		if tr.tab == row.Tab {
			env := c.bound.Env(t, t.TabOf(row), now, c.meter)
			program.Look(env, row)
			return tr.where.Judge(env) == clause.Yes
		}
	}
	return false
}

// DoneCells gives what marking a row done puts into it.
func (c *Compiled) DoneCells(t *sheet.Tracker, row *sheet.Row, now time.Time) (map[sheet.ColumnID]value.Value, error) {
	for _, tr := range c.tabs {
		if tr.tab != row.Tab {
			continue
		}
		env := c.bound.Env(t, t.TabOf(row), now, c.meter)
		program.Look(env, row)
		out := map[sheet.ColumnID]value.Value{}
		for i, cell := range c.Act.Done {
			v := tr.done[i](env)
			if v.IsOdd() {
				return nil, fmt.Errorf("what marks it done cannot be worked out: %s", env.Fault)
			}
			out[cell.Column] = v
		}
		return out, nil
	}
	return nil, nil
}
