package store_test

import (
	"crypto/sha256"
	"database/sql"
	"errors"
	"fmt"
	"iter"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/store"
	"jollydrawer/internal/testdb"
)

// each gives the members of a list one after the other.
func each(list []store.Staged) iter.Seq2[store.Staged, error] {
	return func(yield func(store.Staged, error) bool) {
		for _, p := range list {
			if !yield(p, nil) {
				return
			}
		}
	}
}

func content(head store.ID, text string) store.Content {
	return store.Content{ID: store.NewID(), Head: head, Hash: sha256.Sum256([]byte(text)), Format: "test/1", Bytes: fmt.Appendf(nil, `{"description":%q}`, text), Origins: []byte("{}")}
}

// fresh makes new parts ready for a bulk deed, each with a source and a use of a model.
func fresh(word string, n int) (out []store.Staged) {
	for i := range n {
		number := fmt.Sprintf("%s-%d", word, i)
		h := store.Head{ID: store.NewID(), Kind: store.KindPart, Number: number, Drawer: "d", Standing: "active"}
		c := content(h.ID, "then")
		h.Draft = c.ID
		out = append(out, store.Staged{Head: h, Contents: []store.Content{c}, Sources: []string{"maker|" + number}, Uses: []store.Use{{Place: "draft symbol", Child: store.NewID()}}, Action: "made"})
	}
	return out
}

// carriedTo gives every part a new draft that uses one land pattern.
func carriedTo(heads []store.Head) (out []store.Staged) {
	for _, h := range heads {
		c := content(h.ID, "now")
		h.Draft = c.ID
		out = append(out, store.Staged{Head: h, Contents: []store.Content{c}, Uses: []store.Use{{Place: "draft land pattern", Child: store.NewID()}}, Clears: store.ClearsDraft, Action: "carried", Detail: "carried"})
	}
	return out
}

func nothing(*store.Tx) (any, error) { return nil, nil }

func quiet(int) error { return nil }

func total(t *testing.T, s *store.Store) int64 {
	t.Helper()
	_, n, err := s.Read(t.Context()).Heads(store.KindPart, 0, 1)
	require.NoError(t, err)
	return n
}

func TestABulkDeedIsInvisibleUntilItIsWhole(t *testing.T) {
	s, _ := testdb.Open(t)
	var told []int
	result, err := s.Bulk(t.Context(), deed("bulk"), each(fresh("B", 4500)), func(done int) error {
		told = append(told, done)
		assert.Zero(t, total(t, s), "nothing is seen while it is staged")
		return nil
	}, func(*store.Tx) (any, error) { return "done", nil })
	require.NoError(t, err)
	assert.Equal(t, `"done"`, string(result))
	require.Len(t, told, 3, "two batches and the rest, which may end in any order")
	assert.True(t, slices.IsSorted(told), told)
	assert.Equal(t, 4500, told[2])
	assert.EqualValues(t, 4500, total(t, s))
	h, err := s.Read(t.Context()).HeadByNumber(store.KindPart, "B-4499")
	require.NoError(t, err)
	trail, err := s.Read(t.Context()).Trail(h.ID, 0, 5)
	require.NoError(t, err)
	require.Len(t, trail, 1)
	assert.Equal(t, h.TrailHash, trail[0].Sum())
	uses, err := s.Read(t.Context()).UsesOf(h.ID)
	require.NoError(t, err)
	assert.Len(t, uses, 1)
	by, err := s.Read(t.Context()).ByNumber("b-4499")
	require.NoError(t, err)
	assert.Equal(t, h.ID, by, "its number finds it, in any capitals")
}

func TestABulkDeedThatMeetsWhatIsTakenBringsInNothing(t *testing.T) {
	s, _ := testdb.Open(t)
	kept := newPart(t, s, "K-1")
	_, err := s.Do(t.Context(), deed("former"), func(tx *store.Tx) (any, error) {
		h, err := tx.Head(store.KindPart, kept.ID)
		if err != nil {
			return nil, err
		}
		if err := tx.AddFormer("OLD 7", h.ID); err != nil {
			return nil, err
		}
		if err := tx.SetSources(h.ID, []string{"maker|taken"}, false); err != nil {
			return nil, err
		}
		return nil, tx.Update(&h, "former number added", nil)
	})
	require.NoError(t, err)
	for name, c := range map[string]struct {
		spoil func(*store.Staged)
		want  error
	}{
		"own number":    {func(p *store.Staged) { p.Head.Number = "k-1" }, store.ErrNumberTaken},
		"former number": {func(p *store.Staged) { p.Head.Number = "old 7" }, store.ErrNumberTaken},
		"source":        {func(p *store.Staged) { p.Sources = []string{"maker|taken"} }, store.ErrSourceTaken},
	} {
		parts := fresh("C", 3)
		c.spoil(&parts[1])
		_, err := s.Bulk(t.Context(), deed(name), each(parts), quiet, nothing)
		assert.ErrorIs(t, err, c.want, name)
		assert.EqualValues(t, 1, total(t, s), name)
	}
	_, err = s.Bulk(t.Context(), deed("twice"), each(append(fresh("F", 1), fresh("F", 1)...)), quiet, nothing)
	assert.ErrorIs(t, err, store.ErrSourceTaken, "one source in two staged parts")
	twin := fresh("T", 1)
	twin[0].Sources, twin[0].Twin = []string{"maker|taken"}, true
	_, err = s.Bulk(t.Context(), deed("twin"), each(twin), quiet, nothing)
	require.NoError(t, err, "beside the other one on purpose")
	keys, err := s.Read(t.Context()).SourceKeysOf([]store.ID{twin[0].Head.ID})
	require.NoError(t, err)
	assert.Equal(t, []store.Hash{store.SourceHash("maker|taken")}, keys[twin[0].Head.ID])
}

// Batches are written beside each other: what two of them cannot both have is told, and the first error is the one that is said.
func TestBatchesOfABulkDeedThatStandInEachOthersWay(t *testing.T) {
	s, _ := testdb.Open(t)
	broken := errors.New("the file broke off")
	twice := fresh("T", 6000)
	twice[5999].Sources = twice[1].Sources
	breaks := func(yield func(store.Staged, error) bool) {
		for _, p := range fresh("F", 5000) {
			if !yield(p, nil) {
				return
			}
		}
		yield(store.Staged{}, broken)
	}
	asked := 0
	endless := func(yield func(store.Staged, error) bool) {
		for ; ; asked++ {
			if !yield(fresh(fmt.Sprint("E", asked), 1)[0], nil) {
				return
			}
		}
	}
	enough := errors.New("stopped")
	for name, c := range map[string]struct {
		all      iter.Seq2[store.Staged, error]
		progress func(int) error
		want     error
	}{
		"one source in two batches": {each(twice), quiet, store.ErrSourceTaken},
		"what is staged breaks off": {breaks, quiet, broken},
		"somebody stops it":         {endless, func(int) error { return enough }, enough},
	} {
		_, err := s.Bulk(t.Context(), deed(name), c.all, c.progress, nothing)
		require.ErrorIs(t, err, c.want, name)
	}
	assert.Zero(t, total(t, s))
	assert.Less(t, asked, 20_000, "nobody asks for what is not wanted any more")
}

func TestManyPartsAreCarriedOverAtOnceOrNotAtAll(t *testing.T) {
	s, owner := testdb.Open(t)
	heads := []store.Head{newPart(t, s, "R-1"), newPart(t, s, "R-2"), newPart(t, s, "R-3")}
	now := func(number string) store.Head {
		h, err := s.Read(t.Context()).HeadByNumber(store.KindPart, number)
		require.NoError(t, err)
		return h
	}

	// Somebody saves one of them while the others are staged.
	_, err := s.Bulk(t.Context(), deed("late"), each(carriedTo(heads)), func(int) error {
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

	// New ones and known ones come in one deed; a released one gets its revision, and the uses of its draft are others.
	all := slices.Concat(fresh("N", 2), carriedTo(heads))
	last := &all[4]
	last.Head.Revision++
	last.Head.Released, last.Head.Draft = last.Contents[0].ID, store.ID{}
	last.Release = &store.Release{Hash: last.Contents[0].Hash, Note: "at once"}
	_, err = s.Bulk(t.Context(), deed("whole"), each(all), quiet, nothing)
	require.NoError(t, err)
	assert.EqualValues(t, 5, total(t, s))
	for i, number := range []string{"R-1", "R-2", "R-3"} {
		h := now(number)
		assert.Equal(t, heads[i].Version+1, h.Version)
		c, err := s.Read(t.Context()).Content(cmpID(h.Draft, h.Released))
		require.NoError(t, err)
		assert.JSONEq(t, `{"description":"now"}`, string(c.Bytes))
		trail, err := s.Read(t.Context()).Trail(h.ID, 0, 5)
		require.NoError(t, err)
		assert.Equal(t, "carried", trail[0].Action)
		assert.Equal(t, h.TrailHash, trail[0].Sum())
		assert.Equal(t, heads[i].TrailHash, trail[0].HashBefore)
		uses, err := s.Read(t.Context()).UsesOf(h.ID)
		require.NoError(t, err)
		if assert.Len(t, uses, 1) {
			assert.Equal(t, "draft land pattern", uses[0].Place)
		}
	}
	r, err := s.Read(t.Context()).Revision(heads[2].ID, 1)
	require.NoError(t, err)
	assert.Equal(t, "at once", r.Note)

	// What the first one staged is swept, and nothing else.
	db, err := sql.Open("mysql", owner)
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec("UPDATE stagings SET at = at - INTERVAL 1 HOUR")
	require.NoError(t, err)
	require.NoError(t, store.Migrate(t.Context(), owner, owner))
	for table, want := range map[string]int{"contents": 8, "trail": 9, "stagings": 0, "staged_heads": 0, "staged_keys": 0, "staged_uses": 0} {
		var n int
		require.NoError(t, db.QueryRow("SELECT COUNT(*) FROM "+table).Scan(&n))
		assert.Equal(t, want, n, table)
	}
}

func cmpID(a, b store.ID) store.ID {
	if a.IsZero() {
		return b
	}
	return a
}

func TestAbandonedStagingsAreSwept(t *testing.T) {
	s, owner := testdb.Open(t)
	enough := errors.New("enough")
	_, err := s.Bulk(t.Context(), deed("abandoned"), each(fresh("G", 10)), func(int) error { return enough }, nothing)
	require.ErrorIs(t, err, enough)
	db, err := sql.Open("mysql", owner)
	require.NoError(t, err)
	defer db.Close()
	count := func(table string) (n int) {
		require.NoError(t, db.QueryRow("SELECT COUNT(*) FROM "+table).Scan(&n))
		return n
	}
	require.NoError(t, store.Migrate(t.Context(), owner, owner))
	assert.Equal(t, 10, count("contents"), "a young staging may still be in use")
	_, err = db.Exec("UPDATE stagings SET at = at - INTERVAL 1 HOUR")
	require.NoError(t, err)
	require.NoError(t, store.Migrate(t.Context(), owner, owner))
	for _, table := range []string{"contents", "trail", "staged_heads", "staged_keys", "staged_uses", "stagings"} {
		assert.Zero(t, count(table), table)
	}
}

// Two who give one number at the same time, one as a part's own and one as a former number, cannot both have it.
func TestANumberFindsOnePartHoweverManyGiveItAtOnce(t *testing.T) {
	s, _ := testdb.Open(t)
	for round := range 20 {
		other := newPart(t, s, fmt.Sprintf("O-%d", round))
		number := fmt.Sprintf("X %d", round)
		got := make(chan error, 2)
		ready := make(chan bool)
		go func() {
			<-ready
			_, err := s.Do(t.Context(), deed("own"), func(tx *store.Tx) (any, error) {
				h := store.Head{ID: store.NewID(), Kind: store.KindPart, Number: number}
				return nil, tx.Insert(&h, "made", nil)
			})
			got <- err
		}()
		go func() {
			<-ready
			_, err := s.Do(t.Context(), deed("former"), func(tx *store.Tx) (any, error) {
				h, err := tx.Head(store.KindPart, other.ID)
				if err != nil {
					return nil, err
				}
				if err := tx.AddFormer(number, h.ID); err != nil {
					return nil, err
				}
				return nil, tx.Update(&h, "former number added", nil)
			})
			got <- err
		}()
		close(ready)
		first, second := <-got, <-got
		if first == nil {
			assert.ErrorIs(t, second, store.ErrNumberTaken)
		} else {
			assert.ErrorIs(t, first, store.ErrNumberTaken)
			assert.NoError(t, second)
		}
	}
}

func TestTidyingRemovesWhatIsOfNoMoreUseAndNothingElse(t *testing.T) {
	s, owner := testdb.Open(t)
	h := newPart(t, s, "R-1")
	for range 3 {
		_, err := s.Sequence(t.Context())
		require.NoError(t, err)
	}
	now := store.Stamp(time.Now())
	for _, state := range []string{store.JobDone, store.JobWaiting} {
		require.NoError(t, s.AddJob(t.Context(), &store.Job{ID: store.NewID(), Kind: "x", Deed: store.NewID(), Account: store.NewID(), Payload: "{}", State: state, Created: now, Updated: now}))
	}
	count := func(table string) (n int) {
		db, err := sql.Open("mysql", owner)
		require.NoError(t, err)
		defer db.Close()
		require.NoError(t, db.QueryRow("SELECT COUNT(*) FROM "+table).Scan(&n))
		return n
	}
	require.NoError(t, store.Tidy(t.Context(), owner, 24*time.Hour))
	assert.Equal(t, []int{1, 2, 1}, []int{count("deeds"), count("jobs"), count("feed")}, "nothing is old yet")
	for _, q := range []string{"UPDATE deeds SET at = at - INTERVAL 2 DAY", "UPDATE jobs SET updated = updated - INTERVAL 2 DAY", "UPDATE feed SET at = at - INTERVAL 2 DAY"} {
		_, err := testdb.SQL(t, owner, q)
		require.NoError(t, err)
	}
	require.NoError(t, store.Tidy(t.Context(), owner, 24*time.Hour))
	assert.Equal(t, []int{0, 1, 1}, []int{count("deeds"), count("jobs"), count("feed")}, "a job that waits stays, and the end of the feed")
	trail, err := s.Read(t.Context()).Trail(h.ID, 0, 10)
	require.NoError(t, err)
	assert.Len(t, trail, 1)
	_, err = testdb.SQL(t, owner, "UPDATE feed SET position = position + 20000")
	require.NoError(t, err)
	_, err = testdb.SQL(t, owner, "INSERT INTO feed (position, deed, kind, at) VALUES (5, UNHEX('0102030405060708090A0B0C0D0E0F10'), 'x', NOW(6) - INTERVAL 2 DAY)")
	require.NoError(t, err)
	require.NoError(t, store.Tidy(t.Context(), owner, 24*time.Hour))
	end, err := s.Read(t.Context()).FeedEnd()
	require.NoError(t, err)
	assert.Greater(t, end, int64(20000))
	assert.Equal(t, 1, count("feed"), "what lies far behind is gone")
}
