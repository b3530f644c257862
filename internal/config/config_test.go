package config

import (
	"context"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/urfave/cli/v3"

	"jollydrawer/internal/auth"
)

func load(t *testing.T, args ...string) (s Settings, err error) {
	t.Helper()
	c := &cli.Command{Name: "serve", Flags: Flags(), Action: func(_ context.Context, c *cli.Command) error {
		s, err = Load(c)
		return nil
	}}
	require.NoError(t, c.Run(t.Context(), append([]string{"serve"}, args...)))
	return s, err
}

func TestFlagsWeighMoreThanTheEnvironmentAndThatMoreThanTheFile(t *testing.T) {
	file := filepath.Join(t.TempDir(), "jolly.yaml")
	require.NoError(t, os.WriteFile(file, []byte("listen: 127.0.0.1:1\nmax-upload: 11\nlease: 7s\n"), 0o600))
	t.Setenv("JOLLY_LISTEN", "127.0.0.1:2")
	t.Setenv("JOLLY_CONFIG", file)
	s, err := load(t, "--log-level", "debug")
	require.NoError(t, err)
	assert.Equal(t, "127.0.0.1:2", s.Listen, "the environment")
	assert.Equal(t, 11, s.MaxUploadMB, "the file")
	assert.Equal(t, 7*time.Second, s.Lease)
	assert.Equal(t, "debug", s.LogLevel, "a flag")
	assert.Equal(t, ".run", s.Data, "the default")
	assert.Equal(t, auth.Usual, s.Passwords, "the default")
	s, err = load(t, "--listen", "127.0.0.1:3", "--password-cost", "least")
	require.NoError(t, err)
	assert.Equal(t, auth.Least, s.Passwords)
	assert.Equal(t, "127.0.0.1:3", s.Listen)
}

func TestAWrongSettingsFileIsNamed(t *testing.T) {
	file := filepath.Join(t.TempDir(), "jolly.yaml")
	for text, says := range map[string]string{"lisen: x": `names "lisen", which is no setting`, "- a\n- b": "is no YAML", "max-upload: many": "max-upload", "max-upload: 0": "at least 1", "password-cost: none": `password-cost is "none": use usual or least`} {
		require.NoError(t, os.WriteFile(file, []byte(text), 0o600))
		_, err := load(t, "--config", file)
		assert.ErrorContains(t, err, says, text)
	}
	_, err := load(t, "--config", file+".missing")
	assert.ErrorContains(t, err, "cannot be read")
}
