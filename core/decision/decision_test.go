package decision

import (
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func TestADecisionHangsOnWhatItIsAbout(t *testing.T) {
	one := Record{Kind: Line, About: Designators([]string{"R2", "R1", "R2"}), Evidence: "10k", Outcome: "a", Against: []string{"value"}}
	assert.Equal(t, "R1 R2", one.About)
	list := With(nil, one)
	two := one
	two.Outcome, two.Evidence = "b", "4k7"
	list = With(list, two)
	assert.Equal(t, []Record{two}, list, "a later decision about the same line takes the place of the earlier one")
	assert.NotEqual(t, one.Key(), two.Key(), "other evidence is another decision")
	list = With(list, Record{Kind: Ending, About: "R1 R2"})
	assert.Len(t, list, 2, "a layout is no line")
	list, had := Without(list, Line, "R1 R2")
	assert.True(t, had)
	assert.Len(t, list, 1)
	_, had = Without(list, Line, "R1 R2")
	assert.False(t, had)
	assert.Equal(t, []string{"package"}, one.New([]string{"value", "package"}))
}

// Many decisions at once are what each by itself would have made of them.
func TestManyDecisionsAreAsEachByItself(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		draw := func(name string) (out []Record) {
			for range rapid.IntRange(0, 8).Draw(t, name) {
				out = append(out, Record{Kind: rapid.SampledFrom([]Kind{Line, Accept}).Draw(t, "kind"), About: rapid.SampledFrom([]string{"R1", "R2", "R3"}).Draw(t, "about"), Outcome: strconv.Itoa(rapid.IntRange(0, 99).Draw(t, "outcome"))})
			}
			return out
		}
		list, more := draw("list"), draw("more")
		was := slices.Clone(list)
		one := slices.Clone(list)
		for _, r := range more {
			one = With(one, r)
		}
		all := slices.Clone(WithAll(list, more))
		slices.SortFunc(one, func(a, b Record) int { return strings.Compare(a.Key()+a.Outcome, b.Key()+b.Outcome) })
		slices.SortFunc(all, func(a, b Record) int { return strings.Compare(a.Key()+a.Outcome, b.Key()+b.Outcome) })
		assert.Equal(t, len(one), len(all))
		for i := range all {
			assert.Equal(t, one[i], all[i])
		}
		assert.Equal(t, was, list, "what was there stays as it was")
	})
}
