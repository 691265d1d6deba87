package lists

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"net/url"
	"os"
	"sort"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/stdlib"
	_ "modernc.org/sqlite" // the driver of files

	"example.org/kavlo/internal/reconcile"
	"example.org/kavlo/internal/setup"
)

// database opens a database for one use.
func (c *Connectors) database(l *setup.List) (*sql.DB, error) {
	if l.SQLite != "" {
		file, err := c.inside(l.SQLite)
		if err != nil {
			return nil, err
		}
		if _, err := os.Stat(file); err != nil {
			return nil, fmt.Errorf("the database %s is not there; its path is counted from the workspace's folder", l.SQLite)
		}
		return sql.Open("sqlite", "file:"+(&url.URL{Path: file}).EscapedPath()+"?_pragma=busy_timeout(5000)")
	}
	cfg, err := pgx.ParseConfig(l.Postgres)
	if err != nil {
		return nil, errors.New("the connection string is not one that PostgreSQL takes")
	}
	cfg.DialFunc = c.dial
	cfg.LookupFunc = func(_ context.Context, host string) ([]string, error) { return []string{host}, nil } // dial looks it up
	cfg.ConnectTimeout = 10 * time.Second
	return stdlib.OpenDB(*cfg), nil
}

// quoted writes a name of SQL, with a schema where it has one.
func quoted(name string) string {
	parts := strings.Split(name, ".")
	for i, p := range parts {
		parts[i] = `"` + strings.ReplaceAll(p, `"`, `""`) + `"`
	}
	return strings.Join(parts, ".")
}

func (c *Connectors) fetchSQL(ctx context.Context, l *setup.List) ([]reconcile.Entry, error) {
	db, err := c.database(l)
	if err != nil {
		return nil, err
	}
	defer func() { _ = db.Close() }()
	ctx, cancel := context.WithTimeout(ctx, 10*callTime)
	defer cancel()
	tx, err := db.BeginTx(ctx, &sql.TxOptions{ReadOnly: l.SQLite == ""}) // a query that would write is refused
	if err != nil {
		return nil, fmt.Errorf("connecting to the database: %w", err)
	}
	defer func() { _ = tx.Rollback() }()
	query := l.Query
	if l.Table != "" {
		query = "SELECT * FROM " + quoted(l.Table) + " ORDER BY " + quoted(l.ID)
	}
	rows, err := tx.QueryContext(ctx, query)
	if err != nil {
		return nil, fmt.Errorf("asking the database: %w", err)
	}
	defer rows.Close()
	names, err := rows.Columns()
	if err != nil {
		return nil, err
	}
	types, err := rows.ColumnTypes()
	if err != nil {
		return nil, err
	}
	var out []reconcile.Entry
	cells, at := make([]any, len(names)), make([]any, len(names))
	for i := range cells {
		at[i] = &cells[i]
	}
	for rows.Next() {
		if err := rows.Scan(at...); err != nil {
			return nil, err
		}
		doc := make(map[string]any, len(names))
		for i, n := range names {
			doc[n] = fromSQL(cells[i], types[i].DatabaseTypeName())
		}
		if len(out) == MaxRecords {
			return nil, fmt.Errorf("the list has more than %d records", MaxRecords)
		}
		out = append(out, entry(l, doc, fmt.Sprintf("record %d", len(out)+1)))
	}
	return out, rows.Err()
}

// fromSQL gives a database's value as JSON would hold it.
func fromSQL(v any, kind string) any {
	switch x := v.(type) {
	case time.Time:
		if kind == "DATE" {
			return x.Format(time.DateOnly)
		}
		if kind == "TIMESTAMPTZ" {
			return x.Format(time.RFC3339)
		}
		return x.Format("2006-01-02T15:04:05")
	case []byte:
		return string(x)
	case int64:
		if strings.HasPrefix(kind, "BOOL") { // SQLite has no type of its own for it
			return x != 0
		}
		return json.Number(fmt.Sprint(x))
	case float64:
		return json.Number(strings.TrimSuffix(fmt.Sprintf("%v", x), ".0"))
	case string:
		if kind == "NUMERIC" {
			return json.Number(x)
		}
	}
	return v
}

// sendSQL makes one write in a transaction of its own. A row that is not what
// it was (its version, where the list names one) is left alone.
func (c *Connectors) sendSQL(ctx context.Context, l *setup.List, w *reconcile.Write) (reconcile.Written, error) {
	db, err := c.database(l)
	if err != nil {
		return reconcile.Written{}, err
	}
	defer func() { _ = db.Close() }()
	ctx, cancel := context.WithTimeout(ctx, callTime)
	defer cancel()
	var args []any
	arg := func(v any) string {
		args = append(args, v)
		return fmt.Sprintf("$%d", len(args))
	}
	columns := make([]string, 0, len(w.Fields))
	for name := range w.Fields {
		columns = append(columns, name)
	}
	sort.Strings(columns)
	where := func() string {
		s := " WHERE " + c.idIs(l, arg(w.ID))
		if w.Version != "" && l.Version != "" {
			s += " AND CAST(" + quoted(l.Version) + " AS TEXT) = " + arg(w.Version)
		}
		return s
	}
	var query string
	switch w.Kind {
	case reconcile.AddToList:
		names, marks := make([]string, len(columns)), make([]string, len(columns))
		for i, name := range columns {
			names[i], marks[i] = quoted(strings.TrimPrefix(name, "/")), arg(toSQL(w.Fields[name]))
		}
		query = "INSERT INTO " + quoted(l.Table) + " (" + strings.Join(names, ", ") + ") VALUES (" + strings.Join(marks, ", ") + ") ON CONFLICT DO NOTHING"
	case reconcile.GoneTab:
		query = "DELETE FROM " + quoted(l.Table) + where()
	default:
		sets := make([]string, len(columns))
		for i, name := range columns {
			sets[i] = quoted(strings.TrimPrefix(name, "/")) + " = " + arg(toSQL(w.Fields[name]))
		}
		query = "UPDATE " + quoted(l.Table) + " SET " + strings.Join(sets, ", ") + where()
	}
	r, err := db.ExecContext(ctx, query, args...)
	var refused *pgconn.PgError
	switch {
	case errors.As(err, &refused), err != nil && l.SQLite != "" && !strings.Contains(err.Error(), "SQLITE_BUSY"):
		return reconcile.Written{}, &reconcile.Declined{Why: err.Error()}
	case err != nil:
		return reconcile.Written{}, fmt.Errorf("writing to the database: %w", err)
	}
	n, err := r.RowsAffected()
	if err == nil && n == 0 && w.Kind == reconcile.Update {
		return reconcile.Written{}, &reconcile.Declined{Why: "the record was changed in the list meanwhile: the next sync looks at it again"}
	}
	return reconcile.Written{}, err
}

// idIs compares the id as text, whatever its type in the database.
func (c *Connectors) idIs(l *setup.List, mark string) string {
	return "CAST(" + quoted(l.ID) + " AS TEXT) = CAST(" + mark + " AS TEXT)"
}

// toSQL gives a value of JSON as databases take it: their own types read text.
func toSQL(v any) any {
	switch x := v.(type) {
	case json.Number:
		return x.String()
	case []string:
		return strings.Join(x, "; ")
	}
	return v
}
