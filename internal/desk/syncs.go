package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/setup"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Sync fetches a list's records and gives the request that takes them in.
func (d *Desk) Sync(ctx context.Context, who string, cause sheet.CauseKind, t *sheet.Tracker, name string) (Request, error) {
	p, err := t.Part(sheet.PartSync, name)
	if err != nil {
		return Request{}, err
	}
	s, err := setup.DecodeSync(p)
	if err != nil {
		return Request{}, err
	}
	list, err := listOf(t, s)
	if err != nil {
		return Request{}, err
	}
	if d.Lists == nil {
		return Request{}, errors.New("this service has no access to lists")
	}
	req := Request{Who: who, Tracker: t.ID, Kind: "sync", Name: p.Name, Cause: sheet.Cause{Kind: sheet.BySync, Name: p.Name, Part: p.ID, Says: string(cause)}}
	items, err := d.Lists.Fetch(ctx, list)
	if err != nil {
		failed := fmt.Errorf("fetching the list of sync %s: %w", p.Name, err)
		req.Make = func(*Turn) error { return failed }
		return req, nil // the failure is the run's to report
	}
	tracker, part := t.ID, *p
	req.Make = func(turn *Turn) error {
		tr := turn.Draft.Own(tracker)
		tab := tr.TabByID(s.Tab)
		if tab == nil {
			return fmt.Errorf("the tab of sync %s is not there any more", part.Name)
		}
		records := make([]reconcile.Record, 0, len(items))
		for i, item := range items {
			rec, err := readRecord(tab, s, item)
			if err != nil {
				return fmt.Errorf("record %d of the list: %w", i+1, err)
			}
			rec.Where = fmt.Sprintf("record %d", i+1)
			records = append(records, rec)
		}
		rep, err := reconcile.Take(turn.Draft, reconcile.Into{Tracker: tracker, Tab: s.Tab, Key: s.Key, Origin: "sync " + part.ID.String()}, records)
		turn.Detail = rep
		return err
	}
	return req, nil
}

func listOf(t *sheet.Tracker, s *setup.Sync) (*setup.List, error) {
	for i := range t.Parts {
		if t.Parts[i].ID == s.List {
			return setup.DecodeList(&t.Parts[i])
		}
	}
	return nil, fmt.Errorf("the list of the sync is not there any more")
}

func readRecord(tab *sheet.TabShape, s *setup.Sync, item any) (reconcile.Record, error) {
	rec := reconcile.Record{Cells: map[sheet.ColumnID]value.Value{}}
	for _, f := range append([]setup.Field{{Column: s.Key, From: s.From}}, s.Fields...) {
		c := tab.ByID(f.Column)
		if c == nil {
			return rec, fmt.Errorf("the column %s is not there any more", f.Column)
		}
		raw, err := reconcile.Pointer(item, f.From)
		if err != nil {
			return rec, fmt.Errorf("field %s: %w", f.From, err)
		}
		if nested, ok := raw.(map[string]any); ok {
			text, err := json.Marshal(nested)
			if err != nil {
				return rec, err
			}
			raw = string(text)
		}
		v, err := value.FromJSON(raw, c.Type)
		var misfit *value.Misfit
		if errors.As(err, &misfit) {
			v = value.OfOdd(misfit.Text)
		} else if err != nil {
			return rec, err
		}
		rec.Cells[c.ID] = v
	}
	return rec, nil
}
