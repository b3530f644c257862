package app_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/store"
)

// drafted is everything that has a draft, and which content that is.
func drafted(t *testing.T, h housetest.House) (heads []store.Head, draft map[store.ID]store.ID) {
	t.Helper()
	draft = map[store.ID]store.ID{}
	for _, kind := range []string{store.KindPart, store.KindModel, store.KindBOM} {
		all, _, err := h.Store.Read(t.Context()).Heads(kind, 0, 10_000)
		require.NoError(t, err)
		for _, x := range all {
			if !x.Draft.IsZero() {
				heads, draft[x.ID] = append(heads, x), x.Draft
			}
		}
	}
	return heads, draft
}

// Whoever changes what a draft holds is an author of it, by whichever way there is, and nobody becomes one by what changes nothing: a second
// person is asked for by this alone.
func TestWhoeverChangesADraftByAnyDeedIsItsAuthor(t *testing.T) {
	for _, x := range slices.Concat(tries, triesOfRooms, triesOfBOMs) {
		t.Run(x.deed, func(t *testing.T) {
			t.Parallel()
			h := housetest.Open(t)
			vera := h.As("vera", deed.Administrator)
			do := x.ready(h, word(1))
			before, was := drafted(t, h)
			wrote, err := h.Store.Read(t.Context()).Authors(before)
			require.NoError(t, err)
			_, err = do(t.Context(), deed.Call{Actor: vera.Actor, Deed: deed.NewID()})
			require.NoError(t, err)
			heads, now := drafted(t, h)
			authors, err := h.Store.Read(t.Context()).Authors(heads)
			require.NoError(t, err)
			told, err := h.Store.Read(t.Context()).AuthorsByTrail(store.IDs(heads))
			require.NoError(t, err)
			for _, head := range heads {
				assert.ElementsMatch(t, told[head.ID], authors[head.ID], "what is kept of the authors of %s is what the trail says", head.Number)
				switch old, there := was[head.ID]; {
				case now[head.ID] != old:
					assert.Contains(t, authors[head.ID], vera.Actor.ID, "%s was changed", head.Number)
				case there:
					assert.ElementsMatch(t, wrote[head.ID], authors[head.ID], "%s is as it was", head.Number)
				}
			}
		})
	}
}
