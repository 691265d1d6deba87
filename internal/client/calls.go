package client

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strconv"

	"example.org/kavlo/internal/reading"
	"example.org/kavlo/internal/wire"
)

// Trackers lists the trackers.
func (c *Client) Trackers(ctx context.Context) ([]wire.Tracker, error) {
	var out []wire.Tracker
	err := c.get(ctx, "/trackers", nil, &out)
	return out, err
}

// Tracker shows a tracker.
func (c *Client) Tracker(ctx context.Context, tracker string) (*wire.Tracker, error) {
	out := &wire.Tracker{}
	return out, c.get(ctx, path("trackers", tracker), nil, out)
}

// NewTracker makes a tracker without tabs.
func (c *Client) NewTracker(ctx context.Context, h How, name, zone string) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPost, path: "/trackers", body: wire.NewTracker{Name: name, Zone: zone}})
}

// CopyTracker makes a tracker with the tabs, columns, views and settings of another.
func (c *Client) CopyTracker(ctx context.Context, h How, name, like string) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPost, path: "/trackers", body: wire.NewTracker{Name: name, Like: like}})
}

// ChangeTracker changes a tracker's own settings.
func (c *Client) ChangeTracker(ctx context.Context, h How, tracker string, to wire.TrackerSettings) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPatch, path: path("trackers", tracker), body: to})
}

// RenameTracker gives a tracker another name.
func (c *Client) RenameTracker(ctx context.Context, h How, tracker, name string) (*wire.ChangeSet, error) {
	return c.ChangeTracker(ctx, h, tracker, wire.TrackerSettings{Name: &name})
}

// DropTracker removes a tracker.
func (c *Client) DropTracker(ctx context.Context, h How, tracker string) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodDelete, path: path("trackers", tracker)})
}

// AddColumn adds a column to a tab.
func (c *Client) AddColumn(ctx context.Context, h How, tracker, tab string, column wire.NewColumn) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPost, path: path("trackers", tracker, "tabs", tab, "columns"), body: column})
}

// ChangeColumn changes a column in every tab that shares it.
func (c *Client) ChangeColumn(ctx context.Context, h How, tracker, tab, column string, to wire.ColumnChange) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPatch, path: path("trackers", tracker, "tabs", tab, "columns", column), body: to})
}

// DropColumn takes a column from a tab.
func (c *Client) DropColumn(ctx context.Context, h How, tracker, tab, column string) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodDelete, path: path("trackers", tracker, "tabs", tab, "columns", column)})
}

// pageRows is how many rows are asked for at a time.
const pageRows = 2000

// Which says which rows of a tab are meant, and what of them.
type Which struct {
	View    string // of the tab; "": none
	Where   string // a clause; "": all
	Words   string // that a row holds; "": all
	Columns string // names parted by commas; "": all
	Order   string // columns, as in "Due, Value descending"; "": as the tab has them
	AsOf    string // a time (RFC 3339); "": now
}

// Rows lists all rows meant, with those that could not be judged.
func (c *Client) Rows(ctx context.Context, tracker, tab string, which Which) (*wire.Rows, error) {
	out := &wire.Rows{Rows: []wire.Row{}}
	q := url.Values{"limit": {strconv.Itoa(pageRows)}}
	for key, v := range map[string]string{"view": which.View, "where": which.Where, "words": which.Words, "columns": which.Columns, "as_of": which.AsOf, "order": which.Order} {
		if v != "" {
			q.Set(key, v)
		}
	}
	for q != nil {
		var page wire.Rows
		h, err := c.do(ctx, call{method: http.MethodGet, path: path("trackers", tracker, "tabs", tab, "rows"), query: q}, &page)
		if err != nil {
			return nil, err
		}
		out.Rows = append(out.Rows, page.Rows...)
		out.Total, out.PassedOver, out.Columns = page.Total, page.PassedOver, page.Columns
		if q, err = c.next(h); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Export says what of a tracker is written, and how.
type Export struct {
	Tracker, Tab string
	Which
	Format string // xlsx, csv or json
	Totals bool
}

// Export writes a tab, or all of a tracker's, to w; it tells how many rows the
// clause could not judge.
func (c *Client) Export(ctx context.Context, e Export, w io.Writer) (passedOver int, err error) {
	q := url.Values{"format": {e.Format}}
	for key, v := range map[string]string{"tab": e.Tab, "view": e.View, "where": e.Where, "words": e.Words, "columns": e.Columns, "order": e.Order} {
		if v != "" {
			q.Set(key, v)
		}
	}
	if e.Totals {
		q.Set("totals", "yes")
	}
	h, err := c.do(ctx, call{method: http.MethodGet, path: path("trackers", e.Tracker, "export"), query: q}, w)
	if err != nil {
		return 0, err
	}
	passedOver, _ = strconv.Atoi(h.Get("Kavlo-Passed-Over"))
	return passedOver, nil
}

// Row shows a row.
func (c *Client) Row(ctx context.Context, tracker, tab, row string) (*wire.Row, error) {
	out := &wire.Row{}
	return out, c.get(ctx, path("trackers", tracker, "tabs", tab, "rows", row), nil, out)
}

// AddRows adds rows to a tab.
func (c *Client) AddRows(ctx context.Context, h How, tracker, tab string, rows []map[string]any) (*wire.ChangeSet, error) {
	return c.AddRowsAt(ctx, h, tracker, tab, rows, wire.RowSpot{})
}

// AddRowsAt adds rows to a tab before or after one of its rows, all or none.
func (c *Client) AddRowsAt(ctx context.Context, h How, tracker, tab string, rows []map[string]any, at wire.RowSpot) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPost, path: path("trackers", tracker, "tabs", tab, "rows"), body: wire.NewRows{Rows: rows, RowSpot: at}})
}

// PlaceRows puts rows of a tab in another place in it.
func (c *Client) PlaceRows(ctx context.Context, h How, tracker, tab string, rows []string, at wire.RowSpot) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPost, path: path("trackers", tracker, "tabs", tab, "rows", "place"), body: wire.PlaceRows{Rows: rows, RowSpot: at}})
}

// SetRow edits a row; version 0 edits whatever is there.
func (c *Client) SetRow(ctx context.Context, h How, tracker, tab, row string, edit wire.RowEdit) (*wire.ChangeSet, error) {
	r := call{method: http.MethodPatch, path: path("trackers", tracker, "tabs", tab, "rows", row), body: edit}
	if edit.Version != 0 {
		r.header = http.Header{"If-Match": {strconv.Quote(strconv.FormatInt(edit.Version, 10))}}
	}
	return c.change(ctx, h, r)
}

// SetRows edits several rows, all or none.
func (c *Client) SetRows(ctx context.Context, h How, tracker string, edits []wire.RowEdit) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPatch, path: path("trackers", tracker, "rows"), body: wire.RowEdits{Edits: edits}})
}

// MoveRow moves a row to another tab.
func (c *Client) MoveRow(ctx context.Context, h How, tracker, tab, row, to string) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPost, path: path("trackers", tracker, "tabs", tab, "rows", row, "move"), body: wire.MoveRow{To: to}})
}

// MoveRowsTo moves several rows, named by their ids, to a tab.
func (c *Client) MoveRowsTo(ctx context.Context, h How, tracker string, rows []string, to string) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPost, path: path("trackers", tracker, "rows", "move"), body: wire.MoveRows{Rows: rows, To: to}})
}

// RemoveRowsNamed removes several rows, named by their ids.
func (c *Client) RemoveRowsNamed(ctx context.Context, h How, tracker string, rows []string) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPost, path: path("trackers", tracker, "rows", "remove"), body: wire.RemoveRows{Rows: rows}})
}

// RemoveRow removes a row.
func (c *Client) RemoveRow(ctx context.Context, h How, tracker, tab, row string) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodDelete, path: path("trackers", tracker, "tabs", tab, "rows", row)})
}

// Why tells what put a row, or a cell, where and how it is.
func (c *Client) Why(ctx context.Context, tracker, tab, row, column string) (*wire.Why, error) {
	var q url.Values
	if column != "" {
		q = url.Values{"column": {column}}
	}
	out := &wire.Why{}
	return out, c.get(ctx, path("trackers", tracker, "tabs", tab, "rows", row, "why"), q, out)
}

// RowHistory lists the change sets that touched a row.
func (c *Client) RowHistory(ctx context.Context, tracker, tab, row string) ([]wire.JournalEntry, error) {
	var out []wire.JournalEntry
	err := c.get(ctx, path("trackers", tracker, "tabs", tab, "rows", row, "history"), nil, &out)
	return out, err
}

// Setup gives a tracker's setup file.
func (c *Client) Setup(ctx context.Context, tracker string) (string, error) {
	var out wire.Setup
	err := c.get(ctx, path("trackers", tracker, "setup"), nil, &out)
	return out.Text, err
}

// CheckClause says whether a clause reads, and what could stand where one types.
func (c *Client) CheckClause(ctx context.Context, q wire.ClauseQuestion) (*wire.ClauseAnswer, error) {
	out := &wire.ClauseAnswer{}
	_, err := c.do(ctx, call{method: http.MethodPost, path: "/clauses/check", body: q}, out)
	return out, err
}

// LoadSetup makes a tracker as a setup file has it, or brings it into line.
func (c *Client) LoadSetup(ctx context.Context, h How, text string, drop bool) (*wire.ChangeSet, error) {
	q := url.Values{}
	if drop {
		q.Set("drop", "yes")
	}
	return c.change(ctx, h, call{method: http.MethodPost, path: "/setup", query: q, body: wire.Setup{Text: text}})
}

// Definitions lists a tracker's definitions of a kind, named in the plural: rules, lists, syncs, reminders, rounds.
func (c *Client) Definitions(ctx context.Context, tracker, kinds string) ([]wire.Definition, error) {
	var out []wire.Definition
	err := c.get(ctx, path("trackers", tracker, kinds), nil, &out)
	return out, err
}

// DefinitionHistory tells who changed a definition, when and how.
func (c *Client) DefinitionHistory(ctx context.Context, tracker, kinds, name string) ([]wire.DefinitionChange, error) {
	var out []wire.DefinitionChange
	err := c.get(ctx, path("trackers", tracker, kinds, name, "history"), nil, &out)
	return out, err
}

// PutDefinition adds a part or replaces the one of its name.
func (c *Client) PutDefinition(ctx context.Context, h How, tracker, kinds string, body wire.Document) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPost, path: path("trackers", tracker, kinds), body: body})
}

// Order puts definitions of a kind first, in an order.
func (c *Client) Order(ctx context.Context, h How, tracker, kind string, first []string) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPost, path: path("trackers", tracker, "order"), body: wire.Order{Kind: kind, First: first}})
}

// Schedule tells when each definition of a tracker ran last and runs next.
func (c *Client) Schedule(ctx context.Context, tracker string) ([]wire.Scheduled, error) {
	var out []wire.Scheduled
	err := c.get(ctx, path("trackers", tracker, "schedule"), nil, &out)
	return out, err
}

// RunDefinition runs a rule.
func (c *Client) RunDefinition(ctx context.Context, h How, tracker, kinds, part, file string) (*wire.ChangeSet, error) {
	q := url.Values{}
	if file != "" {
		q.Set("file", file)
	}
	return c.change(ctx, h, call{method: http.MethodPost, path: path("trackers", tracker, kinds, part, "run"), query: q})
}

// PauseRule stops a rule from being woken, or lets it be woken again.
func (c *Client) PauseRule(ctx context.Context, h How, tracker, rule string, paused bool) (*wire.ChangeSet, error) {
	what := "resume"
	if paused {
		what = "pause"
	}
	return c.change(ctx, h, call{method: http.MethodPost, path: path("trackers", tracker, "rules", rule, what)})
}

// Arrived lists what the demo's stand-in post office took in.
func (c *Client) Arrived(ctx context.Context) ([]wire.ArrivedMail, error) {
	var out []wire.ArrivedMail
	err := c.get(ctx, "/arrived", nil, &out)
	return out, err
}

// Runs lists a tracker's newest runs.
func (c *Client) Runs(ctx context.Context, tracker string, limit int) ([]wire.Run, error) {
	var out []wire.Run
	err := c.get(ctx, path("trackers", tracker, "runs"), url.Values{"limit": {strconv.Itoa(limit)}}, &out)
	return out, err
}

// Run shows a run.
func (c *Client) Run(ctx context.Context, run string) (*wire.Run, error) {
	out := &wire.Run{}
	return out, c.get(ctx, path("runs", run), nil, out)
}

// JournalOf says which change sets are listed: those of a tab, by somebody, or one's own; "": all.
type JournalOf struct {
	Tab, By string
	Mine    bool // each with what it did
}

// Journal lists a tracker's newest change sets.
func (c *Client) Journal(ctx context.Context, tracker string, of JournalOf, limit int) ([]wire.JournalEntry, error) {
	var out []wire.JournalEntry
	q := url.Values{"limit": {strconv.Itoa(limit)}}
	if of.Tab != "" {
		q.Set("tab", of.Tab)
	}
	if of.By != "" {
		q.Set("by", of.By)
	}
	if of.Mine {
		q.Set("mine", "yes")
	}
	err := c.get(ctx, path("trackers", tracker, "journal"), q, &out)
	return out, err
}

// AccessJournal lists changes of access, secrets and allowed addresses, newest first.
func (c *Client) AccessJournal(ctx context.Context, limit int) ([]wire.JournalEntry, error) {
	var out []wire.JournalEntry
	err := c.get(ctx, path("access", "journal"), url.Values{"limit": {strconv.Itoa(limit)}}, &out)
	return out, err
}

// ChangeSet shows a change set of the journal.
func (c *Client) ChangeSet(ctx context.Context, seq int64) (*wire.ChangeSet, error) {
	out := &wire.ChangeSet{}
	return out, c.get(ctx, path("journal", strconv.FormatInt(seq, 10)), nil, out)
}

// Undo takes a run or change set back; with force, what later changes overlaid is kept.
func (c *Client) Undo(ctx context.Context, h How, what string, force bool) (*wire.ChangeSet, error) {
	q := url.Values{}
	if force {
		q.Set("force", "yes")
	}
	return c.change(ctx, h, call{method: http.MethodPost, path: path("undo", what), query: q})
}

// Import says where the tables of a file go.
type Import struct {
	Tracker, Name, Sheet, Tab, Key string
	Conflicts                      string // file or here: whose value stands where both have changed
	New                            bool   // make the tracker
	Zone                           string
	Corrections                    []reading.Correction // what a person says of the file's tables
}

// Import takes a file's tables in.
func (c *Client) Import(ctx context.Context, h How, in Import, file io.Reader) (*wire.ChangeSet, error) {
	q := url.Values{"name": {in.Name}}
	for key, v := range map[string]string{"sheet": in.Sheet, "tab": in.Tab, "key": in.Key, "zone": in.Zone, "conflicts": in.Conflicts} {
		if v != "" {
			q.Set(key, v)
		}
	}
	if in.New {
		q.Set("new", "yes")
	}
	if len(in.Corrections) > 0 {
		text, err := json.Marshal(in.Corrections)
		if err != nil {
			return nil, fmt.Errorf("writing the corrections: %w", err)
		}
		q.Set("corrections", string(text))
	}
	return c.change(ctx, h, call{method: http.MethodPost, path: path("trackers", in.Tracker, "imports"), query: q, raw: file})
}

// Today tells what is overdue, what runs next and what failed.
func (c *Client) Today(ctx context.Context) (*wire.Today, error) {
	out := &wire.Today{}
	return out, c.get(ctx, "/today", nil, out)
}

// People lists the people of the workspace.
func (c *Client) People(ctx context.Context) ([]wire.Person, error) {
	var out []wire.Person
	err := c.get(ctx, "/people", nil, &out)
	return out, err
}

// PutPerson adds a person or, by address, changes one.
func (c *Client) PutPerson(ctx context.Context, p wire.NewPerson) (*wire.Person, error) {
	out := &wire.Person{}
	_, err := c.do(ctx, call{method: http.MethodPut, path: "/people", body: p}, out)
	return out, err
}

// NewLink makes a link that signs a person in, once.
func (c *Client) NewLink(ctx context.Context, person string) (*wire.Secret, error) {
	out := &wire.Secret{}
	_, err := c.do(ctx, call{method: http.MethodPost, path: path("people", person, "link")}, out)
	return out, err
}

// NewToken makes a token for a person's scripts.
func (c *Client) NewToken(ctx context.Context, person, name string, days int) (*wire.Secret, error) {
	out := &wire.Secret{}
	_, err := c.do(ctx, call{method: http.MethodPost, path: path("people", person, "token"), query: url.Values{"name": {name}, "days": {strconv.Itoa(days)}}}, out)
	return out, err
}

// NewCaller makes the secret with which calls of a rule are signed.
func (c *Client) NewCaller(ctx context.Context, tracker, rule string) (*wire.Secret, error) {
	out := &wire.Secret{}
	_, err := c.do(ctx, call{method: http.MethodPost, path: path("trackers", tracker, "rules", rule, "secret")}, out)
	return out, err
}

// AddTab adds a tab to a tracker.
func (c *Client) AddTab(ctx context.Context, h How, tracker string, tab wire.NewTab) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPost, path: path("trackers", tracker, "tabs"), body: tab})
}

// ChangeTab gives a tab another name or place.
func (c *Client) ChangeTab(ctx context.Context, h How, tracker, tab string, to wire.TabChange) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPatch, path: path("trackers", tracker, "tabs", tab), body: to})
}

// DropTab deletes a tab with its rows.
func (c *Client) DropTab(ctx context.Context, h How, tracker, tab string) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodDelete, path: path("trackers", tracker, "tabs", tab)})
}

// RemoveRows removes the rows of a tab for which a clause holds.
func (c *Client) RemoveRows(ctx context.Context, h How, tracker, tab, where string) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodDelete, path: path("trackers", tracker, "tabs", tab, "rows"), query: url.Values{"where": {where}}})
}

// ReplaceDefinition puts a definition in the place of the one of a name.
func (c *Client) ReplaceDefinition(ctx context.Context, h How, tracker, kinds, name string, body wire.Document) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodPut, path: path("trackers", tracker, kinds, name), body: body})
}

// DropDefinition deletes a definition.
func (c *Client) DropDefinition(ctx context.Context, h How, tracker, kinds, name string) (*wire.ChangeSet, error) {
	return c.change(ctx, h, call{method: http.MethodDelete, path: path("trackers", tracker, kinds, name)})
}
