package reconcile

import (
	"fmt"

	"example.org/kavlo/internal/value"
)

// Counts tells how many of each outcome a plan holds.
type Counts struct {
	AddTab     int `json:"added_to_tab"`
	AddList    int `json:"added_to_list"`
	UpdateTab  int `json:"updated_in_tab"`
	UpdateList int `json:"updated_in_list"`
	GoneList   int `json:"gone_from_list"`
	GoneTab    int `json:"gone_from_tab"`
	Conflicts  int `json:"conflicts"`
	Unchanged  int `json:"unchanged"`
	Left       int `json:"on_one_side"`
}

// Counts counts the plan's outcomes.
func (p *Plan) Counts() Counts {
	n := Counts{Unchanged: p.Unchanged, Left: p.Left}
	for i := range p.Outcomes {
		o := &p.Outcomes[i]
		switch o.Kind {
		case AddToTab:
			n.AddTab++
		case AddToList:
			n.AddList++
		case GoneList:
			n.GoneList++
		case GoneTab:
			n.GoneTab++
		case Conflict:
			n.Conflicts++
		case Update, Settled:
		}
		if o.Kind == Update || o.Kind == Conflict && o.Lost == "" {
			if len(o.ToTab) > 0 || o.Rekey == ByList {
				n.UpdateTab++
			}
			if len(o.ToList) > 0 || o.Rekey == ByTab {
				n.UpdateList++
			}
		}
	}
	return n
}

// Beyond says that a sync would change or remove more of one side than its
// guard allows, or that a side is empty that was not before; nothing is done.
type Beyond struct {
	Side    Winner // whose records would change or go
	Touched int
	Of      int
	Share   float64 // the guard's
	Empty   Winner  // the side that is empty, or ""
}

func (e *Beyond) Error() string {
	if e.Empty == ByList {
		return fmt.Sprintf("the list answered with no records, where %d are known: nothing was done; if it is meant to be empty, remove the rows by hand", e.Of)
	}
	if e.Empty == ByTab {
		return fmt.Sprintf("the tab holds no rows, where %d records are known: nothing was done; if it is meant to be empty, empty the list by hand", e.Of)
	}
	what := "rows of the tab"
	if e.Side == ByList {
		what = "records of the list"
	}
	return fmt.Sprintf("%d of %d %s would change or go (%.0f %%), more than the change limit of %.0f %%: nothing was done", e.Touched, e.Of, what, 100*float64(e.Touched)/float64(e.Of), 100*e.Share)
}

// RunOutcome is how a run ends that a guard has stopped.
func (e *Beyond) RunOutcome() string { return "stopped" }

// Guard holds the plan against the share of either side that may change or go.
// An empty side that had records is stopped in any case; allowed is a person's
// word that more than the share may go.
func (p *Plan) Guard(share float64, allowed bool) error {
	if p.inList == 0 && p.based > 0 && p.Policy.Direction != Out {
		return &Beyond{Empty: ByList, Of: p.based}
	}
	if p.inTab <= 0 && p.based > 0 && p.Policy.Direction != In {
		return &Beyond{Empty: ByTab, Of: p.based}
	}
	if allowed {
		return nil
	}
	n := p.Counts()
	rows, records := n.UpdateTab, n.UpdateList
	if p.Policy.Gone != Keep {
		rows += n.GoneList
	}
	if p.Policy.Gone == Remove {
		records += n.GoneTab
	}
	if over(rows, p.inTab, share) {
		return &Beyond{Side: ByTab, Touched: rows, Of: p.inTab, Share: share}
	}
	if over(records, p.inList, share) {
		return &Beyond{Side: ByList, Touched: records, Of: p.inList, Share: share}
	}
	return nil
}

func over(touched, of int, share float64) bool {
	return touched > 0 && float64(touched) > share*float64(of)
}

// Only keeps the outcomes of keys that a person has decided.
func (p *Plan) Only(keys map[string]Decision) {
	kept := p.Outcomes[:0]
	for _, o := range p.Outcomes {
		if _, decided := keys[Fold(o.Key)]; decided {
			kept = append(kept, o)
		}
	}
	p.Outcomes = kept
}

// After gives what both sides are once the outcome's rows are written and, with
// sent, its writes to the list have been made; nil where nothing is to be
// remembered any more.
func (o *Outcome) After(sent bool) *Base {
	n := 0
	for _, it := range []*Item{o.List, o.Tab} {
		if it != nil {
			n = len(it.Fields)
		}
	}
	b := &Base{Key: o.Key.String(), Fields: make([]value.Value, n)}
	if o.Base != nil {
		b.Key, b.Row, b.ID, b.Left = o.Base.Key, o.Base.Row, o.Base.ID, o.Base.Left
		copy(b.Fields, o.Base.Fields)
	}
	if o.List != nil {
		b.ID = o.List.ID
	}
	if o.Tab != nil {
		b.Row = o.Tab.Row
	}
	switch o.Kind {
	case Settled:
		if o.List == nil && o.Tab == nil {
			return nil
		}
		if o.List == nil || o.Tab == nil {
			b.Left = o.Leave
			return b
		}
		b.agree(o, nil)
	case AddToTab:
		b.Key, b.Left, b.Row = o.Key.String(), "", o.Row
		copy(b.Fields, o.List.Fields)
	case AddToList:
		if !sent {
			return o.Base
		}
		b.Left = ""
		clear(b.Fields)
		for _, f := range o.ToList {
			b.Fields[f] = o.Tab.Fields[f]
		}
	case Update, Conflict:
		if o.Lost != "" {
			return o.Base
		}
		b.agree(o, o.Clash)
		if !sent {
			for _, f := range o.ToList {
				b.Fields[f] = *o.Base.field(f)
			}
		}
		switch {
		case o.Rekey == ByList:
			b.Key = o.List.Key.String()
		case o.Rekey == ByTab && sent:
			b.Key = o.Tab.Key.String()
		}
	case GoneList:
		if b.Left = o.Leave; o.Leave == "" { // the row went too
			return nil
		}
	case GoneTab:
		switch {
		case o.Leave != "":
			b.Left = o.Leave
		case sent: // the record went too
			return nil
		}
	}
	return b
}

// agree takes the values that both sides have or will have; those that clash,
// and those that neither side takes from the other, stay as they were.
func (b *Base) agree(o *Outcome, clash []int) {
	b.Left = ""
	for i := range b.Fields {
		if same(&o.List.Fields[i], &o.Tab.Fields[i]) {
			b.Fields[i] = o.List.Fields[i]
		}
	}
	for _, f := range o.ToTab {
		b.Fields[f] = o.List.Fields[f]
	}
	for _, f := range o.ToList {
		b.Fields[f] = o.Tab.Fields[f]
	}
	for _, f := range clash {
		b.Fields[f] = *o.Base.field(f)
	}
}

// Sends reports whether the outcome is written to the list.
func (o *Outcome) Sends() bool {
	switch o.Kind {
	case AddToList:
		return true
	case GoneTab:
		return o.Leave == ""
	case Update, Conflict:
		return o.Lost == "" && (len(o.ToList) > 0 || o.Rekey == ByTab)
	case AddToTab, GoneList, Settled:
	}
	return false
}
