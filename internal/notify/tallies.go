package notify

import (
	"context"
	"fmt"
	"slices"
	"time"

	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/sheet"
)

// talliesFor leaves the tallies that a round attaches as files, and gives their paths by
// recipient: each gets what they may see. Those who see the same share the files; somebody
// who is no person of the workspace gets what whoever set the round up chose.
func (post *Post) talliesFor(ctx context.Context, t *sheet.Tracker, plan *Plan) (map[string][]string, error) {
	wanted := slices.ContainsFunc(plan.Round.Attach, func(id sheet.DefinitionID) bool {
		d := t.DefinitionByID(id)
		return d != nil && d.Kind == sheet.KindTally
	})
	if !wanted || post.Tallies == nil || len(plan.Letters) == 0 {
		return nil, nil
	}
	people, err := post.store.People(ctx)
	if err != nil {
		return nil, err
	}
	out, made := map[string][]string{}, map[string][]string{}
	for _, l := range plan.Letters {
		by := policy.Itself(policy.ByClock)
		for _, p := range people {
			if p.Address == l.To {
				by = principalOf(p)
			}
		}
		key := post.Sight(by, t).Key()
		paths, known := made[key]
		if !known {
			folder := fmt.Sprintf("rounds/%s %s", plan.Round.Name, plan.Occurrence.UTC().Format(time.DateOnly))
			if key != "" {
				folder = fmt.Sprintf("%s/in part %d", folder, len(made))
			}
			if paths, err = post.Tallies(ctx, by, t, plan.Round, folder); err != nil {
				return nil, err
			}
			made[key] = paths
		}
		out[l.To] = paths
	}
	return out, nil
}
