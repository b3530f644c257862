package deed

import (
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func TestWhatShowsNothingSaysNothing(t *testing.T) {
	unseen := []rune{' ', '\t', '\n', '\r', 0, 0x1b, 0x7f, 0x85, 0xa0, 0xad, 0x2003, 0x200b, 0x200d, 0x2028, 0x202e, 0x2060, 0xfeff, 0x115f, 0x3164, 0x2800, 0xe0020}
	rapid.Check(t, func(t *rapid.T) {
		pad := func(label string) string {
			return string(rapid.SliceOfN(rapid.SampledFrom(unseen), 0, 6).Draw(t, label))
		}
		assert.Empty(t, Said(pad("nothing")))
		word := rapid.StringOfN(rapid.RuneFrom(nil, unicode.Latin, unicode.Greek, unicode.Nd), 1, 8, -1).Draw(t, "word")
		assert.Equal(t, word, Said(pad("before")+word+pad("behind")))
	})
}

func TestWhatIsSaidStaysAsItWasWritten(t *testing.T) {
	for _, s := range []string{"fits", "two\nlines", "a\ttab", "47 kΩ ±1 %", "👩‍🔧 did it", "नहीं", "ø", "−5 °C", "e\u0301", "\u201cquoted\u201d"} {
		assert.Equal(t, s, Said("  "+s+"\n"))
	}
	assert.Equal(t, "ab", Said("a\x00b"), "a sign that controls is no character of a text")
	assert.Equal(t, "ab", Said("a\xffb"))
	assert.False(t, strings.ContainsRune(Said("\u202eabc"), '\u202e'), "nothing turns what stands behind it")
}
