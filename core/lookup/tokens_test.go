package lookup

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
)

// Where words end: at blanks, operators and the colon behind a name, and nowhere within a number, an address or a quotation.
func TestWhereWordsEnd(t *testing.T) {
	for text, want := range map[string]string{
		"case:0805": "case / : / 0805", "a.:5": "a. / : / 5", "x9:a": "x9:a", "x0:a": "x0:a", "x5:a": "x5:a", "a:b": "a:b", "ab:c": "ab / : / c", "ab:": "ab:", ":ab": ":ab", "http://x": "http://x", "16:9": "16:9", "a/:b": "a/ / : / b",
		"4k7,": "4k7 / ,", "4k7, 5k1": "4k7 / , / 5k1", "4,7k": "4,7k", "100nF,50V": "100nF / , / 50V", "a,b": "a,b", ",5": ",5", "5,a": "5,a", "F,5": "F / , / 5",
		">=5": ">= / 5", "≥5V": ">= / 5V", "a|b": "a / or / b", "!=5": "!= / 5", "a!b": "a!b", `"two words" x`: `"two words / x`, `a"b`: `a"b`, "not for new designs": `"not for new designs`, "x NOT FOR New designs y": `x / "not for new designs / y`, "not for new": "not / for / new",
		"a;b\tc\u00a0d": "a / b / c / d", "": "",
	} {
		assert.Equal(t, want, strings.Join(tokens(text), " / "), "%q", text)
	}
	assert.LessOrEqual(t, len(strings.Join(tokens(strings.Repeat("Ω ", 3000)), "")), 2003)
}

func TestACommaPartsWordsUnlessItIsOfANumber(t *testing.T) {
	for word, parts := range map[string]bool{"4,7k": false, "1,000": false, ",": true, ",5": true, "5,": true, "a,5": true, "5,a": true, "a,b": true, "4,7,": true, "47k": false, "": false, "9,0": false, "0,9": false} {
		assert.Equal(t, parts, parting([]string{"x", word}), "%q", word)
	}
}

// A limit that stands between two values belongs to the second.
func TestALimitBelongsToTheValueBehindIt(t *testing.T) {
	for text, want := range map[string]bool{"30 V min 16 V": true, "30 V min. 16 V": true, "30 V max .5 V": true, "30 V over -5 V": true, "30 V min x": false, "30 V or 16 V": false, "30 V min": false} {
		r := reader{words: strings.Fields(text)}
		assert.Equal(t, want, r.ofNext(3), text)
	}
	one := reader{words: []string{"min", "16"}}
	assert.False(t, one.ofNext(1), "a limit before the first value is that value's")
}

func TestRangesWithTheUnitAtTheirEnd(t *testing.T) {
	x := shop(t)
	for text, want := range map[string]string{"10..100 nF": "10 to 100 nF", "10 nF..100 nF": "10 nF to 100 nF", "5..1 V": "", "a..b": "", "10..": "", "..10 V": "", "10..x nF": ""} {
		_, _, said, n := x.rangeAt(strings.Fields(text), measure.Options{})
		if want == "" {
			assert.True(t, n == 0 || said != "", text)
			continue
		}
		assert.Equal(t, want, said, text)
		assert.Equal(t, len(strings.Fields(text)), n, text)
	}
}

func TestRowsAreCountedByTheirCodes(t *testing.T) {
	counts := make([]uint32, 10)
	blank, ids := countOf([]uint8{0, 1, 2, 1, 0, 0}, []uint32{0, 1, 2, 3, 4}, []uint32{0, 7, 9}, counts, nil)
	assert.Equal(t, 2, blank)
	assert.Equal(t, []uint32{7, 9}, ids)
	assert.Equal(t, []uint32{2, 1}, []uint32{counts[7], counts[9]})
}

// Sizes that span little are put into steps of 1, 2 and 5; those that span a thousandfold or more into decades.
func TestStepsFollowWhatTheSizesSpan(t *testing.T) {
	x := New()
	ids := func(texts ...string) (out []uint32) {
		for _, text := range texts {
			out = append(out, x.vals.number(measured(text)))
		}
		return out
	}
	labels := func(texts ...string) string {
		c := counted{ids: ids(texts...), counts: make([]uint32, 100)}
		for _, id := range c.ids {
			c.counts[id] = 1
		}
		var out []string
		for _, s := range x.steps(c) {
			out = append(out, s.Label)
		}
		return strings.Join(out, ", ")
	}
	assert.Equal(t, "1 V to 2 V, 2 V to 5 V, 500 V to 1 kV", labels("1 V", "3 V", "999 V"))
	assert.Equal(t, "1 V to 10 V, 1 kV to 10 kV", labels("1 V", "3 V", "1000 V"))
}

func measured(text string) cabinet.Value {
	return cabinet.Value{Type: cabinet.Measure, Measure: measure.MustParse(text)}
}
