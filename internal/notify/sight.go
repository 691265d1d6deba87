package notify

import (
	"context"
	"slices"

	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/reminder"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
)

// A mail shows what its recipient may see. Somebody who is not a person of the workspace
// gets what whoever set the reminder up chose to show.

// principalOf is a person as one who reads.
func principalOf(p store.Person) policy.Principal {
	return policy.OfPerson(p.ID, p.Name, p.Address, p.Access)
}

// bySight takes people off rows that they may not see, or that a reminder shows of which
// they may not see all, and gives them labels that they may.
func (post *Post) bySight(ctx context.Context, t *sheet.Tracker, h *reminder.Holding) error {
	if t.Access == nil || len(h.Items) == 0 {
		return nil
	}
	people, err := post.store.People(ctx)
	if err != nil {
		return err
	}
	for _, p := range people {
		by := principalOf(p)
		if post.Sight(by, t).Whole() {
			continue
		}
		seen := post.SeenBy(by, t)
		var own []reminder.Item
		for i := range h.Items {
			item := &h.Items[i]
			if !slices.Contains(item.To, p.Address) {
				continue
			}
			item.To = slices.DeleteFunc(slices.Clone(item.To), func(to string) bool { return to == p.Address })
			if seen == nil || seen.DefinitionByID(h.Reminder.ID) == nil || seen.Row(item.Row) == nil {
				continue
			}
			theirs := *item
			theirs.To, theirs.Label = []string{p.Address}, seen.Label(seen.Row(item.Row))
			own = append(own, theirs)
		}
		h.Items = append(h.Items, own...)
	}
	h.Items = slices.DeleteFunc(h.Items, func(item reminder.Item) bool { return len(item.To) == 0 })
	return nil
}
