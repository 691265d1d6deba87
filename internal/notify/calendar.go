package notify

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"example.org/kavlo/internal/formats/ics"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
)

// FeedPath is where calendars of due dates are, followed by a secret and ".ics".
const FeedPath = "/feed/"

// feedDays is how far ahead a calendar looks.
const feedDays = 366

// IssueFeed gives the private address of a person's calendar of due dates. An
// address given before goes on being good.
func (post *Post) IssueFeed(ctx context.Context, person int64) (string, error) {
	secret, err := post.Secrets.Issue(ctx, person, "feed", "calendar", 0)
	return post.Console + FeedPath + secret + ".ics", err
}

// DropFeeds makes every calendar address of a person invalid.
func (post *Post) DropFeeds(ctx context.Context, person int64) (int64, error) {
	return post.store.DropTokensOf(ctx, person, "feed")
}

// Feed gives the calendar of the person for whom a feed's secret stands: the due
// dates of rows that reminders hold for them, or will hold if nothing is done.
func (post *Post) Feed(ctx context.Context, secret string) (string, []ics.Entry, error) {
	p, err := post.Secrets.Bearer(ctx, secret, "feed")
	if err != nil {
		return "", nil, err
	}
	var out []ics.Entry
	for _, t := range post.Seen(principalOf(p)).Trackers() {
		entries, err := post.feedOf(ctx, t, p)
		if err != nil {
			return "", nil, err
		}
		out = append(out, entries...)
	}
	slices.SortStableFunc(out, func(a, b ics.Entry) int {
		if c := a.Day.Compare(b.Day); c != 0 {
			return c
		}
		return strings.Compare(a.UID, b.UID)
	})
	return "Due, " + p.Name, out, nil
}

func (post *Post) feedOf(ctx context.Context, t *sheet.Tracker, p store.Person) ([]ics.Entry, error) {
	ready, err := post.Program(t.Shape)
	if err != nil {
		return nil, err
	}
	people, _, err := post.Directory(ctx)
	if err != nil {
		return nil, err
	}
	now := post.Now()
	until := value.DateOf(now.In(t.Location())).Days() + feedDays
	link := post.linker(t)
	var out []ics.Entry
	for i := range t.Definitions {
		if t.Definitions[i].Kind != sheet.KindReminder {
			continue
		}
		r, err := program.Ready[*reminder.Compiled](ready, t.Definitions[i].ID)
		if err != nil {
			return nil, err
		}
		if r.Due == "" {
			continue
		}
		meter := post.Meter(ctx)
		c := r.Metered(meter)
		items := append(c.Collect(t, people, now).Items, c.Ahead(t, people, now, until)...)
		if err := meter.Err(); err != nil {
			return nil, fmt.Errorf("reminder %s: %w", r.Name, err)
		}
		for _, item := range items {
			if item.Since == 0 || !slices.Contains(item.To, p.Address) {
				continue
			}
			e := ics.Entry{UID: fmt.Sprintf("%s-%s-%s@kavlo", t.ID, r.ID, item.Row), Day: value.OfDays(item.Since).Time(), Title: item.Label + ": " + r.Name, Text: shownText(r.Reminder, item), Kind: r.Name, Stated: now.Truncate(time.Second)}
			if link != nil {
				e.Link = link(item)
			}
			out = append(out, e)
		}
	}
	return out, nil
}

func shownText(r *reminder.Reminder, i reminder.Item) string {
	var lines []string
	for n, s := range i.Shown {
		if s != "" {
			lines = append(lines, r.Show[n].Title+": "+s)
		}
	}
	return strings.Join(append(lines, "In "+i.Tab), "\n")
}
