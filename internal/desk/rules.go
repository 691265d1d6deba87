package desk

import (
	"example.org/kavlo/internal/rule"
	"example.org/kavlo/internal/sheet"
)

// FindRule finds a compiled rule by name or id.
func (d *Desk) FindRule(t *sheet.Tracker, name string) (*rule.Compiled, error) {
	p, err := t.Part(sheet.PartRule, name)
	if err != nil {
		return nil, err
	}
	rules, err := d.Book(t.Shape)
	if err != nil {
		return nil, err
	}
	for _, r := range rules.List {
		if r.ID == p.ID {
			return r, nil
		}
	}
	return nil, &sheet.NotFound{What: "rule", Name: name, In: t.Name}
}

// RunRule runs a rule by hand on all rows of its tabs.
func (d *Desk) RunRule(who string, t *sheet.Tracker, r *rule.Compiled) Request {
	return Request{Who: who, Tracker: t.ID, Kind: "rule", Name: r.Name, run: r,
		Cause: sheet.Cause{Kind: sheet.ByHand, Name: r.Name, Part: r.ID}}
}

// PauseRule stops a rule from being woken, or lets it be woken again.
func (d *Desk) PauseRule(who string, tracker sheet.TrackerID, part sheet.PartID, paused bool) Request {
	return d.reshape(who, tracker, func(s *sheet.Shape) error {
		for i := range s.Parts {
			if s.Parts[i].ID != part {
				continue
			}
			r, err := rule.Decode(&s.Parts[i])
			if err != nil {
				return err
			}
			r.Paused = paused
			s.Parts[i].Body = mustJSON(r)
			return nil
		}
		return &sheet.NotFound{What: "rule", Name: part.String(), In: s.Name}
	})
}
