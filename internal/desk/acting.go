package desk

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"example.org/kavlo/internal/digest"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
)

// LinkDays is how many days a link of a mail can be used.
const LinkDays = 30

// ActPath is where links of mails lead, followed by a token.
const ActPath = "/act/"

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

// signer signs links of mails with the workspace's key.
func (d *Desk) signer(ctx context.Context) (func(Deed) string, error) {
	key, err := d.store.OwnKey(ctx, "link key")
	if err != nil {
		return nil, err
	}
	return func(deed Deed) string {
		text, _ := json.Marshal(deed) // plain fields always marshal
		return base64.RawURLEncoding.EncodeToString(append(text, sign(key, text)...))
	}, nil
}

// signed is how many bytes of a token are its signature.
const signed = 16

func sign(key string, text []byte) []byte {
	mac := hmac.New(sha256.New, []byte(key))
	mac.Write(text)
	return mac.Sum(nil)[:signed]
}

// Deed reads a link's token; ErrLink if it is not one of ours or has expired.
func (d *Desk) Deed(ctx context.Context, token string) (*Deed, error) {
	raw, err := base64.RawURLEncoding.DecodeString(token)
	if err != nil || len(raw) <= signed {
		return nil, ErrLink
	}
	key, err := d.store.OwnKey(ctx, "link key")
	if err != nil {
		return nil, err
	}
	text, mac := raw[:len(raw)-signed], raw[len(raw)-signed:]
	if !hmac.Equal(mac, sign(key, text)) {
		return nil, ErrLink
	}
	out := &Deed{}
	if json.Unmarshal(text, out) != nil || d.Now().Unix() > out.Until {
		return nil, ErrLink
	}
	return out, nil
}

// acting gives the links that the letters of a round carry.
func (d *Desk) acting(ctx context.Context, t *sheet.Tracker) (act func(*digest.Reminder, digest.Item, string, string) string, pause func(string) string, err error) {
	if d.Console == "" {
		return nil, nil, nil
	}
	token, err := d.signer(ctx)
	if err != nil {
		return nil, nil, err
	}
	until := d.Now().AddDate(0, 0, LinkDays).Unix()
	act = func(r *digest.Reminder, i digest.Item, to, what string) string {
		return d.Console + ActPath + token(Deed{What: what, Tracker: t.ID, Reminder: r.ID, Row: i.Row, Who: to, Until: until})
	}
	pause = func(to string) string {
		return d.Console + ActPath + token(Deed{What: "pause", Who: to, Until: until})
	}
	return act, pause, nil
}

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
	rem     *digest.Compiled
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
	rules, err := d.Book(t.Shape)
	if err != nil {
		return nil, err
	}
	r, err := digest.DecodeReminder(p)
	if err != nil {
		return nil, err
	}
	if out.rem, err = digest.Compile(r, rules.Bound); err != nil {
		return nil, err
	}
	out.Label, out.Tab, out.Reminder = t.Label(out.row), t.TabOf(out.row).Name, r.Name
	if c := t.TabOf(out.row).ByID(r.Act.Date); c != nil {
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
// needs one. It is recorded as that person's, by mail.
func (d *Desk) Do(ctx context.Context, token, date string, again bool) (*Doing, error) {
	doing, err := d.Doing(ctx, token)
	if err != nil {
		return nil, err
	}
	if doing.What == "pause" {
		doing.Paused = !again
		return doing, d.store.SetPaused(ctx, doing.Who, !again, d.Now())
	}
	if doing.Over != "" {
		return doing, nil
	}
	who := doing.Name + ", by mail"
	cells := map[sheet.ColumnID]value.Value{}
	state := store.Reminded{Row: doing.Row, Since: d.Now()}
	switch doing.What {
	case "done":
		if cells, err = doing.rem.DoneCells(doing.tracker, doing.row, d.Now()); err != nil {
			return nil, err
		}
		state.Done = true
	case "later", "date":
		v, err := value.Parse(date, value.Type{Kind: value.Date})
		if err != nil || v.IsBlank() {
			return nil, fmt.Errorf("%q is not a date: choose a day", date)
		}
		if doing.What == "date" {
			cells[doing.rem.Act.Date] = v
			break
		}
		today, err := value.Parse(doing.Today, value.Type{Kind: value.Date})
		if err != nil {
			return nil, err
		}
		if v.Days() <= today.Days() {
			return nil, errors.New("choose a day that is still to come")
		}
		state.Until = v.Days()
	default:
		return nil, ErrLink
	}
	if len(cells) > 0 {
		edit := RowEdit{Row: doing.Row, Cells: map[string]any{}}
		tab := doing.tracker.TabOf(doing.row)
		for id, v := range cells {
			edit.Cells[tab.ByID(id).Name] = v.JSON(tab.ByID(id).Type)
		}
		if _, err := d.Commit(ctx, d.SetRows(who, doing.tracker.ID, []RowEdit{edit})); err != nil {
			return nil, err
		}
		if !state.Done {
			return doing, nil
		}
	}
	return doing, d.keepState(ctx, doing, state, who)
}

// keepState keeps that a row is done or put off, as a run of its own.
func (d *Desk) keepState(ctx context.Context, doing *Doing, state store.Reminded, who string) error {
	known, err := d.store.Reminded(ctx, doing.tracker.ID, doing.rem.ID)
	if err != nil {
		return err
	}
	if was, ok := known[state.Row]; ok {
		state.Since, state.Told = was.Since, was.Told
	}
	said := "marked done"
	if state.Until != 0 {
		said = "put off until " + value.OfDays(state.Until).String()
	}
	detail := map[string]string{"row": fmt.Sprintf("%s (%s in %s)", doing.Label, doing.Row, doing.Tab), "what": said}
	_, err = d.Commit(ctx, Request{Who: who, Tracker: doing.tracker.ID, Kind: "reminder", Name: doing.rem.Name, Alone: true, Cause: sheet.Cause{Kind: sheet.ByEdit, Name: doing.rem.Name, Part: doing.rem.ID},
		Make: func(turn *Turn) error { turn.Detail = detail; return nil },
		also: func(ctx context.Context, b *store.Batch, _ *Result) error {
			return b.PutReminded(ctx, doing.tracker.ID, doing.rem.ID, state)
		}})
	return err
}
