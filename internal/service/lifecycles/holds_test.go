package lifecycles_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

func TestWhatSomebodyHoldsNobodyElseChanges(t *testing.T) {
	h := housetest.Open(t)
	iver, ulla, maren := h.As("iver", "engineer"), h.As("ulla", "engineer"), h.As("maren", "librarian")
	p, err := h.Parts.Create(t.Context(), iver, housetest.Rated("4k7", "A"))
	require.NoError(t, err)
	refused := func(err error, typ string) {
		t.Helper()
		var e *deed.Error
		if assert.ErrorAs(t, err, &e) {
			assert.Equal(t, typ, e.Type, e.Error())
		}
	}
	l, err := h.Lifecycles.Hold(t.Context(), iver, p.Number, wire.TakeHold{Why: "another case", Hours: 2})
	require.NoError(t, err)
	assert.Equal(t, p.Version, l.Version, "its version stays")
	assert.Equal(t, []any{"Iver", true, "another case"}, []any{l.Hold.By, l.Hold.Mine, l.Hold.Why})

	_, err = h.Parts.Save(t.Context(), ulla, p.ID, p.Version, housetest.Rated("5k1", "A"))
	refused(err, "held")
	assert.ErrorContains(t, err, "is held by Iver until")
	_, err = h.Lifecycles.Release(t.Context(), maren, p.ID, p.Version, wire.Release{Note: "x"})
	assert.ErrorContains(t, err, "is held by Iver")
	_, err = h.Lifecycles.Hold(t.Context(), ulla, p.ID, wire.TakeHold{Why: "mine now"})
	refused(err, "held")
	_, err = h.Lifecycles.Hold(t.Context(), ulla, p.ID, wire.TakeHold{Why: "mine now", TakeOver: true})
	refused(err, "not-allowed")
	_, err = h.Lifecycles.LetGo(t.Context(), ulla, p.ID)
	refused(err, "held")
	p, err = h.Parts.Save(t.Context(), iver, p.ID, p.Version, housetest.Rated("5k1", "A"))
	require.NoError(t, err, "whoever holds it changes it")

	l, err = h.Lifecycles.Hold(t.Context(), maren, p.ID, wire.TakeHold{Why: "he is away", TakeOver: true})
	require.NoError(t, err)
	assert.Equal(t, "Maren", l.Hold.By)
	_, err = h.Parts.Save(t.Context(), iver, p.ID, p.Version, housetest.Rated("6k8", "A"))
	refused(err, "held")
	l, err = h.Lifecycles.LetGo(t.Context(), maren, p.ID)
	require.NoError(t, err)
	assert.Nil(t, l.Hold)
	_, err = h.Lifecycles.LetGo(t.Context(), maren, p.ID)
	require.NoError(t, err, "what nobody holds is let go of already")
	p, err = h.Parts.Save(t.Context(), iver, p.ID, p.Version, housetest.Rated("6k8", "A"))
	require.NoError(t, err)

	// A hold ends by itself.
	_, err = h.Lifecycles.Hold(t.Context(), maren, p.ID, wire.TakeHold{Why: "for an hour", Hours: 1})
	require.NoError(t, err)
	h.Now = func() time.Time { return time.Now().Add(2 * time.Hour) }
	_, err = h.Parts.Save(t.Context(), iver, p.ID, p.Version, housetest.Rated("8k2", "A"))
	require.NoError(t, err)
	for _, in := range []wire.TakeHold{{Why: " "}, {Why: "x", Hours: -1}, {Why: "x", Hours: 400}} {
		_, err = h.Lifecycles.Hold(t.Context(), iver, p.ID, in)
		assert.Error(t, err, "%+v", in)
	}
	_, err = h.Lifecycles.Hold(t.Context(), iver, "NOBODY", wire.TakeHold{Why: "x"})
	refused(err, "not-found")
}

// A model that is held is changed by whoever holds it.
func TestAModelIsHeldLikeAPart(t *testing.T) {
	h := housetest.Open(t)
	iver, ulla := h.As("iver", "engineer"), h.As("ulla", "engineer")
	m := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: housetest.TwoPads("0.95")})
	_, err := h.Lifecycles.Hold(t.Context(), iver, m.ID, wire.TakeHold{Why: "longer pads"})
	require.NoError(t, err)
	edit := wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: housetest.TwoPads("1.05")}
	m, err = h.Models.Get(t.Context(), h.Me, m.ID)
	require.NoError(t, err)
	_, err = h.Models.Save(t.Context(), ulla, housetest.ID(t, m.ID), m.Version, edit)
	assert.ErrorContains(t, err, "is held by Iver")
	_, err = h.Models.Save(t.Context(), iver, housetest.ID(t, m.ID), m.Version, edit)
	assert.NoError(t, err)
}
