// Package notify tells people what waits for them: rounds, the outbox, what can be done
// from mails, calendars.
package notify

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"github.com/oklog/ulid/v2"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/formats/mail"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
	"golang.org/x/time/rate"
)

// Mailer hands a mail over to a mail server. An error whose Temporary method
// says false means that trying again is useless.
type Mailer interface {
	Send(ctx context.Context, m *mail.Mail) error
}

// Files are files that rules wrote, which go with mails.
type Files interface {
	// Newest gives the paths of the files that each rule wrote when it last wrote any.
	Newest(ctx context.Context, t *sheet.Tracker, rules []sheet.DefinitionID) ([]string, error)
	Read(name string) ([]byte, error)
}

// Secrets stand for people: of calendars, here.
type Secrets interface {
	Bearer(ctx context.Context, secret string, kinds ...string) (store.Person, error)
	Issue(ctx context.Context, person int64, kind, name string, lasts time.Duration) (string, error)
}

// Config says how mail goes.
type Config struct {
	Mailer   Mailer // nil: mail waits in the outbox
	Console  string // address of the console, for links in mails
	SendRate int    // mails a minute; 0: as fast as the server takes them
	Files    Files
	Secrets  Secrets
}

// Post is a workspace's rounds and outbox.
type Post struct {
	*engine.Engine
	Config
	store   *store.Store
	wake    chan struct{} // tells the sender that mail waits
	pace    *rate.Limiter // of mails; nil: none
	sending sync.Mutex    // one pass over the outbox at a time
	// memory counts the changes to what reminders remember and who is paused. The
	// writer alone makes them.
	memory atomic.Int64
}

// New gives the post of an engine's workspace.
func New(e *engine.Engine, c Config) *Post {
	post := &Post{Engine: e, Config: c, store: e.Store(), wake: make(chan struct{}, 1)}
	if c.SendRate > 0 {
		post.pace = rate.NewLimiter(rate.Limit(float64(c.SendRate)/60), 1)
	}
	return post
}

// Plan is what a round would send now.
type Plan struct {
	Round      *reminder.CompiledRound
	Letters    []reminder.Letter
	Nobody     []reminder.Item // rows whose person could not be found
	PassedOver []string
	Occurrence time.Time // for which the letters are
	Paused     []string  // people who want no mail for now, and whom rows concern

	Key engine.Key // of the request to send it

	tracker sheet.TrackerID
	shape   *sheet.Shape // of its tracker, as it was read
	name    string
	memory  int64                          // of reminders, as it was read
	held    map[sheet.DefinitionID][]sheet.RowID // what each reminder holds, told of or not
	told    map[sheet.DefinitionID]map[sheet.RowID]bool
	of      map[sheet.DefinitionID]sheet.TrackerID // the reminders' trackers
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
	now := post.Now()
	plan := &Plan{Round: round, tracker: t.ID, shape: t.Shape, name: p.ID.String(), memory: post.memory.Load(), held: map[sheet.DefinitionID][]sheet.RowID{}, told: map[sheet.DefinitionID]map[sheet.RowID]bool{}, of: map[sheet.DefinitionID]sheet.TrackerID{}}
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
	if err := post.leaveOutPaused(ctx, plan, holdings); err != nil {
		return nil, err
	}
	for _, h := range holdings {
		plan.Nobody = append(plan.Nobody, h.Nobody...)
		plan.PassedOver = append(plan.PassedOver, h.PassedOver...)
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
		for i := range holdings {
			if holdings[i].Place != nil {
				holdings[i].Place.Act = nil
			}
		}
	}
	plan.Letters, err = reminder.Letters(holdings, reminder.Context{Round: round, Tracker: t.Name, Now: now.In(t.Location()), Names: names, Link: post.linker(t), Act: act, Pause: pause})
	if err != nil {
		return nil, err
	}
	if last, ok := round.Clock.Latest(now, t.Location()); ok {
		plan.Occurrence = last
	} else {
		plan.Occurrence = now.Truncate(24 * time.Hour)
	}
	return plan, err
}

// leaveOutPaused takes the people who want no mail for now off the rows that
// concern them. A row that concerns nobody else is not told of.
func (post *Post) leaveOutPaused(ctx context.Context, plan *Plan, holdings []reminder.Holding) error {
	paused, err := post.store.Paused(ctx)
	if err != nil || len(paused) == 0 {
		return err
	}
	isPaused := func(to string) bool {
		_, is := paused[to]
		if is && !slices.Contains(plan.Paused, to) {
			plan.Paused = append(plan.Paused, to)
		}
		return is
	}
	for i := range holdings {
		h := &holdings[i]
		h.Items = slices.DeleteFunc(h.Items, func(item reminder.Item) bool {
			return !slices.ContainsFunc(item.To, func(to string) bool { return !isPaused(to) })
		})
		told := plan.told[h.Reminder.ID]
		clear(told)
		for j := range h.Items {
			item := &h.Items[j]
			item.To = slices.DeleteFunc(slices.Clone(item.To), isPaused)
			told[item.Row] = true
		}
	}
	slices.Sort(plan.Paused)
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
			dropped, err := post.bySight(ctx, t, &h)
			if err != nil {
				return nil, err
			}
			for _, row := range dropped {
				delete(plan.told[c.ID], row)
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
	if post.Mailer == nil {
		return nil, errors.New("this service sends no mail: start it with --smtp")
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
	now := post.Now()
	return &l, post.Mailer.Send(ctx, &mail.Mail{ID: ulid.MustNew(ulid.Timestamp(now), ulid.DefaultEntropy()).String(), To: to, Subject: "For a look: " + l.Subject, Text: l.Text, HTML: l.HTML, Date: now})
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
		states[id] = reminder.State{Since: notAfter(r.Since, now), Told: notAfter(r.Told, now), Until: r.Until, Done: r.Done}
	}
	for _, items := range [][]reminder.Item{h.Items, h.Nobody} {
		for i := range items {
			plan.held[c.ID] = append(plan.held[c.ID], items[i].Row)
		}
	}
	h = c.Apply(h, states, now.In(t.Location()), t.Working)
	plan.told[c.ID], plan.of[c.ID] = map[sheet.RowID]bool{}, t.ID
	for i := range h.Items {
		plan.told[c.ID][h.Items[i].Row] = true
	}
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
			r, was := known[row]
			delete(known, row)
			if was && !told[row] {
				continue
			}
			if !was {
				r = store.Reminded{Row: row, Since: now}
			}
			if told[row] {
				r.Told, r.Until = now, 0
			}
			if err := b.PutReminded(ctx, tracker, reminder, r); err != nil {
				return err
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

// Detail is what a round's run records.
type Detail struct {
	Occurrence time.Time `json:"occurrence"`
	People     int       `json:"people"`
	Rows       int       `json:"rows"`
	Queued     int       `json:"queued"`  // mails put into the outbox
	Already    int       `json:"already"` // people who have had this occurrence's mail
	Nobody     []string  `json:"nobody,omitempty"`
	PassedOver []string  `json:"passed_over,omitempty"`
}

// memoryChanged says that what reminders remember has changed since a round was
// worked out.
type memoryChanged struct{}

func (memoryChanged) Error() string { return "what is remembered of rows changed meanwhile" }

// Unrecorded leaves no run behind: it is worked out anew.
func (memoryChanged) Unrecorded() {}

var errMemory error = memoryChanged{}

// planTries is how often a round is worked out anew when that happens; each time
// somebody else has got something done.
const planTries = 20

// RunRound puts one mail a person into the outbox, for an occurrence of the
// round; nobody gets a second mail for the same occurrence. The plan is worked
// out anew where a person has put a row off or paused since it was made.
func (post *Post) RunRound(ctx context.Context, by policy.Principal, cause sheet.CauseKind, t *sheet.Tracker, plan *Plan) (*engine.Result, *Detail, error) {
	for range planTries {
		r, detail, err := post.runPlanned(ctx, by, cause, t, plan)
		if !errors.Is(err, errMemory) {
			return r, detail, err
		}
		was := plan
		if t = post.State().Tracker(t.ID); t == nil {
			return nil, nil, &sheet.NotFound{What: "tracker", Name: was.tracker.String()}
		}
		if plan, err = post.PlanRound(ctx, t, plan.name); err != nil {
			return nil, nil, err
		}
		plan.Occurrence, plan.Key = was.Occurrence, was.Key
	}
	return nil, nil, fmt.Errorf("round %s: %w, again and again: run it once more", plan.Round.Name, errMemory)
}

func (post *Post) runPlanned(ctx context.Context, by policy.Principal, cause sheet.CauseKind, t *sheet.Tracker, plan *Plan) (*engine.Result, *Detail, error) {
	detail := &Detail{Occurrence: plan.Occurrence, People: len(plan.Letters), PassedOver: plan.PassedOver}
	for _, i := range plan.Nobody {
		detail.Nobody = append(detail.Nobody, fmt.Sprintf("%s (%s in %s)", i.Label, i.Row, i.Tab))
	}
	for _, l := range plan.Letters {
		detail.Rows += l.Count
	}
	attach, err := post.Files.Newest(ctx, t, plan.Round.Attach)
	if err != nil {
		return nil, nil, err
	}
	part := plan.Round.ID
	queue := func(ctx context.Context, b *store.Batch, r *engine.Result) error {
		detail.Queued, detail.Already = 0, 0
		now := post.Now()
		for _, l := range plan.Letters {
			put, err := b.Enqueue(ctx, &store.Outgoing{ID: ulid.MustNew(ulid.Timestamp(now), ulid.DefaultEntropy()).String(), Tracker: t.ID, Round: part, Occurrence: plan.Occurrence.UTC().Format(time.RFC3339),
				Recipient: l.To, Subject: l.Subject, Text: l.Text, HTML: l.HTML, Attach: attach, Run: r.Run, Made: now, NextTry: now})
			if err != nil {
				return err
			}
			if put {
				detail.Queued++
			} else {
				detail.Already++
			}
		}
		if detail.Queued > 0 || len(plan.Letters) == 0 { // the same occurrence again tells nobody anything
			if err := post.remember(ctx, b, plan); err != nil {
				return err
			}
		}
		if detail.Queued > 0 {
			r.Note.Outcome = engine.Done
		}
		return b.SetClocked(ctx, t.ID, part, plan.Occurrence)
	}
	req := engine.Request{By: by, Key: plan.Key, Tracker: t.ID, Kind: "round", Name: plan.Round.Name, Alone: true, Cause: sheet.Cause{Kind: cause, Name: plan.Round.Name, Definition: part},
		Work: func(turn *engine.Turn) error {
			turn.Run.Detail = detail
			turn.Store(queue)
			turn.After(func(*engine.Result) { post.nudge() })
			now := turn.Draft.Tracker(t.ID)
			if now == nil || now.DefinitionByID(part) == nil {
				return &sheet.NotFound{What: "round", Name: plan.Round.Name, In: t.Name}
			}
			if plan.memory != post.memory.Load() || now.Shape != plan.shape { // the round may be another, or look elsewhere
				return errMemory
			}
			return nil
		}}
	r, err := post.Commit(ctx, req)
	if err != nil {
		return nil, nil, err
	}
	return r, detail, nil
}

func (post *Post) nudge() {
	select {
	case post.wake <- struct{}{}:
	default:
	}
}

// notAfter gives a time, or now where that is still to come.
func notAfter(t, now time.Time) time.Time {
	if t.After(now) {
		return now
	}
	return t
}
