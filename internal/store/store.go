// Package store keeps documents, records and files in MariaDB. It owns the rules of writing: every write is a deed in
// one transaction, retried on conflicts, done once, with its trail and its place in the feed. What a deed means and
// who may do it is decided in package service.
package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"database/sql/driver"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"net"
	"regexp"
	"time"

	"github.com/go-sql-driver/mysql"
	gormmysql "gorm.io/driver/mysql"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
	"gorm.io/gorm/logger"
)

// Store is the service's door to the database. Its methods may be called from several goroutines, and several Stores
// may work on one database or on the nodes of one cluster.
type Store struct {
	db, reads *gorm.DB // writes and reads have connections of their own: a write never waits for one that a write holds
	pools     []*sql.DB
	// Committed, when set, is told of every deed after its commit.
	Committed func(deed ID)
	// Ruled, when set, is called at the end of every write that changed the cabinet or a lifecycle, for what is derived from them.
	Ruled func(*Tx) error
}

// Errors that service turns into sentences.
var (
	ErrNotFound = errors.New("not found")
	ErrConflict = errors.New("changed by somebody else meanwhile")
	// ErrOvertaken is an ErrConflict of a staging: one of the things was written between being staged and being shown.
	ErrOvertaken   = fmt.Errorf("a staged thing was %w", ErrConflict)
	ErrReused      = errors.New("the deed's identifier was used for another deed")
	ErrNumberTaken = errors.New("the number is taken")
	ErrSourceTaken = errors.New("another part has the source")
	errDeedRace    = errors.New("another try of the same deed was first")
)

// taken turns the refusal of a UNIQUE key into the error that says what was refused.
func taken(err, as error) error {
	if code(err) == 1062 {
		return as
	}
	return err
}

// Open connects with the service's account. It does not migrate.
func Open(dsn string) (*Store, error) {
	return OpenThrough(dsn, func(c driver.Connector) driver.Connector { return c })
}

// OpenThrough is Open with something between the store and the database: tests put a line there that breaks.
func OpenThrough(dsn string, line func(driver.Connector) driver.Connector) (*Store, error) {
	s := &Store{}
	for _, into := range []**gorm.DB{&s.db, &s.reads} {
		k, err := connector(dsn)
		if err != nil {
			return nil, err
		}
		db := sql.OpenDB(line(k))
		db.SetMaxOpenConns(connections)
		db.SetMaxIdleConns(connections / 2)
		db.SetConnMaxLifetime(10 * time.Minute)
		s.pools = append(s.pools, db)
		*into, err = gorm.Open(gormmysql.New(gormmysql.Config{Conn: db, SkipInitializeWithVersion: true}),
			&gorm.Config{Logger: logger.Discard, SkipDefaultTransaction: true, NowFunc: func() time.Time { return time.Now().UTC() }})
		if err != nil {
			s.Close()
			return nil, fmt.Errorf("opening the database: %w", err)
		}
	}
	return s, nil
}

// connections bounds each of the two pools of an instance; a server takes 151 unless it is told otherwise.
const connections = 24

func openSQL(dsn string) (*sql.DB, error) {
	k, err := connector(dsn)
	if err != nil {
		return nil, err
	}
	return sql.OpenDB(k), nil
}

// connector adds to a DSN the session settings that the rules of writing depend on.
func connector(dsn string) (driver.Connector, error) {
	c, err := mysql.ParseDSN(dsn)
	if err != nil {
		return nil, fmt.Errorf("the database DSN cannot be read: %w", err)
	}
	c.ParseTime, c.Loc, c.InterpolateParams = true, time.UTC, true
	c.Collation = "utf8mb4_general_ci"
	c.Timeout, c.ReadTimeout, c.WriteTimeout = 5*time.Second, 60*time.Second, 60*time.Second
	c.Logger = &mysql.NopLogger{}
	if c.Params == nil {
		c.Params = map[string]string{}
	}
	c.Params["innodb_snapshot_isolation"] = "ON"
	c.Params["time_zone"] = "'+00:00'"
	c.Params["sql_mode"] = "'STRICT_ALL_TABLES,NO_ZERO_DATE,NO_ZERO_IN_DATE,ERROR_FOR_DIVISION_BY_ZERO,NO_ENGINE_SUBSTITUTION'"
	c.Params["wsrep_sync_wait"] = "1"
	k, err := mysql.NewConnector(c)
	if err != nil {
		return nil, fmt.Errorf("the database DSN cannot be used: %w", err)
	}
	return k, nil
}

// Close lets go of the connections.
func (s *Store) Close() error {
	var errs []error
	for _, p := range s.pools {
		errs = append(errs, p.Close())
	}
	return errors.Join(errs...)
}

// Ping says whether the database answers.
func (s *Store) Ping(ctx context.Context) error { return s.pools[0].PingContext(ctx) }

// SchemaVersion returns the number of the newest migration that was applied.
func (s *Store) SchemaVersion(ctx context.Context) (v int, err error) {
	err = s.pools[1].QueryRowContext(ctx, "SELECT MAX(version_id) FROM goose_db_version").Scan(&v)
	return v, err
}

// SchemaWanted is the schema version that this program works with.
func SchemaWanted() int { return len(migrations) }

func code(err error) uint16 {
	var m *mysql.MySQLError
	if errors.As(err, &m) {
		return m.Number
	}
	return 0
}

// Transient says whether a failed write may be tried again: deadlock, lock wait, stale snapshot, a cluster node that
// is not ready, a lost connection.
func Transient(err error) bool {
	switch code(err) {
	case 1040, 1213, 1205, 1020, 1047, 1053, 1180, 1927:
		return true
	}
	var line *net.OpError
	return errors.Is(err, driver.ErrBadConn) || errors.Is(err, mysql.ErrInvalidConn) || errors.As(err, &line)
}

// noRoom finds the name of a column in what the server says of a value that it has no room for.
var noRoom = regexp.MustCompile("column '([^']+)'")

// Unfit says whether something was longer, or greater, than what can be kept, and in which column.
func Unfit(err error) (column string, ok bool) {
	switch code(err) {
	case 1264, 1406:
		if m := noRoom.FindStringSubmatch(err.Error()); m != nil {
			column = m[1]
		}
		return column, true
	}
	return "", false
}

// Deed is one act of one person.
type Deed struct {
	ID      ID // made by the client, so that a retry after a lost answer finds it done
	Kind    string
	Account ID
	At      time.Time
	Request [sha256.Size]byte // hash of what was asked: the same ID with another question is refused
}

// Reader asks the database: outside of any write where it comes from Store.Read, inside one where it comes with a Tx. What
// a write depends on is read through its Tx.
type Reader struct{ db *gorm.DB }

// Tx is a write in progress.
type Tx struct {
	Reader
	Deed Deed

	ruled bool        // it wrote what others are read by
	wrote map[ID]bool // contents
}

// Do carries out a deed once: fn runs in one transaction, again after a conflict, and its result is kept with the deed.
// When the deed was done before, its first result is returned and fn does not run. result is JSON.
func (s *Store) Do(ctx context.Context, d Deed, fn func(*Tx) (any, error)) (json.RawMessage, error) {
	result, err := s.commit(ctx, d, fn, nil)
	if err == nil && s.Committed != nil {
		s.Committed(d.ID)
	}
	return result, err
}

// commit is Do without telling of the deed; how says in which kind of transaction, where it is another than the usual one.
func (s *Store) commit(ctx context.Context, d Deed, fn func(*Tx) (any, error), how *sql.TxOptions) (result json.RawMessage, err error) {
	ruled := s.Ruled
	err = s.retry(ctx, func() error {
		if result, err = s.done(ctx, d); result != nil || err != nil {
			return err
		}
		err := s.db.WithContext(ctx).Transaction(func(g *gorm.DB) error {
			tx := &Tx{Reader: Reader{g}, Deed: d}
			out, err := fn(tx)
			if err == nil && tx.ruled && ruled != nil {
				err = ruled(tx)
			}
			if err != nil {
				return err
			}
			result, err = tx.record(out)
			return err
		}, how)
		if err != nil && !Transient(err) { // another try of the same deed may have been first, so that what this one found was not as it was
			if first, e := s.done(ctx, d); first != nil && e == nil {
				result, err = first, nil
			}
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	return result, nil
}

// record writes the deed with its result and its place in the outbox.
func (t *Tx) record(out any) (json.RawMessage, error) {
	raw, err := json.Marshal(out)
	if err != nil {
		return nil, err
	}
	d := t.Deed
	if err := t.db.Exec("INSERT INTO deeds (id, kind, account, at, request, result) VALUES (?,?,?,?,?,?)", d.ID, d.Kind, d.Account, d.At, d.Request[:], string(raw)).Error; err != nil {
		return nil, taken(err, errDeedRace)
	}
	return raw, t.db.Exec("INSERT INTO outbox (deed, kind, at) VALUES (?,?,?)", d.ID, d.Kind, d.At).Error
}

func (s *Store) done(ctx context.Context, d Deed) (json.RawMessage, error) {
	var row struct {
		Request []byte
		Result  string
	}
	r := s.db.WithContext(ctx).Raw("SELECT request, result FROM deeds WHERE id = ?", d.ID).Scan(&row)
	if r.Error != nil || r.RowsAffected == 0 {
		return nil, r.Error
	}
	if string(row.Request) != string(d.Request[:]) {
		return nil, ErrReused
	}
	return json.RawMessage(row.Result), nil
}

// Replay returns the result of a deed that was done before, or nil. It saves work before Do; Do itself looks again.
func (s *Store) Replay(ctx context.Context, d Deed) (json.RawMessage, error) { return s.done(ctx, d) }

// retry runs fn until it succeeds or fails for good. When another try of the same deed won, the next round finds it
// done.
func (s *Store) retry(ctx context.Context, fn func() error) error {
	var err error
	for try := range 12 {
		if try > 0 {
			wait := min(time.Duration(1<<try)*4*time.Millisecond, time.Second)
			select {
			case <-ctx.Done():
				return ctx.Err()
			case <-time.After(wait/2 + rand.N(wait)):
			}
		}
		err = fn()
		if err == nil || !Transient(err) && !errors.Is(err, errDeedRace) {
			return err
		}
	}
	return err
}

// small runs one short transaction that is no deed: counters, leases, sessions.
func (s *Store) small(ctx context.Context, fn func(*gorm.DB) error) error {
	return s.retry(ctx, func() error { return s.db.WithContext(ctx).Transaction(fn) })
}

// once lets a row be written that is there already: when the answer to a COMMIT was lost, it may be.
func once(g *gorm.DB) *gorm.DB { return g.Clauses(clause.OnConflict{DoNothing: true}) }

// Read asks outside of any write.
func (s *Store) Read(ctx context.Context) Reader { return Reader{s.reads.WithContext(ctx)} }

// Snapshot lets several questions see the database as it was at one moment.
func (s *Store) Snapshot(ctx context.Context, ask func(Reader) error) error {
	return s.retry(ctx, func() error {
		return s.reads.WithContext(ctx).Transaction(func(g *gorm.DB) error { return ask(Reader{g}) }, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
	})
}

// Now returns the database's clock, by which leases are measured.
func (s *Store) Now(ctx context.Context) (t time.Time, err error) {
	err = s.pools[1].QueryRowContext(ctx, "SELECT NOW(6)").Scan(&t)
	return t, err
}

// schemaOf is the schema that a DSN names.
func schemaOf(dsn string) string {
	c, err := mysql.ParseDSN(dsn)
	if err != nil {
		return ""
	}
	return c.DBName
}
