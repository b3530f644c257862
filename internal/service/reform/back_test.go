package reform_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

func released(t *testing.T, h housetest.House, p wire.Part, note string) wire.Part {
	t.Helper()
	p, err := h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: note})
	require.NoError(t, err)
	return p
}

func saved(t *testing.T, h housetest.House, p wire.Part, e wire.PartEdit) wire.Part {
	t.Helper()
	p, err := h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
	require.NoError(t, err)
	return p
}

// said is a value as a content shows it.
func said(c *wire.PartContent, key string) string {
	for _, v := range c.Values {
		if v.Key == key {
			return v.Text
		}
	}
	return ""
}

// An earlier revision becomes the draft again under the names that its parameters have now; nothing that is frozen changes.
func TestAnEarlierRevisionIsTheDraftAgain(t *testing.T) {
	h := housetest.Open(t)
	ctx := t.Context()
	p := released(t, h, h.Make(housetest.Rated("4k7", "A")), "first")
	first, err := h.Parts.Revision(ctx, h.Me, p.ID, 1)
	require.NoError(t, err)
	p = released(t, h, saved(t, h, p, housetest.Rated("8k2", "A")), "second")
	h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: "tolerance", To: "exactness"}}})
	h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Rename, Parameter: "exactness", To: "resistance-tolerance"}}})
	p, err = h.Parts.Get(ctx, h.Me, p.ID)
	require.NoError(t, err)
	require.Equal(t, 4, p.Revision, "two released parts were carried over twice")

	back, err := h.Reform.GoBack(ctx, h.Me, p.Number, p.Version, wire.GoBack{Revision: 1, Why: "the second was measured wrongly"})
	require.NoError(t, err)
	require.NotNil(t, back.Draft)
	assert.Equal(t, "4.7 kΩ", said(back.Draft, "resistance"))
	assert.Equal(t, "±1 %", said(back.Draft, "resistance-tolerance"))
	assert.Empty(t, said(back.Draft, "tolerance"))
	assert.Equal(t, first.Description, back.Draft.Description)
	assert.Equal(t, 4, back.Revision, "what is in use stays in use")
	assert.Equal(t, "8.2 kΩ", said(back.Released, "resistance"))
	again, err := h.Parts.Revision(ctx, h.Me, p.ID, 1)
	require.NoError(t, err)
	assert.Equal(t, first.Hash, again.Hash, "the revision stays as it was")
	trail, err := h.Parts.Trail(ctx, h.Me, p.ID, 0, 1)
	require.NoError(t, err)
	assert.Equal(t, "went back to a revision", trail.Items[0].Action)
	assert.Contains(t, trail.Items[0].Detail, "measured wrongly")
	back = released(t, h, back, "as it was first")
	assert.Equal(t, 5, back.Revision, "a number is never used twice")
	v, err := h.Audit.Verify(ctx, h.Me)
	require.NoError(t, err)
	assert.Empty(t, v.Different)
}

func TestGoingBackLosesNothingUnasked(t *testing.T) {
	h := housetest.Open(t)
	ctx := t.Context()
	p := released(t, h, h.Make(housetest.Rated("4k7", "A")), "first")
	p = released(t, h, saved(t, h, p, housetest.Rated("8k2", "A")), "second")
	p = saved(t, h, p, housetest.Rated("9k1", "A"))
	refused := func(typ string, version int, in wire.GoBack) *deed.Error {
		t.Helper()
		_, err := h.Reform.GoBack(ctx, h.Me, p.ID, version, in)
		return housetest.Fails(t, err, typ)
	}
	refused("draft-there", p.Version, wire.GoBack{Revision: 1})
	refused("not-found", p.Version, wire.GoBack{Revision: 7})
	changed := refused("part-changed", p.Version-1, wire.GoBack{Revision: 1, ReplaceDraft: true})
	require.NotNil(t, changed.Current, "what it is now is shown beside")
	reader := deed.Call{Actor: deed.Actor{ID: h.Me.Actor.ID, Role: deed.Reader}}
	_, err := h.Reform.GoBack(ctx, reader, p.ID, p.Version, wire.GoBack{Revision: 1, ReplaceDraft: true})
	var e *deed.Error
	require.ErrorAs(t, err, &e)
	assert.Equal(t, deed.Forbidden, e.Kind)

	// To what is in use: then no draft is wanted.
	p, err = h.Reform.GoBack(ctx, h.Me, p.ID, p.Version, wire.GoBack{Revision: 2, ReplaceDraft: true})
	require.NoError(t, err)
	assert.Nil(t, p.Draft)
	assert.Equal(t, "8.2 kΩ", h.Value(p.Number, "resistance"))
	refused("nothing-differs", p.Version, wire.GoBack{Revision: 2})

	// A value whose parameter is gone is named first.
	e2 := housetest.Rated("1k", "R")
	e2.Values["resistor-technology"] = "thick film"
	r := released(t, h, h.Make(e2), "first")
	r = released(t, h, saved(t, h, r, housetest.Rated("2k", "R")), "second")
	h.Change(wire.CabinetChange{Steps: []cabinet.Step{{Do: cabinet.Retire, Parameter: "resistor-technology"}}})
	r, err = h.Parts.Get(ctx, h.Me, r.ID)
	require.NoError(t, err)
	_, err = h.Reform.GoBack(ctx, h.Me, r.ID, r.Version, wire.GoBack{Revision: 1})
	lost := housetest.Fails(t, err, "values-without-place")
	assert.Contains(t, lost.What, "resistor-technology thick film")
	r, err = h.Reform.GoBack(ctx, h.Me, r.ID, r.Version, wire.GoBack{Revision: 1, LeaveOut: true})
	require.NoError(t, err)
	assert.Equal(t, "1 kΩ", said(r.Draft, "resistance"))
	assert.Empty(t, said(r.Draft, "resistor-technology"))

	// A source that another part has by now is not taken from it.
	s := released(t, h, h.Make(housetest.Rated("3k", "S-OLD")), "first")
	s = released(t, h, saved(t, h, s, housetest.Rated("3k", "S-NEW")), "second")
	other := h.Make(housetest.Rated("3k3", "S-OLD"))
	_, err = h.Reform.GoBack(ctx, h.Me, s.ID, s.Version, wire.GoBack{Revision: 1})
	taken := housetest.Fails(t, err, "source-taken")
	assert.Contains(t, taken.What, other.Number)
}
