package dbserver_test

import (
	"path/filepath"
	"testing"
	"time"

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
