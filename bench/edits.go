package bench

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"path/filepath"

	_ "modernc.org/sqlite" // the driver that the store uses

	"example.org/kavlo/internal/edit"
	"example.org/kavlo/internal/policy"
	"example.org/kavlo/internal/sheet"
	"example.org/kavlo/internal/store"
	"example.org/kavlo/internal/workspace"
)

const loans = `
tracker: Loans
zone: UTC
tabs:
  Requested: { columns: { Object: { type: text }, Stage: &s { type: choice, options: [Requested, Agreed] }, Lender: { type: text }, Value: { type: number }, Due: { type: date } } }
  Agreed:    { columns: { Object: { type: text }, Stage: *s, Lender: { type: text }, Value: { type: number }, Due: { type: date } } }
rules:
  - { name: Move, wake: { edit: [Stage] }, where: Stage is not blank and Stage is not tab, steps: [ { move: { to: "{Stage}" } } ] }
  - { name: All over, in: Requested, steps: [ { move: { to: Agreed } } ] }
  - { name: All back, in: Agreed, steps: [ { move: { to: Requested } } ] }
`

// openWorkspace opens a workspace with so many rows in Requested.
func openWorkspace(dir string, rows int, o store.Options) (*workspace.Workspace, []sheet.RowID, error) {
	ctx := context.Background()
	d, err := workspace.Open(ctx, workspace.Config{Dir: dir, Store: o})
	if err != nil {
		return nil, nil, err
	}
	if _, err := d.Commit(ctx, d.LoadSetup(policy.Itself("bench"), []byte(loans))); err != nil {
		return nil, nil, err
	}
	ids, err := addRows(ctx, d, "Loans", "Requested", rows, func(i int) map[string]any {
		return map[string]any{"Object": fmt.Sprintf("Signal lamp %d", i), "Stage": "Requested", "Lender": "Port Averin Archive", "Value": "12500.50", "Due": "2026-04-01"}
	})
	return d, ids, err
}

// addRows adds so many rows to a tab.
func addRows(ctx context.Context, d *workspace.Workspace, tracker, tabName string, rows int, cells func(i int) map[string]any) ([]sheet.RowID, error) {
	t, tab, err := d.FindTab(tracker, tabName)
	if err != nil {
		return nil, err
	}
	all := make([]map[string]any, rows)
	for i := range all {
		all[i] = cells(i)
	}
	req := d.AddRows(policy.Itself("bench"), t.ID, tab.ID, all)
	req.Alone = true
	r, err := d.Commit(ctx, req)
	if err != nil {
		return nil, err
	}
	ids := make([]sheet.RowID, rows)
	for i := range ids {
		ids[i] = r.Set.Changes[i].Row
	}
	return ids, nil
}

// bare opens a SQLite file as the store does, with a table of rows and one of
// journal records, and fills it.
func bare(dir string, rows int, o store.Options) (*sql.DB, error) {
	sync := map[bool]string{false: "FULL", true: "OFF"}[o.Careless]
	db, err := sql.Open("sqlite", "file:"+filepath.Join(dir, "bare.db")+"?_txlock=immediate&_pragma=journal_mode(WAL)&_pragma=synchronous("+sync+")&_pragma=busy_timeout(10000)")
	if err != nil {
		return nil, err
	}
	db.SetMaxOpenConns(1)
	ctx := context.Background()
	if _, err := db.ExecContext(ctx, `CREATE TABLE row(id INTEGER PRIMARY KEY, tab INTEGER NOT NULL, cells TEXT NOT NULL); CREATE TABLE journal(seq INTEGER PRIMARY KEY, body TEXT NOT NULL)`); err != nil {
		return nil, err
	}
	return db, inTransaction(db, func(tx *sql.Tx) error {
		for i := range rows {
			if _, err := tx.ExecContext(ctx, "INSERT INTO row VALUES (?,1,?)", i+1, cellsText("Requested", i)); err != nil {
				return err
			}
		}
		return nil
	})
}

func cellsText(stage string, i int) string {
	return fmt.Sprintf(`{"c2":"Signal lamp %d","c3":{"choice":"%s"},"c4":"Port Averin Archive","c5":12500.5,"c6":{"date":"2026-04-01"}}`, i, stage)
}

func inTransaction(db *sql.DB, f func(*sql.Tx) error) error {
	tx, err := db.BeginTx(context.Background(), nil)
	if err != nil {
		return err
	}
	if err := f(tx); err != nil {
		return errors.Join(err, tx.Rollback())
	}
	return tx.Commit()
}

const editsATurn = 200

var oneEdit = edits("an edit that moves a row", "the row and the journal record written in bare SQLite, durably", 2, store.Options{})

var carelessEdit = edits("the same with durability off in both", "the same", 5, store.Options{Careless: true})

func edits(name, floor string, limit float64, o store.Options) Case {
	return Case{Name: name, Floor: floor, Limit: limit, Turns: 9, Items: editsATurn, Item: "edit", Setup: func(dir string) (kavlo, floor func() error, done func() error, err error) {
		d, ids, err := openWorkspace(dir, 1000, o)
		if err != nil {
			return nil, nil, nil, err
		}
		db, err := bare(dir, 1000, o)
		if err != nil {
			return nil, nil, nil, err
		}
		tracker, err := d.Find("Loans")
		if err != nil {
			return nil, nil, nil, err
		}
		ctx := context.Background()
		put, err := db.PrepareContext(ctx, "UPDATE row SET tab=?, cells=? WHERE id=?")
		if err != nil {
			return nil, nil, nil, err
		}
		log, err := db.PrepareContext(ctx, "INSERT INTO journal(body) VALUES (?)")
		if err != nil {
			return nil, nil, nil, err
		}
		stages := []string{"Requested", "Agreed"}
		turn := 0
		kavlo = func() error {
			turn++
			for i := range editsATurn {
				edit := []edit.RowEdit{{Row: ids[i], Cells: map[string]any{"Stage": stages[turn%2]}}}
				if _, err := d.Commit(ctx, d.SetRows(policy.Itself("bench"), tracker.ID, edit)); err != nil {
					return err
				}
			}
			return nil
		}
		body := `[{"kind":"set","tracker":9,"tab":1,"row":77,"column":3,"before":{"choice":"Requested"},"after":{"choice":"Agreed"}},{"kind":"move","tracker":9,"tab":1,"row":77,"to_tracker":9,"to_tab":7,"pos":65536,"to_pos":131072,"because":1}]`
		floor = func() error {
			for i := range editsATurn {
				err := inTransaction(db, func(tx *sql.Tx) error {
					//nolint:sqlclosecheck // closed with the transaction
					if _, err := tx.StmtContext(ctx, put).ExecContext(ctx, 1+turn%2, cellsText(stages[turn%2], i), i+1); err != nil {
						return err
					}
					//nolint:sqlclosecheck // closed with the transaction
					_, err := tx.StmtContext(ctx, log).ExecContext(ctx, body)
					return err
				})
				if err != nil {
					return err
				}
			}
			return nil
		}
		return kavlo, floor, func() error { return errors.Join(db.Close(), d.Close()) }, nil
	}}
}

const movedRows = 100_000

var manyMoves = Case{
	Name: "a run that moves 100,000 rows", Floor: "the rows and their journal records written in bare SQLite, in one transaction", Limit: 2, Turns: 3, Items: movedRows, Item: "row",
	Setup: func(dir string) (kavlo, floor func() error, done func() error, err error) {
		d, _, err := openWorkspace(dir, movedRows, store.Options{})
		if err != nil {
			return nil, nil, nil, err
		}
		db, err := bare(dir, movedRows, store.Options{})
		if err != nil {
			return nil, nil, nil, err
		}
		ctx := context.Background()
		turn := 0
		kavlo = func() error {
			turn++
			tracker, err := d.Find("Loans")
			if err != nil {
				return err
			}
			r, err := d.FindRule(tracker, []string{"All back", "All over"}[turn%2])
			if err != nil {
				return err
			}
			res, err := d.Commit(ctx, d.RunRule(policy.Itself("bench"), tracker, r))
			if err == nil && len(res.Set.Changes) != movedRows {
				err = fmt.Errorf("%d rows were moved", len(res.Set.Changes))
			}
			return err
		}
		floor = func() error {
			return inTransaction(db, func(tx *sql.Tx) error {
				put, err := tx.PrepareContext(ctx, "UPDATE row SET tab=? WHERE id=?")
				if err != nil {
					return err
				}
				defer put.Close()
				log, err := tx.PrepareContext(ctx, "INSERT INTO journal(body) VALUES (?)")
				if err != nil {
					return err
				}
				defer log.Close()
				for i := range movedRows {
					if _, err := put.ExecContext(ctx, 1+turn%2, i+1); err != nil {
						return err
					}
					if _, err := log.ExecContext(ctx, fmt.Sprintf(`{"kind":"move","tracker":9,"tab":1,"row":%d,"to_tracker":9,"to_tab":7,"pos":65536,"to_pos":131072,"because":1}`, i)); err != nil {
						return err
					}
				}
				return nil
			})
		}
		return kavlo, floor, func() error { return errors.Join(db.Close(), d.Close()) }, nil
	},
}
