package intakes_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/crosswalk"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// What a supplier states of a product is a move that somebody makes: of parts that the library has while the intake is open, of those that it
// made once it is taken in; of no others, and once.
func TestPartsAreMovedWhereTheirSupplierStatesIt(t *testing.T) {
	h := housetest.Open(t)
	for _, mpn := range []string{"S-1", "S-2", "S-3"} {
		h.Make(housetest.Rated("4k7", mpn))
	}
	h.Level()
	rows := "R;Tidewright;S-1;4k7;1%;0805;Obsolete\nR;Tidewright;S-2;4k7;1%;0805;Not recommended for new designs (NRND)\nR;Tidewright;S-3;4k7;1%;0805;Active\n" +
		"R;Tidewright;S-4;8k2;1%;0805;End of life\nR;Tidewright;S-5;9k1;1%;0805;Discontinuation notice\nR;Tidewright;S-6;1k;1%;0805;not obsolete\n"
	i := h.EditIntake(h.Listed(rows), wire.IntakeEdit{Changes: []crosswalk.Change{{Take: map[string]string{"state": "Sheet", "datasheet": ""}}}})
	id := housetest.ID(t, i.ID)
	standing := func(mpn string) string {
		l, err := h.Intakes.Rows(t.Context(), h.Me, id, "", "", 0, 100)
		require.NoError(t, err)
		for _, r := range l.Items {
			if r.MPN == mpn && r.Number != "" {
				p, err := h.Parts.Get(t.Context(), h.Me, r.Number)
				require.NoError(t, err)
				return p.Standing
			}
		}
		return ""
	}
	mends := map[string][]string{}
	for _, c := range i.Causes {
		for _, m := range c.Mends {
			if m.Stated != "" {
				mends[c.Cause.Cause] = append(mends[c.Cause.Cause], m.Stated)
			}
		}
	}
	assert.Equal(t, map[string][]string{"stated:obsolete": {"obsolete"}, "stated:not for new designs": {"not for new designs"}}, mends)
	_, err := h.Intakes.MoveStated(t.Context(), h.As("rita", deed.Reader), id, wire.MoveStated{Stated: "obsolete"})
	housetest.Fails(t, err, "not-allowed")
	moved, err := h.Intakes.MoveStated(t.Context(), h.Me, id, wire.MoveStated{Stated: "obsolete", Note: "as they say"})
	require.NoError(t, err)
	assert.Equal(t, 1, moved.Things, "rows that are no parts yet are not moved")
	h.Level()
	_, err = h.Intakes.MoveStated(t.Context(), h.Me, id, wire.MoveStated{Stated: "obsolete"})
	housetest.Fails(t, err, "none-stated")
	assert.Equal(t, []string{"obsolete", "active", "active"}, []string{standing("S-1"), standing("S-2"), standing("S-3")})

	i, err = h.Intakes.Get(t.Context(), h.Me, id)
	require.NoError(t, err)
	made := h.TakeIn(i)
	assert.Equal(t, map[string]int{"obsolete": 1, "not for new designs": 1}, made.Stated)
	h.Level()
	for _, s := range []string{"obsolete", "not for new designs"} {
		_, err = h.Intakes.MoveStated(t.Context(), h.Me, id, wire.MoveStated{Stated: s, Note: "as they say"})
		require.NoError(t, err)
	}
	h.Level()
	got := map[string]string{}
	for _, mpn := range []string{"S-1", "S-2", "S-3", "S-4", "S-5", "S-6"} {
		got[mpn] = standing(mpn)
	}
	assert.Equal(t, map[string]string{"S-1": "obsolete", "S-2": "not for new designs", "S-3": "active", "S-4": "obsolete", "S-5": "not for new designs", "S-6": "active"}, got)
}
