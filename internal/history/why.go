package history

import (
	"context"
	"fmt"
	"time"

	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/value"
)

// Link is one link of the chain that leads from what is to who or what set it off.
type Link struct {
	Says string    `json:"says"`
	Who  string    `json:"who"`
	At   time.Time `json:"at"`
	Seq  int64     `json:"seq"`
	Run  string    `json:"run,omitempty"`
	Rule string    `json:"rule,omitempty"`
}

// Why follows the causes of what put a row where it is, or without column 0 of
// the last change of one of its cells, back to a person, the clock or a list.
// The first link is the change itself. It is told as it looks in w, with what left gives
// of each change set.
func (h *History) Why(ctx context.Context, w *sheet.Workspace, left func(*sheet.ChangeSet) *sheet.ChangeSet, row sheet.RowID, column sheet.ColumnID) ([]Link, error) {
	sets, err := h.store.RowHistory(ctx, row, 500)
	if err != nil {
		return nil, err
	}
	for _, set := range sets {
		set = left(set)
		for i := len(set.Changes) - 1; i >= 0; i-- {
			c := set.Changes[i]
			placed := c.Kind == sheet.Add || c.Kind == sheet.Move && !c.InPlace()
			if column == 0 && placed || column != 0 && (c.Kind == sheet.Set && c.Column == column || c.Kind == sheet.Add && hasCell(c, column)) {
				return h.chain(w, set, i), nil
			}
		}
	}
	return nil, nil
}

func hasCell(c sheet.Change, column sheet.ColumnID) bool {
	return c.Image.Get(column).Kind() != value.Blank
}

func (h *History) chain(w *sheet.Workspace, set *sheet.ChangeSet, i int) []Link {
	c := set.Changes[i]
	links := []Link{h.link(set, w.Describe(c)+", by "+Because(set, c.Because), c.Because)}
	for at := c.Because; at >= 0 && at < len(set.Causes); {
		woke := set.Causes[at].Woke
		if woke < 0 {
			break
		}
		if says := wokenFrom(set, woke); says != "" {
			links = append(links, h.link(set, "because "+says, woke))
		}
		for j := i - 1; j >= 0; j-- {
			if set.Changes[j].Because == woke && set.Changes[j].Row == c.Row && set.Changes[j].Kind != sheet.Move {
				links = append(links, h.link(set, "because "+Because(set, woke)+" "+w.Describe(set.Changes[j]), woke))
				i = j
				break
			}
		}
		at = woke
	}
	return links
}

// wokenFrom says what woke a rule, where that changed nothing itself; "" where
// it was a change.
func wokenFrom(set *sheet.ChangeSet, cause int) string {
	switch c := set.Causes[cause]; c.Kind {
	case sheet.ByFile:
		return fmt.Sprintf("the file %s arrived or changed", c.Name)
	case sheet.ByClock:
		return "its hour came"
	case sheet.ByHand:
		return set.Who + " ran it"
	case sheet.ByCall:
		return "an API call asked for it"
	}
	return ""
}

func (h *History) link(set *sheet.ChangeSet, says string, cause int) Link {
	l := Link{Says: says, Who: set.Who, At: set.At, Seq: set.Seq, Run: set.Run}
	if cause < len(set.Causes) && set.Causes[cause].Kind == sheet.ByRule {
		l.Rule = set.Causes[cause].Name
	}
	return l
}

// Because says what made a change, in words.
func Because(set *sheet.ChangeSet, cause int) string {
	if cause >= len(set.Causes) {
		return set.Who
	}
	switch c := set.Causes[cause]; c.Kind {
	case sheet.ByRule:
		return fmt.Sprintf("the rule %q (step %d)", c.Name, c.Step)
	case sheet.ByClock:
		return fmt.Sprintf("the rule %q at its hour", c.Name)
	case sheet.ByHand:
		return fmt.Sprintf("the rule %q, run by %s", c.Name, set.Who)
	case sheet.ByCall:
		return fmt.Sprintf("the rule %q, on an API call", c.Name)
	case sheet.BySync:
		return fmt.Sprintf("the sync %q", c.Name)
	case sheet.ByImport:
		return fmt.Sprintf("%s from the file %s", set.Who, c.Name)
	case sheet.ByFile:
		return fmt.Sprintf("the file %s, which arrived or changed", c.Name)
	case sheet.ByUndo:
		return fmt.Sprintf("%s, undoing %s", set.Who, c.Name)
	case sheet.ByForm:
		return fmt.Sprintf("%s, by the form %q", set.Who, c.Name)
	case sheet.ByPages:
		return fmt.Sprintf("%s, for pages of %q", set.Who, c.Name)
	case sheet.BySetup:
		return fmt.Sprintf("%s in the setup", set.Who)
	}
	return set.Who
}

// addedWithin is how many change sets are looked through for what added something.
const addedWithin = 2000

// AddedBy gives the newest change set of a tracker, of a time or later, that gave its shape
// something that it had not; nil where none of late did.
func (h *History) AddedBy(ctx context.Context, tracker sheet.TrackerID, since time.Time, has func(*sheet.Shape) bool) (*sheet.ChangeSet, error) {
	var found *sheet.ChangeSet
	err := h.reshapes(ctx, tracker, since, addedWithin, func(set *sheet.ChangeSet, c *sheet.Change) bool {
		if has(c.ShapeAfter) && !has(c.ShapeBefore) {
			found = set
		}
		return found == nil
	})
	return found, err
}

// reshapes gives the changes of a tracker's shape among its last change sets, of a time or
// later, newest first, until no more are wanted.
func (h *History) reshapes(ctx context.Context, tracker sheet.TrackerID, since time.Time, most int, each func(*sheet.ChangeSet, *sheet.Change) (more bool)) error {
	before := int64(0)
	for looked := 0; looked < most; {
		sets, err := h.store.Journaled(ctx, store.Which{Tracker: tracker, Before: before, Limit: 200})
		if err != nil || len(sets) == 0 {
			return err
		}
		for _, set := range sets {
			if set.At.Before(since) {
				return nil
			}
			looked++
			before = set.Seq
			if set.Counts[string(sheet.Reshape)] == 0 {
				continue
			}
			whole, err := h.store.ChangeSet(ctx, set.Seq)
			if err != nil {
				return err
			}
			for i := range whole.Changes {
				c := &whole.Changes[i]
				if c.Kind == sheet.Reshape && c.Tracker == tracker && !each(whole, c) {
					return nil
				}
			}
		}
	}
	return nil
}
