package part

import (
	"maps"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
)

func resistors(t testing.TB) *cabinet.Template {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	tpl, ok := cab.Template("chip-resistors")
	require.True(t, ok)
	require.Contains(t, tpl.Identity, "tolerance")
	require.NotContains(t, tpl.Identity, "height")
	return tpl
}

func read(t testing.TB, tpl *cabinet.Template, texts map[string]string) map[string]cabinet.Value {
	out := map[string]cabinet.Value{}
	for key, text := range texts {
		slot, ok := tpl.Slot(key)
		require.True(t, ok, key)
		v, problem := slot.Read(text, measure.Options{})
		require.Nil(t, problem, text)
		out[key] = v
	}
	return out
}

func TestAnAlternateIsEqualInWhatTellsPartsApart(t *testing.T) {
	tpl := resistors(t)
	mine := map[string]string{"resistance": "4.7 kΩ", "tolerance": "1 %", "case": "0805", "height": "0.5 mm"}
	for _, c := range []struct {
		says map[string]string
		want map[string]string
	}{
		{map[string]string{"resistance": "4k7", "tolerance": "±1 %", "case": "0805"}, nil},
		{map[string]string{"tolerance": "±10000 ppm"}, nil},
		{map[string]string{"height": "0.9 mm"}, nil},
		{map[string]string{}, nil},
		{map[string]string{"tolerance": "5 %"}, map[string]string{"tolerance": "±5 %"}},
		{map[string]string{"tolerance": "5 %", "resistance": "47k", "case": "0805"}, map[string]string{"tolerance": "±5 %", "resistance": "47 kΩ"}},
	} {
		assert.Equal(t, c.want, Unlike(tpl, read(t, tpl, c.says), read(t, tpl, mine)), "%v", c.says)
	}
	assert.Nil(t, Unlike(tpl, read(t, tpl, map[string]string{"tolerance": "5 %"}), read(t, tpl, map[string]string{"resistance": "1k"})), "what the part leaves blank it may take over")
}

// What a source said otherwise stays with it whatever is edited around it, until the part says the same.
func TestWhatASourceSaidOtherwiseIsKeptUntilItIsSo(t *testing.T) {
	tpl := resistors(t)
	rapid.Check(t, func(t *rapid.T) {
		tolerances := []string{"±0.1 %", "±1 %", "±5 %", "±10000 ppm"}
		same := func(a, b string) bool { return a == b || a+b == "±1 %±10000 ppm" || a+b == "±10000 ppm±1 %" }
		value := func(text string) cabinet.Value {
			return cabinet.Value{Type: cabinet.Measure, Measure: measure.MustParse(text)}
		}
		said, has := rapid.SampledFrom(tolerances).Draw(t, "said"), rapid.SampledFrom(tolerances).Draw(t, "has")
		before := Content{Values: map[string]cabinet.Value{"tolerance": value(has)}, Sources: []Source{{Manufacturer: "Tidewright", MPN: "A-1"}, {Manufacturer: "Kelpline", MPN: "KL-1", Unlike: map[string]string{"tolerance": said, "height": "3 mm", "nothing": "x"}}}}
		before.KeepUnlike(tpl, &Content{})
		now := Content{Values: maps.Clone(before.Values), Sources: []Source{{Manufacturer: "KELPLINE", MPN: "kl 1"}, {Manufacturer: "Tidewright", MPN: "A-1"}}}
		to := rapid.SampledFrom(tolerances).Draw(t, "becomes")
		now.Values["tolerance"] = value(to)
		now.KeepUnlike(tpl, &before)
		if kept := !same(said, has) && !same(said, to); kept {
			assert.Equal(t, map[string]string{"tolerance": said}, now.Sources[0].Unlike)
			assert.Equal(t, []string{"KELPLINE kl 1: Tolerance " + said + ", not " + to}, now.Unequal(tpl))
		} else {
			assert.Nil(t, now.Sources[0].Unlike)
			assert.Empty(t, now.Unequal(tpl))
		}
		assert.Nil(t, now.Sources[1].Unlike, "it is said of the one source")
	})
}
