package cli

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/wire"
)

// A revision is found by what it is called, as a list shows it, or by the number in which it was made; its name goes first.
func TestARevisionIsFoundByItsName(t *testing.T) {
	all := []wire.Revision{{Number: 5, Label: "1.1"}, {Number: 4, Label: "1.0"}, {Number: 3, Label: "B"}, {Number: 2, Label: "A"}, {Number: 1, Label: "1"}}
	for name, want := range map[string]int{"0": 0, "draft": 0, "Draft": 0, "1": 1, "2": 2, "A": 2, "b": 3, "B": 3, "4": 4, "1.0": 4, "1.1": 5, "5": 5} {
		got, err := revisionNamed(all, name)
		require.NoError(t, err, name)
		assert.Equal(t, want, got, name)
	}
	for _, name := range []string{"6", "-1", "C", "", "1.2", "1,0"} {
		_, err := revisionNamed(all, name)
		assert.ErrorContains(t, err, "those that there are are called 1.1, 1.0, B, A, 1", name)
	}
	_, err := revisionNamed(nil, "1")
	assert.ErrorContains(t, err, "nothing of it is released yet")
}
