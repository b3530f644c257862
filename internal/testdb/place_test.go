package testdb

import (
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/dbserver"
)

// Tests that were killed leave their server running: the next ones stop it, and nobody else's.
func TestServersOfTestsThatAreGoneAreStopped(t *testing.T) {
	place, err := os.MkdirTemp(Place(), "js-")
	require.NoError(t, err)
	defer os.RemoveAll(place)
	over := exec.Command("true")
	require.NoError(t, over.Run())
	gone := folder(place, over.Process.Pid)
	left, err := dbserver.Start(t.Context(), dbserver.Options{Dir: filepath.Join(gone, "db")})
	require.NoError(t, err)
	left.Abandon()
	at := folder(place, os.Getpid()) // ours
	held := folder(place, 1<<30)     // of nobody, but a test of it is still at work
	for _, dir := range []string{gone, at, held} {
		require.NoError(t, os.MkdirAll(dir, 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(dir, "inside"), nil, 0o600))
		require.NoError(t, os.WriteFile(dir+".gate", nil, 0o600))
	}
	foreign := filepath.Join(place, "jt-notes")
	require.NoError(t, os.Mkdir(foreign, 0o755))
	inside, err := os.OpenFile(filepath.Join(held, "inside"), os.O_RDWR, 0)
	require.NoError(t, err)
	defer inside.Close()
	require.NoError(t, syscall.Flock(int(inside.Fd()), syscall.LOCK_SH))
	server := strconv.Itoa(left.PID)

	sweep(t.Context(), place)

	assert.NoDirExists(t, gone)
	assert.NoFileExists(t, gone+".gate")
	assert.NoDirExists(t, filepath.Join("/proc", server), "its server goes on")
	for _, dir := range []string{at, held, foreign} {
		assert.DirExists(t, dir)
	}
	assert.FileExists(t, held+".gate")
}

// What a process holds for itself is there until it leaves, whoever comes beside it.
func TestAFolderOfOnesOwnStaysUntilOneLeaves(t *testing.T) {
	dir, leave, err := Own()
	require.NoError(t, err)
	sweep(t.Context(), filepath.Dir(dir))
	assert.FileExists(t, filepath.Join(dir, "inside"))
	leave()
	assert.NoDirExists(t, dir)
}

func TestThePlaceCanBeWrittenTo(t *testing.T) {
	f, err := os.CreateTemp(Place(), "jt-try")
	require.NoError(t, err)
	f.Close()
	require.NoError(t, os.Remove(f.Name()))
}
