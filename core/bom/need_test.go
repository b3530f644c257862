package bom

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"jollydrawer/core/lookup"
)

func TestWhatABuildTakes(t *testing.T) {
	one, two := &lookup.Entry{ID: "1"}, &lookup.Entry{ID: "2"}
	vs := []Verdict{
		{Kind: Linked, Part: one, Line: &Line{Quantity: 3}},
		{Kind: Linked, Part: one, Line: &Line{Quantity: -1, Designators: []string{"R1", "R2"}}},
		{Kind: Linked, Part: two, Line: &Line{Quantity: 0, Designators: []string{"C1"}}},
		{Kind: Proposed, Part: two, Line: &Line{Quantity: 9}},
		{Kind: Missing, Line: &Line{Quantity: 9}},
	}
	assert.Equal(t, map[string]int64{"1": 5, "2": 0}, Subs{}.Each(vs), "what is only proposed is not taken yet")
	n := Need{}.With("Gauge", 5, 40).With("Float", 90, 0).With("Mast", 100, 1)
	assert.Equal(t, Need{Boards: 3, Pieces: 200, BOM: "Gauge", Build: 40}, n)
	assert.Equal(t, Need{Boards: 1, Pieces: 90, BOM: "Float"}, Need{}.With("Float", 90, 0), "one board, where nobody says")
}
