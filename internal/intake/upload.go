package intake

import (
	"crypto/sha256"
	"fmt"
	"iter"
	"path/filepath"
	"reflect"
	"strconv"
	"strings"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/local"
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
	Key     string          // the column by which rows are added or updated; "": rows not taken in before are added
}

// Imported tells what became of one table.
type Imported struct {
	Sheet   string            `json:"sheet,omitempty"`
	Range   string            `json:"range"`
	Tab     string            `json:"tab"`
	Rows    int               `json:"rows"`
	Columns []string          `json:"new_columns,omitempty"`
	Doubts  []string          `json:"doubts,omitempty"`
	LeftOut []reading.LeftOut `json:"left_out,omitempty"`
	Taken   *reconcile.Report `json:"taken"`
}

// ImportDetail is what an import's run records.
type ImportDetail struct {
	File   string     `json:"file"`
	Tables []Imported `json:"tables"`
}

// Take gives the request that takes a file's tables into tabs: tabs and columns
// that are not there are made, rows are added or, with a key, updated. Taking
// in the same file twice changes nothing. Once the request is committed, the
// reading is used up.
func (box *Intake) Take(by policy.Principal, file *reading.Reading, in Import) engine.Request {
	name := file.File
	return engine.Request{By: by, Tracker: in.Tracker, Kind: "import", Name: name, Release: func() { file = nil },
		Cause: sheet.Cause{Kind: sheet.ByImport, Name: name}, Work: func(t *engine.Turn) error { return box.take(t, file, in) }}
}

// source is a table with the tab it goes to.
type source struct {
	sheet *reading.Sheet
	table *reading.Table
	tab   string
	spend bool // it is not needed again
}

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
	detail := &ImportDetail{File: file.File}
	made := make([]Imported, len(sources))
	after := tr.Clone()
	for i, s := range sources {
		made[i] = Imported{Sheet: s.sheet.Name, Range: s.table.Range.String(), Tab: s.tab, Rows: s.table.Rows, Doubts: s.table.Doubts, LeftOut: s.table.LeftOut}
		made[i].Columns = box.makeRoom(after, s)
	}
	if err := program.Reshape(t.Draft, tr, after); err != nil {
		return err
	}
	for i, s := range sources {
		s.spend = t.Final
		key := in.Key
		if s.table.Key != "" {
			key = s.table.Key
		}
		if made[i].Taken, _, err = takeTable(t.Draft, tr, s, key, 0); err != nil {
			return fmt.Errorf("taking in %s of %s: %w", s.table.Range, file.File, err)
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
			name := s.Name
			if name == "" {
				name = strings.TrimSuffix(filepath.Base(file.File), filepath.Ext(file.File))
			}
			if len(s.Tables) > 1 {
				name = fmt.Sprintf("%s %d", name, j+1)
			}
			if t := &s.Tables[j]; t.Tab != "" {
				name = t.Tab
			}
			out = append(out, source{sheet: s, table: &s.Tables[j], tab: name})
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
		col := sheet.Column{Name: c.Name, Type: c.Kind}
		for i := range shape.Tabs { // the same column in another tab is the same column here
			if other, err := shape.Tabs[i].Column(c.Name); err == nil && !other.Computed() && other.Type.Kind == c.Kind.Kind && other.Type.Several == c.Kind.Several {
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

// takeTable takes a table's rows into a tab. Columns of the table that the tab
// lacks, or computes, are left out, and named.
func takeTable(draft *sheet.Draft, tr *sheet.Tracker, s source, key string, because int) (report *reconcile.Report, lacking []string, err error) {
	tab, err := tr.Tab(s.tab)
	if err != nil {
		return nil, nil, err
	}
	into := reconcile.Into{Tracker: tr.ID, Tab: tab.ID, Origin: "import", Because: because, Where: s.where}
	if key != "" {
		c, err := tab.Column(key)
		if err != nil {
			return nil, nil, err
		}
		into.Key = c.ID
		if err := s.hasKey(c); err != nil {
			return nil, nil, err
		}
	}
	columns := make([]*sheet.Column, len(s.table.Columns))
	for i, c := range s.table.Columns {
		if c.LeaveOut {
			continue
		}
		col, err := tab.Column(c.Name)
		if err != nil {
			lacking = append(lacking, c.Name)
			continue
		}
		if columns[i] = col; !col.Computed() && !reflect.DeepEqual(col.Type, c.Kind) {
			s.sheet.Retype(s.table, i, col.Type, "the column of "+tab.Name)
		}
	}
	into.Spoken = make([]bool, len(tab.Columns))
	for _, c := range columns {
		if c != nil && !c.Computed() {
			into.Spoken[tab.Slot(c.ID)] = true
		}
	}
	if tr.Count(tab.ID) == 0 { // most of them will be added
		draft.Expect(s.table.Rows)
	}
	report, err = reconcile.Take(draft, into, s.records(tab, columns, draft.Form(tr)))
	return report, lacking, err
}

// hasKey says that the table lacks the column by which rows are found, or nil.
func (s *source) hasKey(key *sheet.Column) error {
	var names []string
	for _, c := range s.table.Columns {
		if c.LeaveOut {
			continue
		}
		if value.EqualText(c.Name, key.Name) {
			return nil
		}
		names = append(names, c.Name)
	}
	return fmt.Errorf("the table has no column %s, by which rows are found: it has %s", key.Name, strings.Join(names, ", "))
}

// where names a row of the file in messages.
func (s *source) where(line int) string {
	if s.sheet.Name == "" {
		return fmt.Sprintf("row %d", line+1)
	}
	return fmt.Sprintf("%s, row %d", s.sheet.Name, line+1)
}

// records gives the table's rows as a tab's rows are laid out; columns are the
// tab's for each of the table's, nil for those that are left out.
func (s *source) records(tab *sheet.TabShape, columns []*sheet.Column, form *local.Form) iter.Seq2[reconcile.Record, error] {
	return func(yield func(reconcile.Record, error) bool) {
		var said []byte // what a row says, by which it is known again
		var shared looks
		rows := s.sheet.Records
		if s.spend {
			rows = s.sheet.Spend
		}
		for r := range rows(s.table) {
			rec := reconcile.Record{Line: r.Row, Cells: make([]value.Value, len(tab.Columns))}
			said = strconv.AppendInt(said[:0], int64(tab.ID), 10)
			for i, c := range columns {
				said = append(append(said, 0), s.sheet.Raw(s.table, r, i)...)
				if c == nil || c.Computed() {
					continue
				}
				v, err := c.Accept(r.Cells[i], form)
				if err != nil {
					yield(rec, fmt.Errorf("cell %s: %w", reading.CellName(r.Row, s.table.Range.Left+i), err))
					return
				}
				rec.Cells[tab.Slot(c.ID)] = v
				if note := r.Notes[i]; note != "" {
					if rec.Notes == nil {
						rec.Notes = map[sheet.ColumnID]string{}
					}
					rec.Notes[c.ID] = note
				}
			}
			rec.Styles = shared.of(r, columns)
			hash := sha256.Sum256(said)
			rec.Fingerprint = reconcile.Fingerprint(hash[:])
			if !yield(rec, nil) {
				return
			}
		}
	}
}
