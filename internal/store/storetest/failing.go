// Package storetest has a database driver that fails when a test says so, so
// that every call a store makes can be seen to fail.
package storetest

import (
	"context"
	"database/sql/driver"
	"fmt"
	"sync"
)

// The operations that can fail.
const (
	Begin   = "begin"
	Prepare = "prepare"
	Exec    = "exec"
	Query   = "query"
	Commit  = "commit"  // nothing is committed
	Unheard = "unheard" // it is committed, and the answer gets lost
)

// Fault is the error of a call that a test made fail.
type Fault struct {
	Op string
	N  int
}

func (f *Fault) Error() string {
	return fmt.Sprintf("call %d to the database, %s, failed as a test wants it", f.N, f.Op)
}

// Plan says which calls fail. It may be used by several goroutines.
type Plan struct {
	mu   sync.Mutex
	n    int
	fail func(op string, n int) bool
}

// Set counts calls anew, from 1, and lets fail say which of them go wrong; nil: none.
func (p *Plan) Set(fail func(op string, n int) bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.n, p.fail = 0, fail
}

// Calls gives how many calls there were since the plan was set.
func (p *Plan) Calls() int {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.n
}

func (p *Plan) call(op string) error {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.n++
	if p.fail != nil && p.fail(op, p.n) {
		return &Fault{op, p.n}
	}
	return nil
}

// Failing gives a driver around another that fails as the plan says.
func Failing(under driver.Driver, plan *Plan) driver.Driver { return &failing{under, plan} }

type failing struct {
	under driver.Driver
	plan  *Plan
}

func (d *failing) Open(name string) (driver.Conn, error) {
	c, err := d.under.Open(name)
	if err != nil {
		return nil, err
	}
	return &conn{c.(full), d.plan}, nil
}

// full is what a connection of the driver around which this one is put can do.
type full interface {
	driver.Conn
	driver.ConnPrepareContext
	driver.ConnBeginTx
	driver.ExecerContext
	driver.QueryerContext
	driver.SessionResetter
	driver.Validator
}

type conn struct {
	full
	plan *Plan
}

func (c *conn) PrepareContext(ctx context.Context, query string) (driver.Stmt, error) {
	if err := c.plan.call(Prepare); err != nil {
		return nil, err
	}
	s, err := c.full.PrepareContext(ctx, query)
	if err != nil {
		return nil, err
	}
	return &stmt{s, c.plan}, nil
}

func (c *conn) BeginTx(ctx context.Context, o driver.TxOptions) (driver.Tx, error) {
	if err := c.plan.call(Begin); err != nil {
		return nil, err
	}
	t, err := c.full.BeginTx(ctx, o)
	if err != nil {
		return nil, err
	}
	return &tx{t, c.plan}, nil
}

func (c *conn) ExecContext(ctx context.Context, query string, args []driver.NamedValue) (driver.Result, error) {
	if err := c.plan.call(Exec); err != nil {
		return nil, err
	}
	return c.full.ExecContext(ctx, query, args)
}

func (c *conn) QueryContext(ctx context.Context, query string, args []driver.NamedValue) (driver.Rows, error) {
	if err := c.plan.call(Query); err != nil {
		return nil, err
	}
	return c.full.QueryContext(ctx, query, args)
}

type stmt struct {
	driver.Stmt
	plan *Plan
}

func (s *stmt) ExecContext(ctx context.Context, args []driver.NamedValue) (driver.Result, error) {
	if err := s.plan.call(Exec); err != nil {
		return nil, err
	}
	return s.Stmt.(driver.StmtExecContext).ExecContext(ctx, args)
}

func (s *stmt) QueryContext(ctx context.Context, args []driver.NamedValue) (driver.Rows, error) {
	if err := s.plan.call(Query); err != nil {
		return nil, err
	}
	return s.Stmt.(driver.StmtQueryContext).QueryContext(ctx, args)
}

type tx struct {
	driver.Tx
	plan *Plan
}

func (t *tx) Commit() error {
	if err := t.plan.call(Commit); err != nil {
		_ = t.Rollback()
		return err
	}
	if err := t.Tx.Commit(); err != nil {
		return err
	}
	return t.plan.call(Unheard)
}
