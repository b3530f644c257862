package lookup

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func TestWhichFactsDoNotHold(t *testing.T) {
	x := New()
	x.Put(entry("R-1", "4.7 kΩ", "0805", "TW-0805-4K7"), entry("R-2", "4.7 kΩ", "0603", "TW-0603-4K7"), entry("R-3", "47 kΩ", "0805", "TW-0805-47K"))
	facts, failing := x.Failing("4k7 0805 tidewright")
	assert.Len(t, facts, 3)
	assert.Equal(t, map[string][]int{"R-2": {1}, "R-3": {0}}, failing)
	facts, failing = x.Failing("")
	assert.Empty(t, facts)
	assert.Empty(t, failing)
	_, failing = x.Failing("zebra 4k7")
	assert.Equal(t, map[string][]int{"R-1": {0}, "R-2": {0}, "R-3": {0, 1}}, failing)
}

// A part that fails nothing is what the same question finds, and no other.
func TestWhatFailsNothingIsWhatIsFound(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		x := New()
		values, sizes := []string{"4.7 kΩ", "47 kΩ", "470 Ω", "4.7 Ω"}, []string{"0402", "0603", "0805"}
		n := rapid.IntRange(1, 12).Draw(t, "parts")
		for i := range n {
			x.Put(entry(fmt.Sprintf("R-%d", i), rapid.SampledFrom(values).Draw(t, "value"), rapid.SampledFrom(sizes).Draw(t, "size"), fmt.Sprintf("TW-%d", i)))
		}
		q := strings.Join(rapid.SliceOfN(rapid.SampledFrom([]string{"4k7", "47k", "0805", "0603", "tidewright", "zebra", "470..5k", ">1k", "-0402", "resistance<1k"}), 1, 4).Draw(t, "asked"), " ")
		found := numbers(x.Search(Query{Text: q, Limit: 100}))
		facts, failing := x.Failing(q)
		for i := range n {
			number := fmt.Sprintf("R-%d", i)
			if slices.Contains(found, number) != (len(failing[number]) == 0) {
				t.Fatalf("%q: %s is found: %v, and fails %v of %+v", q, number, slices.Contains(found, number), failing[number], facts)
			}
		}
	})
}
