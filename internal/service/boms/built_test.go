package boms_test

import (
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// What was built proves the exact revisions that it used, and no others: not those of another variant, not what is not fitted, not a newer revision.
func TestWhatWasBuiltProvesTheExactRevisionsThatItUsed(t *testing.T) {
	h := market(t)
	b := h.Board(t, "Lamp", lamp)
	name := "Harbour"
	b, err := h.BOMs.SetBuild(t.Context(), h.Me, b.ID, b.Version, wire.BOMBuild{Variant: &name})
	require.NoError(t, err)
	b, err = h.BOMs.Freeze(t.Context(), h.Me, b.ID, b.Version, wire.FreezeBOM{Note: "first"})
	require.NoError(t, err)
	_, err = h.BOMs.SetBuilt(t.Context(), h.Me, b.ID, 1, wire.BuiltBOM{Boards: 40, Which: "  "})
	assert.Equal(t, "which-missing", typed(t, err))
	_, err = h.BOMs.SetBuilt(t.Context(), h.Me, b.ID, 2, wire.BuiltBOM{Boards: 40, Which: "lot 7"})
	assert.Equal(t, deed.Unknown, func() deed.Kind { var e *deed.Error; require.ErrorAs(t, err, &e); return e.Kind }())
	_, err = h.BOMs.SetBuilt(t.Context(), h.Me, b.ID, 1, wire.BuiltBOM{Boards: 40, Which: "lot 7", Variant: "Lake"})
	assert.Equal(t, "variant-unknown", typed(t, err))
	f, err := h.BOMs.SetBuilt(t.Context(), h.Me, b.ID, 1, wire.BuiltBOM{Boards: 40, Which: "lot 7"})
	require.NoError(t, err)
	require.Len(t, f.Builds, 1)
	assert.Equal(t, []any{40, "lot 7", "Harbour", 0}, []any{f.Builds[0].Boards, f.Builds[0].Which, f.Builds[0].Variant, f.Builds[0].Proved})
	p, err := h.BOMs.Proof(t.Context(), h.Me, b.ID, 1, f.Builds[0].ID)
	require.NoError(t, err)
	used := map[string][]string{}
	for _, x := range p.Items {
		used[x.Name] = x.Used
		assert.Equal(t, []any{"part", "1", true, 0, false}, []any{x.Kind, x.Revision, x.Newest, x.Boards, x.Proved})
	}
	assert.Equal(t, map[string][]string{b.Lines[0].Part.Number: {"R1", "R2"}, b.Lines[1].Part.Number: {"R3"}}, used)

	// A newer revision of a part is there by now: it is the older one that worked.
	id, err := store.ParseID(b.Lines[0].Part.ID)
	require.NoError(t, err)
	now, err := h.Parts.Get(t.Context(), h.Me, b.Lines[0].Part.ID)
	require.NoError(t, err)
	edit := now.Released.Edit()
	edit.Values["power"] = "250 mW"
	changed, err := h.Parts.Save(t.Context(), h.Me, now.ID, now.Version, edit)
	require.NoError(t, err)
	_, err = h.Lifecycles.Release(t.Context(), h.Me, changed.ID, changed.Version, wire.Release{Note: "more power"})
	require.NoError(t, err)
	p, err = h.BOMs.Proof(t.Context(), h.Me, b.ID, 1, f.Builds[0].ID)
	require.NoError(t, err)
	assert.False(t, p.Items[0].Newest && p.Items[1].Newest)

	var wg sync.WaitGroup // several confirm at once, some of it and all: each exact revision is proved once
	errs := make([]error, 6)
	for i := range errs {
		in := wire.ConfirmProof{All: i%2 == 0}
		if !in.All {
			in.Things = []string{p.Items[i%len(p.Items)].ID}
		}
		wg.Go(func() {
			_, errs[i] = h.BOMs.Confirm(t.Context(), deed.Call{Actor: h.Me.Actor}, b.ID, 1, f.Builds[0].ID, in)
		})
	}
	wg.Wait()
	for _, err := range errs {
		require.NoError(t, err)
	}
	p, err = h.BOMs.Proof(t.Context(), h.Me, b.ID, 1, f.Builds[0].ID)
	require.NoError(t, err)
	assert.Equal(t, 2, p.Build.Proved)
	for _, x := range p.Items {
		assert.Equal(t, []any{40, true}, []any{x.Boards, x.Proved}, x.Name)
	}
	proofs, err := h.Store.Read(t.Context()).Proofs([]store.ID{id})
	require.NoError(t, err)
	require.Len(t, proofs, 1)
	assert.Equal(t, "Lamp revision 1, variant Harbour, lot 7", proofs[0].Which)
	life, err := h.Lifecycles.Life(t.Context(), h.Me, id.String(), 0)
	require.NoError(t, err)
	assert.Zero(t, life.Boards, "the newest revision was on no board")
	assert.False(t, life.Proofs[0].Current)

	_, err = h.BOMs.Confirm(t.Context(), h.As("rita", deed.Reader), b.ID, 1, f.Builds[0].ID, wire.ConfirmProof{All: true})
	assert.Equal(t, "not-allowed", typed(t, err))
	_, err = h.BOMs.Confirm(t.Context(), h.Me, b.ID, 1, f.Builds[0].ID, wire.ConfirmProof{Things: []string{b.Lines[2].Part.ID}})
	assert.Equal(t, "not-used", typed(t, err))
	_, err = h.BOMs.Confirm(t.Context(), h.Me, b.ID, 1, f.Builds[0].ID, wire.ConfirmProof{})
	assert.Equal(t, "nothing-named", typed(t, err))
	_, err = h.BOMs.Proof(t.Context(), h.Me, b.ID, 1, "nobody")
	assert.Equal(t, "no-build", typed(t, err))
}
