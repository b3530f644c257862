// Package testdb gives tests a MariaDB of their own: one server for a test binary, one migrated schema for each test.
package testdb

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/require"

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

func run(m *testing.M) int {
	dir, err := os.MkdirTemp("", "jt-")
	if err == nil {
		defer os.RemoveAll(dir)
		// Durability is what the end-to-end tests are for; here it would only cost time.
		server, err = dbserver.Start(context.Background(), dbserver.Options{Dir: filepath.Join(dir, "db"), Extra: []string{"--innodb-flush-log-at-trx-commit=0"}})
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer server.Stop()
	return m.Run()
}

// Open returns a store on a fresh schema, opened with the service's narrow account, and the owner's DSN.
func Open(t *testing.T) (s *store.Store, owner string) {
	t.Helper()
	owner, dsn, err := server.Schema(t.Context(), fmt.Sprintf("s%d", count.Add(1)))
	require.NoError(t, err)
	require.NoError(t, store.Migrate(t.Context(), owner, dsn))
	s, err = store.Open(dsn)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	return s, owner
}
