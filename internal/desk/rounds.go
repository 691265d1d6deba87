package desk

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"time"

	"github.com/oklog/ulid/v2"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
)

// RoundPlan is what a round would send now.
type RoundPlan struct {
	Round      *reminder.CompiledRound
	Letters    []reminder.Letter
	Nobody     []reminder.Item // rows whose person could not be found
	PassedOver []string
	Occurrence time.Time // for which the letters are
	Paused     []string  // people who want no mail for now, and whom rows concern

	Key Key // of the request to send it

	tracker sheet.TrackerID
	shape   *sheet.Shape // of its tracker, as it was read
	name    string
	memory  int64                          // of reminders, as it was read
	held    map[sheet.PartID][]sheet.RowID // what each reminder holds, told of or not
	told    map[sheet.PartID]map[sheet.RowID]bool
	of      map[sheet.PartID]sheet.TrackerID // the reminders' trackers
}

// PlanRound works out what a round would send now; it sends nothing.
func (d *Desk) PlanRound(ctx context.Context, t *sheet.Tracker, name string) (*RoundPlan, error) {
	return d.planRound(ctx, t, name, true)
}

func (d *Desk) planRound(ctx context.Context, t *sheet.Tracker, name string, links bool) (*RoundPlan, error) {
	p, err := t.Part(sheet.PartRound, name)
	if err != nil {
		return nil, err
	}
	ready, err := d.Program(t.Shape)
	if err != nil {
		return nil, err
	}
	round, err := program.Ready[*reminder.CompiledRound](ready, p.ID)
	if err != nil {
		return nil, err
	}
	now := d.Now()
	plan := &RoundPlan{Round: round, tracker: t.ID, shape: t.Shape, name: p.ID.String(), memory: d.memory.Load(), held: map[sheet.PartID][]sheet.RowID{}, told: map[sheet.PartID]map[sheet.RowID]bool{}, of: map[sheet.PartID]sheet.TrackerID{}}
	holdings, err := d.holdings(ctx, t, round, now, plan)
	if err != nil {
		return nil, err
	}
	if round.Everywhere {
		more, err := d.holdingsElsewhere(ctx, t, round, now, plan)
		if err != nil {
			return nil, err
		}
		holdings = append(holdings, more...)
	}
	if err := d.leaveOutPaused(ctx, plan, holdings); err != nil {
		return nil, err
	}
	for _, h := range holdings {
		plan.Nobody = append(plan.Nobody, h.Nobody...)
		plan.PassedOver = append(plan.PassedOver, h.PassedOver...)
	}
	_, names, err := d.Directory(ctx)
	if err != nil {
		return nil, err
	}
	act, pause, err := d.acting(ctx, t)
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
	plan.Letters, err = reminder.Letters(holdings, reminder.Context{Round: round, Tracker: t.Name, Now: now.In(t.Location()), Names: names, Link: d.linker(t), Act: act, Pause: pause})
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
func (d *Desk) leaveOutPaused(ctx context.Context, plan *RoundPlan, holdings []reminder.Holding) error {
	paused, err := d.store.Paused(ctx)
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
func (d *Desk) holdings(ctx context.Context, t *sheet.Tracker, round *reminder.CompiledRound, now time.Time, plan *RoundPlan) ([]reminder.Holding, error) {
	ready, err := d.Program(t.Shape)
	if err != nil {
		return nil, err
	}
	people, _, err := d.Directory(ctx)
	if err != nil {
		return nil, err
	}
	var out []reminder.Holding
	meter := d.Meter(ctx)
	for i := range t.Parts {
		p := &t.Parts[i]
		if p.Kind != sheet.PartReminder || !round.All && !slices.Contains(round.Reminders, p.ID) {
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
			if h, err = d.remembered(ctx, t, c, h, now, plan); err != nil {
				return nil, err
			}
		}
		out = append(out, h)
	}
	return out, nil
}

// holdingsElsewhere gives what the reminders of the other trackers hold, with
// where their rows are.
func (d *Desk) holdingsElsewhere(ctx context.Context, home *sheet.Tracker, round *reminder.CompiledRound, now time.Time, plan *RoundPlan) ([]reminder.Holding, error) {
	var out []reminder.Holding
	for _, t := range d.State().Trackers() {
		if t.ID == home.ID {
			continue
		}
		more, err := d.holdings(ctx, t, round, now, plan)
		if err != nil {
			return nil, err
		}
		act, _, err := d.acting(ctx, t)
		if err != nil {
			return nil, err
		}
		for i := range more {
			more[i].Place = &reminder.Place{Tracker: t.Name, Link: d.linker(t), Act: act}
		}
		out = append(out, more...)
	}
	return out, nil
}

// TryRound sends one person the mail that a round would send now, for a look;
// where the round has nothing for them, somebody else's. Its links do nothing.
func (d *Desk) TryRound(ctx context.Context, t *sheet.Tracker, name, to string) (*reminder.Letter, error) {
	if d.Mailer == nil {
		return nil, errors.New("this service sends no mail: start it with --smtp")
	}
	if v, err := value.Parse(to, value.Type{Kind: value.Person}); err != nil || v.IsBlank() {
		return nil, fmt.Errorf("%q is not a mail address", to)
	}
	plan, err := d.planRound(ctx, t, name, false)
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
	now := d.Now()
	return &l, d.Mailer.Send(ctx, &Mail{ID: ulid.MustNew(ulid.Timestamp(now), ulid.DefaultEntropy()).String(), To: to, Subject: "For a look: " + l.Subject, Text: l.Text, HTML: l.HTML, Date: now})
}

// remembered applies what is known of the rows from earlier rounds, and notes
// for the plan what is held and what is told.
func (d *Desk) remembered(ctx context.Context, t *sheet.Tracker, c *reminder.Compiled, h reminder.Holding, now time.Time, plan *RoundPlan) (reminder.Holding, error) {
	known, err := d.store.Reminded(ctx, t.ID, c.ID)
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
func (d *Desk) remember(ctx context.Context, b *store.Batch, plan *RoundPlan) error {
	now := d.Now()
	d.memory.Add(1)
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
func (d *Desk) Holdings(ctx context.Context, t *sheet.Tracker) ([]reminder.Holding, error) {
	return d.holdings(ctx, t, &reminder.CompiledRound{Round: &reminder.Round{All: true}}, d.Now(), nil)
}

func (d *Desk) linker(t *sheet.Tracker) func(reminder.Item) string {
	if d.Console == "" {
		return nil
	}
	return func(i reminder.Item) string {
		return fmt.Sprintf("%s/t/%s/%s?row=%s", d.Console, url.PathEscape(t.ID.String()), i.TabID, i.Row)
	}
}

// RoundDetail is what a round's run records.
type RoundDetail struct {
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
func (d *Desk) RunRound(ctx context.Context, by policy.Principal, cause sheet.CauseKind, t *sheet.Tracker, plan *RoundPlan) (*Result, *RoundDetail, error) {
	for range planTries {
		r, detail, err := d.runPlanned(ctx, by, cause, t, plan)
		if !errors.Is(err, errMemory) {
			return r, detail, err
		}
		was := plan
		if t = d.State().Tracker(t.ID); t == nil {
			return nil, nil, &sheet.NotFound{What: "tracker", Name: was.tracker.String()}
		}
		if plan, err = d.PlanRound(ctx, t, plan.name); err != nil {
			return nil, nil, err
		}
		plan.Occurrence, plan.Key = was.Occurrence, was.Key
	}
	return nil, nil, fmt.Errorf("round %s: %w, again and again: run it once more", plan.Round.Name, errMemory)
}

func (d *Desk) runPlanned(ctx context.Context, by policy.Principal, cause sheet.CauseKind, t *sheet.Tracker, plan *RoundPlan) (*Result, *RoundDetail, error) {
	detail := &RoundDetail{Occurrence: plan.Occurrence, People: len(plan.Letters), PassedOver: plan.PassedOver}
	for _, i := range plan.Nobody {
		detail.Nobody = append(detail.Nobody, fmt.Sprintf("%s (%s in %s)", i.Label, i.Row, i.Tab))
	}
	for _, l := range plan.Letters {
		detail.Rows += l.Count
	}
	attach, err := d.newestOf(ctx, t, plan.Round.Attach)
	if err != nil {
		return nil, nil, err
	}
	part := plan.Round.ID
	queue := func(ctx context.Context, b *store.Batch, r *Result) error {
		detail.Queued, detail.Already = 0, 0
		now := d.Now()
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
			if err := d.remember(ctx, b, plan); err != nil {
				return err
			}
		}
		if detail.Queued > 0 {
			r.Note.Outcome = engine.Done
		}
		return b.SetClocked(ctx, t.ID, part, plan.Occurrence)
	}
	req := Request{By: by, Key: plan.Key, Tracker: t.ID, Kind: "round", Name: plan.Round.Name, Alone: true, Cause: sheet.Cause{Kind: cause, Name: plan.Round.Name, Part: part},
		Work: func(turn *Turn) error {
			turn.Run.Detail = detail
			turn.Store(queue)
			turn.After(func(*Result) { d.nudge() })
			now := turn.Draft.Tracker(t.ID)
			if now == nil || partByID(now, part) == nil {
				return &sheet.NotFound{What: "round", Name: plan.Round.Name, In: t.Name}
			}
			if plan.memory != d.memory.Load() || now.Shape != plan.shape { // the round may be another, or look elsewhere
				return errMemory
			}
			return nil
		}}
	r, err := d.Commit(ctx, req)
	if err != nil {
		return nil, nil, err
	}
	return r, detail, nil
}

// newestOf gives the files that each rule wrote when it last wrote any, as far as
// they are still there.
func (d *Desk) newestOf(ctx context.Context, t *sheet.Tracker, rules []sheet.PartID) ([]string, error) {
	if len(rules) == 0 {
		return nil, nil
	}
	all, err := d.Snapshots(ctx, t)
	if err != nil {
		return nil, err
	}
	var out []string
	for _, id := range rules {
		first := slices.IndexFunc(all, func(s Snapshot) bool { return s.Rule == id && !s.Gone })
		for i := range all {
			if first >= 0 && all[i].Rule == id && all[i].At.Equal(all[first].At) && !all[i].Gone {
				out = append(out, all[i].Path)
			}
		}
	}
	return out, nil
}

func (d *Desk) nudge() {
	select {
	case d.wake <- struct{}{}:
	default:
	}
}
