package dbserver_test

import (
	"database/sql"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	_ "github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/dbserver"
)

// A server that an earlier run left behind is watched like one that was started here.
func TestAnAdoptedServerIsWatchedLikeOneThatWasStarted(t *testing.T) {
	o := dbserver.Options{Dir: filepath.Join(t.TempDir(), "db")}
	first, err := dbserver.Start(t.Context(), o)
	require.NoError(t, err)
	assert.False(t, first.Adopted)
	_, err = dbserver.Start(t.Context(), o)
	assert.ErrorContains(t, err, "in use by another running service")
	first.Abandon()
	second, err := dbserver.Start(t.Context(), o)
	require.NoError(t, err)
	require.True(t, second.Adopted)
	assert.Equal(t, []int{first.Port, first.PID}, []int{second.Port, second.PID})
	select {
	case <-second.Exited():
		t.Fatal("it is said to have ended, and runs")
	case <-time.After(500 * time.Millisecond):
	}
	second.Kill()
	for name, s := range map[string]*dbserver.Server{"who started it": first, "who adopted it": second} {
		select {
		case <-s.Exited():
		case <-time.After(10 * time.Second):
			t.Error(name, "does not hear that it ended")
		}
	}
}

// A server that starts, or is being set up, removes the temporary tables that it finds in its scratch folder: no two may share one.
func TestServersSetUpAtOnceDoNotDisturbEachOther(t *testing.T) {
	const times = 6
	root := t.TempDir()
	var group sync.WaitGroup
	scratch := make([]string, times)
	for i := range times {
		group.Go(func() {
			dir := filepath.Join(root, fmt.Sprint("house ", i))
			s, err := dbserver.Start(t.Context(), dbserver.Options{Dir: dir, Extra: []string{"--innodb-buffer-pool-size=32M", "--innodb-log-file-size=8M"}})
			if !assert.NoError(t, err) {
				return
			}
			defer s.Stop()
			owner, _ := s.DSNs()
			db, err := sql.Open("mysql", owner)
			if assert.NoError(t, err) {
				defer db.Close()
				assert.NoError(t, db.QueryRowContext(t.Context(), "SELECT @@tmpdir").Scan(&scratch[i]))
				assert.True(t, strings.HasPrefix(scratch[i], dir), scratch[i])
			}
		})
	}
	group.Wait()
	slices.Sort(scratch)
	assert.Len(t, slices.Compact(scratch), times)
}

func TestAFolderWithAColonHasItsScratchElsewhere(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "a:b")
	s, err := dbserver.Start(t.Context(), dbserver.Options{Dir: dir})
	require.NoError(t, err)
	defer s.Stop()
	owner, _ := s.DSNs()
	db, err := sql.Open("mysql", owner)
	require.NoError(t, err)
	defer db.Close()
	var scratch string
	require.NoError(t, db.QueryRowContext(t.Context(), "SELECT @@tmpdir").Scan(&scratch))
	assert.NotContains(t, scratch, ":")
	assert.DirExists(t, scratch)
}
