package api

import (
	"context"
	"net/http"

	"example.org/kavlo/internal/engine"
	"example.org/kavlo/internal/intake"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/thrift"
	"example.org/kavlo/internal/wire"
)

func (s *server) importRoutes() {
	route(s, editor, http.MethodPost, "/trackers/{tracker}/imports", "import", "Import tables from a workbook or CSV file", s.take, takesFile, heavy)
}

func (s *server) take(ctx context.Context, in *struct {
	InTracker
	Write
	InFile
	Sheet     string `query:"sheet" doc:"Only the tables of this sheet"`
	Tab       string `query:"tab" doc:"The tab for the one table there is; unless set, tabs are named after sheets"`
	Column    string `query:"key" doc:"The column by which rows are added or updated; unless set, rows not imported before are added"`
	Conflicts string `query:"conflicts" enum:"file,here" doc:"Whose value a cell takes that has changed both here and in the file since it was last imported; unless set, it stays as it is here and is named"`
	New       string `query:"new" enum:"yes,no" doc:"yes: make the tracker"`
	Zone      string `query:"zone" doc:"Time zone of a new tracker"`
}) (*body[wire.ChangeSet], error) {
	defer thrift.Begin()() // from the reading of the file on
	defer in.done()
	file, err := in.read(ctx, s.workspace.Budgets.Read)
	if err != nil {
		return nil, err
	}
	to := intake.Import{Sheet: in.Sheet, Tab: in.Tab, Key: in.Column, Conflicts: in.Conflicts, New: in.Tracker, Zone: in.Zone}
	if in.New == "yes" {
		if policy.AccessNamed(who(ctx).Access) < keeper { // before the file is read
			return nil, engine.ErrForbidden
		}
		if to.Zone == "" {
			to.Zone = "UTC"
		}
	} else {
		t, err := s.find(ctx, in.Tracker)
		if err != nil {
			return nil, err
		}
		if _, missing := t.Tab(in.Tab); !s.whole(ctx, t.ID) && missing != nil { // which may be there, hidden
			return nil, engine.ErrForbidden
		}
		to.Tracker = t.ID
	}
	return s.change(ctx, in.Write, s.workspace.Take(asker(ctx), file, to))
}
