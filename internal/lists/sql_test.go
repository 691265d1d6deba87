package lists_test

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	_ "github.com/jackc/pgx/v5/stdlib"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"example.org/kavlo/internal/lists"
	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/testkit/servers"
)

const lendersTable = `CREATE TABLE "Lenders of art" (no TEXT PRIMARY KEY, name TEXT NOT NULL, fee NUMERIC(12,2), "insured until" DATE, active BOOLEAN, rev INTEGER DEFAULT 0);
INSERT INTO "Lenders of art" VALUES ('007', 'Quillmoor', 1250.50, '2026-03-31', TRUE, 1), ('008', 'Hask', NULL, NULL, FALSE, 1)`

func TestDatabases(t *testing.T) {
	for kind, open := range map[string]func(*testing.T) (*sql.DB, *reconcile.List, string){
		"SQLite": func(t *testing.T) (*sql.DB, *reconcile.List, string) {
			dir := t.TempDir()
			require.NoError(t, os.Mkdir(filepath.Join(dir, lists.Folder), 0o700))
			db, err := sql.Open("sqlite", filepath.Join(dir, lists.Folder, "register.db"))
			require.NoError(t, err)
			return db, &reconcile.List{SQLite: "lists/register.db"}, dir
		},
		"PostgreSQL": func(t *testing.T) (*sql.DB, *reconcile.List, string) {
			at := servers.Postgres(t)
			db, err := sql.Open("pgx", strings.ReplaceAll(at, "${PG}", servers.Password))
			require.NoError(t, err)
			return db, &reconcile.List{Postgres: at}, ""
		},
	} {
		t.Run(kind, func(t *testing.T) {
			db, l, dir := open(t)
			defer func() { assert.NoError(t, db.Close()) }()
			_, err := db.ExecContext(t.Context(), lendersTable)
			require.NoError(t, err)
			c := quick()
			c.Dir = dir
			c.Secret = func(context.Context, string) (string, error) { return servers.Password, nil }
			l.Table, l.ID, l.Version = "Lenders of art", "no", "rev"
			checkDatabase(t, db, c.Fetch, func(w reconcile.Write) error { _, err := c.Send(t.Context(), l, &w); return err }, l)

			l.Table, l.Query = "", `SELECT no, upper(name) AS loud FROM "Lenders of art" WHERE no = '007'`
			got, err := c.Fetch(t.Context(), l)
			require.NoError(t, err)
			require.Len(t, got, 1)
			assert.Equal(t, "QUILLMOOR TRUST", got[0].Doc.(map[string]any)["loud"])
			l.Query = "SELECT a FROM nowhere"
			_, err = c.Fetch(t.Context(), l)
			require.ErrorContains(t, err, "nowhere")
			if kind == "PostgreSQL" {
				l.Query = `WITH gone AS (DELETE FROM "Lenders of art" RETURNING no) SELECT no FROM gone`
				_, err = c.Fetch(t.Context(), l)
				require.ErrorContains(t, err, "read-only")
				c.AllowedHosts = func(context.Context) ([]string, error) { return []string{"public"}, nil }
				_, err = c.Fetch(t.Context(), l)
				require.ErrorContains(t, err, "lists may not reach 127.0.0.1")
				c.AllowedHosts = nil
				c.Secret = func(context.Context, string) (string, error) { return "wr0ng", nil }
				_, err = c.Fetch(t.Context(), l)
				require.Error(t, err)
				assert.NotContains(t, err.Error(), "wr0ng")
			}
		})
	}
	_, err := quick().Fetch(t.Context(), &reconcile.List{SQLite: "../x.db", Table: "t", ID: "i"})
	require.ErrorContains(t, err, "is not a file that lists may read")
	c := quick()
	c.Dir = t.TempDir()
	_, err = c.Fetch(t.Context(), &reconcile.List{SQLite: "lists/x.db", Table: "t", ID: "i"})
	require.ErrorContains(t, err, "is not there")
}

func checkDatabase(t *testing.T, db *sql.DB, fetch func(context.Context, *reconcile.List) ([]reconcile.Entry, error), send func(reconcile.Write) error, l *reconcile.List) {
	t.Helper()
	row := func(no string) string {
		var name, fee, until sql.NullString
		var active sql.NullBool
		err := db.QueryRowContext(t.Context(), `SELECT name, fee, CAST("insured until" AS TEXT), active FROM "Lenders of art" WHERE no=$1`, no).Scan(&name, &fee, &until, &active)
		if err != nil {
			return err.Error()
		}
		if len(until.String) > 10 {
			until.String = until.String[:10]
		}
		return fmt.Sprint(name.String, " ", strings.TrimRight(fee.String, "0"), " ", until.String, " ", active.Bool)
	}
	got, err := fetch(t.Context(), l)
	require.NoError(t, err)
	require.Len(t, got, 2)
	doc := got[0].Doc.(map[string]any)
	assert.Equal(t, "007", got[0].ID)
	assert.Equal(t, "1", got[0].Version)
	assert.Equal(t, []any{"Quillmoor", "2026-03-31", true}, []any{doc["name"], doc["insured until"], doc["active"]})
	assert.Equal(t, "1250.5", strings.TrimSuffix(fmt.Sprint(doc["fee"]), "0"))
	assert.Nil(t, got[1].Doc.(map[string]any)["fee"])

	add := reconcile.Write{Kind: reconcile.AddToList, Key: "009", Fields: map[string]any{"no": "009", "name": `Tarn's "own"`, "fee": json.Number("12.5"), "insured until": "2026-05-01", "active": true}}
	require.NoError(t, send(add))
	require.NoError(t, send(add), "the same again is done once")
	assert.Equal(t, `Tarn's "own" 12.5 2026-05-01 true`, row("009"))
	require.NoError(t, send(reconcile.Write{Kind: reconcile.Update, ID: "007", Version: "1", Fields: map[string]any{"name": "Quillmoor Trust", "fee": nil}}))
	assert.Equal(t, "Quillmoor Trust  2026-03-31 true", row("007"))
	var declined *reconcile.Declined
	err = send(reconcile.Write{Kind: reconcile.Update, ID: "008", Version: "0", Fields: map[string]any{"name": "x"}})
	require.ErrorAs(t, err, &declined)
	assert.Contains(t, declined.Why, "changed in the list meanwhile")
	require.ErrorAs(t, send(reconcile.Write{Kind: reconcile.Update, ID: "008", Version: "1", Fields: map[string]any{"name": nil}}), &declined, "the database refuses it")
	require.NoError(t, send(reconcile.Write{Kind: reconcile.GoneTab, ID: "009"}))
	require.NoError(t, send(reconcile.Write{Kind: reconcile.GoneTab, ID: "009"}), "gone is gone")
	assert.Contains(t, row("009"), "no rows")
	require.NoError(t, send(reconcile.Write{Kind: reconcile.GoneTab, ID: `' OR 1=1 --`}))
	assert.Equal(t, "Hask   false", row("008"), "an id is never taken for SQL")
}
