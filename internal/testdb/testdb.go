// Package testdb gives tests a MariaDB of their own: one server for a test binary, one migrated schema for each test.
package testdb

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"sync/atomic"
	"syscall"
	"testing"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/readout"
	"jollydrawer/internal/dbserver"
	"jollydrawer/internal/store"
)

var (
	server *dbserver.Server
	count  atomic.Int32
)

// Main runs a package's tests with a server under them; call it from TestMain.
func Main(m *testing.M) {
	os.Exit(run(m))
}

// run shares one server among the test binaries of one go test: they are children of one process. Whoever comes first starts
// it, whoever leaves last stops it.
func run(m *testing.M) int {
	place := Place()
	sweep(context.Background(), place)
	leave, err := enter(folder(place, os.Getppid()))
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer leave()
	return m.Run()
}

// enter finds or starts the server in a folder. One comes or goes at a time; who is inside holds a shared lock.
func enter(dir string) (leave func(), err error) {
	shut, err := gate(dir + ".gate")
	if err != nil {
		return nil, err
	}
	defer shut()
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, err
	}
	inside, err := hold(dir)
	if err != nil {
		return nil, err
	}
	db := filepath.Join(dir, "db")
	if server, err = dbserver.Join(context.Background(), db); err != nil {
		// Durability is what the end-to-end tests are for; here it would only cost time.
		server, err = dbserver.Start(context.Background(), dbserver.Options{Dir: db, Extra: []string{"--innodb-flush-log-at-trx-commit=0", "--innodb-doublewrite=OFF", "--innodb-purge-threads=1", "--max-connections=1000"}})
	}
	if err != nil {
		return nil, err
	}
	return func() {
		shut, err := gate(dir + ".gate")
		if err != nil {
			return
		}
		defer shut()
		if syscall.Flock(int(inside.Fd()), syscall.LOCK_EX|syscall.LOCK_NB) == nil { // nobody else is inside
			server.Stop()
			_ = os.RemoveAll(dir)
			_ = os.Remove(dir + ".gate")
		}
		inside.Close()
	}, nil
}

// gate lets one process through at a time.
func gate(path string) (shut func(), err error) {
	for {
		f, err := os.OpenFile(path, os.O_CREATE|os.O_RDWR, 0o600)
		if err != nil {
			return nil, err
		}
		if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX); err != nil {
			f.Close()
			return nil, err
		}
		held, err1 := f.Stat()
		there, err2 := os.Stat(path)
		if err1 == nil && err2 == nil && os.SameFile(held, there) {
			return func() { f.Close() }, nil
		}
		f.Close() // the last one out took it away while we waited
	}
}

// Schema makes a migrated schema and returns the DSNs of its owner and of the service's narrow account.
func Schema(t *testing.T) (owner, dsn string) {
	t.Helper()
	first.once.Do(func() { first.err = first.make(context.Background()) })
	require.NoError(t, first.err)
	name := fmt.Sprintf("s%d_%d", os.Getpid(), count.Add(1))
	owner, dsn, err := server.Schema(t.Context(), name)
	require.NoError(t, err)
	t.Cleanup(func() { drop(t, name) })
	require.NoError(t, first.copy(t.Context(), name))
	return owner, dsn
}

// drop removes the schema of a test that is over; that of one that failed is left to be looked at as long as the server runs.
func drop(t *testing.T, name string) {
	if t.Failed() {
		return
	}
	db, err := server.Root()
	require.NoError(t, err)
	defer db.Close()
	for _, schema := range []string{readout.ViewsOf(name), readout.RowsOf(name), name} {
		_, err = db.Exec("SET STATEMENT lock_wait_timeout = 60 FOR DROP DATABASE IF EXISTS `" + schema + "`")
		assert.NoError(t, err, "something that the test began goes on after its end")
	}
}

// Keeper returns the keeper of the readout of a schema, by the owner's DSN, and the DSN of its reader.
func Keeper(t *testing.T, owner string) (*store.Keeper, string) {
	t.Helper()
	keeper, reader := readoutDSNs(t, owner)
	require.NoError(t, store.GrantKeeper(t.Context(), owner, keeper))
	k, err := store.OpenKeeper(keeper)
	require.NoError(t, err)
	t.Cleanup(func() { k.Close() })
	return k, reader
}

// KeeperDSN returns the DSN of that keeper.
func KeeperDSN(t *testing.T, owner string) string {
	t.Helper()
	keeper, _ := readoutDSNs(t, owner)
	return keeper
}

func readoutDSNs(t *testing.T, owner string) (keeper, reader string) {
	c, err := mysql.ParseDSN(owner)
	require.NoError(t, err)
	return server.ReadoutDSNs(c.DBName)
}

// Root is a connection that may do everything on the server.
func Root(t *testing.T) *sql.DB {
	t.Helper()
	db, err := server.Root()
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	return db
}

// SQL runs a statement that no use case would run, under a DSN.
func SQL(t *testing.T, dsn, statement string, args ...any) (sql.Result, error) {
	t.Helper()
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	return db.ExecContext(t.Context(), statement, args...)
}

// Open returns a store on a fresh schema, opened with the service's narrow account, and the owner's DSN.
func Open(t *testing.T) (s *store.Store, owner string) {
	t.Helper()
	owner, dsn := Schema(t)
	s, err := store.Open(dsn)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	return s, owner
}
