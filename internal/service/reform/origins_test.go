package reform

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Where values came from is taken apart and put together as the standard library does it, whatever is written there.
func TestOriginsAreTakenApartAndPutTogether(t *testing.T) {
	one := rapid.OneOf(rapid.String(), rapid.SampledFrom([]string{"<R> & \"C\"", "\u2028", "values.height", ""}))
	rapid.Check(t, func(t *rapid.T) {
		raw, err := json.Marshal(rapid.MapOf(one, rapid.MapOf(one, one)).Draw(t, "origins"))
		require.NoError(t, err)
		var want map[string]json.RawMessage
		require.NoError(t, json.Unmarshal(raw, &want))
		got, err := origins(raw)
		require.NoError(t, err)
		assert.Equal(t, want, got)
		assert.Equal(t, string(raw), string(written(got)))
	})
	for _, raw := range []string{"", "null", "{}", " { \"a\" : {} } ", `{"a":1,"a":2}`, `{"a":}`, `[]`, `{"a":{}`} {
		var want map[string]json.RawMessage
		err := json.Unmarshal([]byte(raw), &want)
		got, e := origins([]byte(raw))
		assert.Equal(t, err == nil, e == nil, raw)
		if err == nil {
			assert.Equal(t, len(want), len(got), raw)
		}
	}
}
