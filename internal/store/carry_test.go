package store_test

import (
	"crypto/sha256"
	"database/sql"
	"iter"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/store"
	"jollydrawer/internal/testdb"
)

// carriedTo gives every part a new draft.
func carriedTo(heads []store.Head) iter.Seq2[store.Changed, error] {
	return func(yield func(store.Changed, error) bool) {
		for _, h := range heads {
			c := store.Content{ID: store.NewID(), Head: h.ID, Hash: sha256.Sum256([]byte("now")), Format: "test/1", Bytes: []byte(`{"now":true}`), Origins: []byte("{}")}
			h.Draft = c.ID
			if !yield(store.Changed{Head: h, Contents: []store.Content{c}, Detail: "carried"}, nil) {
				return
			}
		}
	}
}

func TestManyPartsAreCarriedOverAtOnceOrNotAtAll(t *testing.T) {
	s, owner := testdb.Open(t)
	heads := []store.Head{newPart(t, s, "R-1"), newPart(t, s, "R-2"), newPart(t, s, "R-3")}
	now := func(number string) store.Head {
		h, err := s.Read(t.Context()).HeadByNumber(store.KindPart, number)
		require.NoError(t, err)
		return h
	}
	nothing := func(*store.Tx) (any, error) { return nil, nil }

	// Somebody saves one of them while the others are staged.
	_, err := s.Carry(t.Context(), deed("late"), carriedTo(heads), "carried", func(int) error {
		_, err := s.Do(t.Context(), deed("between"), func(tx *store.Tx) (any, error) {
			h, err := tx.HeadAt(store.KindPart, heads[1].ID, heads[1].Version)
			if err != nil {
				return nil, err
			}
			return nil, tx.Update(&h, "saved", nil)
		})
		return err
	}, nothing)
	require.ErrorIs(t, err, store.ErrConflict)
	for i, number := range []string{"R-1", "R-3"} {
		assert.Equal(t, heads[2*i].Draft, now(number).Draft, "not one is carried over")
		assert.Equal(t, heads[2*i].Version, now(number).Version)
	}
	heads[1] = now("R-2")

	_, err = s.Carry(t.Context(), deed("whole"), carriedTo(heads), "carried", func(int) error { return nil }, nothing)
	require.NoError(t, err)
	for i, number := range []string{"R-1", "R-2", "R-3"} {
		h := now(number)
		assert.Equal(t, heads[i].Version+1, h.Version)
		c, err := s.Read(t.Context()).Content(h.Draft)
		require.NoError(t, err)
		assert.JSONEq(t, `{"now":true}`, string(c.Bytes))
		trail, err := s.Read(t.Context()).Trail(h.ID, 0, 5)
		require.NoError(t, err)
		assert.Equal(t, "carried", trail[0].Action)
		assert.Equal(t, h.TrailHash, trail[0].Sum())
		assert.Equal(t, heads[i].TrailHash, trail[0].HashBefore)
	}

	// What the first one staged is swept, and nothing else.
	db, err := sql.Open("mysql", owner)
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec("UPDATE stagings SET at = at - INTERVAL 1 HOUR")
	require.NoError(t, err)
	require.NoError(t, store.Migrate(t.Context(), owner, owner))
	for table, want := range map[string]int{"contents": 6, "trail": 7, "stagings": 0, "staged_changes": 0, "staged_contents": 0, "staged_trail": 0, "staged_revisions": 0} {
		var n int
		require.NoError(t, db.QueryRow("SELECT COUNT(*) FROM "+table).Scan(&n))
		assert.Equal(t, want, n, table)
	}
}
