package notify

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/oklog/ulid/v2"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/formats/mail"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
)

// Plan is what a round would send now.
type Plan struct {
	Round      *reminder.CompiledRound
	Letters    []reminder.Letter
	Nobody     []reminder.Item // rows whose person could not be found
	Unknown    []reminder.Item // rows of which some should be told whom nobody knows
	PassedOver []string
	Occurrence time.Time // for which the letters are
	Again      bool      // sends it once more to those who have it
	Instead    bool      // takes the place of the occurrence to come
	Paused     []string  // people who want no mail for now, and whom rows concern

	Key engine.Key // of the request to send it

	tracker sheet.TrackerID
	shape   *sheet.Shape // of its tracker, as it was read
	zone    *time.Location
	aside   bool // run by hand before its hour: the hour's own mail still comes
	name    string
	memory  int64                                           // of reminders, as it was read
	held    map[sheet.DefinitionID][]sheet.RowID            // what each reminder holds, told of or not
	told    map[sheet.DefinitionID]map[sheet.RowID][]string // who is told of what
	of      map[sheet.DefinitionID]sheet.TrackerID          // the reminders' trackers
}

// PlanRound works out what a round would send now; it sends nothing.
func (post *Post) PlanRound(ctx context.Context, t *sheet.Tracker, name string) (*Plan, error) {
	return post.planRound(ctx, t, name, true)
}

func (post *Post) planRound(ctx context.Context, t *sheet.Tracker, name string, links bool) (*Plan, error) {
	p, err := t.Definition(sheet.KindRound, name)
	if err != nil {
		return nil, err
	}
	ready, err := post.Program(t.Shape)
	if err != nil {
		return nil, err
	}
	round, err := program.Ready[*reminder.CompiledRound](ready, p.ID)
	if err != nil {
		return nil, err
	}
	return post.plan(ctx, t, round, p.ID.String(), links)
}

// plan works out what a round would send; name is how it is found again.
func (post *Post) plan(ctx context.Context, t *sheet.Tracker, round *reminder.CompiledRound, name string, links bool) (*Plan, error) {
	now := post.Now()
	plan := &Plan{Round: round, tracker: t.ID, shape: t.Shape, name: name, memory: post.memory.Load(), held: map[sheet.DefinitionID][]sheet.RowID{}, told: map[sheet.DefinitionID]map[sheet.RowID][]string{}, of: map[sheet.DefinitionID]sheet.TrackerID{}}
	holdings, err := post.holdings(ctx, t, round, now, plan)
	if err != nil {
		return nil, err
	}
	if round.Everywhere {
		more, err := post.holdingsElsewhere(ctx, t, round, now, plan)
		if err != nil {
			return nil, err
		}
		holdings = append(holdings, more...)
	}
	if err := post.leaveOutPaused(ctx, holdings, &plan.Paused); err != nil {
		return nil, err
	}
	for _, h := range holdings {
		plan.Nobody = append(plan.Nobody, h.Nobody...)
		plan.PassedOver = append(plan.PassedOver, h.PassedOver...)
		for i := range h.Items {
			item := &h.Items[i]
			told := plan.told[h.Reminder.ID]
			told[item.Row] = append(told[item.Row], item.To...)
			if len(item.Unknown) > 0 {
				plan.Unknown = append(plan.Unknown, *item)
			}
		}
	}
	_, names, err := post.Directory(ctx)
	if err != nil {
		return nil, err
	}
	act, pause, err := post.acting(ctx, t)
	if err != nil {
		return nil, err
	}
	if !links {
		act, pause = nil, nil
		withoutActs(holdings)
	}
	figures, err := post.figuresFor(ctx, t, plan)
	if err != nil {
		return nil, err
	}
	plan.Letters, err = reminder.Letters(holdings, reminder.Context{Figures: figures, Round: round, Tracker: t.Name, Now: now.In(t.Location()), Names: names, Link: post.linker(t), Act: act, Pause: pause})
	if err != nil {
		return nil, err
	}
	if last, ok := round.Clock.Latest(now, t.Location()); ok {
		plan.Occurrence = last
	} else {
		plan.Occurrence = now.Truncate(24 * time.Hour)
	}
	plan.zone = t.Location()
	return plan, err
}

// withoutActs takes the links off with which rows of other trackers are acted on.
func withoutActs(holdings []reminder.Holding) {
	for i := range holdings {
		if holdings[i].Place != nil {
			holdings[i].Place.Act = nil
		}
	}
}

// leaveOutPaused takes the people who want no mail for now off the rows that
// concern them, and names them. A row that concerns nobody else is not told of.
func (post *Post) leaveOutPaused(ctx context.Context, holdings []reminder.Holding, named *[]string) error {
	paused, err := post.store.Paused(ctx)
	if err != nil || len(paused) == 0 {
		return err
	}
	isPaused := func(to string) bool {
		_, is := paused[to]
		if is && !slices.Contains(*named, to) {
			*named = append(*named, to)
		}
		return is
	}
	for i := range holdings {
		h := &holdings[i]
		h.Items = slices.DeleteFunc(h.Items, func(item reminder.Item) bool {
			return !slices.ContainsFunc(item.To, func(to string) bool { return !isPaused(to) })
		})
		for j := range h.Items {
			item := &h.Items[j]
			item.To = slices.DeleteFunc(slices.Clone(item.To), isPaused)
		}
	}
	slices.Sort(*named)
	return nil
}

// holdings gives what the reminders of a round hold; for a plan, what is to be
// told now, with what is known from earlier rounds.
func (post *Post) holdings(ctx context.Context, t *sheet.Tracker, round *reminder.CompiledRound, now time.Time, plan *Plan) ([]reminder.Holding, error) {
	ready, err := post.Program(t.Shape)
	if err != nil {
		return nil, err
	}
	people, _, err := post.Directory(ctx)
	if err != nil {
		return nil, err
	}
	var out []reminder.Holding
	meter := post.Meter(ctx)
	for i := range t.Definitions {
		p := &t.Definitions[i]
		if p.Kind != sheet.KindReminder || !round.All && !slices.Contains(round.Reminders, p.ID) {
			continue
		}
		known, err := program.Ready[*reminder.Compiled](ready, p.ID)
		if err != nil {
			return nil, err
		}
		c := known.Metered(meter)
		h := c.Collect(t, people, now)
		if err := meter.Err(); err != nil {
			return nil, fmt.Errorf("reminder %s: %w", p.Name, err)
		}
		if plan != nil {
			if h, err = post.remembered(ctx, t, c, h, now, plan); err != nil {
				return nil, err
			}
			if err := post.bySight(ctx, t, &h); err != nil {
				return nil, err
			}
		}
		out = append(out, h)
	}
	return out, nil
}

// holdingsElsewhere gives what the reminders of the other trackers hold, with
// where their rows are.
func (post *Post) holdingsElsewhere(ctx context.Context, home *sheet.Tracker, round *reminder.CompiledRound, now time.Time, plan *Plan) ([]reminder.Holding, error) {
	var out []reminder.Holding
	for _, t := range post.State().Trackers() {
		if t.ID == home.ID {
			continue
		}
		more, err := post.holdings(ctx, t, round, now, plan)
		if err != nil {
			return nil, err
		}
		act, _, err := post.acting(ctx, t)
		if err != nil {
			return nil, err
		}
		for i := range more {
			more[i].Place = &reminder.Place{Tracker: t.Name, Link: post.linker(t), Act: act}
		}
		out = append(out, more...)
	}
	return out, nil
}

// TryRound sends one person the mail that a round would send now, for a look;
// where the round has nothing for them, somebody else's. Its links do nothing.
func (post *Post) TryRound(ctx context.Context, t *sheet.Tracker, name, to string) (*reminder.Letter, error) {
	if _, err := post.sender(ctx); err != nil {
		return nil, err
	}
	if v, err := value.Parse(to, value.Type{Kind: value.Person}); err != nil || v.IsBlank() {
		return nil, fmt.Errorf("%q is not a mail address", to)
	}
	plan, err := post.planRound(ctx, t, name, false)
	if err != nil {
		return nil, err
	}
	if len(plan.Letters) == 0 {
		return nil, errors.New("the round has nothing to say now, so there is nothing to look at")
	}
	l := plan.Letters[0]
	for _, own := range plan.Letters {
		if own.To == to {
			l = own
		}
	}
	return &l, post.send(ctx, &mail.Mail{To: to, Subject: "Test: " + l.Subject, Text: l.Text, HTML: l.HTML})
}

// send hands a mail over at once, past the outbox.
func (post *Post) send(ctx context.Context, m *mail.Mail) error {
	m.Date = post.Now()
	m.ID = ulid.MustNew(ulid.Timestamp(m.Date), ulid.DefaultEntropy()).String()
	mailer, err := post.sender(ctx)
	if err != nil {
		return err
	}
	return mailer.Send(ctx, m)
}

// SendTest sends somebody a mail that says nothing but that mail goes.
func (post *Post) SendTest(ctx context.Context, to string) error {
	const says = "This is a test email of Kavlo. If you can read it, emails go out."
	return post.send(ctx, &mail.Mail{To: to, Subject: "Test email", Text: says + "\n", HTML: "<p>" + says + "</p>"})
}

// remembered applies what is known of the rows from earlier rounds, and notes
// for the plan what is held and what is told.
func (post *Post) remembered(ctx context.Context, t *sheet.Tracker, c *reminder.Compiled, h reminder.Holding, now time.Time, plan *Plan) (reminder.Holding, error) {
	known, err := post.store.Reminded(ctx, t.ID, c.ID)
	if err != nil {
		return h, err
	}
	states := make(map[sheet.RowID]reminder.State, len(known))
	for id, r := range known {
		state := reminder.State{Since: notAfter(r.Since, now), By: make(map[string]reminder.Known, len(r.Told))}
		for person, told := range r.Told {
			state.By[person] = reminder.Known{Told: notAfter(told.At, now), Until: told.Until, Mark: told.Mark}
		}
		states[id] = state
	}
	people, _, err := post.Directory(ctx)
	if err != nil {
		return h, err
	}
	for _, items := range [][]reminder.Item{h.Items, h.Nobody} {
		for i := range items {
			plan.held[c.ID] = append(plan.held[c.ID], items[i].Row)
		}
	}
	h = c.Apply(h, states, now.In(t.Location()), t.Working, func(row sheet.RowID) string { return c.Mark(t, t.Row(row), people, now) })
	plan.told[c.ID], plan.of[c.ID] = map[sheet.RowID][]string{}, t.ID
	return h, nil
}

// remember keeps, with the mails of a round, since when rows are held and that
// they were told of, and forgets rows that are held no more.
func (post *Post) remember(ctx context.Context, b *store.Batch, plan *Plan) error {
	now := post.Now()
	post.memory.Add(1)
	for reminder, told := range plan.told {
		tracker := plan.of[reminder]
		known, err := b.Reminded(ctx, tracker, reminder)
		if err != nil {
			return err
		}
		for _, row := range plan.held[reminder] {
			r := known[row]
			delete(known, row)
			if r.Since.IsZero() {
				if err := b.PutReminded(ctx, tracker, reminder, row, now); err != nil {
					return err
				}
			}
			for _, person := range told[row] {
				if err := b.PutTold(ctx, tracker, reminder, row, person, store.Told{At: now}); err != nil {
					return err
				}
			}
		}
		for row := range known {
			if err := b.DropReminded(ctx, tracker, reminder, row); err != nil {
				return err
			}
		}
	}
	return nil
}

// Holdings gives what every reminder of a tracker holds now.
func (post *Post) Holdings(ctx context.Context, t *sheet.Tracker) ([]reminder.Holding, error) {
	return post.holdings(ctx, t, &reminder.CompiledRound{Round: &reminder.Round{All: true}}, post.Now(), nil)
}

func (post *Post) linker(t *sheet.Tracker) func(reminder.Item) string {
	if post.Console == "" {
		return nil
	}
	return func(i reminder.Item) string {
		return fmt.Sprintf("%s/t/%s/%s?row=%s", post.Console, url.PathEscape(t.ID.String()), i.TabID, i.Row)
	}
}

// notAfter gives a time, or now where that is still to come.
func notAfter(t, now time.Time) time.Time {
	if t.After(now) {
		return now
	}
	return t
}

// Undelivered says in words which rows nobody, or not everybody, can be told of.
func (p *Plan) Undelivered() []string {
	var out []string
	for _, i := range p.Nobody {
		out = append(out, fmt.Sprintf("%s in %s: %s", i.Label, i.Tab, nobodyWhy(i)))
	}
	for _, i := range p.Unknown {
		out = append(out, fmt.Sprintf("%s in %s: %s; others are told", i.Label, i.Tab, strings.Join(i.Unknown, "; ")))
	}
	return out
}

func nobodyWhy(i reminder.Item) string {
	if len(i.Unknown) > 0 {
		return strings.Join(i.Unknown, "; ")
	}
	return "nobody to tell"
}
