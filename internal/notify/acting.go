package notify

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/local"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
)

// Deed is what one link of a mail lets one person do, and nothing else.
type Deed struct {
	What     string             `json:"w"` // done, later, date, pause
	Tracker  sheet.TrackerID    `json:"t,omitempty"`
	Reminder sheet.DefinitionID `json:"p,omitempty"`
	Row      sheet.RowID        `json:"r,omitempty"`
	Who      string             `json:"a"` // the address the mail went to
	Until    int64              `json:"x"` // Unix seconds
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
func (post *Post) Doing(ctx context.Context, token string) (*Doing, error) {
	deed, err := post.Deed(ctx, token)
	if err != nil {
		return nil, err
	}
	_, names, err := post.Directory(ctx)
	if err != nil {
		return nil, err
	}
	former, err := post.store.Former(ctx)
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
		paused, err := post.store.Paused(ctx)
		_, out.Paused = paused[deed.Who]
		return out, err
	}
	t := post.State().Tracker(deed.Tracker)
	if t == nil {
		return nil, ErrLink
	}
	out.tracker, out.Today = t, post.Now().In(t.Location()).Format(time.DateOnly)
	p := t.DefinitionByID(deed.Reminder)
	out.row = t.Row(deed.Row)
	if p == nil || out.row == nil {
		out.Over = "The row, or the reminder that told of it, is not there any more."
		return out, nil
	}
	ready, err := post.Program(t.Shape)
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
	if !out.rem.Holds(t, out.row, post.Now()) {
		out.Over = "It is dealt with already: the reminder does not hold this row any more."
	}
	if deed.What == "done" && len(out.rem.Act.Done) == 0 {
		out.Over = "Rows of this reminder are not marked done from mails any more."
	}
	if deed.What == "date" && out.Column == "" {
		out.Over = "No date can be set here any more."
	}
	return out, nil
}

// Do does what a person has confirmed: date is the day chosen, where the deed
// needs one. It is recorded as that person's, by mail, all of it in one
// transaction.
func (post *Post) Do(ctx context.Context, token, date string, again bool) (*Doing, error) {
	doing, err := post.Doing(ctx, token)
	if err != nil {
		return nil, err
	}
	if doing.What == "pause" {
		doing.Paused = !again
		_, err := post.Commit(ctx, post.setPaused(doing, !again))
		return doing, err
	}
	if doing.Over != "" {
		return doing, nil
	}
	var req engine.Request
	switch doing.What {
	case "done":
		cells, err := doing.rem.DoneCells(doing.tracker, doing.row, post.Now())
		if err != nil {
			return nil, err
		}
		req = post.dealtWith(doing, cells, "marked done", reminder.Forever)
	case "later":
		v, err := chosenDay(date, doing.tracker.Form(post.Writing(ctx)))
		if err != nil {
			return nil, err
		}
		if v.String() <= doing.Today {
			return nil, errors.New("choose a day that is still to come")
		}
		req = post.dealtWith(doing, nil, "put off until "+v.String(), v.Days())
	case "date":
		v, err := chosenDay(date, doing.tracker.Form(post.Writing(ctx)))
		if err != nil {
			return nil, err
		}
		req = doing.request(map[sheet.ColumnID]value.Value{doing.rem.Act.Date: v}, nil)
	default:
		return nil, ErrLink
	}
	_, err = post.Commit(ctx, req)
	return doing, err
}

func chosenDay(date string, form *local.Form) (value.Value, error) {
	v, _, err := form.Read(date, value.Type{Kind: value.Date})
	if err != nil || v.IsBlank() {
		return v, fmt.Errorf("%q is not a date: choose a day", date)
	}
	return v, nil
}

// principal is that person, by a link that allows what it says.
func (doing *Doing) principal() policy.Principal {
	return policy.Principal{Kind: policy.MailLink, Name: doing.Name + policy.ByMail, Address: doing.Who, Access: policy.Editor}
}

// request gives the request that puts values into cells of the row, as that person's
// edit, with what else is to be done.
func (doing *Doing) request(cells map[sheet.ColumnID]value.Value, more func(*engine.Turn)) engine.Request {
	return engine.Request{By: doing.principal(), Tracker: doing.tracker.ID, Cause: sheet.Cause{Kind: sheet.ByEdit}, Work: func(t *engine.Turn) error {
		if more != nil {
			more(t)
		}
		for _, column := range slices.Sorted(maps.Keys(cells)) {
			if err := t.Draft.Set(sheet.Cell{Tracker: doing.tracker.ID, Row: doing.Row, Column: column}, cells[column], 0); err != nil {
				return err
			}
		}
		return nil
	}}
}

// dealtWith sets a row's cells and lets the person be told of it no more until a day, or
// until it stands otherwise, as a run of its own. Others are told as before.
func (post *Post) dealtWith(doing *Doing, cells map[sheet.ColumnID]value.Value, said string, until int64) engine.Request {
	remember := func(ctx context.Context, b *store.Batch, r *engine.Result) error {
		known, err := b.Reminded(ctx, doing.tracker.ID, doing.rem.ID)
		if err != nil {
			return err
		}
		t := r.After.Tracker(doing.tracker.ID)
		if t == nil || t.Row(doing.Row) == nil {
			return nil
		}
		people, _, err := post.Directory(ctx)
		if err != nil {
			return err
		}
		post.memory.Add(1)
		told := known[doing.Row].Told[doing.Who]
		told.Until, told.Mark = until, doing.rem.Mark(t, t.Row(doing.Row), people, post.Now())
		return b.PutTold(ctx, doing.tracker.ID, doing.rem.ID, doing.Row, doing.Who, told)
	}
	req := doing.request(cells, func(t *engine.Turn) {
		t.Run.Outcome = engine.Done
		t.Run.Detail = map[string]string{"row": fmt.Sprintf("%s (%s in %s)", doing.Label, doing.Row, doing.Tab), "what": said}
		t.Store(remember)
	})
	req.Kind, req.Name = "reminder", doing.rem.Name
	req.Cause = sheet.Cause{Kind: sheet.ByEdit, Name: doing.rem.Name, Definition: doing.rem.ID}
	return req
}

// setPaused lets a person get no rounds, or get them again.
func (post *Post) setPaused(doing *Doing, paused bool) engine.Request {
	return engine.Request{By: doing.principal(), Alone: true, Cause: sheet.Cause{Kind: sheet.ByEdit}, Work: func(t *engine.Turn) error {
		t.Store(func(ctx context.Context, b *store.Batch, r *engine.Result) error {
			post.memory.Add(1)
			return b.SetPaused(ctx, doing.Who, paused, r.Set.At)
		})
		return nil
	}}
}
