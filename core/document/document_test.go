package document

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestCanonicalSortsKeysAndRefusesFractions(t *testing.T) {
	b, h, err := Canonical(map[string]any{"b": "<é>", "a": []any{1, true, nil}})
	require.NoError(t, err)
	assert.Equal(t, `{"a":[1,true,null],"b":"<é>"}`, string(b))
	assert.Len(t, h.String(), 64)
	_, _, err = Canonical(map[string]any{"x": 1.5})
	assert.ErrorContains(t, err, "decimal text")
}

func TestCanonicalBytesAreAFixedPoint(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		m := rapid.MapOf(rapid.String(), rapid.SliceOf(rapid.String())).Draw(t, "m")
		b, h, err := Canonical(m)
		require.NoError(t, err)
		b2, h2, err := Canonical(json.RawMessage(b))
		require.NoError(t, err)
		assert.Equal(t, b, b2)
		assert.Equal(t, h, h2)
		d, err := Diff(b, b2)
		require.NoError(t, err)
		assert.Empty(t, d)
	})
}

func TestDiffNamesEachField(t *testing.T) {
	d, err := Diff([]byte(`{"a":"1","l":["x","y"]}`), []byte(`{"b":"2","l":["x","z"]}`))
	require.NoError(t, err)
	assert.Equal(t, []Change{{"a", "1", ""}, {"b", "", "2"}, {"l.2", "y", "z"}}, d)
}
