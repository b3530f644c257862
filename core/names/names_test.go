package names_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/names"
)

func TestTheSecondOfANameIsCounted(t *testing.T) {
	var taken names.Taken
	taken.Add("SOT-23")
	var got []string
	for _, name := range []string{"sot-23", "SOT-23", "Lead (2)", "Lead", "LEAD", "lead", "Lead (2)", "", ""} {
		got = append(got, taken.Free(name, names.Bracketed))
	}
	assert.Equal(t, []string{"sot-23 (2)", "SOT-23 (3)", "Lead (2)", "Lead", "LEAD (3)", "lead (4)", "Lead (2) (2)", "", " (2)"}, got)
}

func TestNoTwoNamesAreOne(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var taken names.Taken
		seen := map[string]bool{}
		for range rapid.IntRange(1, 40).Draw(t, "names") {
			asked := rapid.SampledFrom([]string{"a", "A", "b", "a (2)", "A (3)", "a (2) (2)", "b (2)"}).Draw(t, "name")
			got := taken.Free(asked, names.Bracketed)
			require.False(t, seen[strings.ToLower(got)], got)
			require.True(t, strings.HasPrefix(got, asked), got)
			seen[strings.ToLower(got)] = true
		}
	})
}

func TestAHundredThousandOfOneNameAreNamed(t *testing.T) {
	var taken names.Taken
	last, asked := "", 0
	for range 100_000 {
		last = taken.Free("head", func(name string, n int) string { asked++; return names.Bracketed(name, n) })
	}
	assert.Equal(t, "head (100000)", last)
	assert.Equal(t, 99_999, asked, "each is asked for once")
}

func TestANameCanBeSeen(t *testing.T) {
	for _, name := range []string{"Afloat", "Freigegeben", "発売中", "на складе", "Ω", "→", "1", "☂", "in  review", "e\u0301", "می\u200cشود", "x\u00ad y"} {
		assert.True(t, names.Shown(name, 40), "%q", name)
		assert.False(t, names.Shown(name+strings.Repeat("x", 40), 40), "%q", name)
	}
	for _, name := range []string{"", " ", "\t", "\x00", "A\x00", "A\n", "\u200b", "\u200b\u200d", "\u202eAfloat", "Afloat\u2066", "\u3164", "\u2800 ", "\u0301", "\ufeff", "\ufffd", "A\u061c", "\xff"} {
		assert.False(t, names.Shown(name, 40), "%q", name)
	}
}
