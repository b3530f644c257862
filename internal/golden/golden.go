// Package golden lays what a test made beside a file that somebody read, or looked at, before it was kept.
package golden

import (
	"flag"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var update = flag.Bool("update", false, "write the golden files anew; read the difference, or look at the drawing, before it is kept")

// Equal asserts that got is what stands in a file; with -update it becomes that.
func Equal(t *testing.T, file, got string) {
	t.Helper()
	if *update {
		require.NoError(t, os.WriteFile(file, []byte(got), 0o644))
	}
	want, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.Equal(t, strings.Split(string(want), "\n"), strings.Split(got, "\n"))
}
