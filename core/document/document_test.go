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

// Whatever JSON is made canonical, the quick way and the thorough one give the same bytes or both refuse.
func TestBothWaysToTheCanonicalFormAgree(t *testing.T) {
	leaf := rapid.OneOf(rapid.String().AsAny(), rapid.Int().AsAny(), rapid.Bool().AsAny(), rapid.Just[any](nil), rapid.Float64Range(-10, 10).AsAny(), rapid.SampledFrom([]string{"<a>&", "\u2028", "\u2029x", "\x7f", "\\", "\"", "é", "€", "\x00"}).AsAny())
	tree := rapid.Deferred(func() *rapid.Generator[any] {
		inner := rapid.OneOf(leaf, rapid.SliceOfN(leaf, 0, 4).AsAny(), rapid.MapOfN(rapid.String(), leaf, 0, 5).AsAny())
		return rapid.OneOf(leaf, rapid.SliceOfN(inner, 0, 4).AsAny(), rapid.MapOfN(rapid.OneOf(rapid.String(), rapid.StringMatching("[a-z<&]{1,4}")), inner, 0, 14).AsAny())
	})
	quickly := 0
	rapid.Check(t, func(t *rapid.T) {
		raw, err := json.Marshal(tree.Draw(t, "tree"))
		require.NoError(t, err)
		want, refused := rewritten(raw)
		got, ok := sorted(nil, raw)
		if !ok {
			return
		}
		require.NoError(t, refused, "%s", raw)
		require.Equal(t, string(want), string(got), "%s", raw)
		quickly++
	})
	assert.Positive(t, quickly)
	for _, raw := range []string{`{"a":1,"a":2}`, `{"b":1.5}`, `{"a": 1}`, `{"a":12345678901234567890}`} {
		_, ok := sorted(nil, []byte(raw))
		assert.False(t, ok, "%s goes the thorough way", raw)
	}
}

func FuzzCanonical(f *testing.F) {
	f.Add([]byte(`{"b":["x",{"a":"1"}],"a":null,"c":true}`))
	f.Fuzz(func(t *testing.T, raw []byte) {
		if !json.Valid(raw) {
			return
		}
		got, ok := sorted(nil, raw)
		if !ok {
			return
		}
		want, err := rewritten(raw)
		if err != nil || string(want) != string(got) {
			t.Fatalf("%q: %q, not %q (%v)", raw, got, want, err)
		}
	})
}
