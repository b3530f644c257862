package boms_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/wire"
)

// laidOver is a page as it is after an answer that holds the lines alone which are otherwise.
func laidOver(page, answer wire.BOM) wire.BOM {
	out := answer
	out.Lines = slices.Clone(page.Lines)
	for _, l := range answer.Lines {
		if i := slices.IndexFunc(out.Lines, func(o wire.BOMLine) bool { return o.Row == l.Row }); i >= 0 {
			out.Lines[i] = l
		}
	}
	out.Partial = false
	return out
}

// Whoever decides for a line is answered with what is otherwise by it, wherever that shows: on lines with the same record, of which a build takes more by now, on lines
// that ask for the same, on what was double. A page that lays it over what it has shows what it would show if it asked for everything.
func TestAnAnswerOfSomeLinesMakesThePageWhole(t *testing.T) {
	h := market(t)
	var text strings.Builder
	text.WriteString("Ref,Qty,Value,MPN,Manufacturer,Fit\n")
	for i := range 60 {
		fmt.Fprintf(&text, "R%d,%d,%s,%s,,%s\n", i+1, 1+i%3, []string{"4k7", "10k", "33k", "as drawn", "1k"}[i%5], []string{"TW-1", "TW-2", "TW-3", "", ""}[i%5], []string{"", "", "", "no"}[i%4])
	}
	page := h.Board(t, "Board A", text.String())
	page, err := h.BOMs.SetBuild(t.Context(), h.Me, page.ID, page.Version, wire.BOMBuild{Boards: 600})
	require.NoError(t, err)
	page, err = h.BOMs.Waive(t.Context(), h.Me, page.ID, page.Version, wire.WaiveFindings{Cause: "single-source", Rows: []int{2, 7, 12}, Why: "agreed"})
	require.NoError(t, err)
	var parts []string
	for _, l := range page.Lines[:3] {
		parts = append(parts, l.Part.Number)
	}
	random := rand.New(rand.NewPCG(5, 9))
	fewer, short := 0, 0
	chosen := map[int]bool{}
	for round := range 40 {
		in := wire.BOMChoices{}
		for _, k := range random.Perm(60)[:1+random.IntN(3)] {
			row := k + 2
			switch how := random.IntN(5); {
			case chosen[row] && how < 2:
				in.Withdraw = append(in.Withdraw, row)
				delete(chosen, row)
			case how == 2:
				in.Choose = append(in.Choose, wire.BOMChoice{Row: row, None: true, Reason: "a label"})
				chosen[row] = true
			default:
				in.Choose = append(in.Choose, wire.BOMChoice{Row: row, Part: parts[random.IntN(3)], Reason: "meant", Alike: how == 3})
				chosen[row] = true
			}
		}
		answer, err := h.BOMs.ChooseSome(t.Context(), h.Me, page.ID, page.Version, in)
		require.NoError(t, err)
		require.True(t, answer.Partial)
		if len(answer.Lines) < len(page.Lines) {
			fewer++
		}
		whole, err := h.BOMs.Get(t.Context(), h.Me, page.ID)
		require.NoError(t, err)
		page = laidOver(page, answer)
		require.Equal(t, whole, page, "round %d: %+v", round, in)
		short += strings.Count(fmt.Sprint(page.Causes), "stock-short")
	}
	assert.Greater(t, fewer, 20, "most answers are shorter than the page")
	assert.NotZero(t, short, "suppliers have too little of something in some rounds")

	part, err := h.Parts.Get(t.Context(), h.Me, parts[0])
	require.NoError(t, err)
	_, err = h.Lifecycles.SetStanding(t.Context(), h.Me, part.ID, part.Version, wire.Standing{Standing: "obsolete", Why: "ended"})
	require.NoError(t, err)
	answer, err := h.BOMs.ChooseSome(t.Context(), h.Me, page.ID, page.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 5, Part: parts[1], Reason: "meant"}}})
	require.NoError(t, err)
	assert.False(t, answer.Partial, "what else became otherwise in the library cannot be told by the decision alone")
	assert.Len(t, answer.Lines, len(page.Lines))
}

// Lines that say nothing but where they stand ask for the same as none: what is chosen for one is chosen for it alone, and nothing is learned of it.
func TestWhatIsChosenForALineThatSaysNothingHoldsForItAlone(t *testing.T) {
	h := market(t)
	b := h.Board(t, "Board A", "Ref,Qty,Value,MPN\nX1,1,,\nX2,1,,\nX3,1,as drawn,\nX4,1,as drawn,\nR1,1,4k7,TW-1\n")
	assert.Equal(t, []int{0, 0, 1, 1}, []int{b.Lines[0].Alike, b.Lines[1].Alike, b.Lines[2].Alike, b.Lines[3].Alike})
	part := b.Lines[4].Part.ID
	for _, ch := range []wire.BOMChoice{{Row: 2, None: true, Reason: "a jumper", Learn: wire.LearnLink}, {Row: 2, Part: part, Learn: "propose"}} {
		_, err := h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{ch}})
		require.ErrorContains(t, err, "says nothing of the part")
	}
	b, err := h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: part, Alike: true}, {Row: 4, None: true, Reason: "a jumper", Alike: true, Learn: wire.LearnLink}}})
	require.NoError(t, err)
	assert.Equal(t, []string{"linked", "not in the library", "no library part", "no library part", "linked"}, []string{b.Lines[0].Verdict, b.Lines[1].Verdict, b.Lines[2].Verdict, b.Lines[3].Verdict, b.Lines[4].Verdict})
}
