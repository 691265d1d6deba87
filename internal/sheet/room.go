package sheet

// Spot is where in a tab rows go: before a row, or after it.
type Spot struct {
	Row   RowID
	After bool
}

// MakeRoom gives places for n rows at a spot of a tab, the first of them least. Where rows
// stand too close together there, those that follow are moved on to make room.
func (d *Draft) MakeRoom(to Place, at Spot, n, because int) ([]int64, error) {
	if _, err := d.place(to); err != nil {
		return nil, err
	}
	t := d.Tracker(to.Tracker)
	if r := t.Row(at.Row); r == nil || r.Tab != to.Tab {
		return nil, &NotFound{What: "row", Name: at.Row.String(), In: t.TabByID(to.Tab).Name}
	}
	var before int64
	var following []*Row // those after the spot, up to the first gap that is wide enough
	wide := int64(n) + 1
	for row := range t.Rows(to.Tab) {
		here := row.ID == at.Row
		if len(following) == 0 && !here && row.Pos < t.Row(at.Row).Pos || here && at.After {
			before = row.Pos
			continue
		}
		last, enough := before, wide
		if len(following) > 0 { // they move half of the gap
			last, enough = following[len(following)-1].Pos, 2*wide
		}
		if row.Pos-last > enough {
			return d.roomBefore(t, following, before, row.Pos, n, because)
		}
		following = append(following, row)
	}
	last := before
	if len(following) > 0 {
		last = following[len(following)-1].Pos
	}
	return d.roomBefore(t, following, before, last+posGap*(wide+1), n, because)
}

// roomBefore parts what lies between before and the first of the rows that follow into n
// places, once these rows have moved half way towards the gap's end.
func (d *Draft) roomBefore(t *Tracker, following []*Row, before, end int64, n, because int) ([]int64, error) {
	if len(following) > 0 {
		by := (end - following[len(following)-1].Pos) / 2
		end = following[0].Pos + by
		for i := len(following) - 1; i >= 0; i-- {
			row := following[i]
			c := Change{Kind: Move, Tracker: t.ID, Tab: row.Tab, Row: row.ID, ToTracker: t.ID, ToTab: row.Tab, ToPos: row.Pos + by, Because: because}
			if err := d.Apply(c); err != nil {
				return nil, err
			}
		}
	}
	places := make([]int64, n)
	for i := range places {
		places[i] = before + (end-before)*int64(i+1)/int64(n+1)
	}
	return places, nil
}

// InPlace reports whether a change moves a row within its tab.
func (c *Change) InPlace() bool {
	return c.Kind == Move && c.Tab == c.ToTab && (c.ToTracker == 0 || c.ToTracker == c.Tracker)
}
