package desk

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
)

// Deed is what one link of a mail lets one person do, and nothing else.
type Deed struct {
	What     string          `json:"w"` // done, later, date, pause
	Tracker  sheet.TrackerID `json:"t,omitempty"`
	Reminder sheet.PartID    `json:"p,omitempty"`
	Row      sheet.RowID     `json:"r,omitempty"`
	Who      string          `json:"a"` // the address the mail went to
	Until    int64           `json:"x"` // Unix seconds
}

// ErrLink says that a link of a mail is none, or not any more.
var ErrLink = errors.New("this link is not valid, or has expired: the next mail brings new ones")

// Doing is a deed laid out for the person who is to confirm it.
type Doing struct {
	*Deed
	Name     string // the person's
	Label    string
	Tab      string
	Reminder string
	Column   string // whose date is set
	Today    string // ISO date in the tracker's zone
	Paused   bool   // the person gets no mail now
	Over     string // why there is nothing left to do, or ""

	tracker *sheet.Tracker
	row     *sheet.Row
	rem     *reminder.Compiled
}

// Doing looks at what a link would do, and does nothing.
func (d *Desk) Doing(ctx context.Context, token string) (*Doing, error) {
	deed, err := d.Deed(ctx, token)
	if err != nil {
		return nil, err
	}
	_, names, err := d.Directory(ctx)
	if err != nil {
		return nil, err
	}
	former, err := d.store.Former(ctx)
	if err != nil {
		return nil, err
	}
	if slices.ContainsFunc(former, func(p store.Person) bool { return strings.EqualFold(p.Address, deed.Who) }) {
		return nil, ErrLink
	}
	out := &Doing{Deed: deed, Name: names[deed.Who]}
	if out.Name == "" {
		out.Name = deed.Who
	}
	if deed.What == "pause" {
		paused, err := d.store.Paused(ctx)
		_, out.Paused = paused[deed.Who]
		return out, err
	}
	t := d.State().Tracker(deed.Tracker)
	if t == nil {
		return nil, ErrLink
	}
	out.tracker, out.Today = t, d.Now().In(t.Location()).Format(time.DateOnly)
	p := partByID(t, deed.Reminder)
	out.row = t.Row(deed.Row)
	if p == nil || out.row == nil {
		out.Over = "The row, or the reminder that told of it, is not there any more."
		return out, nil
	}
	ready, err := d.Program(t.Shape)
	if err != nil {
		return nil, err
	}
	if out.rem, err = program.Ready[*reminder.Compiled](ready, p.ID); err != nil {
		return nil, err
	}
	out.Label, out.Tab, out.Reminder = t.Label(out.row), t.TabOf(out.row).Name, p.Name
	if c := t.TabOf(out.row).ByID(out.rem.Act.Date); c != nil {
		out.Column = c.Name
	}
	if !out.rem.Holds(t, out.row, d.Now()) {
		out.Over = "It is dealt with already: the reminder does not hold this row any more."
	}
	if deed.What == "date" && out.Column == "" {
		out.Over = "No date can be set here any more."
	}
	return out, nil
}

// Do does what a person has confirmed: date is the day chosen, where the deed
// needs one. It is recorded as that person's, by mail, all of it in one
// transaction.
func (d *Desk) Do(ctx context.Context, token, date string, again bool) (*Doing, error) {
	doing, err := d.Doing(ctx, token)
	if err != nil {
		return nil, err
	}
	if doing.What == "pause" {
		doing.Paused = !again
		_, err := d.Commit(ctx, d.setPaused(doing, !again))
		return doing, err
	}
	if doing.Over != "" {
		return doing, nil
	}
	var req Request
	switch doing.What {
	case "done":
		cells, err := doing.rem.DoneCells(doing.tracker, doing.row, d.Now())
		if err != nil {
			return nil, err
		}
		req = d.dealtWith(doing, cells, "marked done", func(r *store.Reminded) { r.Done = true })
	case "later":
		v, err := chosenDay(date)
		if err != nil {
			return nil, err
		}
		if v.String() <= doing.Today {
			return nil, errors.New("choose a day that is still to come")
		}
		req = d.dealtWith(doing, nil, "put off until "+v.String(), func(r *store.Reminded) { r.Until, r.Done = v.Days(), false })
	case "date":
		v, err := chosenDay(date)
		if err != nil {
			return nil, err
		}
		req = d.SetRows(doing.principal(), doing.tracker.ID, []RowEdit{doing.edit(map[sheet.ColumnID]value.Value{doing.rem.Act.Date: v})})
	default:
		return nil, ErrLink
	}
	_, err = d.Commit(ctx, req)
	return doing, err
}

func chosenDay(date string) (value.Value, error) {
	v, err := value.Parse(date, value.Type{Kind: value.Date})
	if err != nil || v.IsBlank() {
		return v, fmt.Errorf("%q is not a date: choose a day", date)
	}
	return v, nil
}

// principal is that person, by a link that allows what it says.
func (doing *Doing) principal() policy.Principal {
	return policy.Principal{Kind: policy.MailLink, Name: doing.Name + byMail, Access: policy.Editor}
}

const byMail = ", by mail"

func (doing *Doing) edit(cells map[sheet.ColumnID]value.Value) RowEdit {
	edit := RowEdit{Row: doing.Row, Cells: map[string]any{}}
	tab := doing.tracker.TabOf(doing.row)
	for id, v := range cells {
		edit.Cells[tab.ByID(id).Name] = v.JSON(tab.ByID(id).Type)
	}
	return edit
}

// dealtWith sets a row's cells and what its reminder remembers of it, as a run
// of its own.
func (d *Desk) dealtWith(doing *Doing, cells map[sheet.ColumnID]value.Value, said string, alter func(*store.Reminded)) Request {
	req := d.SetRows(doing.principal(), doing.tracker.ID, []RowEdit{doing.edit(cells)})
	set := req.Work
	remember := func(ctx context.Context, b *store.Batch, r *Result) error {
		known, err := b.Reminded(ctx, doing.tracker.ID, doing.rem.ID)
		if err != nil {
			return err
		}
		state, was := known[doing.Row]
		if !was {
			state = store.Reminded{Row: doing.Row, Since: r.Set.At}
		}
		alter(&state)
		d.memory.Add(1)
		return b.PutReminded(ctx, doing.tracker.ID, doing.rem.ID, state)
	}
	req.Kind, req.Name = "reminder", doing.rem.Name
	req.Cause = sheet.Cause{Kind: sheet.ByEdit, Name: doing.rem.Name, Part: doing.rem.ID}
	req.Work = func(t *Turn) error {
		t.Run.Outcome = engine.Done
		t.Store(remember)
		t.Run.Detail = map[string]string{"row": fmt.Sprintf("%s (%s in %s)", doing.Label, doing.Row, doing.Tab), "what": said}
		return set(t)
	}
	return req
}

// setPaused lets a person get no rounds, or get them again.
func (d *Desk) setPaused(doing *Doing, paused bool) Request {
	return Request{By: doing.principal(), Alone: true, Cause: sheet.Cause{Kind: sheet.ByEdit}, Work: func(t *Turn) error {
		t.Store(func(ctx context.Context, b *store.Batch, r *Result) error {
			d.memory.Add(1)
			return b.SetPaused(ctx, doing.Who, paused, r.Set.At)
		})
		return nil
	}}
}
