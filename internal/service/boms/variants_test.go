package boms_test

import (
	"bytes"
	"encoding/csv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/bom"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

const lamp = "Ref,Value,MPN,Fitted Harbour,Fitted Open sea\n\"R1,R2\",4k7,TW-1,yes,yes\nR3,10k,TW-2,yes,no\nR3,33k,TW-3,no,yes\nR4,4k7,TW-1,no,yes\n"

// typed is the type of a refusal.
func typed(t *testing.T, err error) string {
	t.Helper()
	var e *deed.Error
	require.ErrorAs(t, err, &e)
	return e.Type
}

func verdictsOf(b wire.BOM) (out []string) {
	for _, l := range b.Lines {
		out = append(out, l.Verdict)
	}
	return out
}

func TestABoardIsBuiltInVariants(t *testing.T) {
	h := market(t)
	b := h.Board(t, "Lamp", lamp)
	assert.Equal(t, []string{"Harbour", "Open sea"}, b.Variants)
	assert.Equal(t, []string{"linked", "linked", "linked", "linked"}, verdictsOf(b))
	assert.Equal(t, []string{"Harbour"}, b.Lines[1].In)
	of, err := h.BOMs.GetOf(t.Context(), h.Me, b.ID, "harbour")
	require.NoError(t, err)
	assert.Equal(t, []string{"linked", "linked", "not fitted", "not fitted"}, verdictsOf(of))
	assert.Equal(t, "Harbour", of.Shown)
	_, err = h.BOMs.GetOf(t.Context(), h.Me, b.ID, "Lake")
	assert.Equal(t, "variant-unknown", typed(t, err))

	// What holds of one variant only is not worked out of all.
	_, err = h.BOMs.Cost(t.Context(), h.Me, wire.BOMAt{BOM: b.ID}, 10, nil)
	assert.Equal(t, "variant-missing", typed(t, err))
	takes := func(variant string) map[string]int64 {
		c, err := h.BOMs.Cost(t.Context(), h.Me, wire.BOMAt{BOM: b.ID, Variant: variant}, 10, nil)
		require.NoError(t, err)
		out := map[string]int64{}
		for _, x := range c.Bought {
			out[x.MPN] = x.Takes
		}
		for _, x := range c.Unbought {
			out[x.Description] = x.Takes
		}
		return out
	}
	assert.Equal(t, map[string]int64{"TW-1": 20, "TW-2": 10}, takes("Harbour"))
	sea := takes("Open sea")
	assert.Equal(t, int64(30), sea["TW-1"])
	assert.Len(t, sea, 2)
	assert.NotContains(t, sea, "TW-2")

	name := "open SEA"
	b, err = h.BOMs.SetBuild(t.Context(), h.Me, b.ID, b.Version, wire.BOMBuild{Boards: 10, Variant: &name})
	require.NoError(t, err)
	assert.Equal(t, "Open sea", b.Variant)
	assert.Equal(t, sea, takes(""), "the one that is built")
	other := "Lake"
	_, err = h.BOMs.SetBuild(t.Context(), h.Me, b.ID, b.Version, wire.BOMBuild{Boards: 10, Variant: &other})
	assert.Equal(t, "variant-unknown", typed(t, err))

	used, err := h.BOMs.WhereUsed(t.Context(), h.Me, wire.UsedAsked{Part: b.Lines[1].Part.Number})
	require.NoError(t, err)
	require.Len(t, used.Items[0].Boards, 1, "a part of a variant that is not built is found all the same")
	assert.Equal(t, []string{"Harbour"}, used.Items[0].Boards[0].In)
	assert.Zero(t, used.Items[0].Boards[0].Pieces, "of which a build takes none")

	b, err = h.BOMs.Freeze(t.Context(), h.Me, b.ID, b.Version, wire.FreezeBOM{Note: "first"})
	require.NoError(t, err)
	f, err := h.BOMs.Revision(t.Context(), h.Me, b.ID, 1)
	require.NoError(t, err)
	assert.Equal(t, []string{"Harbour", "Open sea"}, f.Variants)
	assert.Equal(t, "Open sea", f.Variant)
	assert.Equal(t, []string{"Open sea"}, f.Lines[2].In)
	d, err := h.BOMs.Compare(t.Context(), h.Me, wire.BOMAt{BOM: b.ID, Revision: 1, Variant: "Harbour"}, wire.BOMAt{BOM: b.ID, Variant: "Open sea"})
	require.NoError(t, err)
	says := map[string][]string{}
	for _, c := range d.Changes {
		says[c.Designators[0]] = c.What
	}
	assert.Contains(t, says["R3"], bom.OtherPart)
	assert.Contains(t, says["R4"], bom.OtherFit)
	assert.Len(t, says, 2)

	sheet := func(in wire.BOMSheet) [][]string {
		in.BOM, in.Format = b.ID, "csv"
		var out bytes.Buffer
		require.NoError(t, h.BOMs.Sheet(t.Context(), h.Me, in, &out))
		all, err := csv.NewReader(&out).ReadAll()
		require.NoError(t, err)
		return all
	}
	all := sheet(wire.BOMSheet{Form: bom.FormAssembly, Revision: 1})
	assert.Equal(t, []string{"Fitted in Harbour", "Fitted in Open sea"}, all[0][10:])
	assert.Equal(t, []string{"no", "yes"}, all[5][10:], "R4")
	assert.Equal(t, []string{"R4", "no"}, sheet(wire.BOMSheet{Form: bom.FormAssembly, Variant: "Harbour"})[4][:2])
	assert.Equal(t, "Sum for 10 boards", sheet(wire.BOMSheet{Form: bom.FormPurchase})[3][0])
	saved, err := h.BOMs.SheetName(t.Context(), h.Me, wire.BOMSheet{BOM: b.ID, Variant: "Harbour", Form: "assembly", Format: "csv"})
	require.NoError(t, err)
	assert.Contains(t, saved, "Lamp Harbour assembly ")
}

// A decision for the line of one variant leaves that of another as it is, and what a person says of columns makes variants of them.
func TestDecisionsAndColumnsOfVariants(t *testing.T) {
	h := market(t)
	b := h.Board(t, "Lamp", "Ref,Value,Lite,Pro\nR1,4k7,x,x\nR2,10k,x,\nR2,33k,,x\n")
	assert.Empty(t, b.Variants, "nobody knows what Lite is")
	assert.Equal(t, 3, b.Hindered["fitted-unclear"])
	b, err := h.BOMs.SayColumns(t.Context(), h.Me, b.ID, wire.BOMColumns{Columns: []wire.BOMColumn{{At: 2, Role: bom.Fit, Variant: "Lite"}, {At: 3, Role: bom.Fit, Variant: "Pro"}}})
	require.NoError(t, err)
	assert.Equal(t, []string{"Lite", "Pro"}, b.Variants)
	assert.Zero(t, b.Hindered["fitted-unclear"])
	parts := map[string]string{}
	for _, l := range b.Lines {
		require.NotNil(t, l.Part, l.Value)
		parts[l.Value] = l.Part.Number
	}
	b, err = h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 3, Part: parts["10k"]}}})
	require.NoError(t, err)
	assert.Equal(t, []bool{false, true, false}, []bool{b.Lines[0].Chosen, b.Lines[1].Chosen, b.Lines[2].Chosen})
	b, err = h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 4, Part: parts["33k"]}}})
	require.NoError(t, err)
	assert.Equal(t, []bool{true, true}, []bool{b.Lines[1].Chosen, b.Lines[2].Chosen}, "each line has its own")
	for _, bad := range []wire.BOMColumn{{At: 1, Role: bom.Value, Variant: "Lite"}, {At: 1, Role: "levels"}} {
		_, err = h.BOMs.SayColumns(t.Context(), h.Me, b.ID, wire.BOMColumns{Columns: []wire.BOMColumn{bad}})
		assert.Equal(t, "columns-wrong", typed(t, err))
	}
}

// What a sub-assembly is made of is bought as often as the board has it, wherever it is counted.
func TestABoardWithSubAssemblies(t *testing.T) {
	h := market(t)
	b := h.Board(t, "Lamp", "Level,Ref,Qty,Value,MPN,Description\n1,R1,1,4k7,TW-1,\n1,A1-A3,3,,,lamp head\n2,\"R1,R2\",2,4k7,TW-1,\n2,,0.2 m,,,wire\n2,B1,1,,,lid\n3,R1,1,10k,TW-2,\n")
	assert.Equal(t, []string{"linked", "sub-assembly", "linked", "not in the library", "sub-assembly", "linked"}, verdictsOf(b))
	assert.Equal(t, []int64{0, 0, 3, 3, 3, 3}, []int64{b.Lines[0].Times, b.Lines[1].Times, b.Lines[2].Times, b.Lines[3].Times, b.Lines[4].Times, b.Lines[5].Times})
	assert.Equal(t, []string{"A1/R1", "A1/R2", "A2/R1", "A2/R2", "A3/R1", "A3/R2"}, b.Lines[2].Designators)
	c, err := h.BOMs.Cost(t.Context(), h.Me, wire.BOMAt{BOM: b.ID}, 10, nil)
	require.NoError(t, err)
	got := map[string]int64{}
	for _, x := range c.Bought {
		got[x.MPN] = x.Takes
	}
	assert.Equal(t, map[string]int64{"TW-1": 70, "TW-2": 30}, got)
	require.Len(t, c.Unbought, 1, "a sub-assembly is not bought")
	assert.Contains(t, c.Unbought[0].Description, "wire, 0.6 m a board")
	assert.Equal(t, 4, c.Ready.Lines)
	used, err := h.BOMs.WhereUsed(t.Context(), h.Me, wire.UsedAsked{MPN: "TW-2"})
	require.NoError(t, err)
	assert.Equal(t, int64(3), used.Items[0].Boards[0].Pieces)
	assert.Equal(t, []string{"A1/B1/R1", "A2/B1/R1", "A3/B1/R1"}, used.Items[0].Boards[0].Designators)
	needs, err := h.BOMs.Needs(t.Context(), b.ID, false)
	require.NoError(t, err)
	assert.Equal(t, int64(7), needs[b.Lines[0].Part.ID].Pieces)

	astray := h.Board(t, "Lamp 2", "Level,Ref,Qty,Value,MPN\n1,A1,2,,\n3,R1,1,4k7,TW-1\n")
	assert.Equal(t, map[string]int{"level-unclear": 1}, astray.Hindered)
	_, err = h.BOMs.Freeze(t.Context(), h.Me, astray.ID, astray.Version, wire.FreezeBOM{Note: "first"})
	assert.ErrorContains(t, err, "it is not clear what they are part of: 1")
	_, err = h.BOMs.Freeze(t.Context(), h.Me, b.ID, b.Version, wire.FreezeBOM{Note: "first", Anyway: "the wire is on the bench"})
	require.NoError(t, err)
	f, err := h.BOMs.Revision(t.Context(), h.Me, b.ID, 1)
	require.NoError(t, err)
	assert.True(t, f.Lines[1].Assembly)
	assert.Equal(t, []any{"0.6 m", 3}, []any{f.Lines[3].Amount, f.Lines[5].Quantity})
}
