package origin

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Whatever origins say, in whatever letters, they are written as the standard library writes them.
func TestOriginsAreWrittenAsTheStandardLibraryDoes(t *testing.T) {
	text := rapid.OneOf(rapid.Just(""), rapid.String(), rapid.SampledFrom([]string{"R, \"typ\"", "a<b>&c", "\u2028", "\xff", "4,7 kΩ", `back\\slash`}))
	rapid.Check(t, func(t *rapid.T) {
		all := rapid.MapOf(text, rapid.Custom(func(t *rapid.T) Origin {
			o := Origin{File: text.Draw(t, "file"), Name: text.Draw(t, "name"), Row: rapid.IntRange(-1, 1000000).Draw(t, "row"), Field: text.Draw(t, "field"), Written: text.Draw(t, "written"),
				Rule: text.Draw(t, "rule"), Person: text.Draw(t, "person"), Came: text.Draw(t, "came"), Why: text.Draw(t, "why")}
			if rapid.Bool().Draw(t, "dated") {
				o.At = time.Date(2026, 11, rapid.IntRange(1, 30).Draw(t, "day"), 10, 0, 0, 0, time.UTC)
			}
			return o
		})).Draw(t, "origins")
		want, err := json.Marshal(all)
		require.NoError(t, err)
		got, err := AppendAll([]byte("before "), all)
		require.NoError(t, err)
		assert.Equal(t, "before "+string(want), string(got))
	})
}

// Every field that an origin has is written.
func TestNoFieldOfAnOriginIsForgotten(t *testing.T) {
	o := Origin{File: "f", Name: "n", Row: 2, Field: "R", Written: "w", Rule: "r", Person: "p", Came: "c", Why: "y"}
	raw, err := AppendAll(nil, map[string]Origin{"values.resistance": o})
	require.NoError(t, err)
	var back map[string]Origin
	require.NoError(t, json.Unmarshal(raw, &back))
	assert.Equal(t, o, back["values.resistance"])
}

func TestADateThatCannotBeWrittenIsAnError(t *testing.T) {
	_, err := AppendAll(nil, map[string]Origin{"sources": {At: time.Date(10000, 1, 1, 0, 0, 0, 0, time.UTC)}})
	assert.Error(t, err)
}
