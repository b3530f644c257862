package main

import (
	"context"
	"io"
	"log/slog"
	"net/http"
	"os"
	"path/filepath"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/auth"
	"jollydrawer/internal/config"
)

func settings(t *testing.T) config.Settings {
	t.Setenv("JOLLY_FIRST_PASSWORD", "a-long-password")
	return config.Settings{Listen: "127.0.0.1:0", Data: filepath.Join(t.TempDir(), "data"), MaxUploadMB: 8, Lease: time.Second, KeepDays: 30, Passwords: auth.Least}
}

// Ctrl-C ends the service once, however often it is asked to end: a command that serves closes it, and so does its defer.
func TestServingEndsOnceAndWell(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	a, err := start(ctx, settings(t), slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	res, err := http.Get(a.url + "/readyz")
	require.NoError(t, err)
	raw, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	assert.Equal(t, http.StatusOK, res.StatusCode, string(raw))
	cancel()
	require.NoError(t, a.wait(ctx))
	assert.NotPanics(t, a.close)
	assert.Error(t, syscall.Kill(a.db.PID, 0), "the database ends with it")
}

func TestServingEndsWithItsDatabase(t *testing.T) {
	set := settings(t)
	a, err := start(t.Context(), set, slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	defer a.close()
	require.NoError(t, syscall.Kill(a.db.PID, syscall.SIGKILL))
	ended := make(chan error, 1)
	go func() { ended <- a.wait(t.Context()) }()
	select {
	case err := <-ended:
		assert.ErrorContains(t, err, "database server ended")
	case <-time.After(20 * time.Second):
		t.Fatal("the service goes on without its database")
	}
	_, err = os.Stat(filepath.Join(set.Data, "first-sign-in.txt"))
	assert.ErrorIs(t, err, os.ErrNotExist, "the first password was given")
}
