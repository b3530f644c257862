package main

import (
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/config"
)

func TestAnInstallationHasOneKey(t *testing.T) {
	set := config.Settings{Data: filepath.Join(t.TempDir(), "not there yet")}
	keys := make([]string, 20)
	var all sync.WaitGroup
	for i := range keys {
		all.Go(func() {
			k, err := installationKey(set)
			assert.NoError(t, err)
			keys[i] = string(k)
		})
	}
	all.Wait()
	for _, k := range keys {
		assert.Equal(t, keys[0], k, "whoever comes first makes it, all others read it")
		assert.GreaterOrEqual(t, len(k), 32)
	}
	info, err := os.Stat(filepath.Join(set.Data, "key.txt"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm(), "nobody else reads it")
	left, err := os.ReadDir(set.Data)
	require.NoError(t, err)
	assert.Len(t, left, 1, "nothing lies about")

	other, err := installationKey(config.Settings{Data: t.TempDir()})
	require.NoError(t, err)
	assert.NotEqual(t, keys[0], string(other))
	named := filepath.Join(t.TempDir(), "mine")
	require.NoError(t, os.WriteFile(named, []byte("  "+strings.Repeat("k", 40)+"\n"), 0o600))
	k, err := installationKey(config.Settings{KeyFile: named})
	require.NoError(t, err)
	assert.Equal(t, strings.Repeat("k", 40), string(k))
	require.NoError(t, os.WriteFile(named, []byte("short"), 0o600))
	_, err = installationKey(config.Settings{KeyFile: named})
	assert.ErrorContains(t, err, "less than 32 letters")
	_, err = installationKey(config.Settings{KeyFile: t.TempDir()})
	assert.ErrorContains(t, err, "cannot be read")
}
