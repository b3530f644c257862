package decision

import (
	"testing"

	"github.com/stretchr/testify/assert"
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
