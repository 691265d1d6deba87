package notify

import (
	"context"
	"fmt"
	"slices"
	"time"

	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/sheet"
)

// Tallies are the figures that go with a round's mails, as somebody sees them; those that
// they do not see are left out.
type Tallies interface {
	// Leave leaves the tallies in a folder, each as a picture and a workbook, and gives
	// their paths.
	Leave(ctx context.Context, by policy.Principal, t *sheet.Tracker, round *reminder.CompiledRound, folder string) ([]string, error)
	// Figures gives them as small tables.
	Figures(ctx context.Context, by policy.Principal, t *sheet.Tracker, round *reminder.CompiledRound) ([]reminder.Figures, error)
}

// attachesTallies reports whether tallies go with a round's mails.
func (post *Post) attachesTallies(t *sheet.Tracker, round *reminder.CompiledRound) bool {
	return post.Tallies != nil && slices.ContainsFunc(round.Attach, func(id sheet.DefinitionID) bool {
		d := t.DefinitionByID(id)
		return d != nil && d.Kind == sheet.KindTally
	})
}

// bySightOf works something out for each recipient as they may see it: those who see the
// same share it. Somebody who is no person of the workspace gets what whoever set the round
// up chose.
func bySightOf[T any](ctx context.Context, post *Post, t *sheet.Tracker, work func(by policy.Principal, key string, nth int) (T, error)) (func(to string) (T, error), error) {
	people, err := post.store.People(ctx)
	if err != nil {
		return nil, err
	}
	made := map[string]T{}
	return func(to string) (T, error) {
		by := policy.Itself(policy.ByClock)
		for _, p := range people {
			if p.Address == to {
				by = principalOf(p)
			}
		}
		key := post.Sight(by, t).Key()
		out, known := made[key]
		if known {
			return out, nil
		}
		out, err := work(by, key, len(made))
		if err == nil {
			made[key] = out
		}
		return out, err
	}, nil
}

// talliesFor leaves the tallies that a round attaches as files, and gives their paths by
// recipient: each gets what they may see.
func (post *Post) talliesFor(ctx context.Context, t *sheet.Tracker, plan *Plan) (map[string][]string, error) {
	if len(plan.Letters) == 0 || !post.attachesTallies(t, plan.Round) {
		return nil, nil
	}
	paths, err := bySightOf(ctx, post, t, func(by policy.Principal, key string, nth int) ([]string, error) {
		folder := fmt.Sprintf("rounds/%s %s", plan.Round.Name, plan.Occurrence.UTC().Format(time.DateOnly))
		if key != "" {
			folder = fmt.Sprintf("%s/in part %d", folder, nth)
		}
		return post.Tallies.Leave(ctx, by, t, plan.Round, folder)
	})
	if err != nil {
		return nil, err
	}
	out := map[string][]string{}
	for _, l := range plan.Letters {
		if out[l.To], err = paths(l.To); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// figuresFor gives the tallies that stand in a round's mails, by recipient; one that cannot
// be worked out is named among what the plan passes over.
func (post *Post) figuresFor(ctx context.Context, t *sheet.Tracker, plan *Plan) (func(to string) []reminder.Figures, error) {
	if !post.attachesTallies(t, plan.Round) {
		return nil, nil
	}
	of, err := bySightOf(ctx, post, t, func(by policy.Principal, _ string, _ int) ([]reminder.Figures, error) {
		return post.Tallies.Figures(ctx, by, t, plan.Round)
	})
	if err != nil {
		return nil, err
	}
	return func(to string) []reminder.Figures {
		out, err := of(to)
		if err != nil {
			if says := "tallies are not in the mails: " + err.Error(); !slices.Contains(plan.PassedOver, says) { // reminders are worth more than figures
				plan.PassedOver = append(plan.PassedOver, says)
			}
		}
		return out
	}, nil
}
