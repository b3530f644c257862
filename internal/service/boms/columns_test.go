package boms_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/bom"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

func fits(b wire.BOM) (out []string) {
	for _, l := range b.Lines {
		out = append(out, l.Verdict)
	}
	return out
}

// A column of what is left off says the contrary of one of what is fitted; what an empty cell means is asked, said once, and kept for the layout.
func TestColumnsAboutFitting(t *testing.T) {
	h := housetest.Open(t)
	h.Make(housetest.Resistor("4k7", "TW-4K7-A"))
	b := h.Board(t, "Board A", "Ref,MPN,DNP\nR1,TW-4K7-A,x\nR2,TW-4K7-A,no\nR3,TW-4K7-A,\n")
	assert.Equal(t, []string{"not fitted", "linked", "linked"}, fits(b))
	assert.Equal(t, map[string]int{"unreleased": 2}, b.Hindered)

	b = h.Board(t, "Board B", "Ref,MPN,Fitted\nR1,TW-4K7-A,x\nR2,TW-4K7-A,\n")
	assert.Equal(t, "fitted-unclear", b.Lines[1].Findings[0].Cause)
	assert.Equal(t, map[string]int{"unreleased": 2, "fitted-unclear": 1}, b.Hindered)
	_, err := h.BOMs.SayColumns(t.Context(), h.Me, b.ID, wire.BOMColumns{Columns: []wire.BOMColumn{{At: 1, Role: bom.MPN, Blank: bom.Fitted}}})
	housetest.Fails(t, err, "columns-wrong")
	b, err = h.BOMs.SayColumns(t.Context(), h.Me, b.ID, wire.BOMColumns{Columns: []wire.BOMColumn{{At: 2, Role: bom.Fit, Blank: bom.NotFitted}}})
	require.NoError(t, err)
	assert.Equal(t, []string{"linked", "not fitted"}, fits(b))
	assert.Zero(t, b.Hindered["fitted-unclear"])
	assert.Equal(t, []string{"linked", "not fitted"}, fits(h.Board(t, "Board C", "Ref,MPN,Fitted\nR1,TW-4K7-A,x\nR9,TW-4K7-A,\n")), "for every file with these headings")
}

// What somebody confirmed when there was one kind of such columns is read by the heading.
func TestALayoutOfTheFirstFormatKnowsWhatIsLeftOff(t *testing.T) {
	h := housetest.Open(t)
	h.Make(housetest.Resistor("4k7", "TW-4K7-A"))
	b := h.Board(t, "Board A", "Ref,MPN,DNP\nR1,TW-4K7-A,x\n")
	_, err := h.BOMs.SayColumns(t.Context(), h.Me, b.ID, wire.BOMColumns{})
	require.NoError(t, err)
	heads, _, err := h.Store.Read(t.Context()).Heads(store.KindLayout, 0, 10)
	require.NoError(t, err)
	require.Len(t, heads, 1)
	rewrite(t, h, heads[0], "jolly-layout/1", func(doc map[string]any) {
		doc["columns"].(map[string]any)["2"].(map[string]any)["role"] = "fit"
	})
	b, err = h.BOMs.Get(t.Context(), h.Me, b.ID)
	require.NoError(t, err)
	assert.Equal(t, bom.Unfit, b.Columns[2].Role)
	assert.Equal(t, []string{"not fitted"}, fits(b))
}
