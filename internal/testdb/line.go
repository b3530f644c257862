package testdb

import (
	"context"
	"database/sql/driver"
	"net"
	"strings"
	"sync"
	"syscall"
	"testing"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/store"
)

// Fault is what happens to one statement of a write.
type Fault string

// The faults.
const (
	Deadlock Fault = "deadlock"        // the server chose this write to give way (1213)
	Lost     Fault = "lost connection" // the connection ends before the statement reaches the server
	Unheard  Fault = "lost answer"     // the server does what is asked, and its answer is lost
)

// Faults lists the faults.
var Faults = []Fault{Deadlock, Lost, Unheard}

// Line is a connection to the database that can be told to fail. It counts the statements of writes, COMMIT included.
type Line struct {
	mu    sync.Mutex
	count int
	at    int
	fault Fault
	hit   bool
	away  bool
	only  bool // writes of watched calls

	gaps int // between the statements of watched calls, where no transaction is open
	gap  int
	then func()

	before map[string]func() // by the beginning of a statement
}

// Before lets something else happen, once, before the next statement within a transaction that begins with a text. It must not wait
// for what that transaction has locked.
func (l *Line) Before(begins string, then func()) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.before == nil {
		l.before = map[string]func(){}
	}
	l.before[begins] = then
}

// come comes to a statement within a transaction.
func (l *Line) come(statement string) {
	var then func()
	l.mu.Lock()
	for begins, f := range l.before {
		if strings.HasPrefix(statement, begins) {
			delete(l.before, begins)
			then = f
			break
		}
	}
	l.mu.Unlock()
	if then != nil {
		then()
	}
}

// watched marks the context of a call that Watch returned.
type watched struct{}

// Watch lets only writes of calls in the returned context count and fail from now on, so that what a job left to do does not.
func (l *Line) Watch(ctx context.Context) context.Context {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.only = true
	return context.WithValue(ctx, watched{}, true)
}

func (l *Line) watches(ctx context.Context) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	return !l.only || ctx.Value(watched{}) != nil
}

// Overtake lets something else happen, once, before the nth statement that a watched call begins outside a transaction; 0 only
// counts them.
func (l *Line) Overtake(n int, then func()) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.gaps, l.gap, l.then = 0, n, then
}

// Gaps returns how many such statements there were since Overtake.
func (l *Line) Gaps() int {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.gaps
}

// pass comes to such a statement.
func (l *Line) pass(ctx context.Context) {
	if ctx.Value(watched{}) == nil {
		return
	}
	l.mu.Lock()
	then := l.then
	l.gaps++
	if l.gaps != l.gap {
		then = nil
	}
	l.mu.Unlock()
	if then != nil {
		then()
	}
}

// OpenLine returns a store on a fresh schema over a line that can fail, and the owner's DSN.
func OpenLine(t *testing.T) (*store.Store, string, *Line) {
	t.Helper()
	owner, dsn := Schema(t)
	l := &Line{}
	s, err := store.OpenThrough(dsn, func(c driver.Connector) driver.Connector { return &connector{c, l} })
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	return s, owner, l
}

// Fail lets the nth statement of writes from now on meet a fault, once; 0 lets all be well and only counts.
func (l *Line) Fail(n int, f Fault) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.count, l.at, l.fault, l.hit = 0, n, f, false
}

// Cut lets the database be away for everybody, or be there again.
func (l *Line) Cut(away bool) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.away = away
}

func (l *Line) isAway() bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.away
}

// Count returns how many statements writes had since Fail, and whether the fault was met.
func (l *Line) Count() (statements int, met bool) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.count, l.hit
}

// next counts a statement and says what happens to it.
func (l *Line) next() Fault {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.count++; l.count != l.at || l.hit {
		return ""
	}
	l.hit = true
	return l.fault
}

type connector struct {
	driver.Connector
	line *Line
}

func (c *connector) Connect(ctx context.Context) (driver.Conn, error) {
	if c.line.isAway() {
		return nil, &net.OpError{Op: "dial", Net: "tcp", Err: syscall.ECONNREFUSED}
	}
	k, err := c.Connector.Connect(ctx)
	if err != nil {
		return nil, err
	}
	return &conn{realConn: k.(realConn), line: c.line}, nil
}

// realConn is what the driver's connections can do.
type realConn interface {
	driver.Conn
	driver.ConnBeginTx
	driver.ConnPrepareContext
	driver.ExecerContext
	driver.QueryerContext
	driver.Pinger
	driver.SessionResetter
	driver.Validator
	driver.NamedValueChecker
}

type conn struct {
	realConn
	line   *Line
	inside bool // a transaction
	broken bool
}

func (c *conn) IsValid() bool { return !c.broken && c.realConn.IsValid() }

func (c *conn) BeginTx(ctx context.Context, o driver.TxOptions) (driver.Tx, error) {
	c.line.pass(ctx)
	x, err := c.realConn.BeginTx(ctx, o)
	if err != nil {
		return nil, err
	}
	c.inside = c.line.watches(ctx)
	return &tx{x, c}, nil
}

// meet lets a statement meet its fault; do is the statement.
func (c *conn) meet(ctx context.Context, do func() error) error {
	if !c.inside {
		c.line.pass(ctx)
	}
	if c.line.isAway() {
		c.cut()
	}
	if c.broken {
		return mysql.ErrInvalidConn
	}
	if !c.inside {
		return do()
	}
	switch c.line.next() {
	case Deadlock:
		return &mysql.MySQLError{Number: 1213, Message: "Deadlock found when trying to get lock; try restarting transaction"}
	case Lost:
		c.cut()
		return mysql.ErrInvalidConn
	case Unheard:
		if err := do(); err != nil {
			return err
		}
		c.cut()
		return mysql.ErrInvalidConn
	}
	return do()
}

// comes tells the line that a statement within a transaction is next.
func (c *conn) comes(statement string) {
	if c.inside {
		c.line.come(statement)
	}
}

func (c *conn) cut() {
	if !c.broken {
		c.broken = true
		_ = c.realConn.Close()
	}
}

func (c *conn) PrepareContext(ctx context.Context, q string) (out driver.Stmt, err error) {
	c.comes(q)
	err = c.meet(ctx, func() error { out, err = c.realConn.PrepareContext(ctx, q); return err })
	if err != nil {
		return nil, err
	}
	return &stmt{out.(realStmt), c}, nil
}

// realStmt is what the driver's statements can do.
type realStmt interface {
	driver.Stmt
	driver.StmtExecContext
	driver.StmtQueryContext
	driver.NamedValueChecker
}

type stmt struct {
	realStmt
	conn *conn
}

func (s *stmt) ExecContext(ctx context.Context, args []driver.NamedValue) (out driver.Result, err error) {
	err = s.conn.meet(ctx, func() error { out, err = s.realStmt.ExecContext(ctx, args); return err })
	if err != nil {
		out = nil
	}
	return out, err
}

func (c *conn) ExecContext(ctx context.Context, q string, args []driver.NamedValue) (out driver.Result, err error) {
	c.comes(q)
	err = c.meet(ctx, func() error { out, err = c.realConn.ExecContext(ctx, q, args); return err })
	if err != nil {
		out = nil
	}
	return out, err
}

func (c *conn) QueryContext(ctx context.Context, q string, args []driver.NamedValue) (out driver.Rows, err error) {
	c.comes(q)
	err = c.meet(ctx, func() error { out, err = c.realConn.QueryContext(ctx, q, args); return err })
	if err != nil {
		out = nil
	}
	return out, err
}

type tx struct {
	driver.Tx
	conn *conn
}

func (t *tx) Commit() error {
	defer func() { t.conn.inside = false }()
	err := t.conn.meet(context.Background(), t.Tx.Commit)
	if err != nil && !t.conn.broken {
		_ = t.Tx.Rollback() // a server that refuses a COMMIT has rolled back
	}
	return err
}

func (t *tx) Rollback() error {
	t.conn.inside = false
	if t.conn.broken {
		return nil
	}
	return t.Tx.Rollback()
}
