package app_test

import (
	"slices"
	"strings"
	"testing"
	"time"

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
	rooms := map[string][]try{}
	for _, x := range slices.Concat(tries, triesOfRooms, triesOfBOMs) {
		room, _, _ := strings.Cut(x.deed, ".")
		if slices.Contains([]string{"Lifecycles", "Reform", "Cabinets"}, room) {
			room = x.deed // what one of them changes keeps others from being done: each has a house of its own
		}
		rooms[room] = append(rooms[room], x)
	}
	for room, all := range rooms {
		t.Run(room, func(t *testing.T) {
			t.Parallel()
			h := housetest.Open(t)
			vera := h.As("vera", deed.Administrator)
			for n, x := range all {
				do := x.ready(h, word(n+1))
				authored(t, h, x.deed, vera.Actor.ID, func() error {
					_, err := do(t.Context(), deed.Call{Actor: vera.Actor, Deed: deed.NewID()})
					return err
				})
			}
		})
	}
}

// authored does a deed of somebody who has written nothing yet of what is there, and looks at whom everything is of then.
func authored(t *testing.T, h housetest.House, name string, who store.ID, do func() error) {
	t.Helper()
	r := h.Store.Read(t.Context())
	before, was := drafted(t, h)
	wrote, err := r.Authors(before)
	require.NoError(t, err)
	frozen := map[store.ID]int{}
	for _, head := range before {
		frozen[head.ID] = head.Revision
	}
	began := store.Stamp(time.Now())
	require.NoError(t, do(), name)
	heads, now := drafted(t, h)
	authors, err := r.Authors(heads)
	require.NoError(t, err)
	told, err := r.AuthorsByTrail(store.IDs(heads))
	require.NoError(t, err)
	for _, head := range heads {
		assert.ElementsMatch(t, told[head.ID], authors[head.ID], "%s: what is kept of the authors of %s is what the trail says", name, head.Number)
		written, err := r.Content(now[head.ID])
		require.NoError(t, err)
		switch old, there := was[head.ID]; {
		case head.Revision > frozen[head.ID]: // what was released begins anew
		case now[head.ID] != old && written.At.Before(began): // what somebody wrote before was put back: it is theirs
			assert.NotContains(t, authors[head.ID], who, "%s put %s back", name, head.Number)
		case now[head.ID] != old:
			assert.Contains(t, authors[head.ID], who, "%s changed %s", name, head.Number)
		case there:
			assert.ElementsMatch(t, wrote[head.ID], authors[head.ID], "%s left %s as it was", name, head.Number)
		}
	}
}
