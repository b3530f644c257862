package bom

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/lifecycle"
)

func TestReviewListOfABOM(t *testing.T) {
	pin := func(number string, revision int, hash string) *Pin {
		return &Pin{ID: "id-" + number, Number: number, Revision: revision, Hash: hash, Description: "a resistor"}
	}
	lines := []Pinned{
		{Row: 2, Designators: []string{"R1", "R2"}, Quantity: 2, Part: pin("R-001", 2, "aa")},
		{Row: 3, Designators: []string{"R9"}, Quantity: 1, Part: pin("R-001", 2, "aa")},
		{Row: 4, Designators: []string{"R3"}, Quantity: 1, Part: pin("R-002", 1, "bb"), In: []string{"A"}},
		{Row: 5, Designators: []string{"J1"}, Quantity: 1, NoPart: true, Description: "test pads"},
		{Row: 6, Designators: []string{"C1"}, Quantity: 1, NotFitted: true, Part: pin("C-001", 1, "cc")},
		{Row: 7, Designators: []string{"C2"}, Quantity: 1, NotFitted: true},
		{Row: 8, Designators: nil, Quantity: 3, Value: "label"},
		{Row: 9, Designators: []string{"A1"}, Quantity: 1, Assembly: true, Description: "sensor head"},
	}
	list := func(lines []Pinned) []lifecycle.Item {
		t.Helper()
		out, err := ReviewItems(lines)
		require.NoError(t, err)
		return out
	}
	all := list(lines)
	var says [][3]string
	for _, i := range all {
		says = append(says, [3]string{i.Key, i.Label, i.Text})
	}
	assert.Equal(t, [][3]string{
		{"part R-001", "R1 R2 R9", "R-001 revision 2, a resistor: 3 pieces"},
		{"part R-002", "R3", "R-002 revision 1, a resistor: 1 piece"},
		{"no part test pads", "J1", "no part of the library: test pads: 1 piece"},
		{"not fitted", "C1 C2", "not fitted: 2 pieces"},
		{"open label", "without designators", "without a record: label: 3 pieces"},
		{"assembly sensor head", "A1", "sub-assembly sensor head: 1 piece"},
	}, says)

	// what a reviewer ticked falls with whatever changes of it, and with nothing else
	for name, c := range map[string]struct {
		change func(l []Pinned)
		falls  []string
	}{
		"another revision of a part": {func(l []Pinned) { l[0].Part, l[1].Part = pin("R-001", 3, "dd"), pin("R-001", 3, "dd") }, []string{"part R-001"}},
		"another place":              {func(l []Pinned) { l[1].Designators = []string{"R8"} }, []string{"part R-001"}},
		"another variant":            {func(l []Pinned) { l[2].In = nil }, []string{"part R-002"}},
		"one more that is left off":  {func(l []Pinned) { l[2].NotFitted = true }, []string{"part R-002", "not fitted"}},
		"rows moved":                 {func(l []Pinned) { l[0].Row, l[3].Row = 20, 30 }, nil},
		"words of a record":          {func(l []Pinned) { l[2].Part.Description = "another text" }, nil},
	} {
		next := slices.Clone(lines)
		for i := range next {
			if next[i].Part != nil {
				p := *next[i].Part
				next[i].Part = &p
			}
		}
		c.change(next)
		now := map[string]string{}
		for _, i := range list(next) {
			now[i.Key] = i.Value
		}
		var falls []string
		for _, i := range all {
			if now[i.Key] != i.Value {
				falls = append(falls, i.Key)
			}
		}
		assert.Equal(t, c.falls, falls, name)
	}
}
