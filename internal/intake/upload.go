package intake

import (
	"cmp"
	"fmt"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/value"
)

// Import says where the tables of a file go.
type Import struct {
	Tracker sheet.TrackerID // 0: a new tracker
	New     string          // its name
	Zone    string          // its time zone
	Sheet   string          // only the tables of this sheet, or "" for all
	Tab     string          // the tab for the one table there is; "": named after the sheet
	// Conflicts says whose value a cell takes that has changed on both sides: file, here, or
	// "" to leave it as it is here and name it.
	Conflicts string
	Key       string // the column by which rows are added or updated; "": rows not taken in before are added
}

// Imported tells what became of one table.
type Imported struct {
	Sheet   string            `json:"sheet,omitempty"`
	Range   string            `json:"range"`
	Tab     string            `json:"tab"`
	Rows    int               `json:"rows"`
	Columns []string          `json:"new_columns,omitempty"`
	Offers  []string          `json:"offers,omitempty"` // columns that could be computed, and by what
	Doubts  []string          `json:"doubts,omitempty"`
	LeftOut []reading.LeftOut `json:"left_out,omitempty"`
	Taken   *reconcile.Report `json:"taken"`
}

// ImportDetail is what an import's run records.
type ImportDetail struct {
	File    string     `json:"file"`
	Tables  []Imported `json:"tables"`
	LeftOut []Beside   `json:"left_out,omitempty"` // of the sheets, outside the tables
}

// Beside is part of a sheet that no table holds.
type Beside struct {
	Sheet  string `json:"sheet,omitempty"`
	Range  string `json:"range"`
	Reason string `json:"reason"`
}

// Take gives the request that takes a file's tables into tabs: tabs and columns
// that are not there are made, rows are added or, with a key, updated. Taking
// in the same file twice changes nothing. Once the request is committed, the
// reading is used up.
func (box *Intake) Take(by policy.Principal, file *reading.Reading, in Import) engine.Request {
	name := file.File
	req := engine.Request{By: by, Tracker: in.Tracker, Kind: "import", Name: name, Release: func() { file = nil },
		Cause: sheet.Cause{Kind: sheet.ByImport, Name: name}, Work: func(t *engine.Turn) error { return box.take(t, file, in) }}
	box.provide(&req, file, in)
	return req
}

// source is a table with the tab it goes to.
type source struct {
	sheet *reading.Sheet
	table *reading.Table
	tab   string
	spend bool              // it is not needed again
	known *reading.Identity // where its rows say which rows of the tracker they are
	// digest is the file's; "": what it holds is not known again.
	digest string
}

// keyOr gives the table's own key, or that of the import.
func (s *source) keyOr(key string) string { return cmp.Or(s.table.Key, key) }

func (box *Intake) take(t *engine.Turn, file *reading.Reading, in Import) error {
	sources, err := sourcesOf(file, in)
	if err != nil {
		return err
	}
	if in.Tracker == 0 {
		in.Tracker = sheet.TrackerID(box.NewID())
		made := sheet.Change{Kind: sheet.Reshape, Tracker: in.Tracker, ShapeAfter: &sheet.Shape{Name: in.New, Zone: in.Zone}}
		if err := t.Draft.Apply(made); err != nil {
			return err
		}
	}
	tr := t.Draft.Own(in.Tracker)
	if tr == nil {
		return &sheet.NotFound{What: "tracker", Name: in.Tracker.String()}
	}
	detail := &ImportDetail{File: file.File, LeftOut: besides(file, in.Sheet)}
	made := make([]Imported, len(sources))
	after := tr.Clone()
	for i, s := range sources {
		made[i] = Imported{Sheet: s.sheet.Name, Range: s.table.Range.String(), Tab: s.tab, Rows: s.table.Rows, Doubts: s.table.Doubts, LeftOut: s.table.LeftOut}
		made[i].Columns = box.makeRoom(after, s)
		made[i].Offers = offers(s.table, after, s.tab)
	}
	if err := program.Reshape(t.Draft, tr, after); err != nil {
		return err
	}
	for i, s := range sources {
		s.spend = t.Final
		key := s.keyOr(in.Key)
		to := taking{turn: t, draft: t.Draft, tracker: tr, key: key, prefer: reconcile.Prefer(in.Conflicts)}
		if made[i].Taken, _, err = box.takeTable(&to, s); err != nil {
			return fmt.Errorf("importing %s of %s: %w", s.table.Range, file.File, err)
		}
		if len(made[i].Taken.Held)+len(made[i].Taken.Troubles) > 0 {
			t.Run.Outcome = engine.PartlyDone
		}
		detail.Tables = append(detail.Tables, made[i])
	}
	t.Run.Detail = detail
	return nil
}

func sourcesOf(file *reading.Reading, in Import) ([]source, error) {
	var out []source
	var names []string
	for i := range file.Sheets {
		s := &file.Sheets[i]
		names = append(names, s.Name)
		if !s.Meant(in.Sheet) {
			continue
		}
		for j := range s.Tables {
			out = append(out, source{sheet: s, table: &s.Tables[j], tab: file.TabName(s, j), digest: file.Digest})
		}
	}
	switch {
	case len(out) == 0 && in.Sheet != "":
		return nil, &sheet.NotFound{What: "sheet with a table", Name: in.Sheet, In: file.File, Nearest: value.Nearest(in.Sheet, names)}
	case len(out) == 0:
		return nil, fmt.Errorf("%s holds no table: a table is a header row with rows below it", file.File)
	case in.Tab != "" && len(out) > 1:
		return nil, fmt.Errorf("%s holds %d tables, and they cannot all go to the tab %s: name one sheet", file.File, len(out), in.Tab)
	case in.Tab != "":
		out[0].tab = in.Tab
	}
	return out, nil
}

// besides names what a file's sheets hold outside the tables that are taken.
func besides(file *reading.Reading, only string) []Beside {
	var out []Beside
	for i := range file.Sheets {
		s := &file.Sheets[i]
		if s.Meant(only) {
			for _, l := range s.LeftOut {
				out = append(out, Beside{s.Name, l.Range.String(), l.Reason})
			}
			continue
		}
		if r, some := s.Content(); some {
			why := "the sheet is hidden: name it to import it"
			if only != "" {
				why = "only sheet " + only + " was asked for"
			}
			out = append(out, Beside{s.Name, r.String(), why})
		}
	}
	return out
}

// offers says which columns of formulas could be computed in the tab, and which cannot.
func offers(t *reading.Table, to *sheet.Shape, name string) []string {
	var out []string
	tab, _ := to.Tab(name)
	for i := range t.Columns {
		c := &t.Columns[i]
		if tab != nil { // computed here already
			if there, err := tab.Column(c.Name); err == nil && there.Computed() {
				continue
			}
		}
		switch {
		case c.Computed || c.LeaveOut:
		case c.Clause != "":
			out = append(out, fmt.Sprintf("%s could be a computed column: %s", c.Name, c.Clause))
		case c.Why != "":
			out = append(out, fmt.Sprintf("%s holds results of formulas, and stays as it is: %s", c.Name, c.Why))
		}
	}
	return out
}

// makeRoom adds the tab and the columns that the table needs and a tracker
// lacks, and gives the names of the columns it added.
func (box *Intake) makeRoom(shape *sheet.Shape, s source) []string {
	tab, err := shape.Tab(s.tab)
	if err != nil {
		shape.Tabs = append(shape.Tabs, sheet.TabShape{ID: sheet.TabID(box.NewID()), Name: s.tab})
		tab = &shape.Tabs[len(shape.Tabs)-1]
	}
	var added []string
	for _, c := range s.table.Columns {
		if _, err := tab.Column(c.Name); err == nil || c.LeaveOut {
			continue
		}
		col := sheet.Column{Name: c.Name, Type: c.Kind, Min: c.Min, Max: c.Max}
		if c.Refuse {
			col.BadInput = sheet.Refuse
		}
		if c.Computed {
			col = sheet.Column{Name: c.Name, Type: value.Type{Kind: c.Kind.Kind, Display: c.Kind.Display}, Clause: c.Clause}
		}
		for i := range shape.Tabs { // the same column in another tab is the same column here
			if other, err := shape.Tabs[i].Column(c.Name); err == nil && !other.Computed() && !col.Computed() && other.Type.Kind == c.Kind.Kind && other.Type.Several == c.Kind.Several {
				col.ID = other.ID
			}
		}
		if col.ID == 0 {
			col.ID = sheet.ColumnID(box.NewID())
		}
		tab.Columns = append(tab.Columns, col)
		added = append(added, c.Name)
	}
	return added
}
