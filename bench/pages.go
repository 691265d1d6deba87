package bench

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"slices"

	"example.org/kavlo/internal/api"
	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/pages"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/program"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/workspace"
)

const figuredRows = 100_000

// lookEvery is after how many edits the tallies are looked at.
const lookEvery = 10

// figured is a tracker whose rows have figures of another tab, or not.
const figured = `
tracker: %s
zone: UTC
tabs:
  Loans: { columns: { Object: { type: text }, Hall: { type: text }, Value: { type: number }, Due: { type: date } } }
  Jobs:
    columns:
      Hall: { type: text }
      Hours: { type: number }
      Due: { type: date }
      %s
`

const fiveColumns = `Twice: { type: computed, clause: Hours * 2 }
      Late: { type: computed, clause: Due before today }
      Days: { type: computed, clause: days between Due and today }
      Loans: { type: computed, clause: count in Loans where Hall is this.Hall }
      Worth: { type: computed, clause: sum Value in Loans where Hall is this.Hall and Due before today }`

// figuresKept holds an edit in a tab of which five columns are computed, two of them from
// another large tab, and reading the row anew, against the same without them. Every other
// edit is of the other tab, so that what is kept of it changes.
var figuresKept = Case{
	Name: "an edit with five computed columns, two of them over another 100,000 rows, and two tallies: the row read, every tenth time the tallies", Floor: "the same without them", Limit: 3, Turns: 9, Items: editsATurn, Item: "edit",
	Setup: func(dir string) (kavlo, floor func() error, done func() error, err error) {
		ctx := context.Background()
		d, err := workspace.Open(ctx, workspace.Config{Dir: dir})
		if err != nil {
			return nil, nil, nil, err
		}
		with, err := figuredEdits(ctx, d, "With", fiveColumns)
		if err != nil {
			return nil, nil, nil, err
		}
		without, err := figuredEdits(ctx, d, "Without", "")
		return with, without, d.Close, err
	}}

func figuredEdits(ctx context.Context, d *workspace.Workspace, name, columns string) (func() error, error) {
	if _, err := d.Commit(ctx, d.LoadSetup(policy.Itself("bench"), fmt.Appendf(nil, figured, name, columns))); err != nil {
		return nil, err
	}
	ids, err := figuredRowsOf(ctx, d, name)
	if err != nil {
		return nil, err
	}
	tallies, err := twoTallies(ctx, d, name, columns != "")
	if err != nil {
		return nil, err
	}
	turn := 0
	return func() error {
		turn++
		for i := range editsATurn {
			tab, column := "Jobs", "Hours"
			if i%2 == 1 {
				tab, column = "Loans", "Value"
			}
			t, err := d.Find(name)
			if err != nil {
				return err
			}
			edits := []edit.RowEdit{{Row: ids[tab][i*37], Cells: map[string]any{column: turn*1000 + i}}}
			if _, err := d.Commit(ctx, d.SetRows(policy.Itself("bench"), t.ID, edits)); err != nil {
				return err
			}
			if err := readRow(ctx, d, name, ids["Jobs"][i*37]); err != nil {
				return err
			}
			if i%lookEvery == 0 { // whoever looks on has them anew at most once a second
				if err := tallies(); err != nil {
					return err
				}
			}
		}
		return nil
	}, nil
}

// figuredRowsOf fills the two tabs of such a tracker, and gives the ids of their rows.
func figuredRowsOf(ctx context.Context, d *workspace.Workspace, name string) (map[string][]sheet.RowID, error) {
	ids := map[string][]sheet.RowID{}
	for _, tab := range []string{"Loans", "Jobs"} {
		t, at, err := d.FindTab(name, tab)
		if err != nil {
			return nil, err
		}
		all := make([]map[string]any, figuredRows)
		for i := range all {
			all[i] = map[string]any{"Hall": fmt.Sprintf("Hall %d", i%20), "Due": "2026-04-01"}
			if tab == "Loans" {
				all[i]["Value"] = fmt.Sprintf("%d.25", i)
			} else {
				all[i]["Hours"] = i % 40
			}
		}
		req := d.AddRows(policy.Itself("bench"), t.ID, at.ID, all)
		req.Alone = true
		r, err := d.Commit(ctx, req)
		if err != nil {
			return nil, err
		}
		for i := range r.Set.Changes {
			ids[tab] = append(ids[tab], r.Set.Changes[i].Row)
		}
	}
	return ids, nil
}

// twoTallies adds two tallies to a tracker, and gives what looks at them after each edit.
func twoTallies(ctx context.Context, d *workspace.Workspace, tracker string, want bool) (func() error, error) {
	if !want {
		return func() error { return nil }, nil
	}
	names := []string{"Loans", "Jobs"}
	for i, text := range []string{"{ name: Loans, of: Loans, by: Hall, figures: { Rows: count, Worth: sum Value } }", "{ name: Jobs, of: Jobs, by: [ { Month: month of Due }, Hall ], figures: { Hours: sum Hours } }"} {
		t, err := d.Find(tracker)
		if err != nil {
			return nil, err
		}
		if _, err := d.Commit(ctx, d.PutDefinition(policy.Itself("bench"), t.ID, sheet.KindTally, []byte(text), 0)); err != nil {
			return nil, fmt.Errorf("tally %s: %w", names[i], err)
		}
	}
	return func() error {
		t, err := d.Find(tracker)
		if err != nil {
			return err
		}
		for _, name := range names {
			if _, err := d.Tally(ctx, policy.Itself("bench"), t, name); err != nil {
				return err
			}
		}
		return nil
	}, nil
}

// readRow works a row out as an answer does.
func readRow(ctx context.Context, d *workspace.Workspace, tracker string, row sheet.RowID) error {
	t, err := d.Find(tracker)
	if err != nil {
		return err
	}
	p, err := d.Program(t.Shape)
	if err != nil {
		return err
	}
	r := t.Row(row)
	tab := t.TabOf(r)
	m := d.Meter(ctx)
	env := p.Env(t, tab, d.Now(), m)
	program.Look(env, r)
	for slot := range tab.Columns {
		p.Value(env, r, slot)
	}
	return m.Err()
}

const openedPages = 2000

const paged = `
tracker: Paged
zone: UTC
tabs: { Halls: { columns: { Name: { type: text }, Fee: { type: number }, Due: { type: date } } } }
dossiers:
  - { name: File, for: Halls, title: "{Name}", facts: [Name, { Fee: filled once }, Due], own: { Goal: { type: number } }, figures: { Twice: Fee * 2, Days: days between Due and today }, log: { columns: { What: { type: text } } } }
`

// withHalls opens a workspace with rows that may have pages.
func withHalls(ctx context.Context, dir string) (*workspace.Workspace, []sheet.RowID, error) {
	d, err := workspace.Open(ctx, workspace.Config{Dir: dir})
	if err != nil {
		return nil, nil, err
	}
	if _, err := d.Commit(ctx, d.LoadSetup(policy.Itself("bench"), []byte(paged))); err != nil {
		return nil, nil, err
	}
	ids, err := addRows(ctx, d, "Paged", "Halls", openedPages, func(i int) map[string]any {
		return map[string]any{"Name": fmt.Sprintf("Hall %d", i), "Fee": i, "Due": "2026-04-01"}
	})
	return d, ids, err
}

// openPages holds opening the pages of many rows in one run against writing as many rows
// and their journal records.
var openPages = Case{
	Name: "a run that opens 2,000 pages", Floor: "the rows and their journal records written in bare SQLite, in one transaction", Limit: 3, Turns: 7, Items: openedPages, Item: "page", Ready: &closePages,
	Setup: func(dir string) (kavlo, floor func() error, done func() error, err error) {
		ctx := context.Background()
		d, _, err := withHalls(ctx, dir)
		if err != nil {
			return nil, nil, nil, err
		}
		db, err := bare(dir, 1, store.Options{})
		if err != nil {
			return nil, nil, nil, err
		}
		t, err := d.Find("Paged")
		if err != nil {
			return nil, nil, nil, err
		}
		c, err := d.Pages.Pattern(t, "File")
		if err != nil {
			return nil, nil, nil, err
		}
		closePages = func() error {
			_, err := d.Commit(ctx, d.Pages.Close(policy.Itself("bench"), t.ID, c, nil))
			return err
		}
		kavlo = func() error {
			r, err := d.Commit(ctx, d.Pages.Open(policy.Itself("bench"), t.ID, c, pages.Opening{}))
			if err == nil && len(r.Set.Changes) != openedPages {
				err = fmt.Errorf("%d pages were opened", len(r.Set.Changes))
			}
			return err
		}
		cells := `{"11":{"n":"1250"},"12":{"d":"2026-04-01"}}`
		record := `{"kind":"add","tracker":9,"tab":1,"row":77,"image":{"pos":65536,"cells":{"11":{"n":"1250"}},"origin":"page p12 r77"}}`
		floor = func() error {
			return inTransaction(db, func(tx *sql.Tx) error {
				put, err := tx.PrepareContext(ctx, "INSERT INTO row(tab, cells) VALUES (?, ?)")
				if err != nil {
					return err
				}
				defer put.Close()
				log, err := tx.PrepareContext(ctx, "INSERT INTO journal(body) VALUES (?)")
				if err != nil {
					return err
				}
				defer log.Close()
				for range openedPages {
					if _, err := put.ExecContext(ctx, 3, cells); err != nil {
						return err
					}
					if _, err := log.ExecContext(ctx, record); err != nil {
						return err
					}
				}
				return nil
			})
		}
		return kavlo, floor, func() error { return errors.Join(db.Close(), d.Close()) }, nil
	}}

// closePages closes what a turn before has opened.
var closePages func() error

// showPage holds a page asked for over HTTP against its row.
var showPage = Case{
	Name: "a page shown over HTTP", Floor: "its row shown over HTTP", Limit: 1.2, Turns: 9, Items: 200, Item: "page",
	Setup: func(dir string) (kavlo, floor func() error, done func() error, err error) {
		ctx := context.Background()
		d, ids, err := withHalls(ctx, dir)
		if err != nil {
			return nil, nil, nil, err
		}
		t, err := d.Find("Paged")
		if err != nil {
			return nil, nil, nil, err
		}
		c, err := d.Pages.Pattern(t, "File")
		if err != nil {
			return nil, nil, nil, err
		}
		if _, err := d.Commit(ctx, d.Pages.Open(policy.Itself("bench"), t.ID, c, pages.Opening{})); err != nil {
			return nil, nil, nil, err
		}
		token, err := d.EnsureKeeper(ctx)
		if err != nil {
			return nil, nil, nil, err
		}
		server := httptest.NewServer(api.New(d, api.Options{Version: "0"}))
		get := func(path string) error {
			req, err := http.NewRequestWithContext(ctx, http.MethodGet, server.URL+"/api/v1"+path, nil)
			if err != nil {
				return err
			}
			req.Header.Set("Authorization", "Bearer "+token)
			res, err := server.Client().Do(req)
			if err != nil {
				return err
			}
			defer res.Body.Close()
			if _, err := io.Copy(io.Discard, res.Body); err != nil {
				return err
			}
			if res.StatusCode != http.StatusOK {
				return fmt.Errorf("%s: %s", path, res.Status)
			}
			return nil
		}
		some := slices.Clone(ids[:200])
		each := func(path string) func() error {
			return func() error {
				for _, id := range some {
					if err := get(path + id.String()); err != nil {
						return err
					}
				}
				return nil
			}
		}
		return each("/trackers/Paged/pages/"), each("/trackers/Paged/tabs/Halls/rows/"), func() error {
			server.Close()
			return d.Close()
		}, nil
	}}
