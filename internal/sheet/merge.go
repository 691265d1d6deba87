package sheet

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
)

// TakenBack gives the shape without one change of setup that was made to it, whatever was
// changed since: was is the shape before that change and is the one after it. What has
// been changed again since is an error that names it.
func (s *Shape) TakenBack(was, is *Shape) (*Shape, error) {
	s, was, is = s.unsettled(), was.unsettled(), is.unsettled()
	out := s.Clone()
	for _, own := range []struct {
		what    string
		changed bool
		again   bool
		back    func()
	}{
		{"the tracker's name", was.Name != is.Name, s.Name != is.Name, func() { out.Name = was.Name }},
		{"the tracker's place", was.Place != is.Place, s.Place != is.Place, func() { out.Place = was.Place }},
		{"the time zone", was.Zone != is.Zone, s.Zone != is.Zone, func() { out.Zone = was.Zone }},
		{"the way to write dates", was.Dates != is.Dates, s.Dates != is.Dates, func() { out.Dates = was.Dates }},
		{"the way to write numbers", was.Numbers != is.Numbers, s.Numbers != is.Numbers, func() { out.Numbers = was.Numbers }},
		{"the working days", !alike(was.Working, is.Working), !alike(s.Working, is.Working), func() { out.Working = was.Working }},
		{"the access", !alike(was.Access, is.Access), !alike(s.Access, is.Access), func() { out.Access = was.Access }},
	} {
		if !own.changed {
			continue
		}
		if own.again {
			return nil, fmt.Errorf("%s has been changed since", own.what)
		}
		own.back()
	}
	if err := out.tabsTakenBack(was, is); err != nil {
		return nil, err
	}
	err := takenBack(&out.Definitions, was.Definitions, is.Definitions, func(d *Definition) DefinitionID { return d.ID }, func(d *Definition) string { return string(d.Kind) + " " + d.Name })
	out.Settle()
	return out, err
}

func (s *Shape) tabsTakenBack(was, is *Shape) error {
	heads := func(tabs []TabShape) []TabShape { // what is a tab's own, besides its columns
		out := make([]TabShape, len(tabs))
		for i, t := range tabs {
			out[i] = TabShape{ID: t.ID, Name: t.Name, Label: t.Label}
		}
		return out
	}
	tabs := heads(s.Tabs)
	if err := takenBack(&tabs, heads(was.Tabs), heads(is.Tabs), func(t *TabShape) TabID { return t.ID }, func(t *TabShape) string { return "tab " + t.Name }); err != nil {
		return err
	}
	for i := range tabs {
		t := &tabs[i]
		before, after, now := was.TabByID(t.ID), is.TabByID(t.ID), s.TabByID(t.ID)
		switch {
		case now == nil: // it comes back
			t.Columns = slices.Clone(before.Columns)
			continue
		case before == nil || after == nil:
			t.Columns = now.Columns
			continue
		}
		t.Columns = slices.Clone(now.Columns)
		err := takenBack(&t.Columns, before.Columns, after.Columns, func(c *Column) ColumnID { return c.ID }, func(c *Column) string { return "column " + c.Name + " of " + now.Name })
		if err != nil {
			return err
		}
	}
	s.Tabs = tabs
	return nil
}

// takenBack takes a change from was to is back in a list of things with ids. What is
// added comes after what it came after before.
func takenBack[T any, ID comparable](now *[]T, was, is []T, id func(*T) ID, name func(*T) string) error {
	find := func(list []T, wanted ID) int {
		return slices.IndexFunc(list, func(x T) bool { return id(&x) == wanted })
	}
	var err error
	*now = slices.DeleteFunc(slices.Clone(*now), func(x T) bool {
		at := find(is, id(&x))
		if at < 0 || find(was, id(&x)) >= 0 { // not added by the change
			return false
		}
		if !alike(x, is[at]) {
			err = errors.Join(err, fmt.Errorf("%s has been changed since", name(&x)))
			return false
		}
		return true
	})
	for i := range was {
		before := &was[i]
		after, at := find(is, id(before)), find(*now, id(before))
		switch {
		case after >= 0 && alike(is[after], *before):
		case after < 0 && at < 0: // it comes back
			place := 0
			if i > 0 {
				place = find(*now, id(&was[i-1])) + 1
			}
			*now = slices.Insert(*now, place, *before)
		case after >= 0 && at >= 0 && alike((*now)[at], is[after]):
			(*now)[at] = *before
		case at < 0:
			err = errors.Join(err, fmt.Errorf("%s is not there any more", name(before)))
		default:
			err = errors.Join(err, fmt.Errorf("%s has been changed since", name(&(*now)[at])))
		}
	}
	return errors.Join(err, orderTakenBack(*now, was, is, id, name))
}

// orderTakenBack puts what stands in now, before and after a change in the order of before,
// where the change altered it.
func orderTakenBack[T any, ID comparable](now, was, is []T, id func(*T) ID, name func(*T) string) error {
	among := func(list []T, others ...[]T) (out []ID) {
		for i := range list {
			one := id(&list[i])
			if !slices.ContainsFunc(others, func(o []T) bool {
				return !slices.ContainsFunc(o, func(x T) bool { return id(&x) == one })
			}) {
				out = append(out, one)
			}
		}
		return out
	}
	before, after := among(was, is, now), among(is, was, now)
	if slices.Equal(before, after) {
		return nil
	}
	var places []int
	by := map[ID]T{}
	for i := range now {
		if one := id(&now[i]); slices.Contains(before, one) {
			places, by[one] = append(places, i), now[i]
		}
	}
	if !slices.Equal(among(now, was, is), after) {
		return fmt.Errorf("the order of %s and others has been changed since", name(&now[places[0]]))
	}
	for i, one := range before {
		now[places[i]] = by[one]
	}
	return nil
}

func alike(a, b any) bool {
	x, errX := json.Marshal(a)
	y, errY := json.Marshal(b)
	return errX == nil && errY == nil && bytes.Equal(x, y)
}
